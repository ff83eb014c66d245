# SPDX-License-Identifier: GPL-3.0-or-later
"""A table as data: typed columns, and of each row what it is: an item, a subtotal, a tax, a total, carried forward."""

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from redlantern.reading.numbers import Mark, proved_mark, usual_mark
from redlantern.reckoning.cells import Cell, PrintedTable
from redlantern.reckoning.dates import proves_month_first
from redlantern.reckoning.put_right import PutRight
from redlantern.reckoning.roles import Role, role_of
from redlantern.reckoning.values import (
    NUMERIC,
    ORDERED,
    Convention,
    Value,
    ValueKind,
    in_kind,
    parse_value,
    unit_of_name,
)
from redlantern.reckoning.vocabulary import speaks_of_money
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

_MOST_HEADER_ROWS = 3
_YEAR = re.compile(r"^(?:19|20)[0-9]{2}$")
_KIND_SHARE = 0.7
"""A column is of a kind from this share of its filled cells on; the others are unreadable, not of another kind."""
_IDENTIFIER_NAMES = frozenset(
    "no nr no. nr. pos pos. position item# id ref reference number nummer n° # lfd. lfd".split()
)


@dataclass(frozen=True)
class TableColumn:
    """A column: its name as printed, the kind of its values, their unit, and how it writes them.

    `is_open` says that neither its own cells nor the document's language tell the decimal mark: 1.299 may be either.
    """

    name: str
    kind: ValueKind
    unit: str
    convention: Convention
    is_open: bool = False

    @property
    def is_numeric(self) -> bool:
        """Whether it can be added up."""
        return self.kind in NUMERIC

    @property
    def is_ordered(self) -> bool:
        """Whether its values can be compared."""
        return self.kind in ORDERED


@dataclass(frozen=True)
class Row:
    """A row: its cells, what they hold, and what it is. `group` is the heading inside the table that it stands under."""

    cells: tuple[Cell, ...]
    values: tuple[Value, ...]
    role: Role
    group: str = ""

    @property
    def place(self) -> tuple[int, int]:
        """The page that it stands on, and where its first cell begins."""
        return self.cells[0].page_number, self.cells[0].start

    @property
    def is_item(self) -> bool:
        """Whether it counts."""
        return self.role == "item"


@dataclass(frozen=True)
class Table:
    """A table of a document. `number` counts the tables of the document from 1; `headers` are the rows that name its columns.

    `title` is the document's. `is_form` says that it is the one row of what a document says of itself, `is_put_right` that a person
    said something of it. `sureness` is what text recognition says of itself on its pages, 1 where none was needed.
    """

    document_id: int
    number: int
    caption: str
    columns: tuple[TableColumn, ...]
    rows: tuple[Row, ...]
    headers: tuple[tuple[Cell, ...], ...] = ()
    title: str = ""
    is_form: bool = False
    is_put_right: bool = False
    sureness: float = 1.0

    @property
    def begins(self) -> tuple[int, int]:
        """The page that it begins on, and where its first cell does."""
        first = self.headers[0][0] if self.headers else self.rows[0].cells[0]
        return first.page_number, first.start

    @cached_property
    def items(self) -> tuple[Row, ...]:
        """The rows that count."""
        return tuple(row for row in self.rows if row.is_item)

    @property
    def names(self) -> tuple[str, ...]:
        """The names of its columns."""
        return tuple(column.name for column in self.columns)


