"""A collection loaded for finding: ranks its passages for a question by words, by meaning and by both."""

from collections.abc import Collection as Ids
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection.joint import Joint
from redlantern.collection.segments import Segment, merge
from redlantern.collection.store import Collection
from redlantern.models.embedding import PackedLines, Vectors, restore_lines
from redlantern.retrieval.analysis import STOP_WORDS, dates, stem, stem_in, tokens
from redlantern.retrieval.words import Scores, WordIndex

RANK_CONSTANT = 60
"""The k of reciprocal rank fusion: Cormack, Clarke and Buettcher (2009)."""

MOST_LINES_COMPARED = 50_000
"""Up to so many lines in a collection, every line is compared with the question."""

_BLOCK_ROWS = 8192
_COMPARED_BY_MEANING, _COMPARED_BY_WORDS = 300, 200
_DOCUMENTS_HELD = 400
_LEAST_STRENGTH = 0.02
_RANKED_PER_LIST = 200
_RERANKED = 60
_KEPT_FOR_WORDS = 4


@dataclass(frozen=True)
class Hit:
    """A passage that was found, and why: its scores by words (BM25), by meaning (cosine, of the passage and of its best
    line) and fused.
    """

    rank: int
    passage_id: int
    document_id: int
    page_number: int
    words: float
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


