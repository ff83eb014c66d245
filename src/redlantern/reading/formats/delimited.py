# SPDX-License-Identifier: GPL-3.0-or-later
"""CSV and TSV: the delimiter is found by which one cuts the rows alike; one table row a record."""

import csv
import io
from collections import Counter

from redlantern.reading import errors
from redlantern.reading.formats.text import decode
from redlantern.reading.material import Material
from redlantern.reading.setting import set_pages, table_piece
from redlantern.reading.values import ReadFile

DELIMITERS = ",;\t|"
_SAMPLE_CHARS = 64_000
_MOST_FIELD_CHARS = 2**20


def read_delimited(material: Material) -> ReadFile:
    """Read a table in text form. A first row without numbers is taken for the column names.

    Raises
    ------
    FileRefusedError
        If it holds no cells.
    """
    text = decode(material.read())
    delimiter = delimiter_of(text) or ","
    piece = table_piece(rows_of(text, delimiter))
    if not piece.text:
        raise errors.empty_file()
    kind = "tsv" if delimiter == "\t" else "csv"
    return ReadFile(kind, material.plain_name, set_pages([piece]))


def delimiter_of(text: str) -> str:
    """Which character sets the cells apart; empty if the rows fit none."""
    sample = text[:_SAMPLE_CHARS]
    if len(text) > len(sample):
        sample = sample.rpartition("\n")[0] or sample
    best, best_score = "", 0.0
    for delimiter in DELIMITERS:
        widths = [len(row) for row in rows_of(sample, delimiter) if any(cell.strip() for cell in row)]
        if not widths:
            continue
        width, n_alike = Counter(widths).most_common(1)[0]
        # Alike in most rows, and more columns are better evidence than few.
        score = n_alike / len(widths) * min(width, 6) if width > 1 else 0.0
        if score > best_score and n_alike >= 0.7 * len(widths):
            best, best_score = delimiter, score
    return best


def rows_of(text: str, delimiter: str) -> list[list[str]]:
    """Cut text into rows of cells, quotes taken care of."""
    csv.field_size_limit(_MOST_FIELD_CHARS)
    rows: list[list[str]] = []
    reader = csv.reader(io.StringIO(text.replace("\x00", ""), newline=""), delimiter=delimiter)
    try:
        rows.extend(reader)
    except csv.Error:
        # A stray quote swallowed the rest: take it line by line instead.
        rows = [line.split(delimiter) for line in text.splitlines()]
    return rows
