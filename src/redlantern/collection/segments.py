# SPDX-License-Identifier: GPL-3.0-or-later
"""What finding needs, in arrays that are opened without parsing: word counts and vectors of many passages together.

A document that was just added keeps its own small arrays. Once there are many
such documents they are merged into a segment, which holds their passages one
after another. A passage is alive while its document still says that it lies in
this segment; dead ones are left out of every count, and removed when a segment
is written anew.
"""

import zlib
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection.file import CollectionFile
from redlantern.collection.word_counts import Forms, Terms, WordCounts, n_each, row_kind

MOST_PASSAGES = 60_000
"""Of one segment, unless a single document has more: rows are then kept in 32 bits, else in 16."""
MERGED_FROM = 2_000
"""So many passages of documents that are not in a segment are merged into one."""
_DEAD_SHARE = 0.2
_ANY = Any
_Key = tuple[int, int, str]
"""A segment's id, and the dimensions and the embedding model it is wanted for."""


_COLUMNS = "passage_ids, document_ids, page_numbers, n_lines, vectors, indptr, term_rows, counts, lengths, terms, forms"
_READ_TOGETHER = 4
"""Fewer segments than this are not worth a thread."""


@dataclass(frozen=True)
class Segment:
    """Passages with all that finding needs of them but their lines' vectors.

    Row i of each array is about the same passage. `vectors` has shape
    (n_passages, dim), small integers.
    """

    passage_ids: npt.NDArray[np.integer[Any]]
    document_ids: npt.NDArray[np.integer[Any]]
    page_numbers: npt.NDArray[np.integer[Any]]
    n_lines: npt.NDArray[np.integer[Any]]
    vectors: npt.NDArray[np.int8]
    words: WordCounts


def merge(segments: Sequence[Segment], dimensions: int) -> Segment:
    """Put segments one after another. Of at most MOST_PASSAGES passages together; none at all gives an empty one."""
    words = [segment.words for segment in segments]
    terms = sorted({term for counts in words for term in counts.terms})
    number = {term: index for index, term in enumerate(terms)}
    columns: list[_ANY] = [np.zeros(0, np.int32)]
    rows: list[_ANY] = [np.zeros(0, np.int64)]
    begin, forms = 0, dict[str, int]()
    for word_counts in words:
        known = np.array([number[term] for term in word_counts.terms], np.int32)
        columns.append(np.repeat(known, n_each(word_counts)))
        rows.append(word_counts.rows.astype(np.int64) + begin)
        begin += word_counts.n_passages
        for form, n in word_counts.forms.items():
            forms[form] = forms.get(form, 0) + n
    column, row = np.concatenate(columns), np.concatenate(rows).astype(row_kind(begin))
    # Rows ascend within each part and from part to part, so a stable sort by stem keeps them ascending.
    order = np.argsort(column, kind="stable")
    indptr = np.searchsorted(column[order], np.arange(len(terms) + 1)).astype(np.uint32)
    counts = np.concatenate([np.zeros(0, np.uint8), *(counts.counts for counts in words)])[order]
    lengths = np.concatenate([np.zeros(0, np.int32), *(counts.lengths for counts in words)])
    joined = WordCounts(Terms.of(terms), indptr, row[order], counts, lengths, forms)
    return Segment(
        np.concatenate([np.zeros(0, np.int64), *(segment.passage_ids for segment in segments)]),
        np.concatenate([np.zeros(0, np.int64), *(segment.document_ids for segment in segments)]),
        np.concatenate([np.zeros(0, np.int32), *(segment.page_numbers for segment in segments)]),
        np.concatenate([np.zeros(0, np.int32), *(segment.n_lines for segment in segments)]),
        np.concatenate([np.zeros((0, dimensions), np.int8), *(segment.vectors for segment in segments)]),
        joined,
    )


def without_dead(segment: Segment, is_alive: npt.NDArray[np.bool_]) -> Segment:
    """Leave passages out: those whose place in the bool array `is_alive`, of shape (n_passages,), is False.

    Written forms stay counted unless their stems are gone with the last passage.
    """
    words = segment.words
    new_row = np.cumsum(is_alive) - 1
    kept = is_alive[words.rows]
    column = np.repeat(np.arange(len(words.terms)), n_each(words))[kept]
    used = np.unique(column)
    indptr = np.searchsorted(column, np.append(used, len(words.terms))).astype(np.uint32)
    left = WordCounts(
        Terms.of(words.terms[number] for number in used.tolist()), indptr,
        new_row[words.rows[kept]].astype(row_kind(int(is_alive.sum()))), words.counts[kept], words.lengths[is_alive], {},
    )  # fmt: skip
    return replace(
        segment,
        passage_ids=segment.passage_ids[is_alive], document_ids=segment.document_ids[is_alive],
        page_numbers=segment.page_numbers[is_alive], n_lines=segment.n_lines[is_alive],
        vectors=segment.vectors[is_alive], words=left,
    )  # fmt: skip


