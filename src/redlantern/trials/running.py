# SPDX-License-Identifier: GPL-3.0-or-later
"""Puts the questions of a run to its lanes, one after another; goes on where it was interrupted."""

import hashlib
import time
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime

from redlantern.answering.asking import DoneStep, FoundStep, ReckonedStep, Step
from redlantern.answering.engine import Engine, Runtime
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import AnsweredSheet, Claim, Seconds, Sheet
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.answering.writing.summary import PartStep
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.kept_sheets import strip_sheet
from redlantern.collection.kept_trials import KeptCell
from redlantern.collection.values import Citation, Document
from redlantern.errors import RedlanternError
from redlantern.models.protocols import LanguageModelError
from redlantern.progress import Cancel, Cancelled, Progress, Report
from redlantern.translation import tr
from redlantern.trials.lane_engines import LaneEngines
from redlantern.trials.marking import mark, said_by
from redlantern.trials.values import (
    MEMORY,
    Arrangement,
    CellAnswer,
    Lane,
    Marked,
    Said,
    TrialQuestion,
    TrialRun,
    arranged_method,
    as_values,
    from_values,
    in_order,
)

_OWN_MEMORY = "the model was asked without documents"
_CELL = Callable[[CellAnswer], object]
_STEP = Callable[[Step], object]


class RunGoneError(RedlanternError):
    """A run was deleted meanwhile."""

    def __str__(self) -> str:
        return tr("This run is no longer in the collection: it was deleted meanwhile.")


class NoPageInLaneError(RedlanternError):
    """The document that a lane asks is gone."""

    def __init__(self, title: str) -> None:
        super().__init__(title)
        self.title = title

    def __str__(self) -> str:
        return tr("“{title}” is no longer in the collection, so it could not be asked.").format(title=self.title)


def put_to(
    engines: LaneEngines,
    lane: Lane,
    question: TrialQuestion,
    *,
    cancel: Cancel,
    on_step: _STEP = lambda step: None,
) -> Sheet:
    """Ask one question of a lane; when a question comes that somebody waits for, that goes first, and this is asked again.

    Raises
    ------
    RedlanternError
        If the lane's document is gone, or its settings cannot be.
    Cancelled
    """
    arrangement = lane.arrangement
    while True:
        own = Cancel()
        try:
            with cancel.calling(own.now):
                engine = engines.of(arrangement.copy)
                runtime = _arranged(engine, engines.of(""), arrangement)
                if arrangement.reader == MEMORY:
                    return _from_memory(engine, question.question, runtime, own)
                return _from_documents(engine, _question(engine, lane, question), runtime, own, on_step)
        except Cancelled:
            cancel.check()
            engines.of("").queue.wait_for_turn(cancel)


def go_on(engine: Engine, run: TrialRun, *, report: Report, cancel: Cancel, on_cell: _CELL = lambda cell: None) -> int:
    """Ask what is not answered yet of a run; gives how many answers came now. Each is kept before the next question is put.

    A question that fails keeps its place, with the reason; the others go on.

    Raises
    ------
    RunGoneError, Cancelled
    """
    with LaneEngines(engine) as engines:
        return _RunWalk(engine, engines, run, report, cancel, on_cell).all()


class _RunWalk:
    """Goes through what is not answered yet of a run."""

    def __init__(
        self, engine: Engine, engines: LaneEngines, run: TrialRun, report: Report, cancel: Cancel, on_cell: _CELL
    ) -> None:
        self._engine, self._engines, self._run = engine, engines, run
        self._report, self._cancel, self._on_cell = report, cancel, on_cell

    def all(self) -> int:
        """Ask all of it; gives how many answers came."""
        kept, run = self._engine.collection.trials, self._run
        done = kept.answered(run.run_id)
        n_done, n_now = len(done), 0
        waiting = deque(_waiting(run, done))
        while waiting:
            lane, question = waiting.popleft()
            self._cancel.check()
            if not kept.has_run(run.run_id):
                raise RunGoneError
            detail = f"{lane.title or lane.arrangement.name}: {question.question}"
            self._report(Progress(tr("Asking"), n_done, run.n_cells, "answers", detail))
            cell = self._asked(lane, question)
            if cell is None:
                # It stands on a document that was erased or changed meanwhile.
                waiting.append((lane, question))
                continue
            n_done, n_now = n_done + 1, n_now + 1
            self._on_cell(cell)
        self._report(Progress(tr("Asking"), n_done, run.n_cells, "answers"))
        return n_now

    def _asked(self, lane: Lane, question: TrialQuestion) -> CellAnswer | None:
        """Ask, mark and keep one; None if it is to be asked again."""
        try:
            sheet = put_to(self._engines, lane, question, cancel=self._cancel)
            asked = self._engines.of(lane.arrangement.copy)
            marked = mark(question, sheet, lambda citation: page_text(asked, citation))
            said = said_by(sheet)
        except DocumentChangedError:
            self._engine.has_changed()
            return None
        except RedlanternError as failure:
            sheet = Sheet(question.question, question.question)
            marked, said = Marked(is_refused=True, problem=str(failure)), Said(support="failed")
        cell = CellAnswer(lane.lane_id, question.question_id, marked, said, answered_at=_now())
        return cell if _keep(self._engine, self._run.run_id, cell, sheet) else None


