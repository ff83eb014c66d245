"""What a collection remembers of itself and how its owner wants it kept: short texts by name."""

from redlantern.collection.file import CollectionFile


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
            connection.execute("INSERT OR REPLACE INTO facts VALUES (?, ?)", (name, value))

    def drop(self, name: str) -> None:
        """Forget a fact."""
        with self._file.writing() as connection:
            connection.execute("DELETE FROM facts WHERE name = ?", (name,))