class Index:
    """The passages of a collection in memory. Never changed after it is made; an update makes a new one."""

    def __init__(self, collection: "Collection | Joint", dimensions: int, embedding: str) -> None:
        """Load every document's index; `embedding` is the identity of the model that questions are embedded with."""
        self._collection, self._dimensions, self._embedding = collection, dimensions, embedding
        self.documents = {one.document_id: one for one in collection.documents() if not one.is_refused}
        parts = collection.segments.all(dimensions, embedding)
        parts += _together(collection, dimensions, embedding)
        segments = [segment for segment, _ in parts]
        self.passage_ids = np.concatenate([np.zeros(0, np.int64), *(one.passage_ids for one in segments)])
        self.page_numbers = np.concatenate([np.zeros(0, np.int32), *(one.page_numbers for one in segments)])
        self.document_ids = np.concatenate([np.zeros(0, np.int64), *(one.document_ids for one in segments)])
        self._is_alive = np.concatenate([np.zeros(0, bool), *(is_alive for _, is_alive in parts)])
        n_lines = np.concatenate([np.zeros(0, np.int64), *(one.n_lines for one in segments)])
        self._line_starts = np.concatenate([[0], np.cumsum(n_lines)]).astype(np.int64)
        self._vectors = [(one.vectors, np.maximum(one.norms, 1e-12)) for one in segments]
        self._lines: dict[int, PackedLines | None] = {}
        self.n_passages = int(self._is_alive.sum())
        self.words = WordIndex([(segment.words, is_alive) for segment, is_alive in parts])

    def search(self, question: str, question_vector: Vectors, scope: Ids[int] | None, n_kept: int) -> Found:
        """Rank the passages in scope.

        In a large collection only the passages that are best by words and by
        their own vector are compared line by line; in one of up to
        MOST_LINES_COMPARED lines all are.

        Parameters
        ----------
        question : str
        question_vector : float32 array of shape (dim,)
            Of length 1.
        scope : collection of document ids, or None
            None means every document.
        n_kept : int
            Most hits to give.

        Returns
        -------
        Found
            Best first; ties go to the smaller passage id. Empty for an empty scope.
        """
        in_scope = self._is_alive if scope is None else self._is_alive & np.isin(self.document_ids, list(scope))
        if not in_scope.any():
            return Found([], {})
        words = np.where(in_scope, self.words.scores(searched_stems(question, self.words.languages)), 0)
        words = words.astype(np.float32)
        meaning = np.where(in_scope, self._meaning(question_vector), -1).astype(np.float32)
        compared = self._compared(words, meaning, in_scope)
        best_line, line_scores = self._compare_lines(compared, question_vector)
        fused = fuse([_ranks(words, in_scope & (words > 0)), _ranks(meaning, in_scope), _ranks(best_line, compared)])
        n_candidates = min(max(n_kept, _RERANKED), int(compared.sum()))
        candidates = _first(np.flatnonzero(compared), fused, self.passage_ids, n_candidates)
        reranked = (
            _standardised(meaning, in_scope) + _standardised(best_line, compared) + 0.5 * _standardised(words, in_scope)
        )
        order = candidates[np.lexsort((self.passage_ids[candidates], -reranked[candidates]))]
        order = _with_best_by_words(order, words, n_kept)
        hits = [
            Hit(
                rank,
                int(self.passage_ids[row]),
                int(self.document_ids[row]),
                int(self.page_numbers[row]),
                float(words[row]),
                float(meaning[row]),
                float(best_line[row]),
                float(fused[row]),
                line_scores[row],
            )
            for rank, row in enumerate(order.tolist(), start=1)
        ]
        return Found(hits, self._page_strengths(words, meaning, best_line, in_scope))

    def _meaning(self, question_vector: Vectors) -> Scores:
        """Cosine of every passage's vector with the question: shape (n_rows,)."""
        found = [np.zeros(0, np.float32)]
        for vectors, norms in self._vectors:
            for at in range(0, len(vectors), _BLOCK_ROWS):
                block = vectors[at : at + _BLOCK_ROWS].astype(np.float32)
                found.append((block @ question_vector / norms[at : at + _BLOCK_ROWS]).astype(np.float32))
        return np.concatenate(found)

    def _compared(self, words: Scores, meaning: Scores, in_scope: npt.NDArray[np.bool_]) -> npt.NDArray[np.bool_]:
        """Which passages are compared line by line."""
        if self._line_starts[-1] <= MOST_LINES_COMPARED:
            return in_scope
        chosen = np.zeros(len(in_scope), bool)
        for scores, n in ((meaning, _COMPARED_BY_MEANING), (words, _COMPARED_BY_WORDS)):
            rows = np.flatnonzero(in_scope)
            chosen[_first(rows, scores, self.passage_ids, min(n, len(rows)))] = True
        return chosen

    def _compare_lines(
        self, compared: npt.NDArray[np.bool_], question_vector: Vectors
    ) -> tuple[Scores, dict[int, Scores]]:
        """The best line's cosine of each passage (-1 where none was compared), and by row those of all its lines."""
        best = np.full(len(compared), -1, np.float32)
        by_row: dict[int, Scores] = {}
        rows = np.flatnonzero(compared)
        for document_id in np.unique(self.document_ids[rows]).tolist():
            lines = self._lines_of(document_id)
            mine = np.flatnonzero(self._is_alive & (self.document_ids == document_id))
            first = self._line_starts[mine[0]]
            chosen = mine[compared[mine]].tolist()
            spans = [(int(self._line_starts[row] - first), int(self._line_starts[row + 1] - first)) for row in chosen]
            scores = self._scores_of_lines(lines, spans, question_vector)
            at = 0
            for row, (begin, end) in zip(chosen, spans, strict=True):
                of_row = scores[at : at + end - begin]
                at += end - begin
                by_row[row] = of_row
                best[row] = of_row.max() if len(of_row) else -1
        return best, by_row

    def _scores_of_lines(
        self, lines: PackedLines | None, spans: list[tuple[int, int]], question_vector: Vectors
    ) -> Scores:
        """Cosines of the lines in these spans, one span after another; zeros where there are no vectors to compare."""
        wanted = np.concatenate([np.arange(begin, end) for begin, end in spans])
        if lines is None or (len(wanted) and wanted[-1] >= len(lines)):
            return np.zeros(len(wanted), np.float32)
        return np.asarray(restore_lines(lines[wanted], self._dimensions) @ question_vector, np.float32)

    def _lines_of(self, document_id: int) -> PackedLines | None:
        """The vectors of a document's lines; fetched when first needed, and the longest unused let go."""
        if document_id in self._lines:
            self._lines[document_id] = found = self._lines.pop(document_id)
            return found
        found = self._collection.line_vectors(document_id, self._dimensions, self._embedding)
        self._lines[document_id] = found
        if self._line_starts[-1] > MOST_LINES_COMPARED:
            while len(self._lines) > _DOCUMENTS_HELD:
                self._lines.pop(next(iter(self._lines)))
        return found

    def scope_of(self, pattern: str) -> set[int]:
        """Give the documents whose path, file name or call-mark fits a pattern (`letters/*`, `*.pdf`, `SUR`)."""
        return {one.document_id for one in self.documents.values() if one.fits(pattern)}

    def _page_strengths(
        self, words: Scores, meaning: Scores, best_line: Scores, in_scope: npt.NDArray[np.bool_]
    ) -> dict[tuple[int, int], float]:
        """The best passage of each page: half by words and half by meaning, 1 for the best page of all."""
        near = np.clip((np.maximum(meaning, best_line) - 0.2) / 0.6, 0, 1)
        strength = 0.5 * words / max(float(words.max()), 1e-9) + 0.5 * near
        rows = np.flatnonzero(in_scope & (strength > _LEAST_STRENGTH))
        # One page's passages together, the strongest last: that is the one that stays.
        rows = rows[np.lexsort((strength[rows], self.page_numbers[rows], self.document_ids[rows]))]
        return {
            (document_id, page_number): value
            for document_id, page_number, value in zip(
                self.document_ids[rows].tolist(), self.page_numbers[rows].tolist(), strength[rows].tolist(), strict=True
            )
        }


