# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with a whole collection: upkeep of its file with what this login remembers of it."""

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.application.opening import NewKey
from redlantern.collection import upkeep
from redlantern.collection.check import find_faults
from redlantern.collection.journal import Entry, as_json_lines
from redlantern.collection.known import forget_collection, note_collection
from redlantern.collection.opening import files_of
from redlantern.collection.plaintext import PlainSearch, search_plain_text
from redlantern.collection.store import Collection
from redlantern.collection.upkeep.mending import Mended
from redlantern.collection.upkeep.mending import mend as mend_collection
from redlantern.collection.values import Document
from redlantern.errors import RedlanternError
from redlantern.progress import Cancel, Report, silent
from redlantern.safety import failures, keys, loopback
from redlantern.safety.keys import Holding
from redlantern.safety.placing import put_text
from redlantern.translation import tr

PLAIN_SEARCH = "plain search"
"""The fact that keeps when plain text was searched for, and what was found."""


@dataclass(frozen=True)
class CollectionState:
    """How a collection stands: its key, its files with their sizes in bytes, its journal's newest entries."""

    holding: Holding
    files: list[tuple[str, int]]
    key_place: str
    plain_search: str
    entries: list[Entry]
    n_faults: int
    keeps_questions: bool


class ExportFailedError(RedlanternError):
    """An export could not be written."""

    def __init__(self, path: str, why: str) -> None:
        super().__init__(path, why)
        self.path, self.why = path, why

    def __str__(self) -> str:
        return tr("{path} could not be written: {why}. Nothing was exported; choose another place.").format(
            path=self.path, why=self.why
        )


def state_of(collection: Collection, newest: int) -> CollectionState:
    """Look how a collection stands, with so many of its newest entries."""
    holding = collection.holding
    return CollectionState(
        holding,
        [(str(path), path.stat().st_size) for path in reversed(files_of(collection.path))],
        str(keys.key_path(collection.file.salt)) if holding is Holding.FILE else "",
        collection.facts.get(PLAIN_SEARCH),
        collection.journal.entries(newest=newest),
        len(list(collection.journal.faults())),
        collection.journal.keeps_questions,
    )


def move(collection: Collection, target: Path, *, report: Report = silent, cancel: Cancel | None = None) -> None:
    """Give a collection another name or place, and remember it there; see collection.upkeep.move."""
    before = collection.path
    upkeep.move(collection, target, report=report, cancel=cancel)
    forget_collection(before)
    note_collection(target)


def erase_collection(path: Path) -> upkeep.ErasedCollection:
    """Erase a closed collection, and remember it no longer; see collection.upkeep.erase_collection."""
    erased = upkeep.erase_collection(path)
    forget_collection(path)
    return erased


def export_journal(collection: Collection, target: Path) -> int:
    """Write the whole journal as JSON lines, for this login alone; gives how many entries.

    Raises
    ------
    ExportFailedError
        If it cannot be written there.
    """
    if not collection.is_read_only:
        collection.journal.note("exported", f"journal to {target}")
    entries = collection.journal.entries()
    try:
        put_text(target, as_json_lines(entries))
    except OSError as failure:
        raise ExportFailedError(str(target), failure.strerror or "unknown error") from failure
    return len(entries)


def change_key(collection: Collection, new_key: NewKey, *, report: Report, cancel: Cancel) -> list[Path]:
    """Encrypt everything anew under a new key; gives the files that still need the old one."""
    return upkeep.change_key(collection, new_key.holding, new_key.passphrase, report=report, cancel=cancel)


def back_up(collection: Collection, target: Path, new_key: NewKey, *, report: Report, cancel: Cancel) -> None:
    """Write a copy of this moment, under a key of its own."""
    upkeep.back_up(collection, target, new_key.passphrase, holding=new_key.holding, report=report, cancel=cancel)


def check(engine: Engine, *, report: Report, cancel: Cancel) -> list[str]:
    """Verify the whole collection; gives what is wrong."""
    return find_faults(engine.collection, engine.embedder.dimensions, report=report, cancel=cancel)


def mend(engine: Engine, *, report: Report, cancel: Cancel) -> Mended:
    """Make a whole file of what can still be read."""
    mended = mend_collection(engine.collection, report=report, cancel=cancel)
    engine.has_changed()
    return mended


def erase_documents(engine: Engine, documents: list[Document]) -> tuple[upkeep.Erased, list[str]]:
    """Erase documents, and look whether anything is left of them."""
    erased = upkeep.erase_documents(engine.collection, documents)
    left = upkeep.remnants(engine.collection, {document.key for document in documents})
    engine.has_changed()
    engine.reload_index()
    return erased, left


def search_plain(collection: Collection, *, report: Report, cancel: Cancel) -> PlainSearch:
    """Look for the documents' words in plain text, and remember what was found."""
    searched = search_plain_text(collection, report=report, cancel=cancel)
    if not collection.is_read_only:
        moment = datetime.now().strftime("%-d %B %Y, %H:%M")
        collection.facts.put(PLAIN_SEARCH, f"{moment}: {searched.words}")
    return searched


def choose_server(address: str, model: str = "") -> None:
    """Use a model server on this machine from the next start on; an empty address for none."""
    loopback.choose_server(loopback.parse_server(address, model) if address else None)


def read_failures() -> str:
    """The log of failures; empty where there is none."""
    path = failures.log_path()
    return path.read_text(encoding="utf-8") if path.is_file() else ""
