# SPDX-License-Identifier: GPL-3.0-or-later
"""Values of one kind that a collection keeps among its facts, each under a number."""

import json
from typing import Any

from redlantern.collection.file import CollectionFile
from redlantern.safety.names import storable


class NumberedFacts:
    """Plain values by number, from 1 on, in facts whose names begin with `prefix`."""

    def __init__(self, file: CollectionFile, prefix: str) -> None:
        self._file, self.prefix = file, prefix

    def keep(self, values: dict[str, Any], number: int = 0) -> int:
        """Keep values, new ones or in place of those of this number; gives their number."""
        with self._file.writing() as connection:
            number = number or max(self.all(), default=0) + 1
            connection.execute(
                "INSERT OR REPLACE INTO facts VALUES (?, ?)", (f"{self.prefix}{number}", storable(json.dumps(values)))
            )
        return number

    def all(self) -> dict[int, dict[str, Any]]:
        """Give all by number, oldest first."""
        rows = self._file.rows("SELECT name, value FROM facts WHERE name LIKE ? || '%'", self.prefix)
        return dict(sorted((int(name.removeprefix(self.prefix)), json.loads(value)) for name, value in rows))

    def get(self, number: int) -> dict[str, Any]:
        """Give the values of a number; none where there are none."""
        row = self._file.row("SELECT value FROM facts WHERE name = ?", f"{self.prefix}{number}")
        return dict(json.loads(row[0])) if row else {}

    def has(self, number: int) -> bool:
        """Whether there are values of this number."""
        return self._file.row("SELECT 1 FROM facts WHERE name = ?", f"{self.prefix}{number}") is not None

    def drop(self, number: int) -> None:
        """Forget what has this number."""
        with self._file.writing() as connection:
            connection.execute("DELETE FROM facts WHERE name = ?", (f"{self.prefix}{number}",))
