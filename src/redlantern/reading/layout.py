# SPDX-License-Identifier: GPL-3.0-or-later
"""From the words of a printed page to its lines in reading order: columns, lines, table cells.

Columns are found by cutting the page along its white space (Nagy and Seth's
recursive X-Y cut, 1984), with the rule that only a gutter between two columns
of prose is cut: the gaps of a table are narrower in words, not in points.
"""

from bisect import bisect_right
from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from typing import Any


@dataclass(slots=True)
class Word:
    """A word as printed: its characters, and len(text) + 1 x positions in points from the left of the page."""

    text: str
    edges: list[float]
    top: float
    bottom: float
    size: float
    is_bold: bool

    def __reduce__(self) -> tuple[Any, ...]:
        """Pickle as a call: words pass between processes by the hundred thousand, and the usual way takes four times as long."""
        return Word, (self.text, self.edges, self.top, self.bottom, self.size, self.is_bold)

    @property
    def left(self) -> float:
        """Left edge in points."""
        return self.edges[0]

    @property
    def right(self) -> float:
        """Right edge in points."""
        return self.edges[-1]


@dataclass(slots=True)
class TextLine:
    """Words on one baseline, left to right, in cells wherever the gap is wider than between words."""

    words: list[Word]
    cells: list[list[Word]]
    region: int

    def __reduce__(self) -> tuple[Any, ...]:
        """Pickle as a call; see Word."""
        return TextLine, (self.words, self.cells, self.region)

    @property
    def left(self) -> float:
        """Left edge in points."""
        return self.words[0].left

    @property
    def right(self) -> float:
        """Right edge in points."""
        return self.words[-1].right

    @property
    def top(self) -> float:
        """Upper edge in points."""
        return min(word.top for word in self.words)

    @property
    def bottom(self) -> float:
        """Lower edge in points."""
        return max(word.bottom for word in self.words)

    @property
    def size(self) -> float:
        """Font size in points, the middle one of its words."""
        return median(word.size for word in self.words)

    @property
    def is_bold(self) -> bool:
        """Whether every word is bold."""
        return all(word.is_bold for word in self.words)

    @property
    def text(self) -> str:
        """The words with single spaces."""
        return " ".join(word.text for word in self.words)


_NARROWEST_GUTTER_PT = 12
_MIN_COLUMN_LINES = 3
_MIN_WORDS_A_LINE = 3.5


def lines_in_reading_order(words: list[Word]) -> list[TextLine]:
    """Order the words of a page as a person reads them.

    Parameters
    ----------
    words : list of Word
        In any order.

    Returns
    -------
    list of TextLine
        Top to bottom within a region; a column is read to its end before the
        next one. `region` counts the columns so read. Empty for no words.
    """
    ordered: list[TextLine] = []
    for region, part in enumerate(_regions(_rows(words))):
        rows = _rows([word for row in part for word in row])
        ordered.extend(TextLine(row, _cells(row), region) for row in rows)
    return ordered


def _rows(words: list[Word]) -> list[list[Word]]:
    """Cluster words whose heights overlap by more than half into rows, top to bottom."""
    rows: list[list[Word]] = []
    bounds: list[tuple[float, float]] = []
    for word in sorted(words, key=lambda word: ((word.top + word.bottom) / 2, word.left)):
        middle = (word.top + word.bottom) / 2
        # Only the last few rows can still take a word: they come in order of their middles.
        for index in range(len(rows) - 1, max(-1, len(rows) - 4), -1):
            top, bottom = bounds[index]
            overlap = min(bottom, word.bottom) - max(top, word.top)
            if overlap > 0.5 * min(bottom - top, word.bottom - word.top) and top <= middle <= bottom:
                rows[index].append(word)
                break
        else:
            rows.append([word])
            bounds.append((word.top, word.bottom))
    for row in rows:
        row.sort(key=lambda word: word.left)
    order = sorted(range(len(rows)), key=lambda index: bounds[index][0])
    return [rows[index] for index in order]


