# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with trials: sets of questions, runs of them, what a run says, and the mark to hold others against."""

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

import msgspec

from redlantern import __version__
from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.answering.sheet_form import sheet_from_json
from redlantern.collection.values import Citation
from redlantern.errors import RedlanternError
from redlantern.models.protocols import LanguageModelError
from redlantern.progress import Cancel, Progress, Report
from redlantern.reading.values import CELL_SEPARATOR, Page
from redlantern.translation import tr
from redlantern.trials.marking import mark
from redlantern.trials.proposing import chosen_passages, propose
from redlantern.trials.question_files import MOST_BYTES, QuestionFileError, as_rows, questions_of_table, read_questions
from redlantern.trials.running import RunGoneError, cell_from, go_on, kept_cell, page_text, state_of
from redlantern.trials.values import (
    NO_READER,
    Arrangement,
    CellAnswer,
    Lane,
    Marked,
    QuestionSet,
    RightPage,
    RunConditions,
    TrialQuestion,
    TrialRun,
    arranged_method,
    as_values,
    from_values,
)

_MOST_PASSAGES_LOOKED_AT = 4000


class EmptySetError(RedlanternError):
    """A set has no question."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name

    def __str__(self) -> str:
        return tr(
            "The set “{name}” has no question yet. Write some, take them over from a file or from a sheet."
        ).format(name=self.name)


class NothingToCompareError(RedlanternError):
    """No way to answer was chosen."""

    def __str__(self) -> str:
        return tr("No way of answering is chosen. Choose at least one; with two, they can be compared.")


@dataclass(frozen=True)
class RunState:
    """A run with the answers that there are so far, by lane and question."""

    run: TrialRun
    answers: dict[tuple[str, str], CellAnswer]

    @property
    def is_done(self) -> bool:
        """Whether every question is answered in every lane."""
        return len(self.answers) >= self.run.n_cells

    @property
    def marked(self) -> dict[tuple[str, str], Marked]:
        """What the answers were marked with."""
        return {at: cell.marked for at, cell in self.answers.items()}


def sets(engine: Engine) -> list[QuestionSet]:
    """The sets of questions, oldest first; one that cannot be understood is left out."""
    found = []
    for set_id, values in engine.collection.trials.sets().items():
        try:
            found.append(replace(from_values(QuestionSet, values), set_id=set_id))
        except msgspec.ValidationError:
            continue
    return found


def keep_set(engine: Engine, questions: QuestionSet) -> QuestionSet:
    """Keep a set, a new one or as it is now; its right pages get the key of the document that lies there."""
    kept = replace(questions, questions=with_keys(engine, questions.questions))
    return replace(kept, set_id=engine.collection.trials.keep_set(as_values(kept), questions.set_id))


def with_keys(engine: Engine, questions: Sequence[TrialQuestion]) -> tuple[TrialQuestion, ...]:
    """Questions whose right pages have the key of the document that lies at their path now."""
    keys = {document.path: document.key for document in engine.collection.documents()}

    def known(page: RightPage) -> RightPage:
        return replace(page, key=page.key or keys.get(page.path, ""))

    return tuple(replace(question, right=tuple(map(known, question.right))) for question in questions)


def delete_set(engine: Engine, set_id: int) -> None:
    """Forget a set; runs of it stay."""
    engine.collection.trials.delete_set(set_id)


def questions_from(engine: Engine, path: Path, cancel: Cancel) -> list[TrialQuestion]:
    """The questions of a file; a workbook is read in a reader process, as every document is.

    Raises
    ------
    QuestionFileError, FileRefusedError, Cancelled
    """
    if path.suffix.casefold() == ".xlsx":
        read = engine.readers.read(path, cancel)
        lines = _lines_of_cells(read.pages[0]) if read.pages else []
        return questions_of_table(path.name, [line.split(CELL_SEPARATOR) for line in lines])
    try:
        if not path.is_file() or path.stat().st_size > MOST_BYTES:
            raise QuestionFileError(path.name, f"it is no file of at most {MOST_BYTES // 1_000_000} MB")
        content = path.read_bytes()
    except OSError as failure:
        raise QuestionFileError(path.name, failure.strerror or "it cannot be read") from failure
    return read_questions(path.name, content)


def set_as_file(questions: QuestionSet) -> bytes:
    """A set as JSONL, which `questions_from` reads back."""
    lines = [json.dumps(row, ensure_ascii=False) for row in as_rows(questions.questions)]
    return "".join(f"{line}\n" for line in lines).encode("utf-8", "replace")


def questions_of_lines(text: str) -> list[TrialQuestion]:
    """The questions of lines that were pasted or typed.

    Raises
    ------
    QuestionFileError
    """
    return read_questions("lines", text.encode("utf-8", "replace"))


def question_from(sheet: Sheet, questions: Sequence[TrialQuestion]) -> TrialQuestion:
    """A trial question of a sheet that is right as it is: what it stands on is the right page, a figure the expected words."""
    cited = [citation for claim in sheet.claims for citation in claim.citations]
    if sheet.is_reckoned and sheet.reckoning is not None:
        cited = [*sheet.reckoning.cells, *cited]
    cited = cited or [line.citation for line in sheet.found_lines[:1]]
    right = dict.fromkeys(_right_page(citation) for citation in cited)
    taken = {question.question_id for question in questions}
    number = next(number for number in range(1, len(taken) + 2) if f"q{number}" not in taken)
    value = sheet.reckoning.value if sheet.is_reckoned and sheet.reckoning is not None else ""
    is_absent = sheet.refused
    return TrialQuestion(
        f"q{number}", sheet.standalone_question, expected=(value,) if value else (),
        right=() if is_absent else tuple(right), is_absent=is_absent,
    )  # fmt: skip


def propose_questions(
    engine: Engine, n: int, *, report: Report, cancel: Cancel, on_question: Callable[[TrialQuestion], object]
) -> int:
    """Let the language model think of at most `n` questions, each of another passage; gives how many came.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    model = engine.language_model
    if model is None:
        raise LanguageModelError("is not set up")
    with engine.queue.question():
        index = engine.current_index()
        step = max(1, index.n_passages // _MOST_PASSAGES_LOOKED_AT)
        passages = chosen_passages(engine.asked.passages(index.passage_ids[::step].tolist()), n, _now())
    model.start(cancel)
    n_found = 0
    for number, question in enumerate(propose(passages, dict(index.documents), model, cancel), start=1):
        report(Progress(tr("Thinking of questions"), number, len(passages), "passages"))
        if question is not None:
            n_found += 1
            on_question(question)
    return n_found


def begin(engine: Engine, questions: QuestionSet, arrangements: Sequence[Arrangement]) -> int:
    """Keep a new run of a set under one or more arrangements, with nothing answered yet; gives its id.

    Raises
    ------
    EmptySetError, NothingToCompareError
    SettingOutOfRangeError, NoRoomInContextError
    """
    if not questions.questions:
        raise EmptySetError(questions.name)
    if not arrangements:
        raise NothingToCompareError
    for arrangement in arrangements:
        arranged_method(engine.method, arrangement.settings)
    lanes = tuple(Lane(str(number), arrangement) for number, arrangement in enumerate(arrangements, start=1))
    run = TrialRun(
        questions.name, "trial", questions.questions, lanes, _now(), made_with(engine, arrangements), questions.set_id
    )
    run_id = engine.collection.trials.keep_run(as_values(run))
    engine.collection.journal.note("asked", f"Trial of {len(run.questions)} questions: {questions.name}")
    return run_id


def made_with(engine: Engine, arrangements: Sequence[Arrangement]) -> RunConditions:
    """What a run that begins now is made with."""
    documents = engine.collection.documents()
    model = engine.language_model
    language = {arrangement.name: arrangement.reader or (model.name if model is not None else NO_READER)
                for arrangement in arrangements}  # fmt: skip
    return RunConditions(__version__, engine.embedder.identity, language, state_of(documents), len(documents))


def begin_first(engine: Engine, path: Path, arrangements: Sequence[Arrangement], cancel: Cancel) -> int | None:
    """Keep the questions of a file as a collection's first set, and begin a run of it; gives the run that is to be gone on with.

    None where the collection has a set already whose runs are all done.

    Raises
    ------
    QuestionFileError
    """
    if not sets(engine):
        kept = keep_set(
            engine, QuestionSet(f"{engine.collection.name}: questions", tuple(questions_from(engine, path, cancel)))
        )
        return begin(engine, kept, arrangements)
    return next((state.run.run_id for state in runs(engine) if not state.is_done and state.run.kind == "trial"), None)


def go_on_with(
    engine: Engine, run_id: int, *, report: Report, cancel: Cancel,
    on_cell: Callable[[CellAnswer], object] = lambda cell: None,
) -> RunState:  # fmt: skip
    """Ask what is missing of a run; see running.go_on.

    Raises
    ------
    RunGoneError, Cancelled
    """
    go_on(engine, load(engine, run_id).run, report=report, cancel=cancel, on_cell=on_cell)
    state = load(engine, run_id)
    if not state.run.made.ended_at:
        ended = replace(state.run, made=replace(state.run.made, ended_at=_now()))
        engine.collection.trials.keep_run(as_values(ended), run_id)
        state = replace(state, run=ended)
    return state


def load(engine: Engine, run_id: int) -> RunState:
    """One run as it stands.

    Raises
    ------
    RunGoneError
    """
    values = engine.collection.trials.runs().get(run_id)
    if values is None:
        raise RunGoneError
    return _state(engine, run_id, from_values(TrialRun, values))


def runs(engine: Engine) -> list[RunState]:
    """All runs, the newest first; one that cannot be understood is left out."""
    found = []
    for run_id, values in reversed(engine.collection.trials.runs().items()):
        try:
            found.append(_state(engine, run_id, from_values(TrialRun, values)))
        except (msgspec.ValidationError, KeyError):
            continue
    return found


def delete_run(engine: Engine, run_id: int) -> None:
    """Forget a run with its answers."""
    engine.collection.trials.delete_run(run_id)


def sheet_of(engine: Engine, run_id: int, lane_id: str, question_id: str) -> Sheet | None:
    """The sheet of an answer, each citation led to the document that has its content now."""
    form = engine.collection.trials.sheet(run_id, lane_id, question_id)
    documents = engine.collection.documents()
    ids = {document.path: document.document_id for document in documents}
    ids |= {document.key: document.document_id for document in documents}
    return sheet_from_json(form, ids) if form is not None else None


def mend_question(engine: Engine, run_id: int, question: TrialQuestion) -> RunState:
    """Expect something else of a question, in its run and its set: its answers are marked anew, without being asked again."""
    state = load(engine, run_id)
    run = replace(state.run, questions=_with(state.run.questions, question))
    figures = {}
    for (lane_id, question_id), cell in state.answers.items():
        sheet = sheet_of(engine, run_id, lane_id, question_id) if question_id == question.question_id else None
        if sheet is not None and not cell.marked.problem:
            marked = mark(question, sheet, lambda citation: page_text(engine, citation))
            figures[(lane_id, question_id)] = kept_cell(replace(cell, marked=marked)).figures
    with engine.collection.file.writing():
        engine.collection.trials.keep_run(as_values(run), run_id)
        engine.collection.trials.keep_figures(run_id, figures)
        for each in sets(engine):
            if each.set_id == run.set_id:
                keep_set(engine, replace(each, questions=_with(each.questions, question)))
    return load(engine, run_id)


def _lines_of_cells(page: Page) -> list[str]:
    """The lines of a sheet of a workbook, without the name of the sheet that stands above them."""
    return [
        line
        for block in page.blocks
        if block.kind != "heading"
        for line in page.text[block.start : block.end].split("\n")
    ]


def _with(questions: Sequence[TrialQuestion], question: TrialQuestion) -> tuple[TrialQuestion, ...]:
    return tuple(question if each.question_id == question.question_id else each for each in questions)


def _right_page(citation: Citation) -> RightPage:
    return RightPage(citation.path, citation.page_number, citation.document_key)


def _state(engine: Engine, run_id: int, run: TrialRun) -> RunState:
    cells = map(cell_from, engine.collection.trials.cells(run_id))
    return RunState(replace(run, run_id=run_id), {(cell.lane_id, cell.question_id): cell for cell in cells})


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")
