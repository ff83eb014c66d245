# SPDX-License-Identifier: GPL-3.0-or-later
"""What was reckoned for a question as a part of its sheet: the sentence, and the working with a citation for every cell."""

from collections.abc import Callable, Sequence

from redlantern.answering.sheet import Reckoning, WorkingRow
from redlantern.collection.values import Citation
from redlantern.reckoning import wording
from redlantern.reckoning.carrying_out import Result
from redlantern.reckoning.cells import Cell
from redlantern.reckoning.checks import TableCheck
from redlantern.reckoning.gathering import TakenRow
from redlantern.reckoning.plan import column_index, in_words
from redlantern.reckoning.reckon import Reckoned
from redlantern.reckoning.tables import Row, Table

_MOST_FORM_COLUMNS = 6
_MOST_ROWS = 40
"""Rows of the working that are shown; all of them count."""
CiteCell = Callable[[int, Cell], Citation]
"""Cites a cell of a document."""


def reckoning_of(reckoned: Reckoned, name_of: Callable[[int], str], cite: CiteCell) -> Reckoning:
    """The part of a sheet; `name_of` gives the title of a document."""
    result, plan = reckoned.result, reckoned.plan
    tables = list(dict.fromkeys((row.table.document_id, row.table.number) for row in result.rows)) or list(plan.tables)
    captions = [name_of(document_id) for document_id, _ in (tables if len(tables) > 1 else plan.tables)]
    amount = result.amount
    group = result.groups[0] if plan.pick and result.groups else None
    amount = group.amount if group else amount
    first = result.rows[0].table if result.rows else None
    return Reckoning(
        answer=wording.sentence(reckoned),
        value=amount.printed if amount else "",
        unit=amount.unit if amount else "",
        plan_words=in_words(plan, captions),
        columns=_columns(result),
        rows=tuple(_rows(result, cite)),
        n_rows=len(result.rows),
        left_out=tuple(WorkingRow(_cited(left.row, left.table, cite), (), left.reason) for left in result.left_out),
        n_unfit=result.n_unfit,
        doubts=reckoned.doubts,
        check=wording.check_words(reckoned) if first is not None else "",
        plan=plan,
        label=reckoned.label,
        is_borne_out=reckoned.check is None or not reckoned.check.of_sums,
    )


def checked_sums(checks: Sequence[TableCheck], cite: CiteCell) -> Reckoning:
    """What agrees in tables and what does not, as the part of a sheet."""
    found = [(check.table, mismatch) for check in checks for mismatch in check.mismatches]
    rows = tuple(
        WorkingRow(
            tuple(cite(table.document_id, cell) if cell.text.strip() else None for cell in cells),
            (1,),
            note=f"{mismatch.words}.",
        )
        for table, mismatch in found
        for cells in [(_name_cell(mismatch.row), mismatch.row.cells[mismatch.column])]
    )
    return Reckoning(
        answer=wording.checked(checks),
        value=str(len(found)),
        unit="",
        plan_words=wording.what_was_checked(checks),
        columns=("Row", "As printed"),
        rows=rows[:_MOST_ROWS],
        n_rows=len(rows),
    )


def _name_cell(row: Row) -> Cell:
    """The cell that a row is called by."""
    texts = [cell for cell, value in zip(row.cells, row.values, strict=True) if value.kind == "text"]
    return next((cell for cell in (*texts, *row.cells) if cell.text.strip()), row.cells[0])


def _columns(result: Result) -> tuple[str, ...]:
    """The names of the working's columns: those of the one table, or of the widest of several; of forms those of any."""
    tables = list({(row.table.document_id, row.table.number): row.table for row in result.rows}.values())
    if any(table.is_form for table in tables):
        names = {name.casefold(): name for table in reversed(tables) for name in table.names}
        used = [result.plan.column, result.plan.by, *(condition.column for condition in result.plan.conditions)]
        first = [name.casefold() for name in used if name]
        return tuple(names[name] for name in dict.fromkeys([*first, *names]))[:_MOST_FORM_COLUMNS]
    return max((table.names for table in tables), key=len, default=())


def _rows(result: Result, cite: CiteCell) -> Sequence[WorkingRow]:
    """The rows that the figure is read from first; then the others, of the largest or smallest the next ones, else in the order
    of the page.
    """
    own = list(result.cells) if result.plan.operation in ("largest", "smallest") else []
    if result.plan.pick and result.groups:
        own = list(result.groups[0].rows)
    seen = {id(row.row) for row in own}
    others = [row for row in result.rows if id(row.row) not in seen]
    if result.plan.operation in ("largest", "smallest"):
        others.sort(key=lambda row: row.value.number or 0, reverse=result.plan.operation == "largest")
    shown = [*own, *others][:_MOST_ROWS]
    is_figure = {id(row.row) for row in own} if own else {id(row.row) for row in shown}
    names = _columns(result)
    found = []
    for row in shown:
        order = _order(row.table, names)
        column = row.column if row.column >= 0 else _of_conditions(result, row)
        is_shown = id(row.row) in is_figure and column in order
        found.append(WorkingRow(_cited(row.row, row.table, cite, order), (order.index(column),) if is_shown else ()))
    return found


def _order(table: Table, names: Sequence[str]) -> list[int]:
    """Where a table's cells stand under these columns: as they are, or of a form by their names; -1 where it has none."""
    if not table.is_form:
        return [*range(len(table.columns))]
    at = {name.casefold(): index for index, name in enumerate(table.names)}
    return [at.get(name.casefold(), -1) for name in names]


def _of_conditions(result: Result, row: TakenRow) -> int:
    """The cell that a row is taken for: of its condition in a form, else the first filled one."""
    if row.table.is_form and result.plan.conditions:
        return column_index(row.table, result.plan.conditions[0].column)
    return next((index for index, cell in enumerate(row.row.cells) if cell.text.strip()), 0)


def _cited(row: Row, table: Table, cite: CiteCell, order: Sequence[int] | None = None) -> tuple[Citation | None, ...]:
    cells = [row.cells[index] if index >= 0 else None for index in (order or range(len(row.cells)))]
    return tuple(cite(table.document_id, cell) if cell is not None and cell.text.strip() else None for cell in cells)
