# SPDX-License-Identifier: GPL-3.0-or-later
"""What a brief is made of."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import msgspec

from redlantern.collection.values import Citation

EntryKind = Literal["heading", "own", "claim", "line", "figure", "hit", "list"]
"""A heading, own words; a sentence that a model wrote, a line of a document, what was reckoned, a page of a read-through,
a list of values."""
OF_DOCUMENTS: tuple[EntryKind, ...] = ("line", "hit")
"""Entries that are words of documents and nothing else."""


@dataclass(frozen=True)
class Quote:
    """Words of a document: `document_key` is its content's SHA-256 and, after a slash, its part; offsets as in a citation.

    `dated` is the document's date in words, `clause` the clause or section that they stand in; empty where there is none.
    """

    document_key: str
    call_mark: str
    title: str
    path: str
    page_number: int
    start: int
    end: int
    text: str
    dated: str = ""
    clause: str = ""

    @property
    def mark(self) -> str:
        """The call-mark as it is printed, such as `SUR p.4`."""
        return f"{self.call_mark} p.{self.page_number}"

    @property
    def sha256(self) -> str:
        """The hash of the file that it stands in."""
        return self.document_key.split("/")[0]

    @property
    def words(self) -> str:
        """Its words on one line."""
        return " ".join(self.text.split())


@dataclass(frozen=True)
class BriefEntry:
    """One piece of a brief. `text` is ours or a model's; `support` says how far the quotes bear it out, where that is asked.

    `rows` are the working of a figure, or the list, as printed: the names of the columns first.
    """

    entry_id: int
    kind: EntryKind
    text: str = ""
    quotes: tuple[Quote, ...] = ()
    support: str = ""
    rows: tuple[tuple[str, ...], ...] = ()
    question: str = ""


@dataclass(frozen=True)
class Brief:
    """A brief, as a collection keeps it; `brief_id` is 0 until it does."""

    name: str
    entries: tuple[BriefEntry, ...] = ()
    brief_id: int = 0

    @property
    def quotes(self) -> tuple[Quote, ...]:
        """Every quote, in order, none twice."""
        return tuple(dict.fromkeys(quote for entry in self.entries for quote in entry.quotes))

    def with_entries(self, *entries: BriefEntry) -> "Brief":
        """The brief with more entries at its end, under free numbers."""
        free = max((entry.entry_id for entry in self.entries), default=0) + 1
        numbered = [replace(entry, entry_id=free + at) for at, entry in enumerate(entries)]
        return replace(self, entries=(*self.entries, *numbered))

    def moved(self, entry_id: int, by: int) -> "Brief":
        """The brief with an entry moved up (by < 0) or down."""
        entries = list(self.entries)
        at = next(at for at, entry in enumerate(entries) if entry.entry_id == entry_id)
        entries.insert(max(0, min(len(entries) - 1, at + by)), entries.pop(at))
        return replace(self, entries=tuple(entries))

    def ordered(self, entry_ids: list[int]) -> "Brief":
        """The brief with its entries in this order; what is not named comes last."""
        places = {entry_id: at for at, entry_id in enumerate(entry_ids)}
        return replace(
            self, entries=tuple(sorted(self.entries, key=lambda entry: places.get(entry.entry_id, len(places))))
        )

    def without(self, entry_id: int) -> "Brief":
        """The brief without an entry."""
        return replace(self, entries=tuple(entry for entry in self.entries if entry.entry_id != entry_id))

    def changed(self, entry: BriefEntry) -> "Brief":
        """The brief with an entry as it is now."""
        entries = tuple(entry if each.entry_id == entry.entry_id else each for each in self.entries)
        return replace(self, entries=entries)


def quote_of(citation: Citation, dated: str = "", clause: str = "") -> Quote:
    """A citation as it is quoted."""
    return Quote(
        citation.document_key, citation.call_mark, citation.title, citation.path, citation.page_number, citation.start,
        citation.end, citation.text, dated, clause,
    )  # fmt: skip


def brief_values(brief: Brief) -> dict[str, Any]:
    """Plain values, to be kept."""
    return dict(msgspec.to_builtins(brief))


def brief_from(values: Mapping[str, Any], brief_id: int) -> Brief:
    """A brief that was kept.

    Raises
    ------
    msgspec.ValidationError
    """
    return replace(msgspec.convert(values, Brief), brief_id=brief_id)
