# SPDX-License-Identifier: GPL-3.0-or-later
"""Which rows a plan takes: those that count and fit, those that were left out and why, over one table or many."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from functools import cache
from typing import NamedTuple

from redlantern.reckoning.plan import Condition, Plan, column_index, parsed_values
from redlantern.reckoning.roles import ROLE_WORDS
from redlantern.reckoning.tables import Row, Table
from redlantern.reckoning.values import NUMERIC, ORDERED, Value, ValueKind
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens
from redlantern.translation import tr

_ALIKE = 0.5
"""Tables that share more than this of their rows may be versions of one."""


class TakenRow(NamedTuple):
    """A row that counts: its table, itself, and which of its cells the figure comes from; -1 where rows are counted."""

    table: Table
    row: Row
    column: int

    @property
    def value(self) -> Value:
        """What the measured cell holds."""
        return self.row.values[self.column]


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A row that does not count, and why."""

    table: Table
    row: Row
    reason: str


@dataclass
class Gathered:
    """Rows of tables as they are gone through: those that count, those that do not, and doubts.

    `n_unfit` counts those that do not fit the conditions; they are kept in `unfit` where a share is asked for.
    """

    taken: list[TakenRow] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)
    unfit: list[TakenRow] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    n_unfit: int = 0


def gather(plan: Plan, tables: Sequence[Table]) -> Gathered:
    """The rows of a plan that was checked. Of tables with the same rows the first alone counts, for one is a copy of the other."""
    gathered = Gathered()
    seen: list[frozenset[tuple[str, ...]]] = []
    for table in tables:
        is_copy = len(tables) > 1 and not table.is_form and _is_copy(table, seen, gathered)
        if plan.of == "item":
            _gather_items(plan, table, gathered, is_copy=is_copy)
        else:
            _gather_sum(plan, table, gathered, is_copy=is_copy)
    return gathered


def _is_copy(table: Table, seen: list[frozenset[tuple[str, ...]]], gathered: Gathered) -> bool:
    """Whether a table has the rows of one before it; one with most of them is a doubt."""
    rows = frozenset(tuple(cell.text for cell in row.cells) for row in table.items)
    is_copy = bool(rows) and rows in seen
    if not is_copy and any(len(rows & other) > _ALIKE * max(len(rows), len(other)) for other in seen):
        gathered.doubts.append(
            tr("Two of these tables have most rows in common: one may be another version of the other.")
        )
    seen.append(rows)
    return is_copy


def _gather_items(plan: Plan, table: Table, gathered: Gathered, *, is_copy: bool) -> None:
    column = column_index(table, plan.column) if plan.column else -1
    kind = table.columns[column].kind if column >= 0 else None
    tests = [_test(condition, table) for condition in plan.conditions]
    for row in table.rows:
        if row.role != "item":
            if row.role not in ("header", "group"):
                gathered.left_out.append(LeftOut(table, row, tr(ROLE_WORDS[row.role])))
        elif is_copy:
            gathered.left_out.append(LeftOut(table, row, tr("copy of another")))
        elif tests and not all(test(row) for test in tests):
            gathered.n_unfit += 1
            if plan.operation == "share":
                gathered.unfit.append(TakenRow(table, row, column))
        elif kind is not None and _is_unreadable(row.values[column], kind):
            gathered.left_out.append(LeftOut(table, row, _why_unreadable(row, column)))
            text = row.cells[column].text.strip()
            if any(letter.isdigit() for letter in text):
                # "1O5,00": recognised wrongly, or written so that nobody can tell.
                said = tr("“{text}” could not be read as a figure, and is left out.")
                gathered.doubts.append(said.format(text=text))
        else:
            gathered.taken.append(TakenRow(table, row, column))
    if column >= 0 and table.columns[column].is_open:
        said = tr("Nothing tells whether “{column}” writes its decimals with a point or a comma.")
        gathered.doubts.append(said.format(column=plan.column))


def _gather_sum(plan: Plan, table: Table, gathered: Gathered, *, is_copy: bool) -> None:
    """The printed sum of a table: the last of its kind."""
    tests = [_test(condition, table) for condition in plan.conditions]
    for row in [row for row in table.rows if row.role == plan.of][-1:]:
        if is_copy:
            gathered.left_out.append(LeftOut(table, row, tr("copy of another")))
        elif all(test(row) for test in tests):
            gathered.taken.append(TakenRow(table, row, _last_figure(row)))
        else:
            gathered.n_unfit += 1


def _is_unreadable(value: Value, kind: ValueKind) -> bool:
    """Whether a cell of a column of this kind holds nothing that could be reckoned with."""
    if value.kind == kind or kind not in ORDERED:
        return value.kind == "empty"
    # A bare number among dates is one as little as a word is; among amounts it is one of them.
    is_like = value.kind in ("whole", "decimal") or kind in NUMERIC
    return value.number is None or not is_like


def _why_unreadable(row: Row, column: int) -> str:
    text = row.cells[column].text.strip()
    return tr("“{text}” is no figure").format(text=text) if text else tr("empty cell")


def _test(condition: Condition, table: Table) -> Callable[[Row], bool]:
    """A row's test. Words are compared by their stems; numbers and dates by what they are worth."""
    index = column_index(table, condition.column)
    column = table.columns[index]
    relation, values = condition.relation, condition.values
    if relation in ("is empty", "is not empty"):
        wants_empty = relation == "is empty"
        return lambda row: (row.values[index].kind == "empty") == wants_empty
    if relation in ("contains", "contains one of"):
        phrases = [_stems_of(text) for text in values]
        phrases = [frozenset().union(*phrases)] if relation == "contains" else phrases
        # Long tables say the same few words again and again.
        has = cache(lambda text: any(phrase <= _stems_of(text) for phrase in phrases))
        return lambda row: has(row.cells[index].text)
    if relation == "in unit":
        return lambda row: row.values[index].unit == values[0]
    if relation == "in month":
        month = int(values[0])
        return lambda row: (moment := row.values[index].date) is not None and moment.month == month
    parsed = parsed_values(condition, column)
    if relation in ("is", "is not"):
        wants_same, first = relation == "is", parsed[0]
        text = values[0].strip().casefold()
        if first.number is not None and column.is_ordered:
            return lambda row: (row.values[index].number == first.number) == wants_same
        return lambda row: (row.cells[index].text.strip().casefold() == text) == wants_same
    bounds = [value.number for value in parsed if value.number is not None]
    compare: Callable[[Decimal], bool] = {
        "above": lambda number: number > bounds[0],
        "at least": lambda number: number >= bounds[0],
        "below": lambda number: number < bounds[0],
        "at most": lambda number: number <= bounds[0],
        "between": lambda number: bounds[0] <= number <= bounds[-1],
    }[relation]

    def fits(row: Row) -> bool:
        number = row.values[index].number
        return number is not None and compare(number)

    return fits


def _stems_of(text: str) -> frozenset[str]:
    return frozenset(stem(token) for token in tokens(text))


def _last_figure(row: Row) -> int:
    """The last cell of a row that holds a number: of a printed sum the figure itself."""
    numeric = [index for index, value in enumerate(row.values) if value.kind in NUMERIC]
    return numeric[-1] if numeric else len(row.values) - 1
