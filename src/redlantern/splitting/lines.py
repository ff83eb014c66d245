# SPDX-License-Identifier: GPL-3.0-or-later
"""Cuts a page's text into lines: sentences, list items and table rows, with exact offsets."""

import re
from dataclasses import dataclass

from redlantern.reading.tables import is_header
from redlantern.reading.values import ROW_SEPARATOR, Block, Page
from redlantern.text.languages import LANGUAGES

_ABBREVIATIONS: frozenset[str] = frozenset().union(*(language.abbreviations for language in LANGUAGES.values()))
# A sentence ends at . ! or ?, with closing quotes or brackets, before space and a new beginning.
_BREAK = re.compile(r"([.!?…][\"”’'»)\]]*)(\s+)(?=[\"“‘'«(\[]?[A-ZÀ-ÞÄÖÜ0-9§•])")
_LAST_WORD = re.compile(r"([\w.]+)\.[\"”’'»)\]]*$")


@dataclass(frozen=True)
class Line:
    """A sentence, list item or table row; `start` and `end` are code points in the page's text, end excluded.

    `block` is the number of its block on the page, from 0. `is_header_row`
    tells the first row of a table.
    """

    start: int
    end: int
    block: int
    is_row: bool = False
    is_header_row: bool = False


def lines_of(page: Page, language: str = "") -> list[Line]:
    """Cut a page into lines, in order; never empty ones, never overlapping.

    Headers and footers are left out. Headings are lines, too.
    """
    lines: list[Line] = []
    for index, block in enumerate(page.blocks):
        if block.kind in ("header", "footer"):
            continue
        if block.kind == "table":
            lines.extend(_rows(page.text, block, index))
        else:
            spans = sentences(page.text[block.start : block.end], language)
            lines.extend(Line(block.start + start, block.start + end, index) for start, end in spans)
    return lines


def _rows(text: str, block: Block, index: int) -> list[Line]:
    lines, at = [], block.start
    for row_number, row in enumerate(text[block.start : block.end].split(ROW_SEPARATOR)):
        if row.strip():
            first = row_number == 0 and is_header(row)
            lines.append(Line(at, at + len(row), index, is_row=True, is_header_row=first))
        at += len(row) + 1
    return lines


def sentences(text: str, language: str = "") -> list[tuple[int, int]]:
    """Cut prose into sentences: (start, end) in code points, without the white space between them.

    Keeps together what only looks like an end: abbreviations, initials and
    numbers ("No. 4", "J. S. Bach", "cl. 7.2"); in a language that writes
    ordinals with a point (ISO 639-1 code), these too ("3. März").
    """
    spans, start = [], 0
    for match in _BREAK.finditer(text):
        if match.group(1)[0] == "." and _is_abbreviation(text[start : match.end(1)], text[match.end() :], language):
            continue
        spans.append((start, match.end(1)))
        start = match.end()
    spans.append((start, len(text)))
    stripped = []
    for begin, end in spans:
        piece = text[begin:end]
        left = begin + len(piece) - len(piece.lstrip())
        right = begin + len(piece.rstrip())
        if left < right:
            stripped.append((left, right))
    return stripped


def _is_abbreviation(before: str, after: str, language: str) -> bool:
    match = _LAST_WORD.search(before)
    if match is None:
        return False
    word = match.group(1)
    if len(word) == 1 and word.isalpha() and word.isupper():
        return True
    if language in LANGUAGES and LANGUAGES[language].has_ordinal_point and re.fullmatch(r"\d{1,2}", word):
        return True
    if re.fullmatch(r"\d+(\.\d+)*", word):
        # "7.2. The Builder" is a clause number at the beginning, a year or a sum at the end of a sentence.
        return not before[: match.start()].strip() or after[:1].isdigit()
    return word.lower() in _ABBREVIATIONS
