# SPDX-License-Identifier: GPL-3.0-or-later
"""A collection loaded for finding: ranks its passages for a question by words, by meaning and by both."""

import itertools
from collections.abc import Collection as Ids
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from redlantern import fitted
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.joint import Joint
from redlantern.collection.segments import Segment, merge
from redlantern.collection.store import Collection
from redlantern.collection.values import Document
from redlantern.collection.vectors import LinesWanted
from redlantern.models.embedding import PackedLines, Vectors, from_int4
from redlantern.retrieval.columns import Column, DocumentRows
from redlantern.retrieval.dense import DenseIndex, Rows
from redlantern.retrieval.lexical import LexicalIndex, Scores
from redlantern.retrieval.ordering import first, highest, with_best_by_words
from redlantern.text.question import ParsedQuestion

_BEST_BY_WORDS = 200
_PASSAGES_HELD = 10_000
"""Of so many passages the vectors of their lines stay in memory: about twelve megabytes."""
_LEAST_STRENGTH = 0.02
_MOST_STRENGTHS = 5_000


@dataclass(frozen=True)
class Hit:
    """A passage that was found, and why.

    `words` is its BM25F, `share` the same as a part of what would be possible,
    from 0 to 1; `meaning` the cosine of its vector and `best_line` that of its best
    line; `fused` is meaning + best_line + the weighted share, by which it is ranked.
    """

    rank: int
    passage_id: int
    document_id: int
    page_number: int
    words: float
    share: float
    meaning: float
    best_line: float
    fused: float
    line_scores: Scores
    """Cosine of each of the passage's lines with the question: shape (n_lines,)."""


@dataclass(frozen=True)
class Found:
    """What a search gave: the best passages, and for the page ribbons how strongly each page was found, from 0 to 1."""

    hits: list[Hit]
    page_strengths: dict[tuple[int, int], float]


@dataclass(frozen=True)
class _Scored:
    """Passages looked at more closely than by words alone: their rows, ascending, and the scores of each; a best line of -1
    where none was compared.
    """

    rows: Rows
    words: Scores
    meaning: Scores
    best_line: Scores
    by_row: dict[int, Scores]


class _Documents(dict[int, Document]):
    """The documents by id; one that was taken out between two looks at the collection is told as such."""

    def __missing__(self, document_id: int) -> Document:
        raise DocumentChangedError


