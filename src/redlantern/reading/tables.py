# SPDX-License-Identifier: GPL-3.0-or-later
"""What is told of a table as soon as it is read: whether its first row names the columns."""

_MOST_DIGITS_IN_HEADER = 0.1


def is_header(row: str) -> bool:
    """Whether a table's first row, as it stands in the page's text, names the columns: it has hardly any digits."""
    return sum(cell.isdigit() for cell in row) <= _MOST_DIGITS_IN_HEADER * len(row)
