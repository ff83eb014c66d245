# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the characters of a page stand, packed small for keeping: about one byte a character."""

import struct
import zlib
from collections.abc import Sequence
from functools import cached_property
from typing import overload

import numpy as np
import numpy.typing as npt

from redlantern.reading.values import Block, BlockKind, Run

_TENTHS = 10.0
_KINDS: tuple[BlockKind, ...] = (
    "heading", "paragraph", "list item", "table", "caption", "note", "header", "footer",
)  # fmt: skip


BLOCK_BYTES = 16
"""Unpacked, of one block."""
RUN_BYTES = 32
"""Unpacked, at most, for each character of a page: a run has one character or more, with a head and an edge beyond its last."""


class PackedRuns(Sequence[Run]):
    """Runs as they are packed, unpacked when first looked at: most pages of a document never are."""

    def __init__(self, packed: bytes, most_bytes: int | None = None) -> None:
        self.packed = packed
        self._most_bytes = most_bytes

    @cached_property
    def _runs(self) -> tuple[Run, ...]:
        heads, places = self._arrays()
        edges = places / _TENTHS
        runs, at = [], 0
        for start, end, top, bottom in heads.tolist():
            stop = at + end - start + 1
            runs.append(Run(start, end, top / _TENTHS, bottom / _TENTHS, tuple(edges[at:stop].tolist())))
            at = stop
        return tuple(runs)

    def check(self, n_chars: int, *, most_tenths: int) -> None:
        """See that every run lies on a page of so many characters, and every place within so many tenths of a point.

        Without making values of them.

        Raises
        ------
        ValueError, struct.error, zlib.error
            If one does not.
        """
        heads, places = self._arrays()
        starts, ends = heads[:, 0].astype(np.int64), heads[:, 1].astype(np.int64)
        is_on_page = bool(((starts >= 0) & (starts < ends) & (ends <= n_chars)).all())
        if not is_on_page or int((ends - starts + 1).sum()) != len(places):
            raise ValueError("a run outside its page")
        far = max(
            (int(np.abs(place.astype(np.int64)).max()) for place in (places, heads[:, 2:]) if place.size), default=0
        )
        if far > most_tenths:
            raise ValueError("a place outside of any page")

    def _arrays(self) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int64]]:
        """Heads of shape (n_runs, 4), and places of all edges in tenths of a point, of shape (n_edges,)."""
        raw = unpacked(self.packed, most_bytes=self._most_bytes) if self._most_bytes else zlib.decompress(self.packed)
        n_runs, n_edges = struct.unpack_from("<II", raw)
        if len(raw) != 8 + 16 * n_runs + 4 * n_edges:
            raise ValueError("runs that are cut short")
        heads = np.frombuffer(raw, "<i4", n_runs * 4, 8).reshape(-1, 4)
        planes = np.frombuffer(raw, np.uint8, n_edges * 4, 8 + n_runs * 16).reshape(4, -1)
        steps = np.ascontiguousarray(planes.T).view("<i4").ravel()
        return heads, np.cumsum(steps, dtype=np.int64)

    def __len__(self) -> int:
        return len(self._runs)

    @overload
    def __getitem__(self, index: int) -> Run: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Run]: ...
    def __getitem__(self, index: int | slice) -> Run | Sequence[Run]:
        return self._runs[index]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, (PackedRuns, tuple)) and self._runs == tuple(other)

    def __hash__(self) -> int:
        return hash(self.packed)


def pack_runs(runs: Sequence[Run]) -> bytes:
    """Pack runs to tenths of a point. Unpacking gives them back to within 0.05 pt."""
    if isinstance(runs, PackedRuns):
        return runs.packed
    if not runs:
        return b""
    heads = np.array(
        [(run.start, run.end, round(run.top * _TENTHS), round(run.bottom * _TENTHS)) for run in runs], np.int32
    )
    edges = np.round(np.concatenate([run.edges for run in runs]) * _TENTHS).astype(np.int32)
    # Steps between neighbours are small and repeat, so they pack far better than positions.
    steps = np.diff(edges, prepend=0).astype("<i4")
    planes = steps.view(np.uint8).reshape(-1, 4).T.tobytes()
    return zlib.compress(struct.pack("<II", len(heads), len(steps)) + heads.astype("<i4").tobytes() + planes, 6)


def unpack_runs(packed: bytes, *, most_bytes: int | None = None) -> "PackedRuns | tuple[()]":
    """Unpack what `pack_runs` packed, once it is looked at; never more than so many bytes."""
    return PackedRuns(packed, most_bytes) if packed else ()


def pack_blocks(blocks: tuple[Block, ...]) -> bytes:
    """Pack blocks exactly."""
    rows = np.array([(_KINDS.index(block.kind), block.start, block.end, block.level) for block in blocks], "<i4")
    return zlib.compress(rows.tobytes(), 6)


def unpack_blocks(packed: bytes, *, most_bytes: int | None = None) -> tuple[Block, ...]:
    """Unpack what `pack_blocks` packed, and never more than so many bytes."""
    raw = unpacked(packed, most_bytes=most_bytes) if most_bytes is not None else zlib.decompress(packed)
    rows = np.frombuffer(raw, "<i4").reshape(-1, 4).tolist()
    if any(not 0 <= row[0] < len(_KINDS) for row in rows):
        raise ValueError("a block of no kind")
    return tuple(Block(_KINDS[kind], start, end, level) for kind, start, end, level in rows)


def unpacked(packed: bytes, *, most_bytes: int) -> bytes:
    """Decompress (zlib) no more than so many bytes.

    Raises
    ------
    ValueError
        If there are more, or it is cut short.
    """
    machine = zlib.decompressobj()
    raw = machine.decompress(packed, most_bytes + 1)
    if len(raw) > most_bytes or not machine.eof or machine.unused_data:
        raise ValueError("it unpacks to more than it may, or to less than it says")
    return raw
