# SPDX-License-Identifier: GPL-3.0-or-later
"""What a file is read into: pages of text with blocks, and the places on the page that the characters came from."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

BlockKind = Literal["heading", "paragraph", "list item", "table", "caption", "note", "header", "footer"]

Origin = Literal["text", "recognised", "none"]
"""Where a page's text comes from: the file's own text, text recognition on its picture, or there is none."""

CELL_SEPARATOR = "\t"
"""Stands between the cells of a table row in a page's text."""

ROW_SEPARATOR = "\n"
"""Stands between the rows of a table, and between the blocks of a page."""


def cells_of_row(row: str) -> list[str]:
    """The cells of a table's row, of which a page's text is made; one of a line that is none."""
    return row.split(CELL_SEPARATOR)


READER_VERSION = 4
"""Raised when files would be read otherwise than before; documents are then read anew. 0 is what was not recorded."""


@dataclass(frozen=True)
class Box:
    """A rectangle on a page in points (1/72 inch), origin at the top left corner of the page as shown."""

    left: float
    top: float
    right: float
    bottom: float


@dataclass(frozen=True)
class Run:
    """A stretch of characters printed on one line of a page.

    `start` and `end` are code points in the page's text, end excluded. `edges`
    holds `end - start + 1` x positions in points: character i of the run stands
    between edges[i] and edges[i + 1].
    """

    start: int
    end: int
    top: float
    bottom: float
    edges: tuple[float, ...]


@dataclass(frozen=True)
class Block:
    """A heading, paragraph, list item, table and so on; `start` and `end` are code points in the page's text.

    `level` is 1 and up for a heading, 0 for everything else.
    """

    kind: BlockKind
    start: int
    end: int
    level: int = 0


@dataclass(frozen=True)
class Page:
    """One page as read. `page_number` counts from 1.

    Blocks stand in reading order, do not overlap, and are separated by one
    newline in `text`. A set page (one of a file that has no pages of its own)
    has no runs and no size: width and height are 0. `warnings` are sentences for
    the user; `confidence` is what text recognition says of itself, 0 to 1, and 1
    for text that needed none.
    """

    page_number: int
    text: str
    blocks: tuple[Block, ...]
    runs: Sequence[Run] = ()
    width_pt: float = 0.0
    height_pt: float = 0.0
    origin: Origin = "text"
    confidence: float = 1.0
    warnings: tuple[str, ...] = ()

    @property
    def is_set(self) -> bool:
        """Whether the page was set by us, for a file without pages."""
        return self.width_pt == 0.0

    def boxes(self, start: int, end: int) -> list[Box]:
        """Give the boxes that the characters from `start` up to `end` are printed in, one for each printed line.

        Empty on a set page.
        """
        found = []
        for run in self.runs:
            first, last = max(start, run.start), min(end, run.end)
            if first < last:
                found.append(Box(run.edges[first - run.start], run.top, run.edges[last - run.start], run.bottom))
        return found


@dataclass(frozen=True)
class ReadFile:
    """Everything read from one file.

    `details` is what helps to cite it: author, date, subject, message id and so
    on, by name. `language` is an ISO 639-1 code, or empty when there is too little
    text to tell. `parts` are documents that lie within it, such as attachments.
    """

    kind: str
    title: str
    pages: tuple[Page, ...]
    notes: tuple[str, ...] = field(default=())
    details: Mapping[str, str] = field(default_factory=dict)
    language: str = ""
    parts: tuple["Part", ...] = ()


@dataclass(frozen=True)
class Part:
    """A document within a file: its name there, and what was read of it or why it was refused."""

    name: str
    read: ReadFile | None
    refusal: str = ""
