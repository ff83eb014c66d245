"""The slow work of the seal room, as functions for a Task."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.application import upkeep as application
from redlantern.application.opening import NewKey
from redlantern.application.upkeep import CollectionState
from redlantern.collection import upkeep
from redlantern.collection.check import find_faults
from redlantern.collection.plaintext import PlainSearch, search_plain_text
from redlantern.collection.upkeep.erasing_everything import Everything, erase_everything, everything
from redlantern.collection.upkeep.mending import Mended
from redlantern.collection.upkeep.mending import mend as mend_collection
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.models import proof
from redlantern.models.proof import Proof
from redlantern.safety import loopback, secretstore

_NEWEST = 300


def prove(task: Task) -> Proof:
    """Let every process try to get out."""
    return proof.prove()


def standing(engine: Engine) -> Callable[[Task], CollectionState]:
    """Look how the collection stands."""
    return lambda task: application.state_of(engine.collection, _NEWEST)


def search_plain(engine: Engine) -> Callable[[Task], PlainSearch]:
    """Look for the documents' words in plain text, and remember what was found."""

    def work(task: Task) -> PlainSearch:
        found = search_plain_text(engine.collection, report=task.report, cancel=task.cancel)
        if not engine.collection.is_read_only:
            moment = datetime.now().strftime("%-d %B %Y, %H:%M")
            engine.collection.facts.put(application.PLAIN_SEARCH, f"{moment}: {found.words}")
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
    return lambda task: application.move(engine.collection, target, report=task.report, cancel=task.cancel)


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
    return lambda task: application.erase_collection(path)


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
    return lambda task: application.export_journal(engine.collection, target)


def choose_server(address: str, model: str) -> Callable[[Task], None]:
    """Use a model server from the next start on; an empty address for none."""
    return lambda task: loopback.choose_server(loopback.parse_server(address, model) if address else None)
