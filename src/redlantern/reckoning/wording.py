# SPDX-License-Identifier: GPL-3.0-or-later
"""What was reckoned, in a sentence of ours: the figure first, then where it comes from."""

from collections import Counter
from collections.abc import Sequence

from redlantern.reckoning.carrying_out import Result
from redlantern.reckoning.checks import ROWS_TO_NET, ROWS_TO_TOTAL, TAX_TO_TOTAL, TableCheck
from redlantern.reckoning.gathering import TakenRow
from redlantern.reckoning.plan import DOCUMENT, column_index
from redlantern.reckoning.reckon import Reckoned
from redlantern.reckoning.roles import ROLE_WORDS
from redlantern.reckoning.tables import Row, Table, TableColumn
from redlantern.reckoning.values import ValueKind
from redlantern.text.listing import counted, listed
from redlantern.translation import marked, tr, trn

_MOST_NAMED = 8
_KIND_WORDS: dict[ValueKind, str] = {
    "empty": marked("empty"),
    "text": marked("words"),
    "identifier": marked("identifier"),
    "whole": marked("whole"),
    "decimal": marked("decimal"),
    "money": marked("money"),
    "percentage": marked("percentage"),
    "date": marked("date"),
    "time": marked("time of day"),
    "duration": marked("duration"),
    "quantity": marked("quantity"),
}
_OPERATION_WORDS = {
    "largest": marked("largest"),
    "smallest": marked("smallest"),
    "mean": marked("mean"),
    "median": marked("median"),
}


def sentence(reckoned: Reckoned) -> str:
    """The answer in one or two sentences."""
    words = _figure(reckoned.result, reckoned.label, asks_which=reckoned.asks_which)
    if reckoned.also is not None:
        words += " " + tr("By {column} it is {named}.").format(
            column=reckoned.also.plan.column, named=_named(reckoned.also, reckoned.label, asks_which=True)
        )
    return words


def check_words(reckoned: Reckoned) -> str:
    """Whether the rows bear a printed sum out, and that a scan was read; empty where there is nothing of either."""
    return " ".join(filter(None, [_sums_checked(reckoned), _recognised(reckoned.result)]))


def _recognised(result: Result) -> str:
    """That the cells come from text recognition, and how sure that is of itself."""
    least = min((row.table.sureness for row in result.cells), default=1.0)
    if least >= 1:
        return ""
    return tr("Read by text recognition, {least:.0%} sure of itself: compare the digits with the page.").format(
        least=least
    )


def _sums_checked(reckoned: Reckoned) -> str:
    check = reckoned.check
    if check is None:
        return ""
    if check.of_sums:
        return tr("It does not agree with the rows: {words}.").format(words=check.of_sums[0].words)
    parts = [tr("the rows come to the net sum")] if check.has(ROWS_TO_NET) else []
    if reckoned.plan.of != "net":
        parts += [tr("net sum and tax come to the total")] if check.has(TAX_TO_TOTAL) else []
        parts += [tr("the rows come to the total")] if check.has(ROWS_TO_TOTAL) else []
    return tr("Checked: {parts}.").format(parts="; ".join(parts)) if parts else ""


def row_name(row: Row, label: int) -> str:
    """What a row is called: its cell in the label's column, else its first words."""
    if label >= 0 and row.cells[label].text.strip():
        return row.cells[label].text.strip()
    texts = [cell.text.strip() for cell, value in zip(row.cells, row.values, strict=True) if value.kind == "text"]
    return next(
        (text for text in texts if text), next((cell.text.strip() for cell in row.cells if cell.text.strip()), "")
    )


def checked(checks: Sequence[TableCheck]) -> str:
    """Whether what was checked agrees."""
    tables = [check for check in checks if check.checked]
    n_wrong = sum(len(check.mismatches) for check in tables)
    if not tables:
        return tr(
            "Nothing here can be checked: there is no table with quantities and prices, or with a sum over its rows."
        )
    where = counted(len(tables), "table")
    if not n_wrong:
        return tr("All that can be checked in {where} agrees.").format(where=where)
    return trn(
        "{n} figure in {{where}} does not agree with the others.",
        "{n} figures in {{where}} do not agree with the others.",
        n_wrong,
    ).format(where=where)


def what_was_checked(checks: Sequence[TableCheck]) -> str:
    """What was looked at, in words."""
    done: Counter[str] = Counter()
    for check in checks:
        done.update(dict(check.checked))
    named = [f"{tr(words)} ({counted(n, 'time')})" for words, n in done.items()]
    if not done:
        return tr("Looked for quantities, prices and sums in all tables")
    return tr("Checked: {named}").format(named="; ".join(named))


def read_as(table: Table) -> str:
    """What the columns of a table were taken for, and which of its rows are no items."""
    columns = "; ".join(f"{column.name or tr('no name')}: {_kind(column)}" for column in table.columns)
    others = [
        f"{row_name(row, -1)} ({tr(ROLE_WORDS[row.role])})" for row in table.rows if row.role not in ("item", "header")
    ]
    parts = [tr("Read as {columns}.").format(columns=columns)]
    parts += [tr("No items: {others}.").format(others=", ".join(others))] if others else []
    parts += [tr("Put right by hand.")] if table.is_put_right else []
    return " ".join(parts)


def _kind(column: TableColumn) -> str:
    kind = tr(_KIND_WORDS[column.kind])
    if not column.is_numeric:
        return kind
    if column.unit and column.kind != "percentage":
        kind = tr("{kind} in {unit}").format(kind=kind, unit=column.unit)
    if column.is_open:
        return tr("{kind}, decimals with a point or a comma: nothing tells").format(kind=kind)
    is_point = column.convention.mark == "."
    told = tr("{kind}, decimals with a point") if is_point else tr("{kind}, decimals with a comma")
    return told.format(kind=kind)


