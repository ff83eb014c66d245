# SPDX-License-Identifier: GPL-3.0-or-later
"""How often each stem stands in each passage, in arrays that are opened without parsing."""

import bisect
import json
import struct
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

_MARK = b"W1"


class Terms(Sequence[str]):
    """Sorted stems in one block of bytes: a quarter of the memory of as many strings, and opened without parsing."""

    def __init__(self, packed: bytes) -> None:
        """Take stems sorted by code point, each but the last followed by a line end."""
        self.packed = packed
        ends = np.flatnonzero(np.frombuffer(packed, np.uint8) == ord("\n")).astype(np.uint32)
        self._starts = np.concatenate([np.zeros(1, np.uint32), ends + 1, np.full(1, len(packed) + 1, np.uint32)])
        self._n = len(ends) + 1 if packed else 0

    @classmethod
    def of(cls, terms: Iterable[str]) -> "Terms":
        """Pack sorted stems."""
        return cls("\n".join(terms).encode())

    def __len__(self) -> int:
        return self._n

    def __getitem__(self, index: Any) -> Any:
        if isinstance(index, slice):
            return [self._bytes(number).decode() for number in range(*index.indices(self._n))]
        if not 0 <= index < self._n:
            raise IndexError(index)
        return self._bytes(index).decode()

    def __iter__(self) -> Iterator[str]:
        return iter(self.packed.decode().split("\n") if self.packed else [])

    def find(self, term: str) -> int | None:
        """Give the place of a stem, None if it is not there."""
        at = self._place(term.encode())
        return at if at < self._n and self._bytes(at) == term.encode() else None

    def holds_beginning(self, beginning: str) -> bool:
        """Whether a stem begins so."""
        at = self._place(beginning.encode())
        return at < self._n and self._bytes(at).startswith(beginning.encode())

    def _bytes(self, index: int) -> bytes:
        return self.packed[self._starts[index] : self._starts[index + 1] - 1]

    def _place(self, term: bytes) -> int:
        # UTF-8 sorts as code points do.
        return bisect.bisect_left(range(self._n), term, key=self._bytes)


class Forms(Mapping[str, int]):
    """How often each word was written in each form; unpacked only when a misspelt word is looked for."""

    def __init__(self, packed: bytes) -> None:
        """Take zlib-compressed JSON: an object of numbers."""
        self.packed = packed
        self._counts: dict[str, int] | None = None

    @classmethod
    def of(cls, counts: Mapping[str, int]) -> "Forms":
        """Pack counts."""
        return cls(zlib.compress(json.dumps(dict(counts)).encode(), 1))

    def _unpacked(self) -> dict[str, int]:
        if self._counts is None:
            self._counts = json.loads(zlib.decompress(self.packed))
        return self._counts

    def __getitem__(self, form: str) -> int:
        return self._unpacked()[form]

    def __iter__(self) -> Iterator[str]:
        return iter(self._unpacked())

    def __len__(self) -> int:
        return len(self._unpacked())


@dataclass(frozen=True)
class WordCounts:
    """How often each stem stands in each passage, by stem (compressed sparse columns).

    A count is weighted by field, see retrieval.words. The rows of term i are `rows[indptr[i]:indptr[i + 1]]`,
    ascending, with `counts` beside them; `lengths` is the number of stems of
    each passage. `forms` counts the words as they were written.
    """

    terms: Terms
    indptr: npt.NDArray[np.uint32]
    rows: npt.NDArray[np.unsignedinteger]
    counts: npt.NDArray[np.uint8]
    lengths: npt.NDArray[np.integer[Any]]
    forms: Mapping[str, int]

    @property
    def n_passages(self) -> int:
        """How many passages there are."""
        return len(self.lengths)


def count_words(passages: Sequence[Mapping[str, int]], forms: Mapping[str, int]) -> WordCounts:
    """Put together the (weighted) counts of the stems of a document's passages."""
    terms = sorted({term for passage in passages for term in passage})
    number = {term: index for index, term in enumerate(terms)}
    ordered = sorted((number[term], row, n) for row, passage in enumerate(passages) for term, n in passage.items())
    columns = np.array([term for term, _, _ in ordered], np.int64)
    indptr = np.searchsorted(columns, np.arange(len(terms) + 1)).astype(np.uint32)
    rows = np.array([row for _, row, _ in ordered], row_kind(len(passages)))
    counts = np.array([min(255, n) for _, _, n in ordered], np.uint8)
    lengths = np.array([sum(passage.values()) for passage in passages], np.int32)
    return WordCounts(Terms.of(terms), indptr, rows, counts, lengths, forms)


def n_each(words: WordCounts) -> npt.NDArray[np.int64]:
    """In how many passages each stem stands."""
    ends = words.indptr.astype(np.int64)
    return np.asarray(ends[1:] - ends[:-1], np.int64)


def row_kind(n_passages: int) -> str:
    """How the rows of so many passages are kept."""
    return "<u2" if n_passages <= 2**16 else "<u4"


def pack_counts(words: WordCounts) -> bytes:
    """Pack the word counts of a document."""
    head = json.dumps({"terms": list(words.terms), "forms": dict(words.forms)}).encode()
    sizes = struct.pack("<5I", len(head), len(words.indptr), len(words.rows), len(words.counts), len(words.lengths))
    arrays = (words.indptr, words.rows, words.counts, words.lengths)
    return _MARK + zlib.compress(sizes + head + b"".join(array.tobytes() for array in arrays), 6)


def unpack_counts(packed: bytes) -> WordCounts:
    """Read `pack_counts` back, or what file version 2 kept in its place."""
    if not packed:
        return count_words([], {})
    if not packed.startswith(_MARK):
        return _unpack_before(packed)
    raw = zlib.decompress(packed[len(_MARK) :])
    n_head, n_indptr, n_rows, n_counts, n_lengths = struct.unpack_from("<5I", raw)
    at = struct.calcsize("<5I")
    head = json.loads(raw[at : at + n_head])
    at += n_head
    arrays = []
    for n, kind in ((n_indptr, "<u4"), (n_rows, row_kind(n_lengths)), (n_counts, "u1"), (n_lengths, "<i4")):
        arrays.append(np.frombuffer(raw, kind, n, at))
        at += n * np.dtype(kind).itemsize
    indptr, rows, counts, lengths = arrays
    return WordCounts(Terms.of(head["terms"]), indptr, rows, counts, lengths, head["forms"])


def _unpack_before(packed: bytes) -> WordCounts:
    kept = json.loads(zlib.decompress(packed))
    terms = kept["terms"]
    passages = [{terms[number]: n for number, n in counts} for counts in kept["passages"]]
    return count_words(passages, kept["forms"])