def typed_table(
    printed: PrintedTable,
    document_id: int,
    number: int,
    language: str = "",
    *,
    title: str = "",
    put_right: PutRight | None = None,
) -> Table:
    """Tell what a printed table's columns and rows are.

    Parameters
    ----------
    printed : PrintedTable
        With at least one row.
    document_id, number : int
    language : str
        ISO 639-1 code of the document, for what the cells leave open; empty if it is not known.
    title : str
        The document's title.
    put_right : PutRight, optional
        What a person said of it.
    """
    n_headers = _n_headers(printed.rows) if printed.n_headers is None else printed.n_headers
    if put_right is not None and put_right.n_headers is not None:
        n_headers = max(0, min(put_right.n_headers, len(printed.rows) - 1))
    headers, body = printed.rows[:n_headers], printed.rows[n_headers:]
    names = [
        " ".join(dict.fromkeys(row[index].text.strip() for row in headers if row[index].text.strip()))
        for index in range(printed.n_columns)
    ]
    texts = [[row[index].text for row in body] for index in range(printed.n_columns)]
    marks = [proved_mark(cells) for cells in texts]
    usual = _mark_by_table(marks) or (usual_mark(language) if language else None)
    columns = [
        _column(name, cells, mark, usual, is_first=index == 0)
        for index, (name, cells, mark) in enumerate(zip(names, texts, marks, strict=True))
    ]
    for said in put_right.columns if put_right is not None else ():
        if 0 <= said.index < len(columns):
            columns[said.index] = replace(columns[said.index], kind=said.kind, unit=said.unit, is_open=False)
    values = [_values(column, cells) for column, cells in zip(columns, texts, strict=True)]
    for said in put_right.columns if put_right is not None else ():
        if 0 <= said.index < len(columns) and said.kind in ("text", "identifier"):
            values[said.index] = [Value(said.kind) if value.kind != "empty" else value for value in values[said.index]]
    if printed.is_listed or printed.is_form:
        rows = [
            Row(tuple(cells), tuple(of_column[at] for of_column in values), "item") for at, cells in enumerate(body)
        ]
    else:
        rows = _rows(columns, body, values, headers)
    if put_right is not None:
        rows = [_row_put_right(row, dict(put_right.rows)) for row in rows]
    return Table(
        document_id, number, printed.caption, tuple(columns), tuple(rows), tuple(map(tuple, headers)), title,
        printed.is_form, put_right is not None,
    )  # fmt: skip


def _values(column: TableColumn, cells: Sequence[str]) -> list[Value]:
    """What a column's cells hold. Long tables say the same things again and again."""
    known = {
        text: in_kind(parse_value(text, column.convention), column.kind, column.unit) for text in dict.fromkeys(cells)
    }
    return [known[text] for text in cells]


def _row_put_right(row: Row, counts: Mapping[tuple[int, int], bool]) -> Row:
    """A row as a person said that it counts or does not."""
    counted = counts.get(row.place)
    if counted is None or counted == row.is_item:
        return row
    return replace(row, role="item" if counted else "aside", group=row.group if counted else "")


def _n_headers(rows: Sequence[Sequence[Cell]]) -> int:
    """How many rows at the top name the columns: they have no figures where the rows below have them."""
    if len(rows) < 2:
        return 0
    body = rows[1 : 1 + 12]
    figures = [sum(_has_figure(row[index].text) for row in body) > len(body) / 2 for index in range(len(rows[0]))]
    if not any(figures):
        # A table of words: the first row names the columns if nothing in it is a number and no cell stands in it twice.
        first = [cell.text.strip() for cell in rows[0]]
        return int(all(first) and not any(map(_has_figure, first)) and len(set(first)) == len(first))
    n_headers = 0
    for row in rows[: min(_MOST_HEADER_ROWS, len(rows) - 1)]:
        with_figures = sum(_is_figure(cell.text) for cell, is_figure in zip(row, figures, strict=True) if is_figure)
        filled = sum(bool(cell.text.strip()) for cell in row)
        if with_figures * 2 >= sum(figures) or not filled:
            break
        # A second row of one cell is the heading of a group, not of the columns.
        if n_headers and filled == 1:
            break
        n_headers += 1
    return n_headers


def _has_figure(text: str) -> bool:
    return any(letter.isdigit() for letter in text)


def _is_figure(text: str) -> bool:
    """Whether a cell is a value and no name: "2025" and "March 2026" may name a column."""
    if not _has_figure(text) or _YEAR.match(text.strip()):
        return False
    return parse_value(text, Convention()).kind != "text"


def _mark_by_table(proved: Sequence[Mark | None]) -> Mark | None:
    """The decimal mark that most columns of a table prove, for those that leave it open."""
    votes = Counter(mark for mark in proved if mark is not None)
    if not votes or len(set(votes.values())) == 1 < len(votes):
        return None
    return "," if votes[","] > votes["."] else "."