def _figure(result: Result, label: int, *, asks_which: bool) -> str:
    plan = result.plan
    figures = listed([amount.printed for amount in result.amounts]) if result.amounts else ""
    if plan.operation == "common":
        return _in_every(result)
    if plan.pick and result.groups:
        best = result.groups[0]
        ties = [group.label for group in result.groups if group.amount.number == best.amount.number]
        of_rows = counted(len(best.rows), "row")
        return f"{listed(ties)}: {f'{best.amount.printed} ({plan.column}, {of_rows})' if plan.column else of_rows}."
    if result.groups:
        named = [f"{group.label}: {group.amount.printed}" for group in result.groups[:_MOST_NAMED]]
        return f"{_and_more('; '.join(named), len(result.groups) - len(named), before='; ')}."
    if plan.of != "item" and plan.operation == "sum":
        if len(plan.tables) == 1:
            return tr("{figures}, as printed.").format(figures=figures)
        return tr("{figures} in all: the printed sums of {n} documents added up.").format(
            figures=figures, n=len(result.rows)
        )
    return _of_rows(result, label, figures, asks_which=asks_which)


def _of_rows(result: Result, label: int, figures: str, *, asks_which: bool) -> str:
    """The figure of the rows that count, with what was done to them."""
    plan, n_rows = result.plan, counted(len(result.rows), "row")
    match plan.operation:
        case "largest" | "smallest":
            return tr("{named} ({column}, {operation} of {n_rows}).").format(
                named=_named(result, label, asks_which=asks_which), column=plan.column,
                operation=tr(_OPERATION_WORDS[plan.operation]), n_rows=n_rows,
            )  # fmt: skip
        case "count":
            return trn("{n} row fits.", "{n} rows fit.", len(result.rows)) if plan.conditions else f"{n_rows}."
        case "distinct":
            return tr("{figures} different values of {column}: {values}.").format(
                figures=figures, column=plan.column, values=_values(result)
            )
        case "documents":
            return f"{counted(int(result.amounts[0].number), 'document')}: {_names(result.cells, DOCUMENT)}."
        case "sum":
            return tr("{figures} in all ({column}, {n_rows} added up).").format(
                figures=figures, column=plan.column, n_rows=n_rows
            )
        case "mean" | "median":
            return tr("{figures} ({operation} of {column} over {n_rows}).").format(
                figures=figures, operation=tr(_OPERATION_WORDS[plan.operation]), column=plan.column, n_rows=n_rows
            )
        case "difference":
            ends = sorted(result.rows, key=lambda row: row.value.number or 0)
            first, last = (row.row.cells[row.column].text.strip() for row in (ends[0], ends[-1]))
            return tr("{figures}: from {first} to {last} ({column}).").format(
                figures=figures, first=first, last=last, column=plan.column
            )
        case "share":
            return tr("{figures}: {n_rows} of {of}.").format(
                figures=figures, n_rows=n_rows, of=len(result.rows) + result.n_unfit
            )
        case _ if plan.column:
            told = [f"{_cell(row)} ({_name_of(row, label)})" for row in result.cells[:_MOST_NAMED]]
            return f"{plan.column}: {_and_more(listed(told), len(result.cells) - len(told), before=', ')}."
        case _:
            return f"{counted(len(result.cells), 'row')}: {_names(result.cells, label)}."


def _in_every(result: Result) -> str:
    n = len({row.table.document_id for row in result.rows})
    if not result.groups:
        return tr("Nobody and nothing stands under {column} in all {n} documents.").format(
            column=result.plan.column, n=n
        )
    names = [group.label for group in result.groups]
    named = _and_more(listed(names[:_MOST_NAMED]), len(names) - _MOST_NAMED, before=", ")
    return tr("{named}: in all {n} ({column}).").format(named=named, n=n, column=result.plan.column)


def _and_more(named: str, more: int, *, before: str) -> str:
    """What was named, and how many more there are: after `before`, if there are."""
    return named + (before + tr("and {n} more").format(n=more) if more > 0 else "")


def _named(result: Result, label: int, *, asks_which: bool) -> str:
    """The rows with the figure: "Posaune boots: 177 kg"; the figure first where it was asked for: "78 %: 11.03.2026"."""
    if result.plan.n > 1:
        return "; ".join(f"{_name_of(row, label)}: {_cell(row)}" for row in result.cells[:_MOST_NAMED])
    parts = [_names(result.cells, label), _with_unit(result)]
    return ": ".join(parts if asks_which else reversed(parts))


def _with_unit(result: Result) -> str:
    return result.amounts[0].printed if result.amounts else ""


def _cell(row: TakenRow) -> str:
    text = row.row.cells[row.column].text.strip()
    unit = row.value.unit
    return text if not unit or unit in text or not text[-1:].isdigit() else f"{text} {unit}"


def _names(rows: Sequence[TakenRow], label: int) -> str:
    return _named_first(list(dict.fromkeys(_name_of(row, label) for row in rows)))


def _named_first(names: Sequence[str]) -> str:
    """The first of some names, and how many more there are."""
    more = len(names) - _MOST_NAMED
    return listed(names) if more <= 0 else _and_more(", ".join(names[:_MOST_NAMED]), more, before=" ")


def _name_of(taken: TakenRow, label: int) -> str:
    """What a row that counts is called: as it says itself, or as its document is called."""
    return taken.table.title if label == DOCUMENT else row_name(taken.row, label)


def _values(result: Result) -> str:
    index = column_index(result.rows[0].table, result.plan.column)
    return _named_first(sorted({row.row.cells[index].text.strip() for row in result.rows}, key=str.casefold))
