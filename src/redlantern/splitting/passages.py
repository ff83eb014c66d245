# SPDX-License-Identifier: GPL-3.0-or-later
"""Gathers neighbouring lines under one heading into passages that the embedding model can take whole."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from redlantern.reading.values import Page, cells_of_row
from redlantern.splitting.headings import Headings
from redlantern.splitting.lines import Line, lines_of

CountTokens = Callable[[Sequence[str]], list[int]]
"""Counts the tokens of each text with the embedding model's own tokenizer, without special tokens."""

SPECIAL_TOKENS = 2
_MOST_HEADING_TOKENS = 48
_MOST_HEADINGS = 6


SPLITTER_VERSION = 2
"""Raised when the same pages would be split, or their words counted, otherwise than before; documents are then split anew."""


@dataclass(frozen=True)
class Passage:
    """What is embedded and retrieved: lines of one page, under one heading.

    `start` and `end` are code points in the page's text; `lines` are spans in the
    page's text, too, within start and end. `n_tokens` counts what the embedding model is given: innermost heading, text and special tokens.
    """

    page_number: int
    start: int
    end: int
    headings: Headings
    lines: tuple[tuple[int, int], ...]
    n_tokens: int


@dataclass(frozen=True)
class _Unit:
    """A line, or a piece of one that is too long by itself, with its tokens."""

    start: int
    end: int
    n_tokens: int
    is_heading: bool
    is_prose: bool


def embedded_text(headings: Headings, text: str) -> str:
    """Put together what the embedding model is given for a passage."""
    return f"{headings.embedded}\n{text}" if headings.parts else text


def split_pages(
    title: str,
    pages: Sequence[Page],
    count_tokens: CountTokens,
    *,
    most_tokens: int,
    overlap_tokens: int,
    by_heading: bool = True,
    by_record: bool = False,
    language: str = "",
) -> list[Passage]:
    """Split a document.

    Parameters
    ----------
    title : str
        Stands before the headings of every passage.
    pages : sequence of Page
        In order; a heading holds for the following pages, too.
    most_tokens : int
        No passage counts more, its heading and special tokens included. Must
        leave room for the headings: at least 32.
    overlap_tokens : int
        Whole sentences of at most so many tokens are repeated at the start of
        a passage that goes on from the one before on the same page.
    by_heading : bool
        Begin a passage at every heading; otherwise headings are lines within.
    by_record : bool
        Make each row of a table a passage of its own.
    language : str
        ISO 639-1 code, for where sentences end.

    Returns
    -------
    list of Passage
        In reading order. Every line outside headers and footers is in at least one.

    Raises
    ------
    ValueError
        If most_tokens is below 32.
    """
    if most_tokens < 32:
        raise ValueError(f"most_tokens is {most_tokens}, must be 32 or more")
    splitter = _Splitter(title, count_tokens, most_tokens, overlap_tokens)
    splitter.by_heading, splitter.by_record, splitter.language = by_heading, by_record, language
    for page in pages:
        splitter.add_page(page)
    return splitter.passages