def _keep(engine: Engine, run_id: int, cell: CellAnswer, sheet: Sheet) -> bool:
    """Keep an answer; gives whether it was: one that cites what is no longer there is not."""
    form, collection = sheet_as_json(sheet), engine.collection
    with collection.file.writing():
        there = {document.key for document in engine.asked.documents()}
        if strip_sheet(form, lambda citation: citation.get("document_key", "") not in there):
            return False
        collection.trials.keep_cell(run_id, kept_cell(cell), form)
    return True


def kept_cell(cell: CellAnswer) -> KeptCell:
    """An answer as a collection keeps it."""
    figures = {"marked": as_values(cell.marked), "said": as_values(cell.said)}
    return KeptCell(cell.lane_id, cell.question_id, cell.answered_at, figures, cell.words)


def cell_from(kept: KeptCell) -> CellAnswer:
    """An answer that was kept.

    Raises
    ------
    msgspec.ValidationError
    """
    marked = from_values(Marked, kept.figures["marked"])
    said = from_values(Said, kept.figures["said"])
    return CellAnswer(kept.lane_id, kept.question_id, marked, said, kept.words, kept.answered_at)


def page_text(engine: Engine, citation: Citation) -> str:
    """The text of the page that a citation is on; empty where that is gone."""
    page = engine.asked.page(citation.document_id, citation.page_number)
    return page.text if page is not None else ""


def state_of(documents: list[Document]) -> str:
    """The documents of a collection in a hash: the same for the same contents, in whatever order they were read."""
    return hashlib.sha256("\n".join(sorted(document.key for document in documents)).encode()).hexdigest()


def _waiting(run: TrialRun, done: set[tuple[str, str]]) -> Iterator[tuple[Lane, TrialQuestion]]:
    for lane in in_order(run.lanes):
        for question in run.questions:
            if (lane.lane_id, question.question_id) not in done:
                yield lane, question


def _arranged(engine: Engine, own: Engine, arrangement: Arrangement) -> Runtime:
    """What a lane runs with: the asked collection's index, the language model of the collection's own engine."""
    method = arranged_method(own.runtime.method, arrangement.settings)
    return replace(engine.runtime, method=method, language_model=own.runtime.language_model)


def _question(engine: Engine, lane: Lane, question: TrialQuestion) -> Question:
    arrangement = lane.arrangement
    documents = engine.current_index().documents.values()
    scope: frozenset[int] | None = None
    if lane.document_key:
        scope = frozenset(document.document_id for document in documents if document.key == lane.document_key)
        if not scope:
            raise NoPageInLaneError(lane.title)
    elif arrangement.paths is not None:
        scope = frozenset(document.document_id for document in documents if document.full_path in arrangement.paths)
    if arrangement.pattern:
        fitting = {document.document_id for document in documents if document.fits(arrangement.pattern)}
        scope = frozenset(fitting if scope is None else fitting & scope)
    history = question.history if arrangement.has_thread else ()
    reader = "" if arrangement.is_quick else arrangement.reader
    return Question(question.question, history, scope=scope, lines_only=arrangement.is_quick, reader=reader)


def _from_documents(engine: Engine, question: Question, runtime: Runtime, cancel: Cancel, on_step: _STEP) -> Sheet:
    sheet: Sheet | None = None
    for step in engine.ask(question, cancel, arranged=runtime):
        if isinstance(step, FoundStep | PartStep | ReckonedStep | DoneStep):
            sheet = step.sheet
        on_step(step)
    assert sheet is not None
    return sheet


def _from_memory(engine: Engine, question: str, runtime: Runtime, cancel: Cancel) -> Sheet:
    """What the model says without documents, as a sheet whose one claim stands on nothing."""
    model = runtime.language_model
    if model is None:
        raise LanguageModelError("is not set up")
    began, written, first_word = time.perf_counter(), "", None
    for so_far in engine.ask_model_alone(question, cancel, arranged=runtime):
        written, first_word = so_far, first_word or time.perf_counter() - began
    seconds = Seconds(first_word=first_word, total=time.perf_counter() - began)
    claim = Claim(written, "unsupported", (), _OWN_MEMORY, is_outside=True)
    return AnsweredSheet(
        question, question, models={"language": model.name}, method=runtime.method.name, seconds=seconds,
        claims=(claim,) if written else (),
    )  # fmt: skip


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")
