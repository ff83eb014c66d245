"""What finding needs, in arrays that are opened without parsing: word counts and vectors of many passages together.

A document that was just added keeps its own small arrays. Once there are many
such documents they are merged into a segment, which holds their passages one
after another. A passage is alive while its document still says that it lies in
this segment; dead ones are left out of every count, and removed when a segment
is written anew.
"""

import json
import struct
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection.file import CollectionFile

MOST_PASSAGES = 60_000
"""Of one segment, unless a single document has more: rows are then kept in 32 bits, else in 16."""
MERGED_FROM = 2_000
"""So many passages of documents that are not in a segment are merged into one."""
_DEAD_SHARE = 0.2
_MARK = b"W1"
_ANY = Any


@dataclass(frozen=True)
class WordCounts:
    """How often each stem stands in each passage, by stem (compressed sparse columns).

    `terms` is sorted. The rows of term i are `rows[indptr[i]:indptr[i + 1]]`,
    ascending, with `counts` beside them; `lengths` is the number of stems of
    each passage. `forms` counts the words as they were written.
    """

    terms: Sequence[str]
    indptr: npt.NDArray[np.uint32]
    rows: npt.NDArray[np.unsignedinteger]
    counts: npt.NDArray[np.uint8]
    lengths: npt.NDArray[np.int32]
    forms: dict[str, int]

    @property
    def n_passages(self) -> int:
        """How many passages there are."""
        return len(self.lengths)


@dataclass(frozen=True)
class Segment:
    """Passages with all that finding needs of them but their lines' vectors.

    Row i of each array is about the same passage. `vectors` has shape
    (n_passages, dim), small integers; `norms` are their lengths.
    """

    passage_ids: npt.NDArray[np.int64]
    document_ids: npt.NDArray[np.int64]
    page_numbers: npt.NDArray[np.int32]
    n_lines: npt.NDArray[np.int32]
    vectors: npt.NDArray[np.int8]
    norms: npt.NDArray[np.float32]
    words: WordCounts


def count_words(passages: Sequence[Sequence[str]], forms: dict[str, int]) -> WordCounts:
    """Count the stems of a document's passages."""
    terms = sorted({term for one in passages for term in one})
    number = {term: index for index, term in enumerate(terms)}
    pairs: dict[tuple[int, int], int] = {}
    for row, one in enumerate(passages):
        for term in one:
            key = (number[term], row)
            pairs[key] = pairs.get(key, 0) + 1
    ordered = sorted(pairs)
    columns = np.array([term for term, _ in ordered], np.int64)
    indptr = np.searchsorted(columns, np.arange(len(terms) + 1)).astype(np.uint32)
    rows = np.array([row for _, row in ordered], _row_kind(len(passages)))
    counts = np.array([min(255, pairs[key]) for key in ordered], np.uint8)
    return WordCounts(terms, indptr, rows, counts, np.array([len(one) for one in passages], np.int32), forms)


def _n_each(words: WordCounts) -> npt.NDArray[np.int64]:
    """In how many passages each stem stands."""
    ends = words.indptr.astype(np.int64)
    return np.asarray(ends[1:] - ends[:-1], np.int64)


def _row_kind(n_passages: int) -> str:
    """How the rows of so many passages are kept."""
    return "<u2" if n_passages <= 2**16 else "<u4"


def pack_counts(words: WordCounts) -> bytes:
    """Pack the word counts of a document."""
    head = json.dumps({"terms": list(words.terms), "forms": words.forms}).encode()
    sizes = struct.pack("<5I", len(head), len(words.indptr), len(words.rows), len(words.counts), len(words.lengths))
    arrays = (words.indptr, words.rows, words.counts, words.lengths)
    return _MARK + zlib.compress(sizes + head + b"".join(one.tobytes() for one in arrays), 6)


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
    for n, kind in ((n_indptr, "<u4"), (n_rows, _row_kind(n_lengths)), (n_counts, "u1"), (n_lengths, "<i4")):
        arrays.append(np.frombuffer(raw, kind, n, at))
        at += n * np.dtype(kind).itemsize
    indptr, rows, counts, lengths = arrays
    return WordCounts(head["terms"], indptr, rows, counts, lengths, head["forms"])


def _unpack_before(packed: bytes) -> WordCounts:
    kept = json.loads(zlib.decompress(packed))
    terms = kept["terms"]
    passages = [[terms[number] for number, n in counts for _ in range(n)] for counts in kept["passages"]]
    return count_words(passages, kept["forms"])


