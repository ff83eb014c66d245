"""A plan carried out: exact decimal arithmetic over the rows that count, with what was taken, what was left out, and why."""

from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Context, Decimal, localcontext
from statistics import median

from redlantern.reckoning.plan import (
    ZERO,
    Condition,
    Plan,
    PlanError,
    TableKey,
    check,
    column_index,
    decimals_of,
    parsed_values,
)
from redlantern.reckoning.roles import ROLE_WORDS
from redlantern.reckoning.tables import Row, Table, TableColumn
from redlantern.reckoning.values import NUMERIC, Convention, Value, ValueKind, shown_duration, shown_number
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

_EXACT = Context(prec=60)
"""Digits enough for the sum of any number of rows of the longest figures; see values."""
_MOST_MEAN_DECIMALS = 4
_MOST_LEFT_OUT = 40
_ALIKE = 0.5
"""Tables that share more than this of their rows may be versions of one."""


@dataclass(frozen=True)
class TakenRow:
    """A row that counts: its table, itself, and which of its cells the figure comes from; -1 where rows are counted."""

    table: Table
    row: Row
    column: int

    @property
    def value(self) -> Value:
        """What the measured cell holds."""
        return self.row.values[self.column]


@dataclass(frozen=True)
class LeftOut:
    """A row that does not count, and why."""

    table: Table
    row: Row
    reason: str


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


@dataclass
class _Gathered:
    """Rows of tables as they are gone through: those that count, those that do not, those that do not fit, and doubts."""

    taken: list[TakenRow] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)
    unfit: list[TakenRow] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)


def _carry_out(plan: Plan, tables: Sequence[Table]) -> Result:
    gathered = _fitting_rows(plan, tables) if plan.of == "item" else _printed_sums(plan, tables)
    taken, unfit, doubts = gathered.taken, gathered.unfit, gathered.doubts
    groups = tuple(_groups(plan, taken)) if plan.by else ()
    cells, amounts = (tuple(taken), (_share(taken, unfit),)) if plan.operation == "share" else _figure(plan, taken)
    if len(amounts) > 1:
        doubts.append(f"{plan.column} has several units, which are not added to one another.")
    left_out = tuple(gathered.left_out[:_MOST_LEFT_OUT])
    return Result(plan, amounts, tuple(taken), cells, groups, left_out, len(unfit), tuple(dict.fromkeys(doubts)))


def _fitting_rows(plan: Plan, tables: Sequence[Table]) -> _Gathered:
    gathered = _Gathered()
    for table in tables:
        column = column_index(table, plan.column) if plan.column else -1
        tests = [_test(condition, table) for condition in plan.conditions]
        for row in table.rows:
            if not row.is_item:
                if row.role not in ("header", "group"):
                    gathered.left_out.append(LeftOut(table, row, ROLE_WORDS[row.role]))
            elif not all(test(row) for test in tests):
                gathered.unfit.append(TakenRow(table, row, column))
            elif column >= 0 and _is_unreadable(row.values[column], table.columns[column]):
                gathered.left_out.append(LeftOut(table, row, _why_unreadable(row, column)))
            else:
                gathered.taken.append(TakenRow(table, row, column))
        if column >= 0 and table.columns[column].is_open:
            gathered.doubts.append(
                f"Nothing tells whether “{plan.column}” writes its decimals with a point or a comma."
            )
    return gathered


def _printed_sums(plan: Plan, tables: Sequence[Table]) -> _Gathered:
    """The printed sum of each table; of tables with the same rows the first alone, for one is a copy of the other."""
    gathered = _Gathered()
    seen: list[frozenset[tuple[str, ...]]] = []
    for table in tables:
        rows = frozenset(tuple(cell.text for cell in row.cells) for row in table.items)
        is_copy = rows in seen
        if not is_copy and any(len(rows & other) > _ALIKE * max(len(rows), len(other)) for other in seen):
            gathered.doubts.append(
                "Two of these tables have most rows in common: one may be another version of the other."
            )
        seen.append(rows)
        for row in [row for row in table.rows if row.role == plan.of][-1:]:
            if is_copy:
                gathered.left_out.append(LeftOut(table, row, "copy of another"))
            else:
                gathered.taken.append(TakenRow(table, row, _last_figure(row)))
    return gathered


