# SPDX-License-Identifier: GPL-3.0-or-later
"""XLSX, by openpyxl: each sheet begins a page; formulas as their last values, merged cells in each row, dates as dates."""

import datetime as dt
import re
from collections.abc import Iterator
from typing import Any

from redlantern.reading import archives, errors
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages, table_piece
from redlantern.reading.values import ReadFile

MOST_CELLS = 2_000_000
_MOST_COLUMNS = 500


def read_xlsx(material: Material) -> ReadFile:
    """Read a workbook.

    Raises
    ------
    FileRefusedError
        If it is damaged, unsafe, has too many cells or holds none.
    """
    import warnings
    from zipfile import BadZipFile

    import openpyxl
    from openpyxl.utils.exceptions import InvalidFileException

    with archives.opened(material):
        pass
    try:
        with material.open() as file, warnings.catch_warnings():
            warnings.simplefilter("ignore")  # about styles it does not know
            book = openpyxl.load_workbook(file, data_only=True, keep_links=False)
            pieces = [piece for sheet in book.worksheets for piece in _sheet(sheet)]
            n_hidden = sum(sheet.sheet_state != "visible" for sheet in book.worksheets)
            author = clean(book.properties.creator or "")
            title = clean(book.properties.title or "")
    except (
        InvalidFileException,
        BadZipFile,
        KeyError,
        ValueError,
        TypeError,
        AttributeError,
        IndexError,
        OSError,
    ) as failure:
        raise errors.damaged("workbook") from failure
    if not any(piece.kind == "table" for piece in pieces):
        raise errors.no_text()
    # The library's own name is what it writes where there is no author.
    details = {"author": author} if author and author != "openpyxl" else {}
    hidden = "1 hidden sheet, which was" if n_hidden == 1 else f"{n_hidden} hidden sheets, which were"
    notes = (f"It has {hidden} not read.",) if n_hidden else ()
    return ReadFile("xlsx", title or material.plain_name, set_pages(pieces), notes, details)


def _sheet(sheet: Any) -> Iterator[Piece]:
    if sheet.sheet_state != "visible":
        return
    if sheet.max_row * min(sheet.max_column, _MOST_COLUMNS) > MOST_CELLS:
        raise errors.unsafe(f"it has more than {MOST_CELLS:,} cells")
    merged = {}
    for area in list(sheet.merged_cells.ranges):
        first = sheet.cell(area.min_row, area.min_col)
        # A cell over several rows holds for each of them; over several columns it stands once.
        for row in range(area.min_row + 1, min(area.max_row, area.min_row + 1000) + 1):
            merged[row, area.min_col] = first
    rows = []
    for row in sheet.iter_rows(max_col=min(sheet.max_column, _MOST_COLUMNS)):
        rows.append([_shown(merged.get((cell.row, cell.column), cell)) for cell in row])
    pieces = list(tables_of(rows))
    if pieces:
        yield Piece("heading", clean(sheet.title), 1, breaks_page=True)
        yield from pieces


def tables_of(rows: list[list[str]]) -> Iterator[Piece]:
    """Cut the cells of a sheet into tables at empty rows; a row of one cell above a table is its heading."""
    gathered: list[list[str]] = []
    for row in [*rows, []]:
        filled = [cell for cell in row if cell]
        if len(filled) > 1 or (filled and len(gathered) > 1):
            gathered.append(row)
            continue
        if gathered:
            yield table_piece(gathered)
            gathered = []
        if filled:
            is_heading = len(filled[0]) <= 100 and not filled[0].endswith(".")
            yield Piece("heading" if is_heading else "paragraph", clean(filled[0]), 2 if is_heading else 0)


def _shown(cell: Any) -> str:
    value = cell.value
    if value is None:
        return ""
    if isinstance(value, bool):
        return "TRUE" if value else "FALSE"
    if isinstance(value, dt.datetime):
        is_day = value.time() == dt.time()
        return value.strftime("%Y-%m-%d") if is_day else value.strftime("%Y-%m-%d %H:%M")
    if isinstance(value, dt.date):
        return value.isoformat()
    if isinstance(value, (int, float)):
        return shown_number(float(value), str(cell.number_format or ""))
    return str(value)


_DECIMALS = re.compile(r"[0#]\.(0+)")
_UNIT = re.compile(r"€|\$|£|CHF|EUR|USD|GBP")


def shown_number(value: float, number_format: str) -> str:
    """Write a number as its format shows it: percent, decimals and currency; without thousands separators."""
    main = number_format.split(";")[0]
    decimals = _DECIMALS.search(main)
    if "%" in main:
        return f"{value * 100:.{len(decimals.group(1)) if decimals else 0}f} %"
    text = f"{value:.{len(decimals.group(1))}f}" if decimals else f"{value:.12g}"
    unit = _UNIT.search(main.replace("[$", ""))
    return f"{text} {unit.group()}" if unit else text