def _regions(rows: list[list[Word]]) -> list[list[list[Word]]]:
    if len(rows) < _MIN_COLUMN_LINES:
        return [rows] if rows else []
    # One bit a point: where ink stands. A gutter is a run of zeros in the union of the rows.
    ink = [_ink(row) for row in rows]
    rights = [[word.edges[-1] for word in row] for row in rows]
    for start in range(len(rows) - _MIN_COLUMN_LINES + 1):
        # What ink the fewest rows leave free, more rows leave no freer.
        if not _gaps(_union(ink[start : start + _MIN_COLUMN_LINES])):
            continue
        for stop in range(len(rows), start + _MIN_COLUMN_LINES - 1, -1):
            gutter = _gutter(rows[start:stop], ink[start:stop], rights[start:stop])
            if gutter is not None:
                left = [[word for word in row if word.right <= gutter] for row in rows[start:stop]]
                right = [[word for word in row if word.left >= gutter] for row in rows[start:stop]]
                columns = [[row for row in side if row] for side in (left, right)]
                above, below = rows[:start], rows[stop:]
                return [
                    *([above] if above else []),
                    *_regions(columns[0]),
                    *_regions(columns[1]),
                    *_regions(below),
                ]
    return [rows]


def _ink(row: list[Word]) -> int:
    bits = 0
    for word in row:
        left, right = max(0, int(word.left)), max(0, int(word.right) + 1)
        bits |= ((1 << (right - left)) - 1) << left
    return bits


def _gaps(ink: int) -> list[tuple[int, int]]:
    """Runs of at least _NARROWEST_GUTTER_PT zero bits between the first and the last one bit."""
    text = bin(ink)[2:][::-1].lstrip("0")
    offset = ink.bit_length() - len(text)
    found, at = [], 0
    for stretch in text.replace("10", "1 0").replace("01", "0 1").split(" "):
        if stretch.startswith("0") and len(stretch) >= _NARROWEST_GUTTER_PT:
            found.append((offset + at, offset + at + len(stretch)))
        at += len(stretch)
    return found


def _union(ink: list[int]) -> int:
    union = 0
    for bits in ink:
        union |= bits
    return union


def _gutter(rows: list[list[Word]], ink: list[int], rights: list[list[float]]) -> float | None:
    for left, right in _gaps(_union(ink)):
        middle = (left + right) / 2
        # Most gaps are a table's: so few words stand beside them that nothing else need be looked at.
        n_left = [bisect_right(row, middle) for row in rights]
        n_right = [len(row) - count for row, count in zip(rights, n_left, strict=True)]
        if not (_has_words_of_prose(n_left) and _has_words_of_prose(n_right)):
            continue
        if all(
            _is_prose([[w for w in row if (w.edges[-1] <= middle) == is_left] for row in rows])
            for is_left in (True, False)
        ):
            return middle
    return None


def _has_words_of_prose(counts: list[int]) -> bool:
    """Whether so many words stand in the rows of a half as in lines of prose."""
    filled = [count for count in counts if count]
    return len(filled) >= _MIN_COLUMN_LINES and median(filled) >= _MIN_WORDS_A_LINE


def _is_prose(rows: list[list[Word]]) -> bool:
    filled = [row for row in rows if row]
    # A column of prose is one cell wide; the cells of a table lie side by side in the half as well.
    return sum(not any(_is_apart(*pair) for pair in pairwise(row)) for row in filled) >= 0.8 * len(filled)


def _cells(row: list[Word]) -> list[list[Word]]:
    cells = [[row[0]]]
    for before, word in pairwise(row):
        if _is_apart(before, word):
            cells.append([])
        cells[-1].append(word)
    return cells


def _is_apart(before: Word, word: Word) -> bool:
    """Whether two neighbours in a row stand further apart than words do."""
    gap = word.edges[0] - before.edges[-1]
    return gap > 8.0 and gap > 0.95 * word.size
