# SPDX-License-Identifier: GPL-3.0-or-later
"""Grids: the same questions put to each of many documents, or a file of questions to the whole; corrected, and exported."""

import html
import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal, get_args

from redlantern.answering.engine import Engine
from redlantern.application.trials import EmptySetError, NothingToCompareError, RunState, made_with
from redlantern.collection.values import Document
from redlantern.reckoning.written import rows_as_csv, rows_as_linked_workbook
from redlantern.safety.names import visible
from redlantern.trials.values import Arrangement, CellAnswer, Lane, QuestionSet, TrialQuestion, TrialRun, as_values

NOT_THERE = "not in this document"
WHOLE = "whole"
"""The lane of a grid that asks all documents together."""
GridForm = Literal["xlsx", "csv", "html", "json"]
FORMS: tuple[GridForm, ...] = get_args(GridForm)
_STYLE = (
    "body{font:15px sans-serif;margin:2em}table{border-collapse:collapse}td,th{border:1px solid #999;padding:.4em;"
    "vertical-align:top;text-align:left}small{color:#555}"
)


@dataclass(frozen=True)
class GridCell:
    """An answer of a grid as it is exported: its words, how they stand, and where; `is_corrected` if a person put them."""

    question: TrialQuestion
    words: str
    mark: str = ""
    support: str = ""
    page_number: int = 0
    is_corrected: bool = False

    @property
    def standing(self) -> str:
        """How the words stand, in a few words."""
        said = "corrected by hand" if self.is_corrected else self.support.replace("refused", "")
        return ", ".join(filter(None, (self.mark, said)))


@dataclass(frozen=True)
class GridRow:
    """A row of a grid: one document, None for all of them together."""

    title: str
    document: Document | None
    cells: tuple[GridCell, ...]


def begin_grid(
    engine: Engine, questions: QuestionSet, arrangement: Arrangement, documents: Sequence[Document] | None
) -> int:
    """Keep a new grid with nothing answered yet: a row for each document, or with None one row for all; gives its run's id.

    Raises
    ------
    EmptySetError, NothingToCompareError
    """
    if not questions.questions:
        raise EmptySetError(questions.name)
    lanes = [Lane(WHOLE, arrangement, title="All documents")]
    if documents is not None:
        readable = [document for document in documents if not document.is_refused]
        lanes = [Lane(document.key, arrangement, document.key, document.title) for document in readable]
    if not lanes:
        raise NothingToCompareError
    began = datetime.now(UTC).isoformat(timespec="milliseconds")
    made = made_with(engine, [arrangement])
    run = TrialRun(questions.name, "grid", questions.questions, tuple(lanes), began, made, questions.set_id)
    run_id = engine.collection.trials.keep_run(as_values(run))
    engine.collection.journal.note("asked", f"Grid of {len(run.questions)} questions by {len(lanes)}: {questions.name}")
    return run_id


def correct(engine: Engine, run_id: int, lane_id: str, question_id: str, words: str) -> None:
    """Put words in an answer's place; empty takes them back."""
    engine.collection.trials.put_words(run_id, lane_id, question_id, words.strip())


def grid_rows(engine: Engine, state: RunState) -> list[GridRow]:
    """The rows of a grid, in its order; a cell without an answer yet is empty."""
    by_key = {document.key: document for document in engine.collection.documents()}
    rows = []
    for lane in state.run.lanes:
        document = by_key.get(lane.document_key)
        title = document.title if document is not None else lane.title
        cells = [
            _cell(question, state.answers.get((lane.lane_id, question.question_id))) for question in state.run.questions
        ]
        rows.append(GridRow(title, document, tuple(cells)))
    return rows


def grid_as_file(name: str, rows: Sequence[GridRow], form: GridForm) -> bytes:
    """A grid as a workbook with links to the documents' pages, as CSV, as HTML or as JSON."""
    questions = [cell.question.question for cell in rows[0].cells] if rows else []
    if form == "json":
        return (json.dumps(_as_json(name, rows), ensure_ascii=False, indent=1) + "\n").encode("utf-8", "replace")
    if form == "html":
        return _as_html(name, questions, rows).encode("utf-8", "replace")
    names = ["document", *(part for question in questions for part in (visible(question), "stands on"))]
    table = [
        [visible(row.title), *(part for cell in row.cells for part in (visible(cell.words), visible(cell.standing)))]
        for row in rows
    ]
    if form == "csv":
        return rows_as_csv(names, table)
    links = {
        (at, 2 + 2 * number): _link(row.document, cell.page_number)
        for at, row in enumerate(rows)
        for number, cell in enumerate(row.cells)
        if row.document is not None and cell.page_number
    }
    return rows_as_linked_workbook(name, names, table, links)


def _cell(question: TrialQuestion, answer: CellAnswer | None) -> GridCell:
    if answer is None:
        return GridCell(question, "")
    said = answer.said
    words = answer.words or (NOT_THERE if said.support == "refused" else said.words) or answer.marked.problem
    return GridCell(question, words, said.mark, said.support, said.page_number, bool(answer.words))


def _link(document: Document, page_number: int) -> str:
    return f"{document.file_path.as_uri()}#page={page_number}"


def _as_json(name: str, rows: Iterable[GridRow]) -> dict[str, object]:
    return {
        "name": name,
        "rows": [
            {
                "document": row.title,
                "path": row.document.full_path if row.document is not None else "",
                "sha256": row.document.sha256 if row.document is not None else "",
                "answers": [
                    {
                        "id": cell.question.question_id, "question": cell.question.question, "answer": cell.words,
                        "mark": cell.mark, "page": cell.page_number or None, "support": cell.support,
                        "corrected": cell.is_corrected,
                    }
                    for cell in row.cells
                ],
            }
            for row in rows
        ],
    }  # fmt: skip


def _as_html(name: str, questions: Sequence[str], rows: Sequence[GridRow]) -> str:
    def text(words: str) -> str:
        return html.escape(visible(words))

    def cell(row: GridRow, each: GridCell) -> str:
        standing = text(each.standing)
        if row.document is not None and each.page_number:
            standing = f'<a href="{html.escape(_link(row.document, each.page_number))}">{standing}</a>'
        return f"<td>{text(each.words)}<br><small>{standing}</small></td>"

    head = "".join(f"<th>{text(question)}</th>" for question in questions)
    body = "".join(
        f"<tr><th>{text(row.title)}</th>{''.join(cell(row, each) for each in row.cells)}</tr>" for row in rows
    )
    return (
        f'<!doctype html><html><head><meta charset="utf-8"><title>{text(name)}</title><style>{_STYLE}</style></head>'
        f"<body><h1>{text(name)}</h1><table><tr><th>document</th>{head}</tr>{body}</table></body></html>\n"
    )


def put_form(path: Path) -> GridForm:
    """The form of a grid's file by its ending, a workbook for one that is none of ours."""
    ending = path.suffix.casefold().lstrip(".")
    return next((form for form in FORMS if form == ending), "xlsx")
