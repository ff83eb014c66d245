"""What the trials room wants done off the interface thread, and what it gets back to show."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from redlantern.answering.engine import Engine
from redlantern.desktop.bridge import Task
from redlantern.retrieval.hybrid import Placed


@dataclass(frozen=True)
class TriedPassage:
    """A passage in one ranking, as it is shown: where it stands in the documents and its words."""

    passage_id: int
    document_id: int
    page_number: int
    span: tuple[int, int]
    mark: str
    heading: str
    words: str
    score: float


@dataclass(frozen=True)
class Tried:
    """A question ranked each way: title and passages of each column, and the words that were mended."""

    question: str
    columns: tuple[tuple[str, tuple[TriedPassage, ...]], ...]
    mended: Mapping[str, str]


def try_ranking(engine: Engine, question: str, scope: frozenset[int] | None) -> Callable[[Task], Tried]:
    """Rank passages for a question in each way."""

    def shown(placed: Sequence[Placed]) -> tuple[TriedPassage, ...]:
        marks = {one.document_id: one.call_mark for one in engine.index.documents.values()}
        return tuple(
            TriedPassage(
                found.passage_id, found.document_id, found.page_number, (found.start, found.end),
                f"{marks[found.document_id]} p.{found.page_number}", found.heading, found.text, one.score,
            )
            for one in placed
            for found in (one.passage,)
        )  # fmt: skip

    def work(task: Task) -> Tried:
        found, mended = engine.rank_each_way(question, scope)
        titles = ("By words", "By meaning", "Both together", "Looked at again")
        ways = (found.by_words, found.by_meaning, found.by_both, found.reranked)
        return Tried(question, tuple((title, shown(way)) for title, way in zip(titles, ways, strict=True)), mended)

    return work
