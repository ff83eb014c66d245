# SPDX-License-Identifier: GPL-3.0-or-later
"""The sheets that a collection keeps, with the words that they cited."""

import json
from collections.abc import Callable, Collection, Iterator
from typing import Any

from redlantern.collection.file import CollectionFile
from redlantern.collection.numbered_facts import NumberedFacts

ERASED = "[erased]"


class KeptSheets:
    """The sheets of one collection, in the form of docs/sheet-json.md."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file
        self.notes = NumberedFacts(file, "sheet note ")
        """By a sheet's id what was noted of it: its thread, its name, whether it has a star."""

    def keep(
        self, asked_at: str, question: str, sheet: dict[str, Any], *, goes_on: bool = False, again: bool = False
    ) -> int:
        """Keep a sheet; gives its id. `goes_on` is for one of the last one's thread, `again` for another form of a kept one."""
        with self._file.writing() as connection:
            last = self._file.row("SELECT max(id) FROM sheets WHERE question = ? OR NOT ?", question, again)
            before = int(last[0] or 0) if last else 0
            made = connection.execute(
                "INSERT INTO sheets (asked_at, question, sheet) VALUES (?, ?, ?)",
                (asked_at, question, json.dumps(sheet)),
            )
            sheet_id = int(made.lastrowid)
            if (goes_on or again) and before:
                self.note(sheet_id, thread=self.notes.get(before).get("thread", before))
            return sheet_id

    def note(self, sheet_id: int, **noted: Any) -> None:
        """Note something of a sheet, beside what is noted already."""
        with self._file.writing():
            self.notes.keep({**self.notes.get(sheet_id), **noted}, sheet_id)

    def delete(self, sheet_ids: Collection[int]) -> int:
        """Delete sheets with what was noted of them; gives how many there were."""
        n_deleted = 0
        with self._file.writing() as connection:
            for sheet_id in sheet_ids:
                n_deleted += connection.execute("DELETE FROM sheets WHERE id = ?", (sheet_id,)).rowcount
                self.notes.drop(sheet_id)
        return n_deleted

    def all(self) -> list[tuple[int, str, str, dict[str, Any]]]:
        """Give all sheets, oldest first: (id, asked at, question, sheet)."""
        rows = self._file.rows("SELECT id, asked_at, question, sheet FROM sheets ORDER BY id")
        return [(row[0], row[1], row[2], json.loads(row[3])) for row in rows]

    def erase_citations(self, is_erased: Callable[[dict[str, Any]], bool]) -> int:
        """Erase every citation that the function says, and every claim that stood on one; gives how many sheets had some."""
        n_changed = 0
        with self._file.writing() as connection:
            for sheet_id, _, _, sheet in self.all():
                if strip_sheet(sheet, is_erased):
                    n_changed += 1
                    connection.execute("UPDATE sheets SET sheet = ? WHERE id = ?", (json.dumps(sheet), sheet_id))
        return n_changed


def strip_sheet(sheet: dict[str, Any], is_erased: Callable[[dict[str, Any]], bool]) -> bool:
    """Take the words of erased documents out of a sheet; gives whether there were any."""
    found = _strip_words(sheet, "found_lines", is_erased)
    for part in sheet.get("parts", ()):
        if _strip_words(part, "lines", is_erased):
            # The title is a heading of the document.
            part["title"] = ERASED
            found = True
    for passage in sheet["passages"]:
        if is_erased(passage["citation"]):
            passage.update(
                document=ERASED, path="", text=ERASED, heading="", why=None, citation=_blank(passage["citation"])
            )
            found = True
    differing = sheet.get("disagreement")
    if differing is not None and any(is_erased(side["citation"]) for side in differing["sides"]):
        # One value left alone is no disagreement.
        sheet["disagreement"] = None
        found = True
    if any(map(is_erased, _reckoned_from(sheet.get("reckoning")))):
        # A figure without some of its cells would be another one.
        sheet["reckoning"] = None
        found = True
    if found:
        # What was written or searched by may repeat the erased words.
        sheet["answer"] = " ".join(claim["text"] for claim in sheet["claims"])
        sheet["mended"] = {}
        sheet["searched_also"] = []
        sheet["given"] = []
    return found


def _reckoned_from(reckoning: dict[str, Any] | None) -> Iterator[dict[str, Any]]:
    """Every cell that a reckoning's working cites, and the tables of its plan."""
    if reckoning is None:
        return
    yield from reckoning["cells"]
    for row in (*reckoning["rows"], *reckoning["left_out"]):
        yield from filter(None, row["cells"])
    yield from (reckoning["plan"] or {}).get("tables", ())


def _strip_words(holder: dict[str, Any], lines: str, is_erased: Callable[[dict[str, Any]], bool]) -> bool:
    """Take erased words out of lines, and out of the claims beside them; gives whether there were any."""
    found = False
    for line in holder[lines]:
        if is_erased(line["citation"]):
            line.update(text=ERASED, citation=_blank(line["citation"]))
            found = True
    for claim in holder["claims"]:
        if any(is_erased(citation) for citation in claim["citations"]):
            citations = [_blank(citation) if is_erased(citation) else citation for citation in claim["citations"]]
            claim.update(text=ERASED, doubt="", absent=[], citations=citations)
            found = True
    return found


def _blank(citation: dict[str, Any]) -> dict[str, Any]:
    blanks = {"document": ERASED, "call_mark": "ERASED", "path": "", "document_key": "", "text": ERASED, "boxes": []}
    return citation | blanks
