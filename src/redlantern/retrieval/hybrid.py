# SPDX-License-Identifier: GPL-3.0-or-later
"""One question's way through finding: searched, reranked, with all that explains it."""

from collections.abc import Collection as Ids
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.collection.values import StoredPassage
from redlantern.models.embedding import Embedder
from redlantern.retrieval.index import Index
from redlantern.retrieval.rerank import QuestionWords, Reranked, join_neighbours, question_words, rerank
from redlantern.settings import Method
from redlantern.text.question import ParsedQuestion

SEARCHED_PASSAGES = 20
"""Passages that are looked at once more, before the best are kept as evidence."""


@dataclass(frozen=True)
class Spot:
    """A stretch of a page that is put aside or pinned: ids change when a document is split anew, its place seldom."""

    document_id: int
    page_number: int
    start: int
    end: int

    def holds(self, passage: StoredPassage) -> bool:
        """Whether a passage begins in it."""
        here = (passage.document_id, passage.page_number) == (self.document_id, self.page_number)
        return here and self.start <= passage.start < self.end

    def overlaps(self, other: "Spot") -> bool:
        """Whether two have a part of a page in common."""
        same = (self.document_id, self.page_number) == (other.document_id, other.page_number)
        return same and self.start < other.end and other.start < self.end


def is_held(passage: StoredPassage, spots: Ids[Spot]) -> bool:
    """Whether a passage begins in any of these."""
    return any(spot.holds(passage) for spot in spots)


@dataclass(frozen=True)
class Finding:
    """What was found for a question: passages in their last order, its words, and how strongly each page was found."""

    words: QuestionWords
    ranked: list[Reranked]
    page_strengths: dict[tuple[int, int], float]


def find(
    index: Index,
    collection: Collection | Joint,
    embedder: Embedder,
    question: ParsedQuestion,
    scope: Ids[int] | None,
    method: Method,
    *,
    put_aside: Ids[Spot] = (),
    pinned: Ids[Spot] = (),
) -> Finding:
    """Find passages for a question that stands by itself; best first, at most SEARCHED_PASSAGES.

    Pinned ones come first, whatever their rank; those put aside are left out;
    neighbours on a page are joined.
    """
    vector = embedder.embed_question(question.text, in_english=question.is_english)
    # What is put aside may be several passages that were joined.
    n_searched = max(SEARCHED_PASSAGES, method.passages_kept) + 3 * len(put_aside)
    wanted = [
        passage_id
        for page in {(spot.document_id, spot.page_number) for spot in pinned}
        for passage_id in index.passages_of(page)
    ]
    found = index.search(question, vector, scope, n_searched, word_weight=method.word_weight, always=wanted)
    passages = {passage.passage_id: passage for passage in collection.passages([hit.passage_id for hit in found.hits])}
    # A passage that an update took away a moment ago is left out.
    hits = [
        hit
        for hit in found.hits
        if hit.passage_id in passages
        and not is_held(passages[hit.passage_id], put_aside)
        and (hit.rank <= n_searched or is_held(passages[hit.passage_id], pinned))
    ]
    words = question_words(question, embedder, index.words.idf)
    ranked = rerank(words, hits, [passages[hit.passage_id] for hit in hits], embedder, method.reranked)
    if pinned:
        ranked.sort(key=lambda reranked: not is_held(reranked.passage, pinned))
    ranked = join_neighbours(ranked)
    return Finding(words, ranked, found.page_strengths)


@dataclass(frozen=True)
class Placed:
    """A passage in one ranking: its rank from 1, and the score it is ranked by."""

    rank: int
    passage: StoredPassage
    score: float


@dataclass(frozen=True)
class Rankings:
    """The same question ranked in each of the ways that lead to the last order, best first."""

    by_words: list[Placed]
    by_meaning: list[Placed]
    by_both: list[Placed]
    reranked: list[Placed]


def rank_each_way(
    index: Index,
    collection: Collection | Joint,
    embedder: Embedder,
    question: ParsedQuestion,
    scope: Ids[int] | None,
    method: Method,
    n_each: int = 10,
) -> Rankings:
    """Rank passages by words alone, by meaning alone, by both, and reranked: at most n_each by each."""
    found = find(index, collection, embedder, question, scope, method)
    members = sorted(
        (member for reranked in found.ranked for member in reranked.members), key=lambda member: member.before
    )
    in_scope = index.in_scope(scope)
    words = np.where(in_scope, index.word_scores(question) / index.best_possible(question), 0)
    meaning = np.where(
        in_scope, index.meaning_scores(embedder.embed_question(question.text, in_english=question.is_english)), 0
    )
    ids = index.passage_ids
    rows = {
        name: [row for row in np.lexsort((ids, -scores))[:n_each].tolist() if scores[row] > 0]
        for name, scores in (("words", words), ("meaning", meaning))
    }
    wanted = {int(ids[row]) for chosen in rows.values() for row in chosen}
    passages = {passage.passage_id: passage for passage in collection.passages(list(wanted))}

    def placed(scored: Iterable[tuple[int, float]]) -> list[Placed]:
        there = [(passages[key], score) for key, score in scored if key in passages]
        return [Placed(rank, passage, score) for rank, (passage, score) in enumerate(there, start=1)]

    return Rankings(
        placed((int(ids[row]), float(words[row])) for row in rows["words"]),
        placed((int(ids[row]), float(meaning[row])) for row in rows["meaning"]),
        [Placed(member.before, member.passage, member.hit.fused) for member in members[:n_each]],
        [Placed(reranked.hit.rank, reranked.passage, reranked.score) for reranked in found.ranked[:n_each]],
    )