def _together(
    collection: "Collection | Joint", dimensions: int, embedding: str
) -> list[tuple[Segment, npt.NDArray[np.bool_]]]:
    """The documents in no segment as one part."""
    found = [collection.loose_segment(one, dimensions, embedding) for one, _ in collection.segments.loose()]
    whole = [one for one in found if one is not None]
    if not whole:
        return []
    part = merge(whole, dimensions)
    return [(part, np.ones(len(part.passage_ids), bool))]


def _first(
    rows: npt.NDArray[np.int64], scores: npt.NDArray[Any], ids: npt.NDArray[np.int64], n: int
) -> npt.NDArray[np.int64]:
    """The n best of some rows, best first; ties go to the smaller passage id."""
    if n < len(rows):
        # All that are as good as the n-th, so that a tie is broken by the id and not by the order in memory.
        least = np.partition(scores[rows], len(rows) - n)[len(rows) - n]
        rows = rows[scores[rows] >= least]
    return rows[np.lexsort((ids[rows], -scores[rows]))][:n]


def searched_stems(question: str, languages: Sequence[str] = ()) -> list[str]:
    """The stems a question is searched by, also in these languages: without stop words, unless it has nothing else."""
    found = tokens(question)
    content = [token for token in found if token not in STOP_WORDS]
    chosen = content or found
    foreign = [stem_in(language, token) for language in languages for token in chosen if token[0].isalpha()]
    return [stem(token) for token in chosen] + dates(question) + foreign


def fuse(ranks: Sequence[npt.NDArray[np.float64]]) -> npt.NDArray[np.float64]:
    """Fuse rankings by reciprocal ranks.

    Parameters
    ----------
    ranks : sequence of float64 arrays of shape (n,)
        Ranks from 1; infinite where a ranking does not hold the item.

    Returns
    -------
    float64 array of shape (n,)
        The sum of 1 / (RANK_CONSTANT + rank).
    """
    return np.asarray(sum(1.0 / (RANK_CONSTANT + one) for one in ranks))


def _ranks(scores: Scores, is_ranked: npt.NDArray[np.bool_]) -> npt.NDArray[np.float64]:
    """Rank the best items from 1, ties alike; infinity for the rest."""
    ranks = np.full(len(scores), np.inf)
    candidates = np.flatnonzero(is_ranked)
    if len(candidates) > _RANKED_PER_LIST:
        best = np.argpartition(-scores[candidates], _RANKED_PER_LIST - 1)[:_RANKED_PER_LIST]
        candidates = candidates[best]
    # Equal scores get equal ranks, so that the order of the documents on disk decides nothing.
    values = -np.unique(-scores[candidates])
    ranks[candidates] = 1 + np.searchsorted(-values, -scores[candidates])
    return ranks


def _standardised(scores: Scores, in_scope: npt.NDArray[np.bool_]) -> npt.NDArray[np.float64]:
    """Scores in standard deviations above the mean of those in scope, so that they can be added."""
    chosen = scores[in_scope]
    return np.asarray((scores - chosen.mean()) / max(float(chosen.std()), 1e-6), np.float64)


def _with_best_by_words(order: npt.NDArray[np.int64], words: Scores, n_kept: int) -> npt.NDArray[np.int64]:
    """Keep the first n_kept, the last few of them given up for the best by words where those are not among them.

    A date, a number or a clause stands in one row of a long table: meaning does not see it there.
    """
    best = [row for row in np.argsort(-words, kind="stable")[:_KEPT_FOR_WORDS] if words[row] > 0]
    kept = order[:n_kept].tolist()
    missing = [row for row in best if row not in kept]
    return np.array(kept[: max(0, n_kept - len(missing))] + missing, np.int64)[:n_kept]
