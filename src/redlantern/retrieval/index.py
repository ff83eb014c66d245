"""A collection loaded for finding: ranks its passages for a question by words, by meaning and by both."""

from collections.abc import Collection as Ids
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from redlantern.collection.store import Collection
from redlantern.models.embedding import Vectors, restore
from redlantern.retrieval.analysis import STOP_WORDS, dates, stem, stem_in, tokens
from redlantern.retrieval.words import Scores, WordIndex

RANK_CONSTANT = 60
"""The k of reciprocal rank fusion: Cormack, Clarke and Buettcher (2009)."""

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

    def __init__(self, collection: Collection, dimensions: int, embedding: str) -> None:
        """Load every document's index; `embedding` is the identity of the model that questions are embedded with."""
        self.documents = {one.document_id: one for one in collection.documents() if not one.is_refused}
        parts = [
            part for one in self.documents if (part := collection.index_of(one, dimensions, embedding)) is not None
        ]
        empty = np.zeros((0, dimensions), np.int8)
        self.passage_ids = np.concatenate([np.zeros(0, np.int64), *(part.passage_ids for part in parts)])
        self.page_numbers = np.concatenate([np.zeros(0, np.int32), *(part.page_numbers for part in parts)])
        self.document_ids = np.concatenate(
            [np.zeros(0, np.int64), *(np.full(len(part.passage_ids), part.document_id) for part in parts)]
        )
        n_lines = np.concatenate([np.zeros(0, np.int32), *(part.n_lines for part in parts)])
        self._line_starts = np.concatenate([[0], np.cumsum(n_lines)]).astype(np.int64)
        self._vectors: Vectors = restore(np.concatenate([empty, *(part.vectors for part in parts)]))
        self._line_vectors: Vectors = restore(np.concatenate([empty, *(part.line_vectors for part in parts)]))
        self.words = WordIndex([part.words for part in parts])

    @property
    def n_passages(self) -> int:
        """How many passages there are."""
        return len(self.passage_ids)

    def search(self, question: str, question_vector: Vectors, scope: Ids[int] | None, n_kept: int) -> Found:
        """Rank the passages in scope.

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
        in_scope = np.ones(self.n_passages, bool) if scope is None else np.isin(self.document_ids, list(scope))
        if not in_scope.any():
            return Found([], {})
        words = np.where(in_scope, self.words.scores(searched_stems(question, self.words.languages)), 0).astype(
            np.float32
        )
        meaning = np.where(in_scope, self._vectors @ question_vector, -1).astype(np.float32)
        line_scores = self._line_vectors @ question_vector
        best_line = np.where(in_scope, np.maximum.reduceat(line_scores, self._line_starts[:-1]), -1).astype(np.float32)
        fused = fuse([_ranks(words, in_scope & (words > 0)), _ranks(meaning, in_scope), _ranks(best_line, in_scope)])
        candidates = np.lexsort((self.passage_ids, -fused))[: min(max(n_kept, _RERANKED), int(in_scope.sum()))]
        reranked = (
            _standardised(meaning, in_scope) + _standardised(best_line, in_scope) + 0.5 * _standardised(words, in_scope)
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
                line_scores[self._line_starts[row] : self._line_starts[row + 1]],
            )
            for rank, row in enumerate(order.tolist(), start=1)
        ]
        return Found(hits, self._page_strengths(words, meaning, best_line, in_scope))

    def scope_of(self, pattern: str) -> set[int]:
        """Give the documents whose path, file name or call-mark fits a pattern (`letters/*`, `*.pdf`, `SUR`)."""
        return {one.document_id for one in self.documents.values() if one.fits(pattern)}

    def _page_strengths(
        self, words: Scores, meaning: Scores, best_line: Scores, in_scope: npt.NDArray[np.bool_]
    ) -> dict[tuple[int, int], float]:
        """The best passage of each page: half by words and half by meaning, 1 for the best page of all."""
        near = np.clip((np.maximum(meaning, best_line) - 0.2) / 0.6, 0, 1)
        strength = 0.5 * words / max(float(words.max()), 1e-9) + 0.5 * near
        strengths: dict[tuple[int, int], float] = {}
        for row in np.flatnonzero(in_scope).tolist():
            page = (int(self.document_ids[row]), int(self.page_numbers[row]))
            strengths[page] = max(strengths.get(page, 0.0), float(strength[row]))
        return strengths


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
