# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables that are not set as such: labelled values of forms ("Due date: 14 July 2026"), and lists of records in prose."""

import re
from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby

from redlantern.reading.values import Page
from redlantern.reckoning.cells import Cell, PrintedTable

_LABEL = re.compile(
    r"(?:^|(?<=[.;,|]\s)|(?<=\n))(?P<label>[A-ZÀ-Þ][^\W\d_]*(?:[ /&'’-]{1,2}[^\W\d_]+){0,4}\.?(?: ?\([^()\n]{1,20}\))?) ?:(?:\s+|$)"
)
"""One to five words that begin with a capital, where a block or a part of it begins, and a colon."""
_LONGEST_BLOCK = 600
_LONGEST_VALUE = 200
_LEAST_PAIRS = 2
_MOST_FORM_PAGES = 12
"""A longer document is no form, though it has notes and warnings that begin with a label."""
_LEAST_SHARED = 0.5
"""Blocks whose labels are alike to this share are records of one list."""
_SKIPPED = ("header", "footer", "note", "table", "caption")

Pair = tuple[Cell, Cell]
"""A label and its value."""


def printed_records(pages: Iterable[Page]) -> Iterator[PrintedTable]:
    """Give the lists of records in a document, then its form: all labelled values that stand alone, as a table of one row."""
    caption = ""
    alone: list[Pair] = []
    run: list[list[Pair]] = []
    n_pages = 0
    for page in pages:
        n_pages += 1
        for block in page.blocks:
            if block.kind in _SKIPPED:
                continue
            pairs = [] if block.kind == "heading" else _pairs(page, block.start, block.end)
            if pairs:
                run.append(pairs)
                continue
            yield from _lists(run, caption, alone)
            run = []
            if block.kind == "heading":
                caption = page.text[block.start : block.end]
    yield from _lists(run, caption, alone)
    form = _record(alone)
    if form and n_pages <= _MOST_FORM_PAGES:
        yield PrintedTable("", [[label for label, _ in form], [value for _, value in form]], n_headers=1, is_form=True)


def _pairs(page: Page, start: int, end: int) -> list[Pair]:
    """The labelled values of a block; none where it does not begin with a label, or is long."""
    # Printed lines that were read as one paragraph are looked at one by one: where each begins, a label may stand.
    begins = sorted({start, *(run.start for run in page.runs if start <= run.start < end)})
    text = page.text[start:end]
    for at in begins[1:]:
        if text[at - start - 1] == " ":
            text = f"{text[: at - start - 1]}\n{text[at - start :]}"
    labels = list(_LABEL.finditer(text))
    lines = text.split("\n")
    is_long = len(text) > _LONGEST_BLOCK and not all(_LABEL.match(line) for line in lines)
    if not labels or labels[0].start() > 0 or is_long:
        return []
    found = []
    for at, label in enumerate(labels):
        last = labels[at + 1].start() if at + 1 < len(labels) else len(text)
        value = page.text[start + label.end() : start + last].rstrip(" \n.;,|")
        if len(value) > _LONGEST_VALUE:
            return []
        begin = start + label.end()
        name = Cell(label["label"], page.page_number, start + label.start("label"), start + label.end("label"))
        found.append((name, Cell(value, page.page_number, begin, begin + len(value))))
    # "Our items:" only says what follows.
    return found if any(value.text for _, value in found) else []


def _lists(run: Sequence[list[Pair]], caption: str, alone: list[Pair]) -> Iterator[PrintedTable]:
    """The lists in blocks that follow on one another; labelled values that are in none of them are put to `alone`."""
    for records in _alike(_cut(run)):
        if len(records) > 1 and all(len(record) >= _LEAST_PAIRS for record in records):
            yield _table(records, caption)
        else:
            alone += [pair for record in records for pair in record]


def _cut(run: Sequence[list[Pair]]) -> Iterator[list[Pair]]:
    """The records of a run of blocks: a block of several labels is one, single ones together, up to where the first comes again."""
    for is_single, together in groupby(run, key=lambda pairs: len(pairs) == 1):
        blocks = [*together]
        for block in [[pair for [pair] in blocks]] if is_single else blocks:
            record: list[Pair] = []
            for pair in block:
                if record and _name(pair) == _name(record[0]):
                    yield record
                    record = []
                record.append(pair)
            yield record


def _alike(records: Iterable[list[Pair]]) -> Iterator[list[list[Pair]]]:
    """Records that follow on one another and have most labels in common."""
    group: list[list[Pair]] = []
    for record in records:
        names = set(map(_name, record))
        others = set(map(_name, group[-1])) if group else set()
        if group and len(names & others) < _LEAST_SHARED * len(names | others):
            yield group
            group = []
        group.append(record)
    if group:
        yield group


def _table(records: Sequence[list[Pair]], caption: str) -> PrintedTable:
    """Records as rows under all their labels; where one lacks a label its cell is empty."""
    headers: dict[str, Cell] = {}
    for record in records:
        for pair in record:
            headers.setdefault(_name(pair), pair[0])
    rows = [list(headers.values())]
    for record in records:
        cells = {_name(pair): pair[1] for pair in reversed(record)}
        last = record[-1][1]
        missing = Cell("", last.page_number, last.end, last.end)
        rows.append([cells.get(name, missing) for name in headers])
    return PrintedTable(caption, rows, n_headers=1, is_listed=True)


def _record(pairs: Iterable[Pair]) -> list[Pair]:
    """One row of labelled values; of those with one name the first."""
    found: dict[str, Pair] = {}
    for pair in pairs:
        found.setdefault(_name(pair), pair)
    return list(found.values())


def _name(pair: Pair) -> str:
    return pair[0].text.casefold()
