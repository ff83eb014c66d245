# SPDX-License-Identifier: GPL-3.0-or-later
"""From the lines of printed pages to blocks, page text and the runs that map one to the other."""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import pairwise
from statistics import median

from redlantern.reading.layout import TextLine, Word
from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, Block, BlockKind, Page, Run

_LIST_MARK = re.compile(r"^(?:[-*•–▪]|\(?(?:\d{1,3}|[a-z]|[ivx]{1,5})[.)]|\([a-z0-9]{1,3}\))$", re.IGNORECASE)
_CLAUSE_NUMBER = re.compile(r"^\d{1,3}(?:\.\d{1,3})*\.?$")
_CAPTION = re.compile(r"^(?:Figure|Table|Fig\.|Photo|Plate|Tab\.|Abb\.)\s*\d", re.IGNORECASE)
_PAGE_NUMBER = re.compile(r"^(?:page|seite|p\.|–|-)?\s*\d{1,4}(?:\s*(?:of|/|von|–|-)\s*\d{0,4})?$", re.IGNORECASE)
_EDGE_FRACTION = 0.11
# Between paragraphs, in font sizes; in a widely spaced page it is that much more than between its lines.
_WIDE_GAP = 0.55
_WIDER_GAP = 0.3
_LEAST_GAPS = 3
_SHORT_SHARE = 0.55
_FULL_SHARE = 0.8
_MOST_GAP = 2.2
"""Rows of a table stand at most so far apart, in font sizes."""
_MOST_SET_WIDE = 6.0
"""So far where their cells stand under one another: on a scan, where the size is that of small letters, and in wide forms."""
_LEAST_WORDS_OF_FULL_LINE = 5
_SENTENCE_ENDS = (".", "!", "?", ":", ";", "”", '"')


@dataclass(slots=True)
class PrintedPage:
    """A page as printed, before it is told what its lines are."""

    page_number: int
    width_pt: float
    height_pt: float
    lines: list[TextLine]


@dataclass(slots=True)
class _Draft:
    """A block being gathered: rows of cells for a table, otherwise one row of one cell per printed line."""

    kind: BlockKind
    rows: list[list[list[Word]]] = field(default_factory=list)
    level: int = 0


class _Sizes:
    """The font sizes of a document: which one its prose is in, and which are headings, largest first."""

    def __init__(self, pages: list[PrintedPage]) -> None:
        weights: Counter[float] = Counter()
        for page in pages:
            for line in page.lines:
                weights[round(line.size * 2) / 2] += len(line.text)
        self.body = weights.most_common(1)[0][0] if weights else 10.0
        self.larger = sorted((size for size in weights if size >= self.body * 1.12), reverse=True)

    def level(self, line: TextLine) -> int:
        """Heading level by size, from 1; 0 when the line is no larger than prose."""
        size = round(line.size * 2) / 2
        return min(self.larger.index(size) + 1, 6) if size in self.larger else 0

    def deepest(self) -> int:
        """The level of a heading that is told by its weight alone."""
        return min(len(self.larger) + 1, 6)


Outline = Mapping[int, Mapping[str, int]]
"""For each page number the titles of the bookmarks that point to it, as outline_key gives them, and their levels."""


def build_pages(printed: list[PrintedPage], outline: Outline | None = None) -> tuple[Page, ...]:
    """Tell headings, prose, lists, tables, headers and footers apart, and put each page's text together.

    Takes the whole document, for what repeats from page to page and what size
    its prose is in can be seen only so. A line that a bookmark names is a heading.
    """
    sizes = _Sizes(printed)
    edges = _repeated_edges(printed)
    return tuple(_page(page, sizes, edges, (outline or {}).get(page.page_number, {})) for page in printed)


def outline_key(title: str) -> str:
    """A title as it is compared: letters and digits alone."""
    return "".join(letter for letter in title.casefold() if letter.isalnum())