def _is_unreadable(value: Value, column: TableColumn) -> bool:
    if not column.is_ordered:
        return value.kind == "empty"
    return value.number is None or (
        value.kind != column.kind and not (value.kind in ("whole", "decimal") or column.is_numeric)
    )


def _why_unreadable(row: Row, column: int) -> str:
    text = row.cells[column].text.strip()
    return f"“{text}” is no figure" if text else "empty cell"


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
        phrases = [set().union(*phrases)] if relation == "contains" else phrases
        return lambda row: any(phrase <= _stems_of(row.cells[index].text) for phrase in phrases)
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


def _stems_of(text: str) -> set[str]:
    return {stem(token) for token in tokens(text)}


def _figure(plan: Plan, taken: Sequence[TakenRow]) -> tuple[tuple[TakenRow, ...], tuple[Amount, ...]]:
    """The rows that the figure is read from, and the figure; one for each unit."""
    operation = plan.operation
    if operation == "count":
        return tuple(taken), (_count(len(taken)),)
    if operation == "rows":
        return tuple(taken), ()
    if operation == "distinct":
        values = {row.row.cells[row.column].text.strip().casefold() for row in taken}
        return tuple(taken), (_count(len(values)),)
    if not taken:
        return (), (_count(0),) if operation == "sum" else ()
    if operation in ("smallest", "largest"):
        return _extremes(plan, taken)
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
    comparable = [row for row in taken if _unit_key(row) == unit]
    ordered = sorted(comparable, key=lambda row: row.value.number or ZERO, reverse=plan.operation == "largest")
    nth = ordered[min(plan.n, len(ordered)) - 1].value.number
    assert nth is not None
    # All that are as large as the last one wanted: two days may share the highest reading.
    best = [row for row in ordered if _is_as_far(row.value.number or ZERO, nth, plan.operation == "largest")]
    return tuple(best), (_amount_of(best[0], best[0].value.number or ZERO, [best[0]]),)


def _is_as_far(number: Decimal, nth: Decimal, is_largest: bool) -> bool:
    return number >= nth if is_largest else number <= nth


def _reckoned(operation: str, rows: Sequence[TakenRow]) -> Amount:
    numbers = [row.value.number or ZERO for row in rows]
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
    return max(
        decimals_of(row.row.cells[row.column].text, row.table.columns[row.column].convention.mark) for row in rows
    )


def _share(taken: Sequence[TakenRow], unfit: Sequence[TakenRow]) -> Amount:
    """The rows that fit in per cent of all: by the measured column, or by their number."""

    def weight(rows: Sequence[TakenRow]) -> Decimal:
        return sum(((row.value.number or ZERO) if row.column >= 0 else Decimal(1) for row in rows), ZERO)

    whole = weight([*taken, *unfit])
    share = round(100 * weight(taken) / whole, 1) if whole else ZERO
    convention = taken[0].table.columns[max(0, taken[0].column)].convention if taken else Convention()
    return Amount(share, "percentage", "%", convention)


def _last_figure(row: Row) -> int:
    """The last cell of a row that holds a number: of a printed sum the figure itself."""
    numeric = [index for index, value in enumerate(row.values) if value.kind in NUMERIC]
    return numeric[-1] if numeric else len(row.values) - 1


def _count(number: int) -> Amount:
    return Amount(Decimal(number), "whole", "", Convention())


def _groups(plan: Plan, taken: Sequence[TakenRow]) -> list[Group]:
    """A figure for each value of the column that the rows are grouped by, the largest first."""
    by_label: dict[str, list[TakenRow]] = defaultdict(list)
    for row in taken:
        by_label[row.row.cells[column_index(row.table, plan.by)].text.strip()].append(row)
    groups = []
    for label, rows in by_label.items():
        _, amounts = _figure(plan, rows)
        groups += [Group(label, amount, tuple(rows)) for amount in amounts[:1]]
    sign = 1 if plan.pick == "smallest" else -1
    return sorted(groups, key=lambda group: (sign * group.amount.number, group.label))