class Segments:
    """The segments of one collection."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file
        # Those given before, by id and the model they were wanted for. A segment is never changed, only written anew, which
        # raises the generation; only the process that may write knows of that.
        self._given: dict[_Key, Segment] = {}
        self._generation = 0

    def places(self) -> dict[int, int]:
        """From each document in a segment to that segment."""
        return dict(self._file.rows("SELECT document_id, segment_id FROM indexes WHERE segment_id IS NOT NULL"))

    def all(self, dimensions: int, embedding: str) -> list[tuple[Segment, npt.NDArray[np.bool_]]]:
        """Every segment with which of its passages are alive.

        The vectors of one that another model made are zeros: see Collection.index_of.
        """
        places, generation = self.places(), self._generation
        keys = [(row[0], dimensions, embedding) for row in self._file.rows("SELECT id FROM segments ORDER BY id")]
        given = {key: self._given[key] for key in keys if key in self._given}
        given |= self._read([key for key in keys if key not in given])
        found = [(given[key], self._alive(given[key], key[0], places)) for key in keys if key in given]
        self._given = given if self._file.is_claimed and generation == self._generation else {}
        return found

    def _read(self, keys: Sequence[_Key]) -> dict[_Key, Segment]:
        """Read segments, half of them in a thread beside this one: decrypting is most of the work."""
        sql = f"SELECT embedding_model, {_COLUMNS} FROM segments WHERE id = ?"

        def read_beside() -> list[Segment | None]:
            with self._file.helper_connection() as connection:
                return [_opened(connection.execute(sql, key[:1]).fetchone(), *key[1:]) for key in keys[1::2]]

        if len(keys) < _READ_TOGETHER:
            return self._there(keys, [_opened(self._file.row(sql, key[0]), *key[1:]) for key in keys])
        with ThreadPoolExecutor(1) as helper:
            beside = helper.submit(read_beside)
            mine = [_opened(self._file.row(sql, key[0]), *key[1:]) for key in keys[::2]]
            return self._there([*keys[::2], *keys[1::2]], [*mine, *beside.result()])

    @staticmethod
    def _there(keys: Sequence[_Key], segments: Sequence[Segment | None]) -> dict[_Key, Segment]:
        # One that was written anew a moment ago is gone; whoever wrote it says that there is something to load again.
        return {key: segment for key, segment in zip(keys, segments, strict=True) if segment is not None}

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
                ((segment_id, int(document_id)) for document_id in np.unique(segment.document_ids)),
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
            lengths = {
                len(document_id)
                for document_id in (segment.document_ids, segment.page_numbers, segment.n_lines, words.lengths)
            }
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
        held = np.unique(segment.document_ids)
        here = [document_id for document_id in held.tolist() if places.get(document_id) == segment_id]
        if len(here) == len(held):
            return np.ones(len(segment.document_ids), bool)
        return np.isin(segment.document_ids, np.array(here, np.int64))

    def _insert(self, connection: _ANY, segment: Segment, embedding: str) -> int:
        words = segment.words
        # What was written, for mending misspelt words; a segment without is given its stems.
        forms = Forms.of(words.forms or dict.fromkeys(words.terms, 1))
        values = (
            segment.passage_ids, segment.document_ids, segment.page_numbers, segment.n_lines, segment.vectors, words.indptr,
            words.rows, words.counts, words.lengths,
        )  # fmt: skip
        kinds: _ANY = ("<i8", "<i8", "<i4", "<i4", "i1", "<u4", words.rows.dtype, "u1", "<i4")
        blobs = [np.asarray(value_, kind).tobytes() for value_, kind in zip(values, kinds, strict=True)]
        blobs += [zlib.compress(words.terms.packed, 1), forms.packed]
        # Not read any more, for they are found faster than read; kept for programs that know this file version and want them.
        norms = np.linalg.norm(segment.vectors.astype(np.float32), axis=1).astype("<f4").tobytes()
        holes = ", ".join("?" * len(blobs))
        made = connection.execute(
            f"INSERT INTO segments (embedding_model, norms, {_COLUMNS}) VALUES (?, ?, {holes})",
            (embedding, norms, *blobs),
        )
        # A number that was free again may have been that of another.
        self._generation += 1
        self._given = {}
        return int(made.lastrowid)


def _opened(row: _ANY, dimensions: int, embedding: str) -> Segment | None:
    """A segment as wanted; with zeros for vectors where another model made them. None for a row that is not there."""
    if row is None:
        return None
    made_by, *columns = row
    segment = _segment(columns, dimensions if made_by == embedding else None)
    if made_by != embedding:
        n = len(segment.passage_ids)
        segment = replace(segment, vectors=np.zeros((n, dimensions), np.int8))
    return segment


def _segment(columns: Sequence[bytes], dimensions: int | None) -> Segment:
    rows_kind = row_kind(len(columns[8]) // 4)
    kinds = ("<i8", "<i8", "<i4", "<i4", "i1", "<u4", rows_kind, "u1", "<i4")
    ids, documents, pages, n_lines, vectors, indptr, rows, counts, lengths = (
        np.frombuffer(raw, kind) for raw, kind in zip(columns, kinds, strict=False)
    )
    terms, forms = Terms(zlib.decompress(columns[9])), Forms(columns[10])
    # As narrow as they fit: in a collection of a million passages every byte counts.
    ids, documents, pages, n_lines, lengths = map(_narrow, (ids, documents, pages, n_lines, lengths))
    width = dimensions or (len(vectors) // len(ids) if len(ids) else 0)
    words = WordCounts(terms, indptr, rows, counts, lengths, forms)
    return Segment(ids, documents, pages, n_lines, vectors.reshape(len(ids), width), words)


def _narrow(numbers: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """The same whole numbers, none of them negative, in as few bytes as hold them."""
    return numbers.astype(np.min_scalar_type(int(numbers.max()))) if len(numbers) else numbers
