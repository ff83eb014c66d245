# SPDX-License-Identifier: GPL-3.0-or-later
"""What a collection remembers of itself and how its owner wants it kept: short texts by name."""

import json
from collections.abc import Collection
from typing import Any

from redlantern.collection.file import CollectionFile
from redlantern.safety.names import storable

_SCOPES = "scopes"
_TABLES = "tables put right"


class Facts:
    """The facts of one collection."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file

    def get(self, name: str, default: str = "") -> str:
        """Give a fact, or the default when it was never put."""
        row = self._file.row("SELECT value FROM facts WHERE name = ?", name)
        return str(row[0]) if row else default

    def put(self, name: str, value: str) -> None:
        """Keep a fact in place of what was known by its name."""
        with self._file.writing() as connection:
            connection.execute("INSERT OR REPLACE INTO facts VALUES (?, ?)", (name, storable(value)))

    def scopes(self) -> dict[str, list[str]]:
        """The scopes that were kept: from each name to the keys of its documents."""
        return dict(json.loads(self.get(_SCOPES, "{}")))

    def keep_scopes(self, scopes: dict[str, list[str]]) -> None:
        """Keep these scopes in place of those before."""
        self.put(_SCOPES, json.dumps(scopes))

    def tables(self) -> dict[str, Any]:
        """What was put right about tables, by the key of the document that they stand in."""
        return dict(json.loads(self.get(_TABLES, "{}")))

    def keep_tables(self, tables: dict[str, Any]) -> None:
        """Keep this in place of what was put right before."""
        self.put(_TABLES, json.dumps(tables))

    def forget(self, keys: Collection[str]) -> None:
        """Take documents out of the kept scopes and of what was put right, for they are erased."""
        tables = self.tables()
        if any(key in keys for key in tables):
            self.keep_tables({key: value for key, value in tables.items() if key not in keys})
        kept = self.scopes()
        if any(key in keys for members in kept.values() for key in members):
            self.keep_scopes({name: [key for key in members if key not in keys] for name, members in kept.items()})

    def drop(self, name: str) -> None:
        """Forget a fact."""
        with self._file.writing() as connection:
            connection.execute("DELETE FROM facts WHERE name = ?", (name,))
