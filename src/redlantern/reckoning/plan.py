# SPDX-License-Identifier: GPL-3.0-or-later
"""The small typed language that a question becomes: which tables, which rows, what of them; checked before it is carried out."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from redlantern.reckoning.tables import Table, TableColumn
from redlantern.reckoning.values import NUMERIC, ORDERED, Value, in_kind, parse_value
from redlantern.text.listing import counted
from redlantern.translation import marked, tr

Operation = Literal[
    "count", "distinct", "sum", "mean", "median", "smallest", "largest", "difference", "share", "rows", "documents", "common",
]  # fmt: skip
"""What is done with the rows. "documents" lists the documents that have such rows; "common" gives what stands in the column in
every document, where a cell may hold several names.
"""
Relation = Literal[
    "contains", "contains one of", "is", "is not", "above", "at least", "below", "at most", "between", "in month", "in unit",
    "is empty", "is not empty",
]  # fmt: skip
Pick = Literal["", "largest", "smallest"]
Counted = Literal["item", "net", "tax", "total"]
"""Which rows count: the items, or the printed net sum, tax or total."""
TableKey = tuple[int, int]
"""A document's id, and the number of the table in it."""
DOCUMENT = -2
"""Stands for the column that says which row it is, where the document itself says so."""

_PRINTED: dict[Counted, str] = {
    "net": marked("net sum as printed"),
    "tax": marked("tax as printed"),
    "total": marked("total as printed"),
    "item": "",
}
_OF_PRINTED: dict[Operation, str] = {
    "largest": marked(", the largest"),
    "smallest": marked(", the smallest"),
    "mean": marked(", the mean of them"),
    "median": marked(", the median of them"),
}
_RELATION_WORDS: dict[Relation, str] = {
    "is": marked("is"),
    "is not": marked("is not"),
    "above": marked("above"),
    "at least": marked("at least"),
    "below": marked("below"),
    "at most": marked("at most"),
    "is empty": marked("is empty"),
    "is not empty": marked("is not empty"),
}
_MONTH_WORDS = (
    marked("January"), marked("February"), marked("March"), marked("April"), marked("May"), marked("June"), marked("July"),
    marked("August"), marked("September"), marked("October"), marked("November"), marked("December"),
)  # fmt: skip
_NEEDS_NUMBERS: frozenset[Operation] = frozenset({"sum", "mean", "median", "share"})
_NEEDS_ORDER: frozenset[Operation] = frozenset({"smallest", "largest", "difference"})
ZERO = Decimal(0)
_COMPARISONS: frozenset[Relation] = frozenset({"above", "at least", "below", "at most", "between"})


class PlanError(ValueError):
    """A plan that cannot be carried out: it names a column or value that is not there, or a kind that cannot be reckoned with."""


@dataclass(frozen=True)
class Condition:
    """Which rows count, by one column. `values` are as a cell would be written; two for "between", both included.

    "contains" wants all words of all its values in the cell, "contains one of" all words of one of them; "in month" has the
    number of a month of any year.
    """

    column: str
    relation: Relation
    values: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """In plain words."""
        if self.relation == "between":
            said = tr("{column} from {first} to {last}")
            return said.format(column=self.column, first=self.values[0], last=self.values[1])
        if self.relation == "contains":
            return tr("{column} has “{words}”").format(column=self.column, words=" ".join(self.values))
        if self.relation == "contains one of":
            either = tr(" or ").join(f"“{value}”" for value in self.values)
            return tr("{column} has {either}").format(column=self.column, either=either)
        if self.relation == "in month":
            month = tr(_MONTH_WORDS[int(self.values[0]) - 1])
            return tr("{column} is in {what}").format(column=self.column, what=month)
        if self.relation == "in unit":
            return tr("{column} is in {what}").format(column=self.column, what=self.values[0])
        return " ".join([self.column, tr(_RELATION_WORDS[self.relation]), *self.values])


@dataclass(frozen=True)
class Plan:
    """What is asked of tables. All of them have the columns it names; where there are several, their rows count together.

    `column` is what is added up or compared; empty for counting rows. `by` groups the rows by a column. `n` is how many of
    the largest or smallest are wanted. `of` says which rows count: of the printed sums it takes the last of each table. `pick`
    takes the group with the largest or smallest figure.
    """

    tables: tuple[TableKey, ...]
    operation: Operation
    column: str = ""
    conditions: tuple[Condition, ...] = ()
    by: str = ""
    n: int = 1
    of: Counted = "item"
    pick: Pick = ""