class _Splitter:
    def __init__(self, title: str, count_tokens: CountTokens, most_tokens: int, overlap_tokens: int) -> None:
        self.passages: list[Passage] = []
        self._title, self._count = title, count_tokens
        self._most, self._overlap = most_tokens, overlap_tokens
        self._headings: list[tuple[int, str]] = []
        self._columns: tuple[str, ...] = ()
        self.by_heading, self.by_record, self.language = True, False, ""

    def add_page(self, page: Page) -> None:
        lines = lines_of(page, self.language)
        counts = self._count([page.text[line.start : line.end] for line in lines])
        current: list[_Unit] = []
        for line, n_tokens in zip(lines, counts, strict=True):
            block = page.blocks[line.block]
            columns = self._columns_of(page, line)
            if columns != self._columns:
                # A table is a passage of its own: its column names stand above each of its rows. A heading right above
                # it goes with it.
                if any(not unit.is_heading for unit in current):
                    self._close(page, current)
                    current = []
                self._columns = columns
            if block.kind == "heading":
                if self.by_heading and any(not unit.is_heading for unit in current):
                    self._close(page, current)
                    current = []
                is_first = line.start == block.start
                if is_first:
                    self._enter(block.level, page.text[block.start : block.end])
            for unit in self._units(page, line, n_tokens, block.kind):
                current = self._add(page, current, unit)
            if self.by_record and line.is_row and not line.is_header_row:
                self._close(page, current)
                current = []
        self._close(page, current)
        self._columns = ()

    def _columns_of(self, page: Page, line: Line) -> tuple[str, ...]:
        if not line.is_row:
            return ()
        if line.is_header_row:
            cells = cells_of_row(page.text[line.start : line.end])
            return tuple(cell.strip() for cell in cells)
        return self._columns if line.start != page.blocks[line.block].start else ()

    def _enter(self, level: int, heading: str) -> None:
        self._headings = [heading for heading in self._headings if heading[0] < level] + [(level, heading)]

    def _heading(self) -> tuple[Headings, int]:
        """The headings, without innermost ones that are too long to be embedded, and the tokens of what is embedded."""
        # The name of an only column is no more than a heading.
        columns, heading = (self._columns, ()) if len(self._columns) > 1 else ((), self._columns)
        path = [self._title, *(text for _, text in self._headings), *heading]
        path = [text for index, text in enumerate(path) if text and text not in path[:index]]
        n_most = _MOST_HEADINGS - bool(columns)
        headings = Headings(tuple(path[:1] + path[1:][-n_most:]), columns)
        room = min(_MOST_HEADING_TOKENS, self._most // 3)
        while headings.parts:
            n_tokens = self._count([headings.embedded])[0]
            if n_tokens <= room:
                return headings, n_tokens
            headings = headings.without_innermost()
        return headings, 0

    def _room(self) -> int:
        return self._most - SPECIAL_TOKENS - self._heading()[1]

    def _units(self, page: Page, line: Line, n_tokens: int, kind: str) -> list[_Unit]:
        is_heading, is_prose = kind == "heading", kind == "paragraph"
        room = self._room()
        if n_tokens <= room:
            return [_Unit(line.start, line.end, n_tokens, is_heading, is_prose)]
        # One line that is too long by itself is cut between words; its pieces are found again by their offsets.
        pieces: list[_Unit] = []
        for start, end in _halves(page.text, line.start, line.end):
            [count] = self._count([page.text[start:end]])
            piece = Line(start, end, line.block)
            pieces.extend(self._units(page, piece, count, kind))
        return pieces

    def _add(self, page: Page, current: list[_Unit], unit: _Unit) -> list[_Unit]:
        if current and sum(unit.n_tokens for unit in current) + unit.n_tokens > self._room():
            self._close(page, current)
            current = self._tail(current, unit)
        return [*current, unit]

    def _tail(self, units: list[_Unit], following: _Unit) -> list[_Unit]:
        """The last whole sentences that fit the overlap and leave room for what follows."""
        tail: list[_Unit] = []
        n_tokens = 0
        room = min(self._overlap, self._room() - following.n_tokens)
        for unit in reversed(units[1:]):
            if not (unit.is_prose and following.is_prose) or n_tokens + unit.n_tokens > room:
                break
            tail.insert(0, unit)
            n_tokens += unit.n_tokens
        return tail

    def _close(self, page: Page, units: list[_Unit]) -> None:
        if not units:
            return
        headings, n_heading = self._heading()
        start, end = units[0].start, units[-1].end
        n_tokens = n_heading + SPECIAL_TOKENS + sum(unit.n_tokens for unit in units)
        lines = tuple((unit.start, unit.end) for unit in units)
        self.passages.append(Passage(page.page_number, start, end, headings, lines, n_tokens))


def _halves(text: str, start: int, end: int) -> list[tuple[int, int]]:
    middle = (start + end) // 2
    before = text.rfind(" ", start + 1, middle)
    after = text.find(" ", middle, end - 1)
    cuts = [cut for cut in (before, after) if cut > start]
    if not cuts:
        return [(start, middle), (middle, end)]
    cut = min(cuts, key=lambda cut: abs(cut - middle))
    return [(start, cut), (cut + 1, end)]
