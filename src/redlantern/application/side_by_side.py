# SPDX-License-Identifier: GPL-3.0-or-later
"""One question looked at side by side: ranked by each step of finding, and answered in several ways."""

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from redlantern.answering.asking import EmptyCollectionError, EmptyQuestionError, FoundStep, Step
from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.errors import RedlanternError
from redlantern.models.machine import resident_bytes
from redlantern.progress import Cancel
from redlantern.retrieval.hybrid import Placed, rank_each_way
from redlantern.retrieval.spelling import mend, mended_question
from redlantern.splitting.headings import Headings
from redlantern.text.question import parse_question
from redlantern.translation import tr
from redlantern.trials.lane_engines import LaneEngines
from redlantern.trials.running import put_to
from redlantern.trials.values import MEMORY, Arrangement, Lane, TrialQuestion

OnSheet = Callable[[int, Sheet, int], object]
"""Gets a way's number, its sheet, and the memory in bytes that was held when it was complete; 0 until it is."""


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

    titles = (tr("By words"), tr("By meaning"), tr("Both together"), tr("Looked at again"))
    ways = (rankings.by_words, rankings.by_meaning, rankings.by_both, rankings.reranked)
    return Tried(question, tuple((title, shown(way)) for title, way in zip(titles, ways, strict=True)), mended)


def answer_in_ways(
    engine: Engine, question: str, arrangements: Sequence[Arrangement], *, cancel: Cancel, on_sheet: OnSheet
) -> None:
    """Answer one question in each way, one after the other, those without a language model first.

    What was found of a way comes to `on_sheet` before what is written of it. Nothing is kept. A way that cannot be gone gives a
    sheet that says why.

    Raises
    ------
    EmptyQuestionError, Cancelled
    """
    if not question.strip(" ?!.\n\t"):
        raise EmptyQuestionError
    asked = TrialQuestion("1", question)
    with LaneEngines(engine) as engines:
        _answer_in_turn(engines, asked, arrangements, cancel, on_sheet)


def _answer_in_turn(
    engines: LaneEngines, asked: TrialQuestion, arrangements: Sequence[Arrangement], cancel: Cancel, on_sheet: OnSheet
) -> None:
    for number, lane in sorted(enumerate(_lanes(arrangements)), key=lambda each: not each[1].arrangement.is_quick):

        def pass_on(step: Step, number: int = number) -> None:
            if isinstance(step, FoundStep):
                on_sheet(number, step.sheet, 0)

        try:
            sheet = put_to(engines, lane, asked, cancel=cancel, on_step=pass_on)
        except RedlanternError as failure:
            sheet = Sheet(asked.question, asked.question, no_prose_reason=str(failure))
        on_sheet(number, sheet, _held_bytes(engines.of(""), lane.arrangement))


def _held_bytes(engine: Engine, arrangement: Arrangement) -> int:
    """The memory of this process, and of the language model's where one took part."""
    pids = [os.getpid()]
    if not arrangement.is_quick:
        model = engine.reader_beside.instead(arrangement.reader.replace(MEMORY, ""), engine.runtime)
        pids += [pid for pid in (getattr(model, "pid", None),) if pid]
    return sum(map(resident_bytes, pids))


def _lanes(arrangements: Sequence[Arrangement]) -> list[Lane]:
    return [Lane(str(number), arrangement) for number, arrangement in enumerate(arrangements)]