def _repeated_edges(pages: list[PrintedPage]) -> set[str]:
    """Shapes of lines that stand at the top or bottom of several pages, with numbers made alike."""
    seen: Counter[str] = Counter()
    for page in pages:
        seen.update({_shape(line) for line in page.lines if _is_at_edge(page, line)})
    return {shape for shape, n_pages in seen.items() if n_pages >= max(2, min(4, len(pages) // 2))}


def _shape(line: TextLine) -> str:
    return re.sub(r"\d+", "#", line.text)


def _is_at_edge(page: PrintedPage, line: TextLine) -> bool:
    middle = (line.top + line.bottom) / 2
    return not _EDGE_FRACTION < middle / page.height_pt < 1 - _EDGE_FRACTION


def _page(page: PrintedPage, sizes: _Sizes, edges: set[str], named: Mapping[str, int]) -> Page:
    drafts: list[_Draft] = []
    body: list[TextLine] = []
    texts = Counter(line.text for line in page.lines)
    for line in page.lines:
        # The title of a single page, set small above itself, repeats as well as one on many pages.
        repeats = _shape(line) in edges or texts[line.text] > 1 or _PAGE_NUMBER.match(line.text)
        if repeats and _is_at_edge(page, line) and not sizes.level(line):
            kind: BlockKind = "header" if line.top < page.height_pt / 2 else "footer"
            drafts.append(_Draft(kind, [line.cells]))
        else:
            body.append(line)
    n_above = sum(draft.kind == "header" for draft in drafts)
    drafts[n_above:n_above] = _body_drafts(body, sizes, named)
    return _assemble(page, drafts)


def _body_drafts(lines: list[TextLine], sizes: _Sizes, named: Mapping[str, int]) -> list[_Draft]:
    drafts: list[_Draft] = []
    habits = _habits(lines)
    at = 0
    while at < len(lines):
        level = named.get(outline_key(lines[at].text), 0) if named else 0
        if level:
            drafts.append(_Draft("heading", [[lines[at].words]], level))
            at += 1
            continue
        stop = _table_end(lines, at)
        if stop > at:
            drafts.append(_table(lines[at:stop]))
            at = stop
            continue
        before = lines[at - 1] if at else None
        _add_line(drafts, before, lines[at], sizes, habits)
        at += 1
    return drafts


@dataclass(frozen=True, slots=True)
class _Habits:
    """How a page is set: the white space between the lines of a paragraph in font sizes, and the left and right edge of
    each of its columns.
    """

    usual_gap: float
    columns: dict[int, tuple[float, float]]

    def share_filled(self, line: TextLine) -> float:
        """How much of its column a line fills."""
        left, right = self.columns[line.region]
        return (line.right - left) / max(1.0, right - left)


def _habits(lines: list[TextLine]) -> _Habits:
    """Look at the lines that filled their column: one that ended no sentence goes on in the next."""
    columns: dict[int, tuple[float, float]] = {}
    for line in lines:
        left, right = columns.get(line.region, (line.left, line.right))
        columns[line.region] = min(left, line.left), max(right, line.right)
    habits = _Habits(0.0, columns)
    gaps = []
    for before, line in pairwise(lines):
        is_prose = line.region == before.region and len(line.cells) == len(before.cells) == 1
        goes_on = habits.share_filled(before) > _FULL_SHARE and not before.text.endswith(_SENTENCE_ENDS)
        if is_prose and goes_on and len(before.words) > _LEAST_WORDS_OF_FULL_LINE:
            gaps.append((line.top - before.bottom) / line.size)
    return _Habits(median(gaps) if len(gaps) >= _LEAST_GAPS else 0.0, columns)


def _add_line(drafts: list[_Draft], before: TextLine | None, line: TextLine, sizes: _Sizes, habits: _Habits) -> None:
    row = [[word for cell in line.cells for word in cell]]
    level = sizes.level(line)
    is_short = len(line.text) < 110
    if not level and line.is_bold and is_short and not line.text.endswith((".", ",", ";")):
        level = sizes.deepest()
    last = drafts[-1] if drafts else None
    if level and is_short:
        goes_on = last is not None and before is not None and last.kind == "heading" and last.level == level
        if goes_on and last is not None and before is not None and line.top - before.bottom < 0.6 * line.size:
            last.rows.append(row)
        else:
            drafts.append(_Draft("heading", [row], level))
        return
    first = line.words[0].text
    is_item = bool(_LIST_MARK.match(first)) and len(line.words) > 1
    if (
        last is None
        or before is None
        or last.kind in ("heading", "table")
        or _starts_block(before, line, habits, is_item=is_item)
    ):
        kind: BlockKind = "list item" if is_item else "caption" if _CAPTION.match(line.text) else "paragraph"
        drafts.append(_Draft(kind, [row]))
    else:
        last.rows.append(row)


def _starts_block(before: TextLine, line: TextLine, habits: _Habits, *, is_item: bool) -> bool:
    if is_item or line.region != before.region:
        # A paragraph may run over from one column to the next.
        return is_item or before.text.endswith(_SENTENCE_ENDS)
    if _CLAUSE_NUMBER.match(line.words[0].text) and "." in line.words[0].text and before.text.endswith(_SENTENCE_ENDS):
        return True
    gap = line.top - before.bottom
    if gap > max(_WIDE_GAP, habits.usual_gap + _WIDER_GAP) * line.size or gap < -2 * line.size:
        return True
    # An address, a signature: a short line, and the next begins anew.
    if habits.share_filled(before) < _SHORT_SHARE and not line.text[:1].islower():
        return True
    # A line that had room for the next word, and ended a sentence, ended its paragraph.
    room = line.right - before.right if line.right > before.right else 0.0
    return before.text.endswith(_SENTENCE_ENDS) and room > 8 * line.size


def _table_end(lines: list[TextLine], start: int) -> int:
    """Where the table that begins at `start` ends; `start` itself when none does."""
    if not _is_row(lines[start]):
        return start
    stop, n_rows = start + 1, 1
    while stop < len(lines):
        line, before = lines[stop], lines[stop - 1]
        gap = (line.top - before.bottom) / line.size
        is_below = _is_below(before, line) or _lacks_cells(lines[start:stop], line)
        if line.region != before.region or gap > (_MOST_SET_WIDE if is_below else _MOST_GAP):
            break
        if _is_row(line) or is_below:
            n_rows += 1
        elif not _continues_cell(lines[start:stop], line):
            break
        stop += 1
    return stop if n_rows >= 2 else start


def _is_below(row: TextLine, line: TextLine) -> bool:
    """Whether a line is the next row under a row by its cells alone: as many, each flush left or right with the one above."""
    if not (_is_row(row) and _is_row(line)) or len(row.cells) != len(line.cells):
        return False
    near = 0.7 * line.size
    return all(
        abs(above[0].left - below[0].left) < near or abs(above[-1].right - below[-1].right) < near
        for above, below in zip(row.cells, line.cells, strict=True)
    )


def _lacks_cells(rows: list[TextLine], line: TextLine) -> bool:
    """Whether a figure alone is a row whose first cells are empty or were not recognised: in its column, at the rows' distance."""
    if len(rows) < 2 or len(line.cells) != 1 or not any(letter.isdigit() for letter in line.text):
        return False
    pitch, distance = rows[-1].top - rows[-2].top, line.top - rows[-1].top
    near = 0.7 * line.size
    is_under = any(
        abs(cell[0].left - line.left) < near or abs(cell[-1].right - line.right) < near for cell in rows[-1].cells[1:]
    )
    return is_under and abs(distance - pitch) < near


def _is_row(line: TextLine) -> bool:
    if len(line.cells) < 2:
        return False
    is_marked = len(line.cells) == 2 and len(line.cells[0]) == 1
    mark = line.cells[0][0].text
    return not (is_marked and (_LIST_MARK.match(mark) or _CLAUSE_NUMBER.match(mark)))


def _continues_cell(rows: list[TextLine], line: TextLine) -> bool:
    """Whether a line of one cell is the second line of a cell: under a column, close, and narrower than the table."""
    starts = [cell[0].left for row in rows for cell in row.cells]
    is_under = any(abs(line.left - start) < 3 for start in starts)
    right = max(row.right for row in rows)
    return (
        is_under and line.right <= right + 2 and line.top - rows[-1].bottom < 0.5 * line.size and len(line.words) < 14
    )


def _table(lines: list[TextLine]) -> _Draft:
    columns = _columns(lines)
    rows: list[list[list[Word]]] = []
    rows_bottom = 0.0
    for line in lines:
        row: list[list[Word]] = [[] for _ in columns]
        for cell in line.cells:
            middle = (cell[0].left + cell[-1].right) / 2
            index = next((i for i, (left, right) in enumerate(columns) if left - 1 <= middle <= right + 1), 0)
            row[index].extend(cell)
        is_continued = (
            bool(rows) and not row[0] and line.top - rows_bottom < 0.5 * line.size and sum(map(bool, row)) < 3
        )
        if is_continued:
            for index, cell in enumerate(row):
                rows[-1][index].extend(cell)
        else:
            rows.append(row)
        rows_bottom = line.bottom
    return _Draft("table", rows)


def _columns(lines: list[TextLine]) -> list[tuple[float, float]]:
    """Merge the spans of all cells into columns; cells that overlap share one."""
    spans = sorted((cell[0].left, cell[-1].right) for line in lines for cell in line.cells if len(line.cells) > 1)
    columns: list[tuple[float, float]] = []
    for left, right in spans:
        if columns and left < columns[-1][1] - 1:
            columns[-1] = (columns[-1][0], max(columns[-1][1], right))
        else:
            columns.append((left, right))
    return columns


class _Text:
    """The text of a page as it is put together, with the runs that say where each piece is printed."""

    def __init__(self) -> None:
        self.parts: list[str] = []
        self.length = 0
        self.runs: list[Run] = []

    def write(self, text: str) -> None:
        """Add characters that are printed nowhere, such as the space between two lines."""
        self.parts.append(text)
        self.length += len(text)

    def print_words(self, words: list[Word], *, drops_hyphen: bool = False) -> None:
        """Add words of one printed line as one run."""
        start, edges = self.length, [words[0].left]
        for index, word in enumerate(words):
            is_cut = drops_hyphen and index == len(words) - 1
            characters = word.text[:-1] if is_cut else word.text
            if index:
                self.write(" ")
                edges.append(word.left)
            self.write(characters)
            edges.extend(word.edges[1 : len(characters) + 1])
        top, bottom = min(word.top for word in words), max(word.bottom for word in words)
        if self.length > start:
            self.runs.append(Run(start, self.length, top, bottom, tuple(edges)))


def _assemble(page: PrintedPage, drafts: list[_Draft]) -> Page:
    text = _Text()
    blocks = []
    for draft in drafts:
        if text.length:
            text.write(ROW_SEPARATOR)
        start = text.length
        if draft.kind == "table":
            for index, row in enumerate(draft.rows):
                text.write(ROW_SEPARATOR if index else "")
                _write_row(text, row)
        else:
            _write_prose(text, [[word for cell in row for word in cell] for row in draft.rows])
        blocks.append(Block(draft.kind, start, text.length, draft.level))
    return Page(page.page_number, "".join(text.parts), tuple(blocks), tuple(text.runs), page.width_pt, page.height_pt)


def _write_row(text: _Text, row: list[list[Word]]) -> None:
    for column, cell in enumerate(row):
        text.write(CELL_SEPARATOR if column else "")
        for index, line in enumerate(_printed_lines(cell)):
            text.write(" " if index else "")
            text.print_words(line)


def _printed_lines(words: list[Word]) -> list[list[Word]]:
    lines: list[list[Word]] = []
    for word in words:
        if lines and word.left >= lines[-1][-1].left and abs(word.top - lines[-1][-1].top) < word.size * 0.6:
            lines[-1].append(word)
        else:
            lines.append([word])
    return lines


def _write_prose(text: _Text, rows: list[list[Word]]) -> None:
    for index, words in enumerate(rows):
        following = rows[index + 1][0].text if index + 1 < len(rows) else ""
        joins = _is_broken_word(words[-1], following)
        text.print_words(words, drops_hyphen=joins)
        if following and not joins:
            text.write(" ")


def _is_broken_word(last: Word, following: str) -> bool:
    """Whether a word was broken at the line's end: a hyphen, and the rest in small letters."""
    if not last.text.endswith(("-", "\u00ad")) or len(last.text) < 3 or not last.text[-2].isalpha():
        return False
    return following[:1].islower()
