# SPDX-License-Identifier: GPL-3.0-or-later
"""Sets the blocks of a file without pages onto numbered pages of our own."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, Block, BlockKind, Page

FULL_PAGE_CHARS = 2000
"""What fits comfortably on a printed page of A4, so that a set page can be shown as one."""

_LONGEST_CARRIED = 200
_WIDEST_ROW_CHARS = 4 * FULL_PAGE_CHARS
# Control characters, marks of direction and width, and code points that are no characters.
_CONTROL = re.compile(
    r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufeff\ufff9-\ufffc\ufffe\uffff\ud800-\udfff]"
)
_SPACES = re.compile(r"[ \t\u00a0\u2000-\u200a\u202f\u205f\u3000]+")


@dataclass(frozen=True)
class Piece:
    """A block before it has a page. `breaks_page` asks for a new page before it."""

    kind: BlockKind
    text: str
    level: int = 0
    breaks_page: bool = False


def clean(text: str) -> str:
    """Take out control characters and fold runs of spaces; what a person would read stays."""
    return _SPACES.sub(" ", _CONTROL.sub("", text.replace("\n", " ").replace("\r", " "))).strip()


def table_piece(rows: Iterable[Iterable[str]], *, breaks_page: bool = False) -> Piece:
    """Make a table of cells as they stand in the file; rows without any text are left out.

    Columns that are empty in every row are left out, too.
    """
    cleaned = [[clean(cell) for cell in row] for row in rows]
    cleaned = [row for row in cleaned if any(row)]
    width = max(map(len, cleaned), default=0)
    full = [row + [""] * (width - len(row)) for row in cleaned]
    used = [column for column in range(width) if any(row[column] for row in full)]
    text = ROW_SEPARATOR.join(CELL_SEPARATOR.join(row[column] for column in used) for row in full)
    return Piece("table", text, 0, breaks_page)


def set_pages(pieces: Iterable[Piece]) -> tuple[Page, ...]:
    """Fill pages with blocks: a new page where the file asks for one, or when the page is full.

    A heading starts a new page once the page is two thirds full, so that a
    section is seldom cut off from its heading. Pieces without text are left
    out. A table or a paragraph longer than a page goes on over several; the
    table's first row is set again at the top of each.
    """
    pages: list[Page] = []
    current: list[Piece] = []
    n_chars = 0
    for piece in (part for whole in pieces if whole.text for part in _cut(whole)):
        is_full = n_chars + len(piece.text) > FULL_PAGE_CHARS
        is_section = piece.kind == "heading" and n_chars > FULL_PAGE_CHARS * 2 // 3
        if current and (piece.breaks_page or is_full or is_section):
            is_carried = (
                current[-1].kind == "heading" and len(current[-1].text) <= _LONGEST_CARRIED and len(current) > 1
            )
            carried = [current.pop()] if is_carried else []
            pages.append(_page(len(pages) + 1, current))
            current, n_chars = carried, sum(len(piece.text) for piece in carried)
        current.append(piece)
        n_chars += len(piece.text)
    if current:
        pages.append(_page(len(pages) + 1, current))
    return tuple(pages)


def _cut(piece: Piece) -> Iterator[Piece]:
    """Cut a piece that no page could hold."""
    if len(piece.text) <= FULL_PAGE_CHARS:
        yield piece
        return
    if piece.kind == "table":
        texts = _cut_table(piece.text.split(ROW_SEPARATOR))
    elif len(piece.text) <= 2 * FULL_PAGE_CHARS:
        texts = iter([piece.text])
    else:
        texts = _cut_prose(piece.text)
    for index, text in enumerate(texts):
        yield replace(piece, text=text, breaks_page=piece.breaks_page and index == 0)


def _cut_table(rows: list[str]) -> Iterator[str]:
    header = rows[0][:_WIDEST_ROW_CHARS]
    chosen, n_chars = [header], len(header)
    for row in rows[1:]:
        if len(row) > _WIDEST_ROW_CHARS:
            yield from _cut_prose(row.replace(CELL_SEPARATOR, " "))
            continue
        if len(chosen) > 1 and n_chars + len(row) > FULL_PAGE_CHARS:
            yield ROW_SEPARATOR.join(chosen)
            chosen, n_chars = [header], len(header)
        chosen.append(row)
        n_chars += len(row) + 1
    yield ROW_SEPARATOR.join(chosen)


def _cut_prose(text: str) -> Iterator[str]:
    at = 0
    while at < len(text):
        end = at + FULL_PAGE_CHARS
        if end < len(text):
            # After a sentence if one ends in the last third of the page, else between words.
            stop = text.rfind(". ", at + FULL_PAGE_CHARS * 2 // 3, end)
            space = text.rfind(" ", at + 1, end)
            end = stop + 1 if stop >= 0 else space if space >= 0 else end
        stretch = text[at:end].strip()
        if stretch:
            yield stretch
        at = end


def _page(page_number: int, pieces: list[Piece]) -> Page:
    blocks, texts, at = [], [], 0
    for piece in pieces:
        blocks.append(Block(piece.kind, at, at + len(piece.text), piece.level))
        texts.append(piece.text)
        at += len(piece.text) + 1
    return Page(page_number, "\n".join(texts), tuple(blocks))
