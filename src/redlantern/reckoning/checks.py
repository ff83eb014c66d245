# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether what a table prints agrees with itself: quantity times unit price, items against net sum, net and tax, days of a log."""

import datetime as dt
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from itertools import pairwise

from redlantern.reckoning.plan import ZERO, Counted, decimals_of
from redlantern.reckoning.tables import Row, Table, TableColumn
from redlantern.reckoning.values import NUMERIC, shown_duration, shown_number
from redlantern.translation import marked, tr

_UNIT_PRICE = re.compile(
    r"\bunit\b|\beinzel|\bper\b|\bje\b|\beach\b|\brate\b|\bunitaire\b|\bunitario\b|\bp\.u\.|\bprice\b|\bpreis\b|\bprix\b|\bprecio\b",
    re.IGNORECASE,
)
_QUANTITY = re.compile(
    (
        r"\bq(?:uanti)?ty\b|\bquantity\b|\bmenge\b|\banzahl\b|\bquantité\b|\bqté\b|\bcantidad\b|\bhours\b|\bstunden\b|"
        r"\bpieces\b|\bstück\b|\bnumber\b|\bdays\b|\bnights\b"
    ),
    re.IGNORECASE,
)
_TOTAL = re.compile(
    r"\btotal\b|\bamount\b|\bsum\b|\bgesamt|\bbetrag\b|\bsumme\b|\bmontant\b|\bimporte\b|\bline total\b", re.IGNORECASE
)


ROWS_TO_NET = marked("net sum against the rows above it")
ROWS_TO_TOTAL = marked("total against the rows above it")
NO_GAPS = marked("days without a gap")
TAX_TO_TOTAL = marked("net sum and tax against the total")


_LEAST_DAYS, _REGULAR, _SATURDAY = 10, 0.8, 5
"""A log has at least so many days, most of which follow on one another."""


@dataclass(frozen=True)
class Mismatch:
    """What does not agree: the row whose figure is doubted, the figure that was reckoned, and both in a sentence."""

    row: Row
    column: int
    reckoned: Decimal
    words: str


@dataclass(frozen=True)
class TableCheck:
    """What was checked in a table, in words with how often, and what does not agree. `checked` is empty where nothing could be."""

    table: Table
    checked: tuple[tuple[str, int], ...]
    mismatches: tuple[Mismatch, ...]

    @property
    def of_sums(self) -> tuple[Mismatch, ...]:
        """What does not agree about the printed sums."""
        return tuple(mismatch for mismatch in self.mismatches if mismatch.row.role != "item")

    def has(self, words: str) -> bool:
        """Whether this was checked."""
        return any(done == words for done, _ in self.checked)


def check_table(table: Table) -> TableCheck:
    """Check the rows against quantity and unit price, and the printed sums against the rows."""
    checked: list[tuple[str, int]] = []
    mismatches: list[Mismatch] = []
    roles = _product_columns(table.columns)
    if roles is not None:
        rows = [row for row in table.items if all(row.values[index].number is not None for index in roles)]
        if rows:
            names = [table.columns[index].name for index in roles]
            said = tr("{quantity} times {price} against {total}")
            checked.append((said.format(quantity=names[0], price=names[1], total=names[2]), len(rows)))
            mismatches += _products(table, rows, roles)
    for of in ("net", "total"):
        sums = _sum_columns(table, of)
        if sums:
            checked.append((ROWS_TO_NET if of == "net" else ROWS_TO_TOTAL, 1))
            mismatches += _sums(table, of, sums)
    gaps = _date_gaps(table)
    if gaps is not None:
        checked.append((NO_GAPS, 1))
        mismatches += gaps
    payable = _payable(table)
    if payable is not None:
        checked.append((TAX_TO_TOTAL, 1))
        mismatches += payable
    return TableCheck(table, tuple(checked), tuple(mismatches))


def _product_columns(columns: Sequence[TableColumn]) -> tuple[int, int, int] | None:
    """The columns of quantity, unit price and total; None where they cannot be told."""
    numeric = [index for index, column in enumerate(columns) if column.kind in NUMERIC]
    quantity = next((index for index in numeric if _QUANTITY.search(columns[index].name)), None)
    money = [index for index in numeric if index != quantity and columns[index].kind in ("money", "decimal", "whole")]
    price = next((index for index in money if _UNIT_PRICE.search(columns[index].name)), None)
    total = next((index for index in reversed(money) if index != price and _TOTAL.search(columns[index].name)), None)
    if quantity is None or price is None or total is None:
        return None
    return quantity, price, total


def _products(table: Table, rows: Sequence[Row], roles: tuple[int, int, int]) -> Iterator[Mismatch]:
    for row in rows:
        quantity, price, printed = (_amount(row, index) for index in roles)
        n_decimals = decimals_of(row.cells[roles[2]].text, table.columns[roles[2]].convention.mark)
        reckoned = (quantity * price).quantize(Decimal(1).scaleb(-n_decimals), rounding=ROUND_HALF_UP)
        if reckoned != printed:
            texts = [row.cells[index].text.strip() for index in roles]
            shown = shown_number(reckoned, table.columns[roles[2]].convention.mark, n_decimals)
            said = tr("{name}: {quantity} × {price} is {shown}, printed {printed}").format(
                name=_name(row), quantity=texts[0], price=texts[1], shown=shown, printed=texts[2]
            )
            yield Mismatch(row, roles[2], reckoned, said)


