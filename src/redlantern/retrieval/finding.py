"""One question's way through finding: searched, reranked, with all that explains it."""

from collections.abc import Collection as Ids
from dataclasses import dataclass, replace

from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.collection.values import StoredPassage
from redlantern.models.embedding import Embedder
from redlantern.retrieval.index import Index
from redlantern.retrieval.reranking import QuestionWords, Reranked, question_words, rerank
from redlantern.settings import Method

SEARCHED_PASSAGES = 20
"""Passages that are looked at once more, before the best are kept as evidence."""


@dataclass(frozen=True)
class Spot:
    """A passage as it is put aside or pinned: its ids change when its document is split anew, its place seldom."""

    document_id: int
    page_number: int
    start: int


def spot_of(passage: StoredPassage) -> Spot:
    """Where a passage begins."""
    return Spot(passage.document_id, passage.page_number, passage.start)


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
    question: str,
    scope: Ids[int] | None,
    method: Method,
    *,
    put_aside: Ids[Spot] = (),
    pinned: Ids[Spot] = (),
) -> Finding:
    """Find passages for a question that stands by itself; best first, at most SEARCHED_PASSAGES.

    Pinned ones come first, whatever their rank; those put aside are left out.
    """
    vector = embedder.embed_question(question)
    n_searched = max(SEARCHED_PASSAGES, method.passages_kept) + len(put_aside)
    wanted = [
        passage_id
        for page in {(one.document_id, one.page_number) for one in pinned}
        for passage_id in index.passages_of(page)
    ]
    found = index.search(question, vector, scope, n_searched, word_weight=method.word_weight, always=wanted)
    passages = {one.passage_id: one for one in collection.passages([hit.passage_id for hit in found.hits])}
    # A passage that an update took away a moment ago is left out.
    hits = [
        hit
        for hit in found.hits
        if hit.passage_id in passages
        and spot_of(passages[hit.passage_id]) not in put_aside
        and (hit.rank <= n_searched or spot_of(passages[hit.passage_id]) in pinned)
    ]
    words = question_words(question, embedder, index.words.rarity)
    ranked = rerank(words, hits, [passages[hit.passage_id] for hit in hits], embedder, method.reranked)
    if pinned:
        ranked.sort(key=lambda one: spot_of(one.passage) not in pinned)
        ranked = [replace(one, hit=replace(one.hit, rank=rank)) for rank, one in enumerate(ranked, start=1)]
    return Finding(words, ranked, found.page_strengths)