def merge(segments: Sequence[Segment], dimensions: int) -> Segment:
    """Put segments one after another. Of at most MOST_PASSAGES passages together; none at all gives an empty one."""
    words = [one.words for one in segments]
    terms = sorted({term for one in words for term in one.terms})
    number = {term: index for index, term in enumerate(terms)}
    columns: list[_ANY] = [np.zeros(0, np.int32)]
    rows: list[_ANY] = [np.zeros(0, np.int64)]
    begin, forms = 0, dict[str, int]()
    for one in words:
        known = np.array([number[term] for term in one.terms], np.int32)
        columns.append(np.repeat(known, _n_each(one)))
        rows.append(one.rows.astype(np.int64) + begin)
        begin += one.n_passages
        for form, n in one.forms.items():
            forms[form] = forms.get(form, 0) + n
    column, row = np.concatenate(columns), np.concatenate(rows).astype(_row_kind(begin))
    # Rows ascend within each part and from part to part, so a stable sort by stem keeps them ascending.
    order = np.argsort(column, kind="stable")
    indptr = np.searchsorted(column[order], np.arange(len(terms) + 1)).astype(np.uint32)
    counts = np.concatenate([np.zeros(0, np.uint8), *(one.counts for one in words)])[order]
    lengths = np.concatenate([np.zeros(0, np.int32), *(one.lengths for one in words)])
    joined = WordCounts(terms, indptr, row[order], counts, lengths, forms)
    return Segment(
        np.concatenate([np.zeros(0, np.int64), *(one.passage_ids for one in segments)]),
        np.concatenate([np.zeros(0, np.int64), *(one.document_ids for one in segments)]),
        np.concatenate([np.zeros(0, np.int32), *(one.page_numbers for one in segments)]),
        np.concatenate([np.zeros(0, np.int32), *(one.n_lines for one in segments)]),
        np.concatenate([np.zeros((0, dimensions), np.int8), *(one.vectors for one in segments)]),
        np.concatenate([np.zeros(0, np.float32), *(one.norms for one in segments)]),
        joined,
    )


def without_dead(segment: Segment, is_alive: npt.NDArray[np.bool_]) -> Segment:
    """Leave passages out. Written forms stay counted unless their stems are gone with the last passage."""
    words = segment.words
    new_row = np.cumsum(is_alive) - 1
    kept = is_alive[words.rows]
    column = np.repeat(np.arange(len(words.terms)), _n_each(words))[kept]
    used = np.unique(column)
    indptr = np.searchsorted(column, np.append(used, len(words.terms))).astype(np.uint32)
    left = WordCounts(
        [words.terms[one] for one in used.tolist()], indptr, new_row[words.rows[kept]].astype(_row_kind(int(is_alive.sum()))),
        words.counts[kept], words.lengths[is_alive], {},
    )  # fmt: skip
    return replace(
        segment,
        passage_ids=segment.passage_ids[is_alive], document_ids=segment.document_ids[is_alive],
        page_numbers=segment.page_numbers[is_alive], n_lines=segment.n_lines[is_alive],
        vectors=segment.vectors[is_alive], norms=segment.norms[is_alive], words=left,
    )  # fmt: skip


