# SPDX-License-Identifier: GPL-3.0-or-later
"""A plan carried out: exact decimal arithmetic over the rows that count, with what was taken, what was left out, and why."""

import re
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Context, Decimal, localcontext
from heapq import nlargest, nsmallest
from statistics import median

from redlantern.reading.numbers import Mark
from redlantern.reckoning.gathering import LeftOut, TakenRow, gather
from redlantern.reckoning.plan import ZERO, Plan, PlanError, TableKey, check, column_index, decimals_of
from redlantern.reckoning.tables import Table
from redlantern.reckoning.values import Convention, Value, ValueKind, shown_duration, shown_number
from redlantern.translation import tr

_EXACT = Context(prec=60)
"""Digits enough for the sum of any number of rows of the longest figures; see values."""
_MOST_MEAN_DECIMALS = 4
_MOST_LEFT_OUT = 40
_IN_BRACKETS = re.compile(r"\([^()]*\)")
_BETWEEN_ENTRIES = re.compile(r"[,;\n]|\s(?:and|und|et|y)\s")


@dataclass(frozen=True)
class Amount:
    """A figure with its kind and unit, and how the documents write such figures."""

    number: Decimal
    kind: ValueKind
    unit: str
    convention: Convention
    n_decimals: int = 0

    @property
    def printed(self) -> str:
        """As the documents would print it."""
        if self.kind == "date":
            moment = Value("date", self.number).date
            return f"{moment:%d.%m.%Y}" if moment else ""
        if self.kind == "time":
            minutes, seconds = divmod(int(self.number), 60)
            return f"{minutes // 60:02d}:{minutes % 60:02d}" + (f":{seconds:02d}" if seconds else "")
        if self.kind == "duration":
            return shown_duration(self.number, self.unit)
        shown = shown_number(
            self.number, self.convention.mark, self.n_decimals, grouped=self.kind != "whole" or self.number >= 10000
        )
        return f"{shown} {self.unit}".rstrip()


@dataclass(frozen=True)
class Group:
    """The figure of the rows that have one value in the column they are grouped by."""

    label: str
    amount: Amount
    rows: tuple[TakenRow, ...]


