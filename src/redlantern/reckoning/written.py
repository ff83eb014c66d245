# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables as files: CSV that no spreadsheet takes for formulas, and workbooks with types."""

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from redlantern.reckoning.tables import Table, TableColumn
from redlantern.reckoning.values import Value

_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
_MOST_CELL_CHARS = 32_767
_FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")
_PLAIN_NUMBER = re.compile(r"^-[\d.,]+$")
_SECONDS_A_DAY = 86400
_MOST_TITLE_CHARS, _LINKED_WIDTH = 31, 34


def rows_as_csv(names: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """Rows of words under names; UTF-8 with a mark that says so.

    What a spreadsheet would take for a formula is led by an apostrophe; numbers are left alone.
    """
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(map(_guarded, names))
    for row in rows:
        writer.writerow(map(_guarded, row))
    return out.getvalue().encode("utf-8-sig", "replace")


def rows_as_workbook(title: str, names: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """Rows of words under names; words are never formulas."""
    import openpyxl
    from openpyxl.styles import Font

    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = title
    for index, name in enumerate(names, start=1):
        _set_words(sheet.cell(1, index), name).font = Font(bold=True)
    for at, row in enumerate(rows, start=2):
        for index, words in enumerate(row, start=1):
            _set_words(sheet.cell(at, index), words)
    return _saved(book)


def rows_as_linked_workbook(
    title: str, names: Sequence[str], rows: Sequence[Sequence[str]], links: Mapping[tuple[int, int], str]
) -> bytes:
    """Rows of words under names, wrapped, the first row and column held fast; `links` by (row, column), from 0."""
    import openpyxl
    from openpyxl.styles import Alignment, Font
    from openpyxl.utils import get_column_letter

    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = re.sub(r"[\[\]:*?/\\]", " ", title)[:_MOST_TITLE_CHARS].strip() or "Grid"
    top = Alignment(vertical="top", wrap_text=True)
    for index, name in enumerate(names, start=1):
        cell = _set_words(sheet.cell(1, index), name)
        cell.font, cell.alignment = Font(bold=True), top
        sheet.column_dimensions[get_column_letter(index)].width = _LINKED_WIDTH
    for at, row in enumerate(rows):
        for index, words in enumerate(row):
            cell = _set_words(sheet.cell(at + 2, index + 1), words)
            cell.alignment = top
            if (at, index) in links:
                cell.hyperlink = links[at, index]
                cell.style = "Hyperlink"
    sheet.freeze_panes = "B2"
    return _saved(book)


def as_csv(table: Table) -> bytes:
    """A table as printed, every row of it, with what each row is in the last column; see rows_as_csv."""
    rows = ([*(cell.text for cell in row.cells), row.role] for row in table.rows)
    return rows_as_csv([*table.names, "row is"], rows)


def as_workbook(table: Table) -> bytes:
    """A table with its types: numbers, dates and times as such, with units in their format; words are never formulas."""
    import openpyxl
    from openpyxl.styles import Font

    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = f"Table {table.number}"
    for index, name in enumerate([*table.names, "row is"], start=1):
        _set_words(sheet.cell(1, index), name).font = Font(bold=True)
    for at, row in enumerate(table.rows, start=2):
        for index, (cell, value, column) in enumerate(zip(row.cells, row.values, table.columns, strict=True), start=1):
            _set_value(sheet.cell(at, index), cell.text, value, column)
        _set_words(sheet.cell(at, len(table.columns) + 1), row.role)
    return _saved(book)


def _saved(book: Any) -> bytes:
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _set_value(target: Any, text: str, value: Value, column: TableColumn) -> None:
    if value.date is not None:
        target.value, target.number_format = value.date, "yyyy-mm-dd"
    elif value.number is None:
        _set_words(target, text)
    elif value.kind in ("time", "duration"):
        target.value, target.number_format = value.number / _SECONDS_A_DAY, "[h]:mm:ss"
    elif value.kind == "percentage":
        target.value, target.number_format = value.number / 100, "0.0%"
    else:
        target.value = value.number
        unit = _NOT_IN_XML.sub("", value.unit or column.unit).replace('"', "")
        target.number_format = f'General "{unit}"' if unit else "General"


def _set_words(target: Any, text: str) -> Any:
    # What XML cannot hold is left away.
    target.value = _NOT_IN_XML.sub("", text)[:_MOST_CELL_CHARS]
    # Also where it begins with an equals sign.
    target.data_type = "s"
    return target


def _guarded(text: str) -> str:
    is_harmless = not text.startswith(_FORMULA_SIGNS) or _PLAIN_NUMBER.match(text)
    return text if is_harmless else f"'{text}"
