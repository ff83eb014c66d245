# SPDX-License-Identifier: GPL-3.0-or-later
"""The read-throughs that a collection keeps: what was asked of every page, what each page gave, and how it was judged."""

import json
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

from redlantern.collection.file import CollectionFile
from redlantern.safety.names import storable


@dataclass(frozen=True)
class KeptPage:
    """A page as it is kept: the key of its document, what it gave as plain values, and what a person said to it."""

    document_key: str
    page_number: int
    state: str
    certainty: float
    read_at: str
    finding: dict[str, Any]
    judged: str = ""
    note: str = ""


_PAGE = "document_key, page_number, state, certainty, read_at, finding, judged, note"


class KeptReadThroughs:
    """The read-throughs of one collection. Every page is there whole or not at all, whenever the process ends."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file

    def begin(self, began_at: str, wish: dict[str, Any]) -> int:
        """Keep a new one, with no page read yet; gives its id."""
        with self._file.writing() as connection:
            made = connection.execute(
                "INSERT INTO read_throughs (began_at, wish) VALUES (?, ?)", (began_at, json.dumps(wish))
            )
            return int(made.lastrowid)

    def all(self) -> list[tuple[int, str, dict[str, Any]]]:
        """Give all, oldest first: (id, when it began, what was asked)."""
        rows = self._file.rows("SELECT id, began_at, wish FROM read_throughs ORDER BY id")
        return [(row[0], row[1], json.loads(row[2])) for row in rows]

    def wish(self, key: int) -> dict[str, Any] | None:
        """What was asked, by id; None where there is no such one any more."""
        row = self._file.row("SELECT wish FROM read_throughs WHERE id = ?", key)
        return dict(json.loads(row[0])) if row else None

    def keep_wish(self, key: int, wish: dict[str, Any]) -> None:
        """Keep what is asked in another form: with another example, or read more carefully."""
        with self._file.writing() as connection:
            connection.execute("UPDATE read_throughs SET wish = ? WHERE id = ?", (json.dumps(wish), key))

    def delete(self, key: int) -> None:
        """Forget one with all its pages."""
        with self._file.writing() as connection:
            connection.execute("DELETE FROM read_pages WHERE through_id = ?", (key,))
            connection.execute("DELETE FROM read_throughs WHERE id = ?", (key,))

    def keep(self, key: int, pages: Sequence[KeptPage]) -> None:
        """Keep what some pages gave, all or none of them; a page read again keeps what a person said to it.

        Nothing is kept for one that was deleted meanwhile.
        """
        rows = [
            (
                key,
                page.document_key,
                page.page_number,
                page.state,
                page.certainty,
                page.read_at,
                json.dumps(page.finding),
            )
            for page in pages
        ]
        with self._file.writing() as connection:
            if connection.execute("SELECT 1 FROM read_throughs WHERE id = ?", (key,)).fetchone() is None:
                return
            connection.executemany(
                "INSERT INTO read_pages (through_id, document_key, page_number, state, certainty, read_at, finding)"
                " VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET state = excluded.state,"
                " certainty = excluded.certainty, read_at = excluded.read_at, finding = excluded.finding",
                rows,
            )

    def pages(self, key: int) -> list[KeptPage]:
        """Give every page that was read, by document and page."""
        rows = self._file.rows(
            f"SELECT {_PAGE} FROM read_pages WHERE through_id = ? ORDER BY document_key, page_number", key
        )
        return [
            KeptPage(document_key, number, state, certainty, read_at, json.loads(finding), judged, note)
            for document_key, number, state, certainty, read_at, finding, judged, note in rows
        ]

    def places(self, key: int) -> set[tuple[str, int]]:
        """Which pages were read: document key and page number."""
        rows = self._file.rows("SELECT document_key, page_number FROM read_pages WHERE through_id = ?", key)
        return {(row[0], row[1]) for row in rows}

    def judge(self, key: int, place: tuple[str, int], judged: str, note: str) -> None:
        """Keep what a person said to a page."""
        with self._file.writing() as connection:
            connection.execute(
                "UPDATE read_pages SET judged = ?, note = ?"
                " WHERE through_id = ? AND document_key = ? AND page_number = ?",
                (judged, storable(note), key, *place),
            )

    def drop_unjudged(self, key: int) -> None:
        """Forget every page that nobody has judged, to be read again."""
        with self._file.writing() as connection:
            connection.execute("DELETE FROM read_pages WHERE through_id = ? AND judged = ''", (key,))

    def forget(self, keys: Collection[str]) -> int:
        """Take out every page of documents that are erased, and examples taken from them; gives how many pages there were."""
        n_pages = 0
        with self._file.writing() as connection:
            for key in keys:
                gone = connection.execute("DELETE FROM read_pages WHERE document_key = ?", (key,))
                n_pages += int(gone.rowcount)
            for through_id, _, wish in self.all():
                examples = wish.get("examples", [])
                kept = [example for example in examples if example.get("document_key") not in keys]
                if len(kept) < len(examples):
                    self.keep_wish(through_id, wish | {"examples": kept})
        return n_pages

    def hold_words_of(self, keys: Collection[str]) -> bool:
        """Whether any page or example is of documents with these keys."""
        of_pages = {row[0] for row in self._file.rows("SELECT DISTINCT document_key FROM read_pages")}
        of_examples = {example.get("document_key") for _, _, wish in self.all() for example in wish.get("examples", [])}
        return not (of_pages | of_examples).isdisjoint(keys)
