# SPDX-License-Identifier: GPL-3.0-or-later
"""What a passage stands under: the path of headings from the document's title down, and the column names of a table."""

from dataclasses import dataclass

_SEPARATOR = " › "
_COLUMN_SEPARATOR = " | "


@dataclass(frozen=True)
class Headings:
    """The headings above a passage, outermost first: the document's title begins them. `columns` are those of its table."""

    path: tuple[str, ...] = ()
    columns: tuple[str, ...] = ()

    @classmethod
    def parse(cls, printed: str) -> "Headings":
        """The headings that were printed so; see `printed`."""
        parts = printed.split(_SEPARATOR) if printed else []
        if parts and _COLUMN_SEPARATOR in parts[-1]:
            return cls(tuple(parts[:-1]), tuple(parts[-1].split(_COLUMN_SEPARATOR)))
        return cls(tuple(parts))

    @property
    def printed(self) -> str:
        """All of them in one line, as they are kept and shown."""
        return _SEPARATOR.join(self.parts)

    @property
    def parts(self) -> tuple[str, ...]:
        """The path, and the columns as one more part of it."""
        return (*self.path, row_printed(self.columns)) if self.columns else self.path

    @property
    def title(self) -> str:
        """The document's title; empty where even that was left out."""
        return self.parts[0] if self.parts else ""

    @property
    def innermost(self) -> str:
        """The nearest heading, or the column names."""
        return self.parts[-1] if self.parts else ""

    @property
    def embedded(self) -> str:
        """What of them the embedding model is given: the innermost, and for a table the one above its columns.

        The whole path would make all passages of a chapter alike; docs/retrieval.md has the measurement.
        """
        return _SEPARATOR.join(self.parts[-2:] if self.columns else self.parts[-1:])

    def without_innermost(self) -> "Headings":
        """The same but for the innermost."""
        return Headings(self.path) if self.columns else Headings(self.path[:-1])


def row_printed(cells: tuple[str, ...]) -> str:
    """The cells of a header row in one line, as headings print it."""
    return _COLUMN_SEPARATOR.join(cells)