class Index:
    """The passages of a collection in memory. Never changed after it is made; an update makes a new one."""

    def __init__(
        self, collection: "Collection | Joint", dimensions: int, embedding: str, before: "Index | None" = None
    ) -> None:
        """Load every document's index; `embedding` is the identity of the model that questions are embedded with.

        An index from before lends what it has and is still good.
        """
        self._collection, self._dimensions, self._embedding = collection, dimensions, embedding
        self.documents = _Documents(
            (document.document_id, document) for document in collection.documents() if not document.is_refused
        )
        parts = collection.segments.all(dimensions, embedding)
        parts += _together(collection, dimensions, embedding)
        segments = [segment for segment, _ in parts]
        self._passage_ids = Column([segment.passage_ids for segment in segments])
        self._page_numbers = Column([segment.page_numbers for segment in segments])
        self._document_ids = Column([segment.document_ids for segment in segments])
        self._n_lines = Column([segment.n_lines for segment in segments])
        self._is_alive = np.concatenate([np.zeros(0, bool), *(is_alive for _, is_alive in parts)])
        # Documents lie whole in one part, their passages one after another.
        self._places = DocumentRows([(part.document_ids, is_alive) for part, is_alive in parts])
        self._meaning: DenseIndex = DenseIndex(
            [segment.vectors for segment in segments], before._meaning if before is not None else None
        )
        self._lines: dict[int, PackedLines] = {}
        self.n_passages = int(self._is_alive.sum())
        self.words = LexicalIndex([(segment.words, is_alive) for segment, is_alive in parts])

    def search(
        self,
        question: ParsedQuestion,
        question_vector: Vectors,
        scope: Ids[int] | None,
        n_kept: int,
        *,
        word_weight: float = fitted.WORD_WEIGHT,
        always: Ids[int] = (),
    ) -> Found:
        """Rank the passages in scope.

        The best fitted.COMPARED_BY_LINES by words and by their own vector are compared
        line by line.

        Parameters
        ----------
        question : ParsedQuestion
        question_vector : float32 array of shape (dim,)
            Of length 1.
        scope : collection of document ids, or None
            None means every document.
        n_kept : int
            Most hits to give.
        word_weight : float
            What the share of the question's words counts beside two cosines.
        always : collection of passage ids
            Given behind the others where they are in scope but not among them.

        Returns
        -------
        Found
            Best first; ties go to the smaller passage id. Empty for an empty scope.
        """
        in_scope = self.in_scope(scope)
        if not in_scope.any():
            return Found([], {})
        searched = question.stems(self.words.languages)
        possible = self.words.best_possible(searched)
        pinned = self._rows_with(always, in_scope)
        n_compared = max(fitted.COMPARED_BY_LINES, n_kept)
        scored = self._scored(searched, question_vector, in_scope, word_weight / possible, pinned, n_compared)
        share = scored.words / possible
        fused = scored.meaning + scored.best_line + word_weight * share
        candidates = np.flatnonzero(scored.best_line > -1)
        ids = self._passage_ids[scored.rows]
        documents, pages = self._document_ids[scored.rows], self._page_numbers[scored.rows]
        order = with_best_by_words(
            first(candidates, fused, ids, n_kept), candidates, scored.words, ids, n_kept, fitted.KEPT_FOR_WORDS
        )
        if len(pinned):
            others = np.setdiff1d(candidates[np.isin(ids[candidates], list(always))], order)
            order = np.concatenate([order, others])
        hits = []
        for rank, at in enumerate(order.tolist(), start=1):
            row = int(scored.rows[at])
            hits.append(
                Hit(
                    rank, int(ids[at]), int(documents[at]), int(pages[at]),
                    float(scored.words[at]), float(share[at]), float(scored.meaning[at]), float(scored.best_line[at]),
                    float(fused[at]), scored.by_row[row],
                )
            )  # fmt: skip
        return Found(hits, self._page_strengths(scored, share))

    @property
    def passage_ids(self) -> npt.NDArray[np.int64]:
        """Which passage each row is about: shape (n_rows,)."""
        return self._passage_ids[np.arange(len(self._is_alive))]

    def word_scores(self, question: ParsedQuestion) -> Scores:
        """BM25F of every passage for a question: shape (n_rows,)."""
        return self.words.scores(question.stems(self.words.languages))

    def meaning_scores(self, question_vector: Vectors) -> Scores:
        """Cosine of every passage's vector with the question's, float32 of shape (dim,): float32 of shape (n_rows,)."""
        return self._meaning.cosines(np.arange(self._meaning.n_rows), question_vector)

    def best_possible(self, question: ParsedQuestion) -> float:
        """What a passage full of nothing but the question's words would score by words."""
        return self.words.best_possible(question.stems(self.words.languages))

    def in_scope(self, scope: Ids[int] | None) -> npt.NDArray[np.bool_]:
        """Which rows a question may draw on: shape (n_rows,)."""
        return self._is_alive if scope is None else self._is_alive & self._in(scope)

    def passages_of(self, page: tuple[int, int]) -> dict[int, int]:
        """The passages of a page, as (document id, page number): from each passage's id to its row."""
        rows = np.arange(*self._places.of(page[0]))
        rows = rows[self._page_numbers[rows] == page[1]]
        return dict(zip(self._passage_ids[rows].tolist(), rows.tolist(), strict=True))

    def lines_of(self, document_id: int) -> tuple[list[int], list[Vectors]]:
        """A document's passages in order, as ids, and the vectors of each one's lines: shape (n_lines, dim)."""
        rows = np.arange(*self._places.of(document_id))
        lines = self._lines_of(rows)
        return self._passage_ids[rows].tolist(), [from_int4(lines[row], self._dimensions) for row in rows.tolist()]

    def page_directions(self, document_id: int, page_numbers: Ids[int]) -> dict[int, Vectors]:
        """The mean direction of the lines of some pages of a document, by page number: shape (dim,); none for one without lines."""
        rows = np.arange(*self._places.of(document_id))
        numbers = self._page_numbers[rows]
        wanted = rows[np.isin(numbers, list(page_numbers))]
        lines = self._lines_of(wanted)
        of_page: dict[int, list[Vectors]] = {}
        for row, number in zip(wanted.tolist(), self._page_numbers[wanted].tolist(), strict=True):
            of_page.setdefault(number, []).append(from_int4(lines[row], self._dimensions))
        means = {
            number: np.concatenate(parts).mean(axis=0) for number, parts in of_page.items() if any(map(len, parts))
        }
        return {
            number: np.asarray(mean / max(float(np.linalg.norm(mean)), 1e-9), np.float32)
            for number, mean in means.items()
        }

    def pages_with(self, terms: Ids[str], scope: Ids[int] | None) -> list[tuple[int, int]]:
        """The pages in scope on which all of these stems stand, each as (document id, page number), in order."""
        has_all: set[tuple[int, int]] | None = None
        in_scope = self.in_scope(scope)
        for term in terms:
            rows = np.flatnonzero((self.words.scores([term]) > 0) & in_scope)
            here = set(zip(self._document_ids[rows].tolist(), self._page_numbers[rows].tolist(), strict=True))
            has_all = here if has_all is None else has_all & here
        return sorted(has_all or ())

    def scope_of(self, pattern: str) -> set[int]:
        """Give the documents whose path, file name or call-mark fits a pattern (`letters/*`, `*.pdf`, `SUR`)."""
        return {document.document_id for document in self.documents.values() if document.fits(pattern)}

    def _in(self, scope: Ids[int]) -> npt.NDArray[np.bool_]:
        """Which rows belong to these documents."""
        found = np.zeros(len(self._is_alive), bool)
        for document_id in scope:
            begin, end = self._places.of(document_id)
            found[begin:end] = True
        return found

    def _scored(
        self,
        searched: Sequence[str],
        question_vector: Vectors,
        in_scope: npt.NDArray[np.bool_],
        weight: float,
        always: Rows,
        n_compared: int,
    ) -> _Scored:
        """Score by words all, by meaning those that the scan leaves, and by lines the best of both."""
        words = self.words.scores(searched)
        if not in_scope.all():
            words[~in_scope] = 0
        rows, meaning = self._meaning.scores(question_vector, in_scope)
        best_by_words = highest(words, _BEST_BY_WORDS)
        if len(best_by_words) > _BEST_BY_WORDS:
            ids = self._passage_ids[best_by_words]
            order = first(np.arange(len(best_by_words)), words[best_by_words], ids, _BEST_BY_WORDS)
            best_by_words = np.sort(best_by_words[order])
        missing = np.setdiff1d(np.union1d(best_by_words, always), rows, assume_unique=True)
        if len(missing):
            rows = np.concatenate([rows, missing])
            meaning = np.concatenate([meaning, self._meaning.cosines(missing, question_vector)])
            order = np.argsort(rows)
            rows, meaning = rows[order], meaning[order]
        both = meaning + weight * words[rows]
        likely = highest(both - both.min() + 1, n_compared)
        ids = self._passage_ids[rows[likely]]
        chosen = likely[first(np.arange(len(likely)), both[likely], ids, n_compared)]
        # A date or a clause number stands in one row of a long table, where meaning does not see it.
        best_few = best_by_words[np.argsort(-words[best_by_words], kind="stable")[: fitted.KEPT_FOR_WORDS]]
        chosen = np.union1d(chosen, np.searchsorted(rows, np.union1d(always, best_few)))
        by_row = self._compare_lines(rows[chosen], question_vector)
        best_line = np.full(len(rows), -1, np.float32)
        best_line[chosen] = [
            scores_of_lines.max() if len(scores_of_lines) else -1.0
            for scores_of_lines in map(by_row.__getitem__, rows[chosen].tolist())
        ]
        return _Scored(rows, words[rows], meaning, best_line, by_row)

    def _rows_with(self, passage_ids: Ids[int], in_scope: npt.NDArray[np.bool_]) -> Rows:
        """The rows in scope of some passages, ascending."""
        if not passage_ids:
            return np.zeros(0, np.int64)
        return np.flatnonzero(np.isin(self.passage_ids, list(passage_ids)) & in_scope)

    def _compare_lines(self, rows: Rows, question_vector: Vectors) -> dict[int, Scores]:
        """The cosines of the lines of some rows, given ascending, by row."""
        if not len(rows):
            return {}
        lines = self._lines_of(rows)
        packed = [lines[row] for row in rows.tolist()]
        lengths = [len(lines_of_row) for lines_of_row in packed]
        # Those kept before file version 3 are as wide as a vector, those since half as wide.
        scores = [np.zeros(0, np.float32)] * len(packed)
        for width in {lines_of_row.shape[1] for lines_of_row in packed}:
            chosen = [at for at, lines_of_row in enumerate(packed) if lines_of_row.shape[1] == width]
            together = from_int4(np.concatenate([packed[at] for at in chosen]), self._dimensions) @ question_vector
            for at, mine in zip(
                chosen, np.split(together, np.cumsum([lengths[at] for at in chosen])[:-1]), strict=True
            ):
                scores[at] = mine.astype(np.float32)
        return dict(zip(rows.tolist(), scores, strict=True))

    def _lines_of(self, rows: Rows) -> dict[int, PackedLines]:
        """The vectors of these passages' lines, and of others in memory; those fetched first are let go first."""
        lines = self._lines
        missing = np.array([row for row in rows.tolist() if row not in lines], np.int64)
        if not len(missing):
            return lines
        if self.n_passages <= _PASSAGES_HELD:
            # All find room in memory: the first question fetches them all, in a tenth of a second at most, and no other any.
            missing = np.array([row for row in np.flatnonzero(self._is_alive).tolist() if row not in lines], np.int64)
        documents = self._document_ids[missing]
        rows_of: dict[int, list[int]] = {}
        for row, document_id in zip(missing.tolist(), documents.tolist(), strict=True):
            rows_of.setdefault(document_id, []).append(row)
        wanted: dict[int, LinesWanted] = {}
        for document_id in rows_of:
            begin, end = self._places.of(document_id)
            bounds = [0, *np.cumsum(self._n_lines.stretch(begin, end)).tolist()]
            spans = [(bounds[row - begin], bounds[row - begin + 1]) for row in rows_of[document_id]]
            wanted[document_id] = (spans, bounds[-1])
        lines = dict(lines)
        found = self._collection.line_vectors(wanted, self._embedding)
        for document_id, chosen in rows_of.items():
            mine = found.get(document_id)
            if mine is None or mine[0].shape[1] not in (self._dimensions, self._dimensions // 2):
                # Zeros: a document whose lines have no vectors that may be compared is found by its words.
                lengths = [last - first for first, last in wanted[document_id][0]]
                mine = [np.full((n, self._dimensions // 2), 0x88, np.uint8) for n in lengths]
            lines |= zip(chosen, mine, strict=True)
        # Put in place whole: another question may be reading the ones before.
        self._lines = dict(itertools.islice(lines.items(), max(0, len(lines) - _PASSAGES_HELD), None))
        return lines

    def _page_strengths(self, scored: _Scored, share: Scores) -> dict[tuple[int, int], float]:
        """The best passage of each page: half by words and half by meaning, 1 for the best page of all."""
        near = np.clip((np.maximum(scored.meaning, scored.best_line) - 0.2) / 0.6, 0, 1)
        strength = 0.5 * share / max(float(share.max()), 1e-9) + 0.5 * near
        chosen = np.flatnonzero(strength > _LEAST_STRENGTH)
        if len(chosen) > _MOST_STRENGTHS:
            chosen = chosen[np.argpartition(-strength[chosen], _MOST_STRENGTHS)[:_MOST_STRENGTHS]]
        rows = scored.rows[chosen]
        documents, pages, values = self._document_ids[rows], self._page_numbers[rows], strength[chosen]
        # One page's passages together, the strongest last: that is the one that stays.
        order = np.lexsort((values, pages, documents))
        places = zip(documents[order].tolist(), pages[order].tolist(), strict=True)
        return dict(zip(places, values[order].tolist(), strict=True))


def _together(
    collection: "Collection | Joint", dimensions: int, embedding: str
) -> list[tuple[Segment, npt.NDArray[np.bool_]]]:
    """The documents in no segment as one part."""
    found = [
        collection.loose_segment(document_id, dimensions, embedding) for document_id, _ in collection.segments.loose()
    ]
    whole = [segment for segment in found if segment is not None]
    if not whole:
        return []
    part = merge(whole, dimensions)
    return [(part, np.ones(len(part.passage_ids), bool))]