def column_index(table: Table, name: str) -> int:
    """Where a column stands, by its name in any capitals.

    Raises
    ------
    PlanError
        If the table has none of that name.
    """
    wanted = name.casefold()
    for index, column in enumerate(table.columns):
        if column.name.casefold() == wanted:
            return index
    raise PlanError(f"The table has no column “{name}”.")


def check(plan: Plan, tables: Mapping[TableKey, Table]) -> None:
    """Check a plan against the tables it names.

    Raises
    ------
    PlanError
        If it cannot be carried out.
    """
    if not plan.tables:
        raise PlanError("The plan names no table.")
    for key in plan.tables:
        if key not in tables:
            raise PlanError("A table of the plan is not there any more.")
        table = tables[key]
        for condition in plan.conditions:
            _check_condition(condition, table.columns[column_index(table, condition.column)])
        if plan.by:
            column_index(table, plan.by)
        if plan.column:
            _check_measured(plan.operation, table.columns[column_index(table, plan.column)])
        elif plan.of == "item" and plan.operation not in ("count", "rows", "share", "documents"):
            raise PlanError(f"For “{plan.operation}” a column is needed.")


def parsed_values(condition: Condition, column: TableColumn) -> list[Value]:
    """A condition's values as the column's cells are read."""
    return [in_kind(parse_value(text, column.convention), column.kind, column.unit) for text in condition.values]


def _check_condition(condition: Condition, column: TableColumn) -> None:
    n_wanted = {"between": 2, "is empty": 0, "is not empty": 0}.get(condition.relation, 1)
    if len(condition.values) < n_wanted:
        raise PlanError(f"The condition on “{condition.column}” lacks a value.")
    if condition.relation == "in month" and (
        column.kind != "date" or condition.values[0] not in map(str, range(1, 13))
    ):
        raise PlanError(f"“{condition.values[0]}” is no month that could be looked for in the column “{column.name}”.")
    if condition.relation not in _COMPARISONS:
        return
    if column.kind not in ORDERED:
        raise PlanError(f"The column “{column.name}” holds words, which cannot be compared.")
    for text, value in zip(condition.values, parsed_values(condition, column), strict=True):
        if value.number is None or not _is_comparable(value, column):
            raise PlanError(f"“{text}” cannot be compared with the column “{column.name}”.")


def _is_comparable(value: Value, column: TableColumn) -> bool:
    if value.kind == column.kind:
        return not (value.unit and column.unit) or value.unit == column.unit or value.kind == "duration"
    return value.kind in NUMERIC and column.kind in NUMERIC and not value.unit


def _check_measured(operation: Operation, column: TableColumn) -> None:
    if operation in _NEEDS_NUMBERS and column.kind not in NUMERIC:
        raise PlanError(tr("The column “{name}” holds no numbers that could be added up.").format(name=column.name))
    if operation in _NEEDS_ORDER and column.kind not in ORDERED:
        raise PlanError(tr("The column “{name}” holds no numbers or dates.").format(name=column.name))


def in_words(plan: Plan, captions: Sequence[str]) -> str:
    """A plan in plain words; `captions` name its tables, one each."""
    what = {
        "count": tr("Count the rows"), "rows": tr("List the rows"), "documents": tr("List the documents that have rows"),
        "common": tr("Find what {column} has in every document"),
        "distinct": tr("Count the different values of {column}"), "sum": tr("Add up {column}"),
        "mean": tr("Take the mean of {column}"), "median": tr("Take the median of {column}"),
        "smallest": tr("Find the smallest {column}"), "largest": tr("Find the largest {column}"),
        "difference": tr("Take the difference between the first and the last {column}"),
        "share": tr("Take the share in all {column}"),
    }[plan.operation].format(column=plan.column or tr("rows"))  # fmt: skip
    if plan.of != "item":
        what = tr("Take the {printed}").format(printed=tr(_PRINTED[plan.of]))
        what += tr(_OF_PRINTED[plan.operation]) if plan.operation in _OF_PRINTED else ""
    if plan.by:
        what = tr("{what} for each {by}").format(what=what, by=plan.by)
    what = tr("{what} in {where}").format(
        what=what, where=captions[0] if len(captions) == 1 else counted(len(captions), "table")
    )
    if not plan.conditions:
        return what
    conditions = tr(" and ").join(condition.words for condition in plan.conditions)
    return tr("{what}, where {conditions}").format(what=what, conditions=conditions)


def decimals_of(text: str, mark: str) -> int:
    """How many decimals a number is printed with."""
    _, found, after = text.rpartition(mark)
    if not found or after.isdigit():
        return len(after) if found else 0
    return next((n for n, letter in enumerate(after) if not letter.isdigit()), len(after))
