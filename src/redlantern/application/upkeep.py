"""What window and commands do with a whole collection: upkeep of its file with what this login remembers of it."""

from dataclasses import dataclass
from pathlib import Path

from redlantern.collection import upkeep
from redlantern.collection.journal import Entry, as_json_lines
from redlantern.collection.known import forget_collection, note_collection
from redlantern.collection.opening import files_of
from redlantern.collection.store import Collection
from redlantern.errors import RedlanternError
from redlantern.progress import Cancel, Report, silent
from redlantern.safety import keys
from redlantern.safety.keys import Holding
from redlantern.safety.placing import put_text

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
        return f"{self.path} could not be written: {self.why}. Nothing was exported; choose another place."


def state_of(collection: Collection, newest: int) -> CollectionState:
    """Look how a collection stands, with so many of its newest entries."""
    holding = collection.holding
    return CollectionState(
        holding,
        [(str(one), one.stat().st_size) for one in reversed(files_of(collection.path))],
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
