"""Where the characters of a page stand, packed small for keeping: about one byte a character."""

import struct
import zlib
from collections.abc import Sequence
from functools import cached_property
from typing import overload

import numpy as np

from redlantern.reading.values import Block, BlockKind, Run

_TENTHS = 10.0
_KINDS: tuple[BlockKind, ...] = (
    "heading", "paragraph", "list item", "table", "caption", "note", "header", "footer",
)  # fmt: skip


class PackedRuns(Sequence[Run]):
    """Runs as they are packed, unpacked when first looked at: most pages of a document never are."""

    def __init__(self, packed: bytes) -> None:
        self.packed = packed

    @cached_property
    def _runs(self) -> tuple[Run, ...]:
        return _unpacked(self.packed)

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


def unpack_runs(packed: bytes) -> Sequence[Run]:
    """Unpack what `pack_runs` packed, once it is looked at."""
    return PackedRuns(packed) if packed else ()


def _unpacked(packed: bytes) -> tuple[Run, ...]:
    if not packed:
        return ()
    raw = zlib.decompress(packed)
    n_runs, n_edges = struct.unpack_from("<II", raw)
    heads = np.frombuffer(raw, "<i4", n_runs * 4, 8).reshape(-1, 4)
    planes = np.frombuffer(raw, np.uint8, n_edges * 4, 8 + n_runs * 16).reshape(4, -1)
    edges = np.cumsum(np.ascontiguousarray(planes.T).view("<i4").ravel()) / _TENTHS
    runs, at = [], 0
    for start, end, top, bottom in heads.tolist():
        stop = at + end - start + 1
        runs.append(Run(start, end, top / _TENTHS, bottom / _TENTHS, tuple(edges[at:stop].tolist())))
        at = stop
    return tuple(runs)


def pack_blocks(blocks: tuple[Block, ...]) -> bytes:
    """Pack blocks exactly."""
    rows = np.array([(_KINDS.index(one.kind), one.start, one.end, one.level) for one in blocks], "<i4")
    return zlib.compress(rows.tobytes(), 6)


def unpack_blocks(packed: bytes) -> tuple[Block, ...]:
    """Unpack what `pack_blocks` packed."""
    rows = np.frombuffer(zlib.decompress(packed), "<i4").reshape(-1, 4).tolist()
    return tuple(Block(_KINDS[kind], start, end, level) for kind, start, end, level in rows)
