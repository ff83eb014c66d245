# SPDX-License-Identifier: GPL-3.0-or-later
"""What a person put right about how tables were read: rows that name the columns, kinds of columns, rows that are no items.

Kept by the document's content and by places on its pages, so that it holds
whenever the same words are read, and for nothing else.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from redlantern.reckoning.values import ValueKind

Place = tuple[int, int]
"""A page number, and where on that page's text a cell begins."""


@dataclass(frozen=True)
class ColumnPutRight:
    """What a column is, by its number from 0; `unit` as in a cell ("EUR", "kg", "hours"), empty for none."""

    index: int
    kind: ValueKind
    unit: str = ""


@dataclass(frozen=True)
class PutRight:
    """What is to be taken for what in one table; it begins at `begins`, its first cell.

    `n_headers` is how many rows name the columns, None as it was read. `rows` are rows by their first cell, and whether each
    counts as an item.
    """

    begins: Place
    n_headers: int | None = None
    columns: tuple[ColumnPutRight, ...] = ()
    rows: tuple[tuple[Place, bool], ...] = ()

    @property
    def is_nothing(self) -> bool:
        """Whether it leaves everything as it was read."""
        return self == PutRight(self.begins)


def put_right_in(kept: Mapping[str, Any], document_key: str) -> tuple[PutRight, ...]:
    """What was put right in a document's tables; nothing where what was kept cannot be understood.

    Then they are as they were read, which the reading report shows.
    """
    try:
        return msgspec.convert(kept.get(document_key, ()), tuple[PutRight, ...])
    except msgspec.ValidationError:
        return ()


def with_put_right(kept: Mapping[str, Any], document_key: str, change: PutRight) -> dict[str, Any]:
    """What is to be kept, with a change to one table in place of an earlier one."""
    others = tuple(other for other in put_right_in(kept, document_key) if other.begins != change.begins)
    changes = others if change.is_nothing else (*others, change)
    rest = {key: value for key, value in kept.items() if key != document_key}
    return rest | ({document_key: msgspec.to_builtins(changes)} if changes else {})
