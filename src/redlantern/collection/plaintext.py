# SPDX-License-Identifier: GPL-3.0-or-later
"""Searches the files on this machine that Red Lantern writes for words of a collection: there must be none."""

import random
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from redlantern.collection.opening import files_of
from redlantern.collection.store import Collection
from redlantern.progress import Cancel, Progress, Report
from redlantern.safety.places import data_directory, runtime_directory, state_directory
from redlantern.translation import tr

_STRETCH_CHARS = 24
_MOST_STRETCHES = 400
_MOST_FROM_A_PAGE = 8
_ENDS = re.compile(r"[\n\t]")
_PIECE_BYTES = 4 * 2**20


@dataclass(frozen=True)
class PlainSearch:
    """What a search found: how many files it went through, for how many stretches of text, and the files that had one."""

    n_files: int
    n_stretches: int
    found_in: tuple[str, ...]

    @property
    def words(self) -> str:
        """The result in a sentence."""
        looked = f"{self.n_stretches} stretches of documents and questions were looked for in {self.n_files} files"
        if not self.found_in:
            return f"None. {looked}."
        return f"{looked}. They stand in plain text in: " + ", ".join(self.found_in)


def search_plain_text(
    collection: Collection, more_places: Iterable[Path] = (), *, report: Report, cancel: Cancel
) -> PlainSearch:
    """Take stretches of the documents and all questions, and look for them in every file written by this program.

    That is what lies beside the collection by its name, the folders of keys,
    settings, locks and sockets, and `more_places` (files and folders).
    """
    wanted = _stretches(collection)
    files = set(files_of(collection.path))
    for place in (data_directory(), runtime_directory(), state_directory(), *more_places):
        files |= {path for path in place.rglob("*") if path.is_file()} if place.is_dir() else {place}
    found = []
    for done, path in enumerate(sorted(files)):
        cancel.check()
        report(Progress(tr("Looking for plain text"), done, len(files), "files"))
        if _holds_any(path, wanted, cancel):
            found.append(str(path))
    return PlainSearch(len(files), len(wanted), tuple(found))


def _stretches(collection: Collection) -> list[bytes]:
    """Stretches long enough that none comes about by chance, evenly drawn from all pages, and every question."""
    chance = random.Random(24)
    pages = collection.file.rows("SELECT document_id, page_number FROM pages")
    chance.shuffle(pages)
    found = [question for _, _, question, _ in collection.kept_sheets.all() if len(question) >= _STRETCH_CHARS // 2]
    n_each = max(1, min(_MOST_FROM_A_PAGE, _MOST_STRETCHES // max(1, len(pages))))
    for document_id, page_number in pages[:_MOST_STRETCHES]:
        page = collection.page(document_id, page_number)
        # Within a line: at its ends a file may have other signs than the page as read.
        lines = [part for part in _ENDS.split(page.text if page is not None else "") if len(part) >= _STRETCH_CHARS]
        for line in chance.choices(lines, k=n_each if lines else 0):
            at = chance.randrange(len(line) - _STRETCH_CHARS + 1)
            stretch = line[at : at + _STRETCH_CHARS]
            if sum(map(str.isalpha, stretch)) > _STRETCH_CHARS // 2:
                found.append(stretch)
    return [fromkey.encode() for fromkey in dict.fromkeys(found)]


def _holds_any(path: Path, wanted: list[bytes], cancel: Cancel) -> bool:
    longest = max(map(len, wanted), default=0)
    before = b""
    try:
        with path.open("rb") as file:
            while piece := file.read(_PIECE_BYTES):
                cancel.check()
                text = before + piece
                if any(word in text for word in wanted):
                    return True
                before = text[-longest:]
    except OSError:
        return False  # a socket, or gone meanwhile
    return False
