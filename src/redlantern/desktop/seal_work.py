"""The slow work of the seal room, as functions for a Task."""

from collections.abc import Callable
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
from redlantern.collection.upkeep.everything import Everything, erase_everything, everything
from redlantern.collection.upkeep.mending import Mended
from redlantern.collection.upkeep.mending import mend as mend_collection
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.errors import RedlanternError
from redlantern.models import proof
from redlantern.models.proof import Proof
from redlantern.safety import keys, loopback, secretstore
from redlantern.safety.keys import Holding
from redlantern.safety.placing import put_text

_PLAIN = "plain search"
_NEWEST = 300


@dataclass(frozen=True)
class Standing:
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


def prove(task: Task) -> Proof:
    """Let every process try to get out."""
    return proof.prove()


def standing(engine: Engine) -> Callable[[Task], Standing]:
    """Look how the collection stands."""

    def work(task: Task) -> Standing:
        collection = engine.collection
        files = [(str(one), one.stat().st_size) for one in reversed(files_of(collection.path))]
        holding = collection.holding
        key_place = str(keys.key_path(collection.file.salt)) if holding is Holding.FILE else ""
        entries = collection.journal.entries(newest=_NEWEST)
        n_faults = len(list(collection.journal.faults()))
        plain = collection.facts.get(_PLAIN)
        return Standing(holding, files, key_place, plain, entries, n_faults, collection.journal.keeps_questions)

    return work


def search_plain(engine: Engine) -> Callable[[Task], PlainSearch]:
    """Look for the documents' words in plain text, and remember what was found."""

    def work(task: Task) -> PlainSearch:
        found = search_plain_text(engine.collection, report=task.report, cancel=task.cancel)
        if not engine.collection.is_read_only:
            moment = datetime.now().strftime("%-d %B %Y, %H:%M")
            engine.collection.facts.put(_PLAIN, f"{moment}: {found.words}")
        return found

    return work


def has_secret_store(task: Task) -> bool:
    """Whether this login has a secret store that answers."""
    return secretstore.is_there()


def change_key(engine: Engine, chosen: NewKey) -> Callable[[Task], list[Path]]:
    """Encrypt everything anew under a new key; gives the files that still need the old one."""
    return lambda task: upkeep.change_key(
        engine.collection, chosen.holding, chosen.passphrase, report=task.report, cancel=task.cancel
    )


def back_up(engine: Engine, target: Path, chosen: NewKey) -> Callable[[Task], None]:
    """Write a copy of this moment."""
    return lambda task: upkeep.back_up(
        engine.collection, target, chosen.passphrase, holding=chosen.holding, report=task.report, cancel=task.cancel
    )


def move(engine: Engine, target: Path) -> Callable[[Task], None]:
    """Give the collection another name or place."""

    def work(task: Task) -> None:
        before = engine.collection.path
        upkeep.move(engine.collection, target, report=task.report, cancel=task.cancel)
        forget_collection(before)
        note_collection(target)

    return work


def check(engine: Engine) -> Callable[[Task], list[str]]:
    """Verify the whole collection; gives what is wrong."""
    collection, dimensions = engine.collection, engine.embedder.dimensions
    return lambda task: find_faults(collection, dimensions, report=task.report, cancel=task.cancel)


def mend(engine: Engine) -> Callable[[Task], Mended]:
    """Make a whole file of what can still be read."""

    def work(task: Task) -> Mended:
        mended = mend_collection(engine.collection, report=task.report, cancel=task.cancel)
        engine.has_changed()
        return mended

    return work


def erase_documents(engine: Engine, documents: list[Document]) -> Callable[[Task], tuple[upkeep.Erased, list[str]]]:
    """Erase documents, and look whether anything is left of them."""

    def work(task: Task) -> tuple[upkeep.Erased, list[str]]:
        erased = upkeep.erase_documents(engine.collection, documents)
        left = upkeep.remnants(engine.collection, {one.key for one in documents})
        engine.has_changed()
        _ = engine.index
        return erased, left

    return work


def erase_collection(path: Path) -> Callable[[Task], upkeep.ErasedCollection]:
    """Erase a collection that is closed."""

    def work(task: Task) -> upkeep.ErasedCollection:
        erased = upkeep.erase_collection(path)
        forget_collection(path)
        return erased

    return work


def look_at_everything(task: Task) -> Everything:
    """What erasing everything would remove."""
    return everything()


def erase_all(found: Everything) -> Callable[[Task], list[str]]:
    """Erase everything; gives what could not be."""
    return lambda task: erase_everything(found)


def keep_questions(engine: Engine, is_wanted: bool) -> Callable[[Task], None]:
    """Whether the journal notes the words of questions."""
    return lambda task: engine.collection.journal.keep_questions(is_wanted)


def export_journal(engine: Engine, target: Path) -> Callable[[Task], int]:
    """Write the whole journal as JSON lines; gives how many entries."""

    def work(task: Task) -> int:
        journal = engine.collection.journal
        if not engine.collection.is_read_only:
            journal.note("exported", f"journal to {target}")
        entries = journal.entries()
        try:
            put_text(target, as_json_lines(entries))
        except OSError as failure:
            raise ExportFailedError(str(target), failure.strerror or "unknown error") from failure
        return len(entries)

    return work


def choose_server(address: str, model: str) -> Callable[[Task], None]:
    """Use a model server from the next start on; an empty address for none."""
    return lambda task: loopback.choose_server(loopback.parse_server(address, model) if address else None)
