# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads the multilingual embedding model as its package packs it: sizes, tokenizer and 4-bit weights in one file.

The layout (little-endian): the mark `E5S1` and a version; sizes; the pieces of the
tokenizer with their scores; a table of what characters are replaced by, which is
Unicode's NFKC and is passed over here; a directory of tensors; the tensors.
A 4-bit tensor is a row of blocks of 32 numbers, each a float16 scale and 16
bytes, byte j with number j in its lower half and number j + 16 in its upper; a
number is (half byte - 8) * scale.
"""

import itertools
import struct
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

BLOCK = 32
"""So many weights share a scale."""
_BLOCK_BYTES = 2 + BLOCK // 2


class NotPackedError(ValueError):
    """The bytes are not such a file."""


@dataclass(frozen=True)
class Sizes:
    """Of the network: numbers of a token, layers, heads, numbers between, pieces, places and the two kinds of token."""

    hidden: int
    layers: int
    heads: int
    between: int
    pieces: int
    places: int
    kinds: int


@dataclass(frozen=True)
class Packed:
    """The file, taken apart. `pieces` are the tokenizer's with their scores, in the order of their numbers."""

    sizes: Sizes
    epsilon: float
    pieces: list[tuple[str, float]]
    beginning: int
    end: int
    padding: int
    unknown: int
    _tensors: dict[str, tuple[int, int, int, int]]
    _bytes: bytes

    def plain(self, name: str, *shape: int) -> npt.NDArray[np.float32]:
        """A tensor of float32 in this shape, dequantised where it is packed."""
        is_packed, _, offset, n_bytes = self._tensors[name]
        if is_packed:
            halves, scales = self.halves(name, int(np.prod(shape[:-1])))
            return ((halves.astype(np.float32) - 8) * scales[..., None].astype(np.float32)).reshape(shape)
        return np.frombuffer(self._bytes, "<f4", n_bytes // 4, offset).reshape(shape)

    def halves(self, name: str, n_rows: int) -> tuple[npt.NDArray[np.uint8], npt.NDArray[np.float16]]:
        """A packed tensor: half bytes of shape (n_rows, n_blocks, BLOCK) and scales of shape (n_rows, n_blocks)."""
        _, _, offset, n_bytes = self._tensors[name]
        blocks = np.frombuffer(self._bytes, np.uint8, n_bytes, offset).reshape(n_rows, -1, _BLOCK_BYTES)
        scales = np.ascontiguousarray(blocks[:, :, :2]).view("<f2")[:, :, 0]
        codes = blocks[:, :, 2:]
        return np.concatenate([codes & 15, codes >> 4], axis=-1), scales


class _Reader:
    def __init__(self, data: bytes) -> None:
        self.data, self.at = data, 0

    def take(self, layout: str) -> tuple[Any, ...]:
        """The next values of a struct's layout."""
        found = struct.unpack_from("<" + layout, self.data, self.at)
        self.at += struct.calcsize("<" + layout)
        return found

    def array(self, kind: str, n_values: int) -> npt.NDArray[Any]:
        """The next values of one kind."""
        found = np.frombuffer(self.data, kind, n_values, self.at)
        self.at += found.nbytes
        return found


def unpacked(data: bytes) -> Packed:
    """Take the file's bytes apart.

    Raises
    ------
    NotPackedError
        If they are not such a file.
    """
    reader = _Reader(data)
    try:
        [mark, _] = reader.take("4sI")
        if mark != b"E5S1":
            raise NotPackedError("the mark at its beginning is another one")
        sizes = Sizes(*reader.take("7i"))
        [epsilon, block, n_pieces, beginning, end, padding, unknown, n_text] = reader.take("fi5iQ")
        if block != BLOCK:
            raise NotPackedError(f"its blocks have {block} weights")
        bounds, scores = reader.array("<u4", n_pieces + 1), reader.array("<f4", n_pieces)
        text = reader.array("u1", n_text).tobytes()
        pieces = [text[start:stop].decode("utf-8") for start, stop in itertools.pairwise(bounds)]
        [_, n_bytes] = reader.take("iI")
        reader.at += n_bytes
        tensors = {}
        for _ in range(*reader.take("i")):
            [length] = reader.take("H")
            name = reader.array("u1", length).tobytes().decode("ascii")
            tensors[name] = reader.take("BIQQ")
    except (struct.error, ValueError) as failure:
        raise NotPackedError(f"it is cut off or damaged ({failure})") from failure
    paired = list(zip(pieces, map(float, scores), strict=True))
    return Packed(sizes, epsilon, paired, beginning, end, padding, unknown, tensors, data)
