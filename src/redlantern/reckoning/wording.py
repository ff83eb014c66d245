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
from redlantern.text.listing import counted, listed

_MOST_NAMED = 8


def sentence(reckoned: Reckoned) -> str:
    """The answer in one or two sentences."""
    words = _figure(reckoned.result, reckoned.label, asks_which=reckoned.asks_which)
    if reckoned.also is not None:
        words += f" By {reckoned.also.plan.column} it is {_named(reckoned.also, reckoned.label, asks_which=True)}."
    return words


def check_words(reckoned: Reckoned) -> str:
    """Whether the rows bear a printed sum out, and that a scan was read; empty where there is nothing of either."""
    return " ".join(filter(None, [_sums_checked(reckoned), _recognised(reckoned.result)]))


def _recognised(result: Result) -> str:
    """That the cells come from text recognition, and how sure that is of itself."""
    least = min((row.table.sureness for row in result.cells), default=1.0)
    return (
        f"Read by text recognition, {least:.0%} sure of itself: compare the digits with the page." if least < 1 else ""
    )


def _sums_checked(reckoned: Reckoned) -> str:
    check = reckoned.check
    if check is None:
        return ""
    if check.of_sums:
        return f"It does not agree with the rows: {check.of_sums[0].words}."
    parts = ["the rows come to the net sum"] if check.has(ROWS_TO_NET) else []
    if reckoned.plan.of != "net":
        parts += ["net sum and tax come to the total"] if check.has(TAX_TO_TOTAL) else []
        parts += ["the rows come to the total"] if check.has(ROWS_TO_TOTAL) else []
    return f"Checked: {listed(parts)}." if parts else ""


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
        return "Nothing here can be checked: there is no table with quantities and prices, or with a sum over its rows."
    where = counted(len(tables), "table")
    if not n_wrong:
        return f"All that can be checked in {where} agrees."
    return f"{counted(n_wrong, 'figure')} in {where} {'does' if n_wrong == 1 else 'do'} not agree with the others."


def what_was_checked(checks: Sequence[TableCheck]) -> str:
    """What was looked at, in words."""
    done: Counter[str] = Counter()
    for check in checks:
        done.update(dict(check.checked))
    named = [f"{words} ({counted(n, 'time')})" for words, n in done.items()]
    return f"Checked: {'; '.join(named)}" if done else "Looked for quantities, prices and sums in all tables"


def read_as(table: Table) -> str:
    """What the columns of a table were taken for, and which of its rows are no items."""
    columns = "; ".join(f"{column.name or 'no name'}: {_kind(column)}" for column in table.columns)
    others = [
        f"{row_name(row, -1)} ({ROLE_WORDS[row.role]})" for row in table.rows if row.role not in ("item", "header")
    ]
    by_hand = " Put right by hand." if table.is_put_right else ""
    return f"Read as {columns}." + (f" No items: {', '.join(others)}." if others else "") + by_hand


def _kind(column: TableColumn) -> str:
    kind = "words" if column.kind == "text" else column.kind
    unit = f" in {column.unit}" if column.unit and column.kind != "percentage" else ""
    if not column.is_numeric:
        return kind
    mark = "point" if column.convention.mark == "." else "comma"
    return f"{kind}{unit}, decimal {mark}{' or the other: nothing tells' if column.is_open else ''}"


def _figure(result: Result, label: int, *, asks_which: bool) -> str:
    plan = result.plan
    figures = listed([amount.printed for amount in result.amounts]) if result.amounts else ""
    n_rows = counted(len(result.rows), "row")
    if plan.operation == "common":
        return _in_every(result)
    if plan.pick and result.groups:
        best = result.groups[0]
        ties = [group.label for group in result.groups if group.amount.number == best.amount.number]
        of_rows = counted(len(best.rows), "row")
        return f"{listed(ties)}: {f'{best.amount.printed} ({plan.column}, {of_rows})' if plan.column else of_rows}."
    if result.groups:
        named = [f"{group.label}: {group.amount.printed}" for group in result.groups[:_MOST_NAMED]]
        more = len(result.groups) - len(named)
        return f"{'; '.join(named)}{f'; and {more} more' if more > 0 else ''}."
    if plan.of != "item" and plan.operation == "sum":
        if len(plan.tables) == 1:
            return f"{figures}, as printed."
        return f"{figures} in all: the printed sums of {len(result.rows)} documents added up."
    match plan.operation:
        case "largest" | "smallest":
            return f"{_named(result, label, asks_which=asks_which)} ({plan.column}, {plan.operation} of {n_rows})."
        case "count":
            fits = f" {'fits' if len(result.rows) == 1 else 'fit'}" if plan.conditions else ""
            return f"{n_rows}{fits}."
        case "distinct":
            return f"{figures} different values of {plan.column}: {_values(result)}."
        case "documents":
            return f"{counted(int(result.amounts[0].number), 'document')}: {_names(result.cells, DOCUMENT)}."
        case "sum":
            return f"{figures} in all ({plan.column}, {n_rows} added up)."
        case "mean" | "median":
            return f"{figures} ({plan.operation} of {plan.column} over {n_rows})."
        case "difference":
            ends = sorted(result.rows, key=lambda row: row.value.number or 0)
            first, last = (row.row.cells[row.column].text.strip() for row in (ends[0], ends[-1]))
            return f"{figures}: from {first} to {last} ({plan.column})."
        case "share":
            return f"{figures}: {counted(len(result.rows), 'row')} of {len(result.rows) + result.n_unfit}."
        case _ if plan.column:
            told = [f"{_cell(row)} ({_name_of(row, label)})" for row in result.cells[:_MOST_NAMED]]
            more = len(result.cells) - len(told)
            return f"{plan.column}: {listed(told)}{f', and {more} more' if more > 0 else ''}."
        case _:
            return f"{counted(len(result.cells), 'row')}: {_names(result.cells, label)}."


def _in_every(result: Result) -> str:
    n = len({row.table.document_id for row in result.rows})
    if not result.groups:
        return f"Nobody and nothing stands under {result.plan.column} in all {n} documents."
    names = [group.label for group in result.groups]
    more = len(names) - _MOST_NAMED
    return (
        f"{listed(names[:_MOST_NAMED])}{f', and {more} more' if more > 0 else ''}: in all {n} ({result.plan.column})."
    )


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
    names = list(dict.fromkeys(_name_of(row, label) for row in rows))
    more = len(names) - _MOST_NAMED
    return listed(names[:_MOST_NAMED]) if more <= 0 else f"{', '.join(names[:_MOST_NAMED])} and {more} more"


def _name_of(taken: TakenRow, label: int) -> str:
    """What a row that counts is called: as it says itself, or as its document is called."""
    return taken.table.title if label == DOCUMENT else row_name(taken.row, label)


def _values(result: Result) -> str:
    index = column_index(result.rows[0].table, result.plan.column)
    values = sorted({row.row.cells[index].text.strip() for row in result.rows}, key=str.casefold)
    more = len(values) - _MOST_NAMED
    return listed(values[:_MOST_NAMED]) if more <= 0 else f"{', '.join(values[:_MOST_NAMED])} and {more} more"
