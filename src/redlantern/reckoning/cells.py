"""The tables of a document as cells with their places: rows as printed, a table that goes on over pages put together."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from redlantern.reading.values import ROW_SEPARATOR, Block, Page, cells_of_row

_LONGEST_CAPTION = 160


@dataclass(frozen=True, slots=True)
class Cell:
    """A cell as printed: its words, and where they stand; `start` and `end` are code points in its page's text."""

    text: str
    page_number: int
    start: int
    end: int


@dataclass
class PrintedTable:
    """Rows of cells, all of one width, in order, from one page or several. `caption` is the heading or caption nearest above."""

    caption: str
    rows: list[list[Cell]] = field(default_factory=list)

    @property
    def n_columns(self) -> int:
        """How many columns it has."""
        return len(self.rows[0]) if self.rows else 0

    @property
    def first_page(self) -> int:
        """The page that it begins on."""
        return self.rows[0][0].page_number


def printed_tables(pages: Iterable[Page]) -> Iterator[PrintedTable]:
    """Give the tables of a document in order; one that goes on over pages as one, its repeated header once."""
    open_table: PrintedTable | None = None
    caption = ""
    for page in pages:
        is_first = True
        for block in page.blocks:
            if block.kind in ("header", "footer"):
                continue
            if block.kind != "table":
                words = page.text[block.start : block.end]
                if block.kind in ("heading", "caption") or len(words) <= _LONGEST_CAPTION:
                    caption = words
                # A heading that is set again at the top of a page breaks no table.
                is_first = is_first and block.kind == "heading"
                continue
            rows = block_rows(page, block)
            if open_table is not None and is_first and _goes_on(open_table, rows):
                is_repeated = [cell.text for cell in rows[0]] == [cell.text for cell in open_table.rows[0]]
                open_table.rows += rows[1:] if is_repeated else rows
            else:
                if open_table is not None:
                    yield open_table
                open_table = PrintedTable(caption, rows)
            is_first = False
        if open_table is not None and not _ends_page(page):
            yield open_table
            open_table = None
    if open_table is not None:
        yield open_table


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


def _ends_page(page: Page) -> bool:
    """Whether the last thing on a page, but for its footer, is a table."""
    body = [block for block in page.blocks if block.kind not in ("header", "footer", "note")]
    return bool(body) and body[-1].kind == "table"
