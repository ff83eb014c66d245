# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with questions: ask and keep the sheet, ask more collections, ask why not."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from redlantern.answering.asking import DoneStep, FoundStep, ReckonedStep, Step
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import Sheet
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.answering.writing.summary import PartStep
from redlantern.collection.kept_sheets import strip_sheet
from redlantern.collection.store import Collection
from redlantern.collection.values import Document
from redlantern.errors import RedlanternError
from redlantern.progress import Cancel
from redlantern.reckoning.plan import Plan, PlanError
from redlantern.retrieval.explain import Standing, standing
from redlantern.retrieval.hybrid import SEARCHED_PASSAGES
from redlantern.retrieval.spelling import mended_question
from redlantern.text.question import parse_question
from redlantern.translation import tr

NOTHING_READ = "Nothing could be read on this page, so it cannot be found."


class SameCollectionError(RedlanternError):
    """A collection was to be asked beside itself."""

    def __str__(self) -> str:
        return tr("This is the open collection itself. Choose another one to ask with it.")


def ask(engine: Engine, question: Question, *, cancel: Cancel, on_step: Callable[[Step], None]) -> Sheet:
    """Ask; every step is passed on. The sheet is kept in the collection, also one that was stopped in mid-answer."""
    sheet: Sheet | None = None
    try:
        for step in engine.ask(question, cancel):
            if isinstance(step, FoundStep | PartStep | ReckonedStep | DoneStep):
                sheet = step.sheet
            on_step(step)
    finally:
        if sheet is not None:
            _keep(engine, question.text, sheet, goes_on=bool(question.history))
    assert sheet is not None
    return sheet


def _keep(engine: Engine, question: str, sheet: Sheet, *, goes_on: bool = False, again: bool = False) -> None:
    """Keep a sheet, without the words of a document that was erased while it was answered."""
    form, collection = sheet_as_json(sheet), engine.collection
    with collection.file.writing():
        there = {document.key for document in engine.asked.documents()}
        strip_sheet(form, lambda citation: citation.get("document_key", "") not in there)
        collection.kept_sheets.keep(datetime.now(UTC).isoformat(), question, form, goes_on=goes_on, again=again)


class ReckoningError(RedlanternError):
    """A changed plan cannot be carried out."""


def reckon_again(engine: Engine, sheet: Sheet, plan: Plan, label: int, scope: frozenset[int] | None = None) -> Sheet:
    """Carry out a plan that was changed by hand; gives the sheet with its figure, which is kept with it.

    A plan without tables is carried out over all tables of the documents in `scope` that have its columns.

    Raises
    ------
    ReckoningError
        Says in words why not.
    """
    try:
        with engine.queue.question():
            reckoning = engine.asking(engine.runtime, Question(sheet.question)).figures.again(plan, label, scope)
    except PlanError as failure:
        raise ReckoningError(str(failure)) from failure
    changed = replace(sheet, reckoning=reckoning)
    _keep(engine, sheet.question, changed, again=True)
    return changed


def ask_model_alone(engine: Engine, question: str, *, cancel: Cancel, on_step: Callable[[str], None]) -> str:
    """Ask the language model without documents; its words so far are passed on as they come."""
    written = ""
    words: Iterator[str] = engine.ask_model_alone(question, cancel)
    for written in words:
        on_step(written)
    return written


def why_not(engine: Engine, sheet: Sheet, scope: frozenset[int] | None, page: tuple[int, int]) -> str:
    """Say in words where a page, as (document id, page number), stands for the question of a sheet."""
    place = standing_of(engine, sheet, scope, page)
    return place.sentences() if place is not None else NOTHING_READ


def standing_of(engine: Engine, sheet: Sheet, scope: frozenset[int] | None, page: tuple[int, int]) -> Standing | None:
    """Where a page stands for the question of a sheet; None where it has no passage."""
    with engine.queue.question():
        index, method = engine.current_index(), engine.method
        ids = index.passages_of(page)
        if not ids:
            return None
        searched = mended_question(parse_question(sheet.standalone_question), sheet.mended)
        return standing(
            index, engine.embedder, searched, scope, page, engine.asked.passages(list(ids)),
            word_weight=method.word_weight, n_kept=SEARCHED_PASSAGES,
        )  # fmt: skip


def ask_beside(engine: Engine, path: Path, passphrase: str | None) -> list[Document]:
    """Ask another collection together with the open one; gives the documents of both.

    Raises
    ------
    SameCollectionError
    PassphraseNeededError, WrongPassphraseError, and what else opening a collection raises
    """
    if path.resolve() == engine.collection.path.resolve():
        raise SameCollectionError
    engine.ask_beside(Collection.open(path, passphrase))
    engine.reload_index()
    return engine.asked.documents()


def ask_alone(engine: Engine) -> list[Document]:
    """Ask the open collection alone again; gives its documents."""
    engine.ask_alone()
    engine.reload_index()
    return engine.asked.documents()
