"""A table block of a page as rows and columns of cells, with their boxes and numbers."""

from dataclasses import dataclass

from redlantern.reading.numbers import Number, mark_of_column, parse_number
from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, Block, Box, Page

_MOST_DIGITS_IN_HEADER = 0.1


@dataclass(frozen=True)
class Cell:
    """A cell: where its words stand in the page's text and on the page, and the number that it holds, if it is one."""

    start: int
    end: int
    text: str
    boxes: tuple[Box, ...]
    number: Number | None


@dataclass(frozen=True)
class Table:
    """Rows of cells, all of the same number of columns. `header` is the first row when it names the columns, else empty."""

    header: tuple[Cell, ...]
    rows: tuple[tuple[Cell, ...], ...]


def is_header(row: str) -> bool:
    """Whether a table's first row, as it stands in the page's text, names the columns: it has hardly any digits."""
    return sum(cell.isdigit() for cell in row) <= _MOST_DIGITS_IN_HEADER * len(row)


def table_of(page: Page, block: Block, language: str = "") -> Table:
    """Take a table apart.

    Parameters
    ----------
    page : Page
    block : Block
        A table block of the page.
    language : str
        ISO 639-1 code of the document, for numbers whose decimal mark the table leaves open.

    Raises
    ------
    ValueError
        If the block is no table.
    """
    if block.kind != "table":
        raise ValueError(f"a {block.kind} block is no table")
    lines = page.text[block.start : block.end].split(ROW_SEPARATOR)
    n_columns = max(line.count(CELL_SEPARATOR) + 1 for line in lines)
    has_header = len(lines) > 1 and is_header(lines[0])
    texts = [line.split(CELL_SEPARATOR) for line in lines]
    body = texts[1:] if has_header else texts
    marks = [
        mark_of_column((row[column] for row in body if column < len(row)), language) for column in range(n_columns)
    ]
    rows: list[tuple[Cell, ...]] = []
    at = block.start
    for line, cells in zip(lines, texts, strict=True):
        row, start = [], at
        for column in range(n_columns):
            text = cells[column] if column < len(cells) else ""
            end = start + len(text)
            boxes = tuple(page.boxes(start, end)) if text else ()
            row.append(Cell(start, end, text, boxes, parse_number(text, marks[column])))
            start = min(end + 1, at + len(line))
        rows.append(tuple(row))
        at += len(line) + 1
    return Table(rows[0] if has_header else (), tuple(rows[1:] if has_header else rows))
