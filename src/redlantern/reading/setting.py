"""Sets the blocks of a file without pages onto numbered pages of our own."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from redlantern.reading.values import Block, BlockKind, Page

FULL_PAGE_CHARS = 2000
"""What fits comfortably on a printed page of A4, so that a set page can be shown as one."""

# Control characters, marks of direction and width, and code points that are no characters.
_CONTROL = re.compile(
    r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufeff\ufff9-\uffff\ud800-\udfff]"
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


def set_pages(pieces: Iterable[Piece]) -> tuple[Page, ...]:
    """Fill pages with blocks: a new page where the file asks for one, or when the page is full.

    A heading starts a new page once the page is two thirds full, so that a
    section is seldom cut off from its heading. Pieces without text are left out.
    """
    pages: list[Page] = []
    current: list[Piece] = []
    n_chars = 0
    for piece in pieces:
        if not piece.text:
            continue
        is_full = n_chars + len(piece.text) > FULL_PAGE_CHARS
        is_section = piece.kind == "heading" and n_chars > FULL_PAGE_CHARS * 2 // 3
        if current and (piece.breaks_page or is_full or is_section):
            carried = [current.pop()] if current[-1].kind == "heading" and len(current) > 1 else []
            pages.append(_page(len(pages) + 1, current))
            current, n_chars = carried, sum(len(one.text) for one in carried)
        current.append(piece)
        n_chars += len(piece.text)
    if current:
        pages.append(_page(len(pages) + 1, current))
    return tuple(pages)


def _page(page_number: int, pieces: list[Piece]) -> Page:
    blocks, texts, at = [], [], 0
    for piece in pieces:
        blocks.append(Block(piece.kind, at, at + len(piece.text), piece.level))
        texts.append(piece.text)
        at += len(piece.text) + 1
    return Page(page_number, "\n".join(texts), tuple(blocks))
