# SPDX-License-Identifier: GPL-3.0-or-later
"""What finding needs of a collection: vectors of passages and lines, and word counts, gathered into segments."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from redlantern.collection.file import CollectionFile
from redlantern.collection.prepared import MadeWith, Prepared
from redlantern.collection.segments import MERGED_FROM, MOST_PASSAGES, Segment, Segments, merge
from redlantern.collection.word_counts import unpack_counts
from redlantern.models.embedding import PackedLines

LinesWanted = tuple[Sequence[tuple[int, int]], int]
"""Spans of a document's lines as (first, one after the last), and how many lines it has in all."""


class StoredVectors:
    """What a collection keeps of its vectors."""

    file: CollectionFile
    segments: Segments

    def made_with(self) -> dict[int, tuple[MadeWith, int]]:
        """What each document's passages and vectors were made with, and how many passages there are."""
        rows = self.file.rows(
            "SELECT i.document_id, i.embedding_model, i.splitting, i.reader, d.n_passages"
            " FROM indexes i JOIN documents d ON d.id = i.document_id"
        )
        return {row[0]: (MadeWith(*row[1:4]), row[4]) for row in rows}

    def embedded_with(self) -> list[str]:
        """The identities of the embedding models that its documents were embedded with, the most frequent first."""
        counted = "SELECT embedding_model FROM indexes GROUP BY embedding_model ORDER BY count(*) DESC"
        return [row[0] for row in self.file.rows(counted)]

    def set_vectors(self, document_id: int, prepared: Prepared) -> None:
        """Give a document its vectors, which was kept without; a document that is gone meanwhile stays gone."""
        with self.file.writing() as connection:
            connection.execute(
                "UPDATE indexes SET vectors = ?, line_vectors = ?, embedding_model = ?"
                " WHERE document_id = ? AND segment_id IS NULL",
                (
                    prepared.vectors.tobytes(),
                    prepared.line_vectors.tobytes(),
                    prepared.made_with.embedding,
                    document_id,
                ),
            )

    def loose_segment(self, document_id: int, dimensions: int, embedding: str) -> Segment | None:
        """Give what finding needs of one document that lies in no segment; None if it has nothing.

        Vectors of another embedding model than the one named are never given,
        for they must not be compared: zeros stand in their place, so that the
        document is found by its words until it is embedded again.
        """
        with self.file.snapshot():
            row = self.file.row(
                "SELECT vectors, words, embedding_model FROM indexes WHERE document_id = ?", document_id
            )
            passages = self.file.rows(
                "SELECT id, page_number, length(lines) / 8 FROM passages WHERE document_id = ? ORDER BY id", document_id
            )
        if row is None:
            return None
        columns = list(zip(*passages, strict=True)) or [(), (), ()]
        if MadeWith(row[2]).is_embedded_by(embedding):
            vectors = np.frombuffer(row[0], np.int8).reshape(-1, dimensions)
        else:
            vectors = np.zeros((len(passages), dimensions), np.int8)
        return Segment(
            np.array(columns[0], np.int64),
            np.full(len(passages), document_id, np.int64),
            np.array(columns[1], np.int32),
            np.array(columns[2], np.int32),
            vectors,
            unpack_counts(row[1]),
        )

    def line_vectors(self, wanted: Mapping[int, LinesWanted], embedding: str) -> dict[int, list[PackedLines]]:
        """The vectors of some lines as they are kept; `from_int4` opens them.

        Parameters
        ----------
        wanted : mapping
            From a document's id to which of its lines, in order.
        embedding : str
            The identity of the model that they must have been made by.

        Returns
        -------
        dict
            For each document uint8 arrays of shape (n, width), one for each span;
            without those that have none, or none of this model.
        """
        marks = ",".join("?" * len(wanted))
        rows = self.file.rows(
            f"SELECT document_id, embedding_model FROM indexes WHERE document_id IN ({marks})", *wanted
        )
        found = {}
        for document_id, made_by in rows:
            spans, n_lines = wanted[document_id]
            if not n_lines or not MadeWith(made_by).is_embedded_by(embedding):
                continue
            # Only the wanted part of what may be megabytes is read and decrypted.
            with self.file.blob("indexes", "line_vectors", document_id) as blob:
                width, rest = divmod(len(blob), n_lines)
                if width and not rest:
                    found[document_id] = _parts(blob, spans, width)
        return found

    def gather(self, dimensions: int) -> bool:
        """Merge loose documents into segments once there are many, and leave out what is dead; gives whether any was.

        Finding gives the same before and after.
        """
        n_written = self.segments.write_anew(only_if_many=True)
        loose = self.segments.loose()
        made = {document_id: made.embedding for document_id, (made, _) in self.made_with().items()}
        by_model: dict[str, list[tuple[int, int]]] = {}
        for document_id, n_passages in loose:
            by_model.setdefault(made[document_id], []).append((document_id, n_passages))
        for embedding, members in by_model.items():
            if sum(n for _, n in members) < MERGED_FROM:
                continue
            for chosen in _groups(members):
                parts = [self.loose_segment(document_id, dimensions, embedding) for document_id in chosen]
                self.segments.keep(merge([part for part in parts if part is not None], dimensions), embedding)
                n_written += 1
        if n_written:
            self.file.give_back_space()
        return bool(n_written)


def _parts(blob: Any, spans: Sequence[tuple[int, int]], width: int) -> list[PackedLines]:
    """Read some rows of a blob; at once where they are most of what lies between the first and the last."""
    begin, end = spans[0][0], spans[-1][1]
    if 2 * sum(last - first for first, last in spans) >= end - begin:
        whole = _rows(blob, begin, end, width)
        return [whole[first - begin : last - begin] for first, last in spans]
    return [_rows(blob, first, last, width) for first, last in spans]


def _rows(blob: Any, first: int, last: int, width: int) -> PackedLines:
    blob.seek(first * width)
    return np.frombuffer(blob.read((last - first) * width), np.uint8).reshape(last - first, width)


def _groups(members: list[tuple[int, int]]) -> list[list[int]]:
    """Documents with their numbers of passages, in groups of at most MOST_PASSAGES; a larger one is alone."""
    groups: list[list[int]] = []
    room = 0
    for document_id, n_passages in members:
        if n_passages > room or not groups:
            groups.append([])
            room = MOST_PASSAGES
        groups[-1].append(document_id)
        room -= n_passages
    return groups