def _column(name: str, cells: Sequence[str], proved: Mark | None, usual: Mark | None, *, is_first: bool) -> TableColumn:
    """A column; `proved` is the mark that its own cells prove, `usual` the one that the table or its language has."""
    mark = proved or usual or "."
    different = dict.fromkeys(cells)
    proofs = Counter(proof for cell in different if (proof := proves_month_first(cell)) is not None)
    convention = Convention(mark, not proofs or proofs[False] >= proofs[True])
    known = {text: parse_value(text, convention) for text in different}
    values = [known[text] for text in cells]
    filled = [value for value in values if value.kind != "empty"]
    named_kind, named_unit = unit_of_name(name)
    if not filled:
        return TableColumn(name, "empty", "", convention)
    kind, n_of_kind = _kind_of([value.kind for value in filled])
    if n_of_kind < _KIND_SHARE * len(filled):
        return TableColumn(name, "text", "", convention)
    units = Counter(value.unit for value in filled if value.kind in NUMERIC and value.unit)
    unit = units.most_common(1)[0][0] if len(units) == 1 or kind == "money" else ""
    if kind in ("whole", "decimal") and named_kind != "empty":
        kind, unit = named_kind, named_unit
    elif kind == "decimal" and speaks_of_money(frozenset(map(stem, tokens(name)))):
        # "Price each", "Amount": money in a currency that the table does not say.
        kind = "money"
    if kind == "whole" and _is_identifier(name, values, is_first=is_first):
        kind = "identifier"
    is_open = proved is None and usual is None and kind in NUMERIC and _reads_otherwise(different, convention)
    return TableColumn(name, kind, unit, convention, is_open)


def _kind_of(kinds: Sequence[ValueKind]) -> tuple[ValueKind, int]:
    """The kind of most values, and how many are of it; whole numbers among decimals are decimals, bare ones among money money."""
    counts = Counter(kinds)
    n_bare = counts["whole"] + counts["decimal"]
    for kind in ("money", "percentage", "quantity", "duration"):
        if counts[kind] and counts[kind] + n_bare >= _KIND_SHARE * len(kinds) and n_bare <= 2 * counts[kind]:
            return kind, counts[kind] + n_bare  # type: ignore[return-value]
    if n_bare >= _KIND_SHARE * len(kinds):
        return ("decimal" if counts["decimal"] else "whole"), n_bare
    # "1", "14 h", "0,35 m3" in one column: amounts of different things.
    n_amounts = n_bare + counts["quantity"] + counts["duration"]
    if n_amounts >= _KIND_SHARE * len(kinds) and max(counts["quantity"], counts["duration"]) < _KIND_SHARE * len(kinds):
        return "quantity", n_amounts
    kind, n = counts.most_common(1)[0]
    return kind, n


def _is_identifier(name: str, values: Sequence[Value], *, is_first: bool) -> bool:
    """Whether whole numbers only tell rows apart: by the column's name, or the first column counts up from row to row."""
    if set(name.casefold().replace("-", " ").split()) & _IDENTIFIER_NAMES:
        return True
    numbers = [int(value.number) for value in values if value.kind == "whole" and value.number is not None]
    return is_first and len(numbers) > 2 and numbers == list(range(numbers[0], numbers[0] + len(numbers)))


def _reads_otherwise(cells: Iterable[str], convention: Convention) -> bool:
    other = Convention("," if convention.mark == "." else ".", convention.day_first)
    return any(parse_value(cell, convention) != parse_value(cell, other) for cell in cells)


def _rows(
    columns: Sequence[TableColumn],
    body: Sequence[Sequence[Cell]],
    values: Sequence[Sequence[Value]],
    headers: Sequence[Sequence[Cell]],
) -> list[Row]:
    header_texts = [[cell.text for cell in row] for row in headers]
    typical = _typical_fill(body)
    rows, group = [], ""
    for at, cells in enumerate(body):
        row_values = tuple(column_values[at] for column_values in values)
        texts = [cell.text.strip() for cell in cells]
        if [cell.text for cell in cells] in header_texts:
            role: Role = "header"
        else:
            role = role_of(texts, row_values, [column.kind for column in columns], typical)
        if role == "group":
            group = next(text for text in texts if text)
        rows.append(Row(tuple(cells), row_values, role, group if role == "item" else ""))
    return rows


def _typical_fill(body: Sequence[Sequence[Cell]]) -> int:
    """How many cells of a row are mostly filled."""
    fills = Counter(sum(bool(cell.text.strip()) for cell in row) for row in body)
    return max(fills, key=lambda fill: (fills[fill], fill), default=0)