@dataclass(frozen=True)
class Result:
    """What came out: the figure, the rows it was taken from, the groups, what was left out, and what makes it doubtful.

    `rows` are all rows that fit the conditions; `cells` those that the figure is read from: the largest row, or all that were
    added up. `n_unfit` counts the rows that do not fit the conditions. Several amounts where units differ, such as currencies.
    """

    plan: Plan
    amounts: tuple[Amount, ...]
    rows: tuple[TakenRow, ...]
    cells: tuple[TakenRow, ...]
    groups: tuple[Group, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    n_unfit: int = 0
    doubts: tuple[str, ...] = ()

    @property
    def amount(self) -> Amount | None:
        """The figure, where there is one."""
        return self.amounts[0] if len(self.amounts) == 1 else None


def carry_out(plan: Plan, tables: Mapping[TableKey, Table]) -> Result:
    """Carry a plan out.

    Raises
    ------
    PlanError
        If it names what is not there; see plan.check.
    """
    check(plan, tables)
    with localcontext(_EXACT):
        return _carry_out(plan, [tables[key] for key in plan.tables])


def _carry_out(plan: Plan, tables: Sequence[Table]) -> Result:
    gathered = gather(plan, tables)
    taken, doubts = gathered.taken, gathered.doubts
    groups: tuple[Group, ...] = ()
    if plan.operation == "common":
        groups = tuple(_in_every(taken))
    elif plan.by:
        groups = tuple(_groups(plan, taken))
    cells: tuple[TakenRow, ...]
    amounts: tuple[Amount, ...]
    if plan.operation == "share":
        cells, amounts = tuple(taken), (_share(taken, gathered.unfit),)
    else:
        cells, amounts = _figure(plan, taken)
    if plan.operation == "common":
        cells, amounts = tuple(row for group in groups for row in group.rows), (_count(len(groups)),)
    if len(amounts) > 1:
        doubts.append(tr("{column} has several units, which are not added to one another.").format(column=plan.column))
    left_out = tuple(gathered.left_out[:_MOST_LEFT_OUT])
    return Result(plan, amounts, tuple(taken), cells, groups, left_out, gathered.n_unfit, tuple(dict.fromkeys(doubts)))


def _figure(plan: Plan, taken: Sequence[TakenRow]) -> tuple[tuple[TakenRow, ...], tuple[Amount, ...]]:
    """The rows that the figure is read from, and the figure; one for each unit."""
    operation = plan.operation
    if operation == "count":
        return tuple(taken), (_count(len(taken)),)
    if operation in ("rows", "common"):
        return tuple(taken), ()
    if operation == "documents":
        return tuple(taken), (_count(len({row.table.document_id for row in taken})),)
    if operation == "distinct":
        values = {row.row.cells[row.column].text.strip().casefold() for row in taken}
        return tuple(taken), (_count(len(values)),)
    if not taken:
        return (), (_count(0),) if operation == "sum" else ()
    if operation in ("smallest", "largest"):
        return _extremes(plan, taken)
    # One unit, as most columns have, needs no sorting out of a hundred thousand rows.
    if len({(row.row.values[row.column].kind, row.row.values[row.column].unit) for row in taken}) == 1:
        return tuple(taken), (_reckoned(operation, taken),)
    by_unit: dict[str, list[TakenRow]] = defaultdict(list)
    for row in taken:
        by_unit[_unit_key(row)].append(row)
    return tuple(taken), tuple(_reckoned(operation, rows) for rows in by_unit.values())


def _unit_key(row: TakenRow) -> str:
    """What can be added: one currency, one unit; durations whatever they are written in."""
    value = row.value
    return "duration" if value.kind == "duration" else value.unit


def _extremes(plan: Plan, taken: Sequence[TakenRow]) -> tuple[tuple[TakenRow, ...], tuple[Amount, ...]]:
    units = Counter(map(_unit_key, taken))
    unit = units.most_common(1)[0][0]
    comparable = [row for row in taken if len(units) == 1 or _unit_key(row) == unit]
    is_largest = plan.operation == "largest"
    first = nlargest if is_largest else nsmallest
    nth = first(plan.n, [row.value.number or ZERO for row in comparable])[-1]
    # All that are as large as the last one wanted: two days may share the highest reading.
    best = [row for row in comparable if _is_as_far(row.value.number or ZERO, nth, is_largest)]
    best.sort(key=lambda row: row.value.number or ZERO, reverse=is_largest)
    return tuple(best), (_amount_of(best[0], best[0].value.number or ZERO, [best[0]]),)


def _is_as_far(number: Decimal, nth: Decimal, is_largest: bool) -> bool:
    return number >= nth if is_largest else number <= nth


def _reckoned(operation: str, rows: Sequence[TakenRow]) -> Amount:
    numbers = [row.row.values[row.column].number or ZERO for row in rows]
    if operation == "sum":
        return _amount_of(rows[0], sum(numbers, ZERO), rows)
    if operation == "median":
        return _amount_of(rows[0], median(numbers), rows)
    if operation == "difference":
        span = max(numbers) - min(numbers)
        if rows[0].value.kind == "date":
            return Amount(span * 86400, "duration", "days", rows[0].table.columns[rows[0].column].convention)
        return _amount_of(rows[0], span, rows)
    if operation == "mean":
        mean = sum(numbers, ZERO) / len(numbers)
        n_decimals = _printed_decimals(rows)
        # One more than the cells have: a mean of whole readings is seldom whole.
        rounded = round(mean, min(n_decimals + 1, _MOST_MEAN_DECIMALS))
        return _amount_of(rows[0], rounded, rows)
    raise PlanError(f"“{operation}” cannot be reckoned here.")


def _amount_of(first: TakenRow, number: Decimal, rows: Sequence[TakenRow]) -> Amount:
    column = first.table.columns[first.column]
    value = first.value
    kind = "decimal" if value.kind == "whole" and number != number.to_integral_value() else value.kind
    return Amount(number, kind, value.unit, column.convention, _printed_decimals(rows))


def _printed_decimals(rows: Sequence[TakenRow]) -> int:
    texts: dict[Mark, set[str]] = defaultdict(set)
    for row in rows:
        texts[row.table.columns[row.column].convention.mark].add(row.row.cells[row.column].text)
    return max(decimals_of(text, mark) for mark, printed in texts.items() for text in printed)


def _share(taken: Sequence[TakenRow], unfit: Sequence[TakenRow]) -> Amount:
    """The rows that fit in per cent of all: by the measured column, or by their number."""

    def weight(rows: Sequence[TakenRow]) -> Decimal:
        return sum(((row.value.number or ZERO) if row.column >= 0 else Decimal(1) for row in rows), ZERO)

    whole = weight([*taken, *unfit])
    share = round(100 * weight(taken) / whole, 1) if whole else ZERO
    convention = taken[0].table.columns[max(0, taken[0].column)].convention if taken else Convention()
    return Amount(share, "percentage", "%", convention)


def _count(number: int) -> Amount:
    return Amount(Decimal(number), "whole", "", Convention())


def _groups(plan: Plan, taken: Sequence[TakenRow]) -> list[Group]:
    """A figure for each value of the column that the rows are grouped by, the largest first."""
    by_label: dict[str, list[TakenRow]] = defaultdict(list)
    tables = {id(row.table): row.table for row in taken}
    columns = {key: column_index(table, plan.by) for key, table in tables.items()}
    for row in taken:
        by_label[row.row.cells[columns[id(row.table)]].text.strip()].append(row)
    groups = []
    for label, rows in by_label.items():
        _, amounts = _figure(plan, rows)
        groups += [Group(label, amount, tuple(rows)) for amount in amounts[:1]]
    sign = 1 if plan.pick == "smallest" else -1
    return sorted(groups, key=lambda group: (sign * group.amount.number, group.label))


def _in_every(taken: Sequence[TakenRow]) -> list[Group]:
    """What stands in the column in every document, as it is first written, with the cells that have it."""
    by_entry: dict[str, list[TakenRow]] = defaultdict(list)
    written: dict[str, str] = {}
    for row in taken:
        for entry in entries(row.row.cells[row.column].text):
            by_entry[entry.casefold()].append(row)
            written.setdefault(entry.casefold(), entry)
    n_documents = len({row.table.document_id for row in taken})
    return [
        Group(written[entry], _count(n_documents), tuple(rows))
        for entry, rows in by_entry.items()
        if len({row.table.document_id for row in rows}) == n_documents
    ]


def entries(text: str) -> list[str]:
    """The names in a cell that may hold several: "Mr. Renn (Trust), Ms. Petrie and Mr. Corvin"; what stands in brackets is left out."""
    plain = _IN_BRACKETS.sub("", text)
    return [entry for part in _BETWEEN_ENTRIES.split(plain) if (entry := part.strip(" .\n"))]
