# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines of documents as a person would say them: what the embedding model understands best."""

from redlantern.reading.values import cells_of_row
from redlantern.splitting.headings import Headings
from redlantern.text.dates import dates_in_words


def line_in_words(line: str, headings: Headings) -> str:
    """A line with what it stands under, as a sentence is read: its innermost heading, or a row's cells with their column
    names; dates written out.
    """
    if len(cells_of_row(line)) > 1:
        return row_in_words(line, headings)
    innermost = headings.innermost
    text = f"{innermost}: {line}" if innermost and innermost not in line else line
    return dates_in_words(" ".join(text.split()))


def cells_of(row: str, headings: Headings) -> list[tuple[str, str]]:
    """The cells of a table's row as (name of the column, what stands there); empty where the names do not fit."""
    cells = cells_of_row(row)
    return list(zip(headings.columns, cells, strict=True)) if len(cells) == len(headings.columns) > 1 else []


def row_in_words(row: str, headings: Headings) -> str:
    """A row of a table as a sentence is read: what the table is about, and each cell with the name of its column."""
    parts, cells = headings.parts, cells_of(row, headings)
    if cells:
        named = (f"{column} {cell}".strip() for column, cell in cells if cell.strip())
        text = ": ".join([*parts[-2:-1], ", ".join(named)])
    else:
        text = ": ".join([*parts[-1:], ", ".join(cell for cell in cells_of_row(row) if cell.strip())])
    return dates_in_words(" ".join(text.split()))
