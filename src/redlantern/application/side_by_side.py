"""A question ranked in each of the ways that lead to the last order, to be looked at side by side."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from redlantern.answering.asking import EmptyCollectionError
from redlantern.answering.engine import Engine
from redlantern.retrieval.hybrid import Placed, rank_each_way
from redlantern.retrieval.spelling import mend, mended_question
from redlantern.splitting.headings import Headings
from redlantern.text.question import parse_question


@dataclass(frozen=True)
class TriedPassage:
    """A passage in one ranking, as it is shown: where it stands in the documents and its words."""

    passage_id: int
    document_id: int
    page_number: int
    span: tuple[int, int]
    mark: str
    headings: Headings
    words: str
    score: float


@dataclass(frozen=True)
class Tried:
    """A question ranked each way: title and passages of each column, and the words that were mended."""

    question: str
    columns: tuple[tuple[str, tuple[TriedPassage, ...]], ...]
    mended: Mapping[str, str]


def try_ranking(engine: Engine, question: str, scope: frozenset[int] | None) -> Tried:
    """Rank passages for a question in each way, without answering it.

    Raises
    ------
    EmptyCollectionError
    """
    with engine.queue.question():
        index = engine.current_index()
        if not index.n_passages:
            raise EmptyCollectionError
        typed = parse_question(question)
        mended = mend(typed, index.words, engine.embedder.splits_word)
        searched = mended_question(typed, mended)
        rankings = rank_each_way(index, engine.asked, engine.embedder, searched, scope, engine.method)
    marks = {document.document_id: document.call_mark for document in index.documents.values()}

    def shown(ranking: Sequence[Placed]) -> tuple[TriedPassage, ...]:
        return tuple(
            TriedPassage(
                passage.passage_id, passage.document_id, passage.page_number, (passage.start, passage.end),
                f"{marks[passage.document_id]} p.{passage.page_number}", passage.headings, passage.text, placed.score,
            )
            for placed in ranking
            for passage in (placed.passage,)
        )  # fmt: skip

    titles = ("By words", "By meaning", "Both together", "Looked at again")
    ways = (rankings.by_words, rankings.by_meaning, rankings.by_both, rankings.reranked)
    return Tried(question, tuple((title, shown(way)) for title, way in zip(titles, ways, strict=True)), mended)