class Segments:
    """The segments of one collection."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file

    def places(self) -> dict[int, int]:
        """From each document in a segment to that segment."""
        return dict(self._file.rows("SELECT document_id, segment_id FROM indexes WHERE segment_id IS NOT NULL"))

    def all(self, dimensions: int, embedding: str) -> list[tuple[Segment, npt.NDArray[np.bool_]]]:
        """Every segment with which of its passages are alive.

        The vectors of one that another model made are zeros: see Collection.index_of.
        """
        places = self.places()
        found = []
        for segment_id, made_by, *columns in self._file.rows(
            f"SELECT id, embedding_model, {_COLUMNS} FROM segments ORDER BY id"
        ):
            segment = _segment(columns, dimensions if made_by == embedding else None)
            if made_by != embedding:
                n = len(segment.passage_ids)
                segment = replace(segment, vectors=np.zeros((n, dimensions), np.int8), norms=np.ones(n, np.float32))
            found.append((segment, self._alive(segment, segment_id, places)))
        return found

    def loose(self) -> list[tuple[int, int]]:
        """The documents that lie in no segment, and how many passages each has."""
        return self._file.rows(
            "SELECT i.document_id, d.n_passages FROM indexes i JOIN documents d ON d.id = i.document_id"
            " WHERE i.segment_id IS NULL ORDER BY i.document_id"
        )

    def keep(self, segment: Segment, embedding: str) -> None:
        """Keep a segment; its documents' own arrays go, but for their lines' vectors."""
        with self._file.writing() as connection:
            segment_id = self._insert(connection, segment, embedding)
            connection.executemany(
                "UPDATE indexes SET segment_id = ?, vectors = x'', words = x'' WHERE document_id = ?",
                ((segment_id, int(one)) for one in np.unique(segment.document_ids)),
            )

    def write_anew(self, *, only_if_many: bool) -> int:
        """Write every segment without its dead passages; with `only_if_many`, only where they are a fifth of it or more.

        Gives how many segments were written. One transaction each.
        """
        n_written = 0
        for [segment_id] in self._file.rows("SELECT id FROM segments"):
            row = self._file.row(f"SELECT embedding_model, {_COLUMNS} FROM segments WHERE id = ?", segment_id)
            segment = _segment(row[1:], None)
            is_alive = self._alive(segment, segment_id, self.places())
            n_dead = len(is_alive) - int(is_alive.sum())
            if not n_dead or (only_if_many and n_dead < _DEAD_SHARE * len(is_alive)):
                continue
            n_written += 1
            with self._file.writing() as connection:
                connection.execute("DELETE FROM segments WHERE id = ?", (segment_id,))
                if is_alive.any():
                    left = without_dead(segment, is_alive)
                    known = self._insert(connection, left, row[0])
                    connection.execute("UPDATE indexes SET segment_id = ? WHERE segment_id = ?", (known, segment_id))
        return n_written

    def faults(self) -> list[str]:
        """Say what does not fit; nothing when all does."""
        faults = []
        places = self.places()
        wanted = dict(self._file.rows("SELECT id, n_passages FROM documents"))
        held: dict[int, int] = {}
        for segment_id, *columns in self._file.rows(f"SELECT id, {_COLUMNS} FROM segments ORDER BY id"):
            segment = _segment(columns, None)
            words, n = segment.words, len(segment.passage_ids)
            lengths = {len(one) for one in (segment.document_ids, segment.page_numbers, segment.n_lines, words.lengths)}
            has_rows = len(words.rows) == len(words.counts) == (int(words.indptr[-1]) if len(words.indptr) else 0)
            if lengths != {n} or not has_rows or (len(words.rows) and int(words.rows.max()) >= n):
                faults.append("A part of the index does not fit itself")
                continue
            for document_id in segment.document_ids[self._alive(segment, segment_id, places)].tolist():
                held[document_id] = held.get(document_id, 0) + 1
        faults += [
            f"The index of document {document_id} does not fit its passages"
            for document_id in places
            if held.get(document_id, 0) != wanted.get(document_id)
        ]
        return faults

    def _alive(self, segment: Segment, segment_id: int, places: dict[int, int]) -> npt.NDArray[np.bool_]:
        here = np.array([document for document, place in places.items() if place == segment_id], np.int64)
        return np.isin(segment.document_ids, here)

    def _insert(self, connection: _ANY, segment: Segment, embedding: str) -> int:
        words = segment.words
        # What was written, for mending misspelt words; a segment without is given its stems.
        forms = words.forms or dict.fromkeys(words.terms, 1)
        values = (
            segment.passage_ids, segment.document_ids, segment.page_numbers, segment.n_lines, segment.vectors, segment.norms,
            words.indptr, words.rows, words.counts, words.lengths,
        )  # fmt: skip
        blobs = [one.tobytes() for one in values]
        blobs += [zlib.compress("\n".join(words.terms).encode(), 1), zlib.compress(json.dumps(forms).encode(), 1)]
        holes = ", ".join("?" * len(blobs))
        made = connection.execute(
            f"INSERT INTO segments (embedding_model, {_COLUMNS}) VALUES (?, {holes})", (embedding, *blobs)
        )
        return int(made.lastrowid)


_COLUMNS = (
    "passage_ids, document_ids, page_numbers, n_lines, vectors, norms, indptr, term_rows, counts, lengths, terms, forms"
)


def _segment(columns: Sequence[bytes], dimensions: int | None) -> Segment:
    rows_kind = _row_kind(len(columns[9]) // 4)
    kinds = ("<i8", "<i8", "<i4", "<i4", "i1", "<f4", "<u4", rows_kind, "u1", "<i4")
    ids, documents, pages, n_lines, vectors, norms, indptr, rows, counts, lengths = (
        np.frombuffer(raw, kind) for raw, kind in zip(columns, kinds, strict=False)
    )
    text = zlib.decompress(columns[10]).decode()
    forms = json.loads(zlib.decompress(columns[11]))
    words = WordCounts(text.split("\n") if text else [], indptr, rows, counts, lengths, forms)
    width = dimensions or (len(vectors) // len(ids) if len(ids) else 0)
    return Segment(ids, documents, pages, n_lines, vectors.reshape(len(ids), width), norms, words)
