# SPDX-License-Identifier: GPL-3.0-or-later
"""The tables of a document as cells with their places: rows as printed, a table that goes on over pages put together."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from redlantern.reading.values import ROW_SEPARATOR, Block, Page, cells_of_row

_LONGEST_CAPTION = 160
_LEAST_COLUMNS = 3


@dataclass(frozen=True, slots=True)
class Cell:
    """A cell as printed: its words, and where they stand; `start` and `end` are code points in its page's text."""

    text: str
    page_number: int
    start: int
    end: int


@dataclass
class PrintedTable:
    """Rows of cells, all of one width, in order, from one page or several. `caption` is the heading or caption nearest above.

    `n_headers` is how many of the rows name the columns, where that is known. `is_listed` says that the rows are records of a
    list in prose, `is_form` that the one row is what a document says of itself by labels: none of them is a sum.
    """

    caption: str
    rows: list[list[Cell]] = field(default_factory=list)
    n_headers: int | None = None
    is_listed: bool = False
    is_form: bool = False

    @property
    def n_columns(self) -> int:
        """How many columns it has."""
        return len(self.rows[0]) if self.rows else 0


def printed_tables(pages: Iterable[Page]) -> Iterator[PrintedTable]:
    """Give the tables of a document in order; one that goes on over pages as one, its repeated header once."""
    open_table: PrintedTable | None = None
    caption = ""
    for page in pages:
        is_top, ends_in_table = True, False
        for block in page.blocks:
            if block.kind in ("header", "footer", "note"):
                continue
            rows = _table_rows(page, block, open_table if is_top else None)
            ends_in_table = bool(rows)
            if not rows:
                words = page.text[block.start : block.end]
                if block.kind in ("heading", "caption") or len(words) <= _LONGEST_CAPTION:
                    caption = words
                # A heading that is set again at the top of a page breaks no table.
                is_top = is_top and block.kind == "heading"
                continue
            if open_table is not None and is_top and _goes_on(open_table, rows):
                is_repeated = [cell.text for cell in rows[0]] == [cell.text for cell in open_table.rows[0]]
                open_table.rows += rows[1:] if is_repeated else rows
            else:
                if open_table is not None:
                    yield open_table
                open_table = PrintedTable(caption, rows)
            is_top = False
        if open_table is not None and not ends_in_table:
            yield open_table
            open_table = None
    if open_table is not None:
        yield open_table


def _table_rows(page: Page, block: Block, above: PrintedTable | None) -> list[list[Cell]]:
    """The rows of a block: of a table, or of a line at the top of a page that can only be one more row of the table before it.

    One row alone on a page has nothing beside it to show that it is one of a table.
    """
    if block.kind == "table":
        return block_rows(page, block)
    words = [match.span() for match in re.finditer(r"\S+", page.text[block.start : block.end])]
    if above is None or block.kind != "paragraph" or len(words) != above.n_columns or len(words) < _LEAST_COLUMNS:
        return []
    row = [
        Cell(
            page.text[block.start + first : block.start + last],
            page.page_number,
            block.start + first,
            block.start + last,
        )
        for first, last in words
    ]
    return [row] if _goes_on(above, [row]) else []


def block_rows(page: Page, block: Block) -> list[list[Cell]]:
    """The rows of a table block, all of one width."""
    lines = page.text[block.start : block.end].split(ROW_SEPARATOR)
    width = max(len(cells_of_row(line)) for line in lines)
    rows, at = [], block.start
    for line in lines:
        row, start = [], at
        for text in cells_of_row(line):
            row.append(Cell(text, page.page_number, start, start + len(text)))
            start += len(text) + 1
        end = at + len(line)
        row += [Cell("", page.page_number, end, end) for _ in range(width - len(row))]
        rows.append(row)
        at = end + 1
    return rows


def _goes_on(table: PrintedTable, rows: list[list[Cell]]) -> bool:
    """Whether rows at the top of a page belong to the table at the foot of the one before."""
    if len(rows[0]) != table.n_columns:
        return False
    first, header = [cell.text for cell in rows[0]], [cell.text for cell in table.rows[0]]
    if first == header:
        return True
    # No header of its own: figures stand in it where they stand in the rows above.
    last = table.rows[-1]
    has_digits = [any(letter.isdigit() for letter in cell.text) for cell in rows[0]]
    return any(has_digits) and has_digits == [any(letter.isdigit() for letter in cell.text) for cell in last]