def _amount(row: Row, index: int) -> Decimal:
    """A cell's number as it is multiplied: hours as hours, not as seconds."""
    value = row.values[index]
    number = value.number or ZERO
    if value.kind != "duration":
        return number
    return Decimal(shown_duration(number, value.unit).split(" ")[0])


def _sum_columns(table: Table, of: Counted) -> list[int]:
    """The columns in which a printed sum of items stands; a total counts only where no net sum stands above it."""
    roles = {row.role for row in table.rows}
    if of not in roles or not table.items or (of == "total" and roles & {"net", "tax", "discount"}):
        return []
    row = _printed(table, of)
    return [
        index
        for index, column in enumerate(table.columns)
        if column.kind in NUMERIC and row.values[index].kind in NUMERIC and column.unit != "%"
    ]


def _sums(table: Table, of: Counted, columns: Sequence[int]) -> Iterator[Mismatch]:
    printed = _printed(table, of)
    for index in columns:
        numbers = [row.values[index].number for row in table.items if row.values[index].kind in NUMERIC]
        if not numbers:
            continue
        reckoned, stated = sum((number or ZERO for number in numbers), ZERO), printed.values[index].number or ZERO
        if reckoned != stated:
            yield _sum_mismatch(
                table, printed, index, reckoned, tr("the {n} rows above come to").format(n=len(numbers))
            )


def _date_gaps(table: Table) -> list[Mismatch] | None:
    """The days that are missing in a log that has one row a day, or one a working day; None where a table is no such log."""
    column = next((index for index, column in enumerate(table.columns) if column.kind == "date"), None)
    if column is None:
        return None
    dated = [(moment, row) for row in table.items if (moment := row.values[column].date) is not None]
    days = [moment for moment, _ in dated]
    if len(set(days)) < _LEAST_DAYS or days != sorted(days):
        return None
    has_weekends = any(day.weekday() >= _SATURDAY for day in days)
    steps = [
        (before, row, _next_day(before, has_weekends=has_weekends), after)
        for (before, _), (after, row) in pairwise(dated)
    ]
    steps = [step for step in steps if step[0] != step[3]]
    if sum(wanted == after for _, _, wanted, after in steps) < _REGULAR * len(steps):
        return None
    return [
        Mismatch(
            row, column, Decimal(wanted.toordinal()),
            tr("after {before:%d.%m.%Y} the next row is of {after:%d.%m.%Y}: {wanted:%d.%m.%Y} is missing").format(
                before=before, after=after, wanted=wanted
            ),
        )
        for before, row, wanted, after in steps
        if after > wanted
    ]  # fmt: skip


def _next_day(day: dt.date, *, has_weekends: bool) -> dt.date:
    following = day + dt.timedelta(days=1)
    while not has_weekends and following.weekday() >= _SATURDAY:
        following += dt.timedelta(days=1)
    return following


def _payable(table: Table) -> list[Mismatch] | None:
    """Net and tax against the total; None where the three are not all printed."""
    by_role = {row.role: row for row in table.rows if row.role in ("net", "tax", "total", "discount")}
    if not {"net", "tax", "total"} <= set(by_role) or "discount" in by_role:
        return None
    columns = {
        role: [index for index, value in enumerate(row.values) if value.kind in NUMERIC and value.unit != "%"]
        for role, row in by_role.items()
    }
    if not all(columns.values()):
        return None
    numbers = {role: by_role[role].values[columns[role][-1]].number or ZERO for role in by_role}
    taxes = sum((row.values[columns["tax"][-1]].number or ZERO for row in table.rows if row.role == "tax"), ZERO)
    if numbers["net"] + taxes == numbers["total"]:
        return []
    return [
        _sum_mismatch(
            table, by_role["total"], columns["total"][-1], numbers["net"] + taxes, tr("net sum and tax come to")
        )
    ]


def _sum_mismatch(table: Table, row: Row, index: int, reckoned: Decimal, words: str) -> Mismatch:
    text = row.cells[index].text.strip()
    mark = table.columns[index].convention.mark
    shown = shown_number(reckoned, mark, decimals_of(text, mark))
    said = tr("{name}: {words} {shown}, printed {printed}").format(
        name=_name(row), words=words, shown=shown, printed=text
    )
    return Mismatch(row, index, reckoned, said)


def _printed(table: Table, of: Counted) -> Row:
    return [row for row in table.rows if row.role == of][-1]


def _name(row: Row) -> str:
    """What a row is called: its first words."""
    for cell, value in zip(row.cells, row.values, strict=True):
        if value.kind == "text":
            return cell.text.strip()
    return next((cell.text.strip() for cell in row.cells if cell.text.strip()), tr("a row"))
