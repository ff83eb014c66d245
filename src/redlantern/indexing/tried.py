# SPDX-License-Identifier: GPL-3.0-or-later
"""A copy beside a collection, split or embedded otherwise, to be tried: encrypted with its key, and gone with it."""

import contextlib
import json
import re
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from redlantern.collection import errors
from redlantern.collection.copying import write_copy
from redlantern.collection.file import CollectionFile
from redlantern.collection.opening import TRIED, making_of, tried_copies
from redlantern.collection.schema import VERSION
from redlantern.collection.store import Collection
from redlantern.collection.unfinished import put_in_place
from redlantern.errors import RedlanternError
from redlantern.indexing.plan import UpdatePlan
from redlantern.indexing.prepare import Workshop
from redlantern.indexing.update import carry_out
from redlantern.progress import Cancel, Report
from redlantern.translation import tr

_WORD = re.compile(rf"{TRIED}-\d+")
_MADE_AS = "tried copy"
"""The fact by which a copy says what it was made as."""
_NOT_NEEDED = ("sheets", "facts", "journal", "read_throughs", "read_pages", "cells", "followed")
"""Tables of which nothing goes into a copy that only questions are put to."""


class TriedCopyGoneError(RedlanternError):
    """A copy to be tried is not there any more, or cannot be used."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name

    def __str__(self) -> str:
        return tr(
            "The other index “{name}” is no longer there: it was let go, or went with a document that was "
            "erased. Make it again in Trials."
        ).format(name=self.name)


@dataclass(frozen=True)
class TriedCopy:
    """A copy: what it is called, the word of its packaged embedding model, its longest passages, and the documents in a hash."""

    name: str
    embedding: str
    passage_tokens: int
    documents: str
    place: str = ""
    size_bytes: int = 0

    @property
    def word(self) -> str:
        """What arrangements name it by: the end of its file's name."""
        return Path(self.place).name.rpartition(".")[2]


def make_tried(
    collection: Collection, workshop: Workshop, made_as: TriedCopy, *, report: Report, cancel: Cancel
) -> TriedCopy:
    """Make a copy with the workshop's method and embedding model; it bears its name once it is whole.

    Raises
    ------
    CollectionBusyError
        If documents are being read or embedded anew.
    CollectionInUseError
        If another process may change the collection.
    DiskFullError, CannotWriteError, Cancelled
    """
    file = collection.file
    collection.claim_writing()
    taken = {int(path.name.rpartition("-")[2]) for path in _whole(file.path)}
    number = next(number for number in range(1, len(taken) + 2) if number not in taken)
    target, making = (
        file.path.with_name(f"{file.path.name}.{TRIED}-{number}"),
        file.path.with_name(making_of(file.path.name)),
    )
    with file.changing_documents():
        _remove(making)
        try:
            write_copy(file, making, file.key, file.salt, changes=_strip, report=report, cancel=cancel)
            with contextlib.closing(Collection(CollectionFile(making, file.key, file.salt, None))) as copy:
                copy.facts.put(_MADE_AS, json.dumps(asdict(made_as)))
                everything = [(document_id, n) for document_id, (_, n) in copy.made_with().items()]
                carry_out(copy, UpdatePlan(to_remake=everything), workshop, report=report, cancel=cancel)
                copy.file.close_settled()
            with file.reading():
                # Nothing is erased while this is held. Not after documents were erased meanwhile: those are in it.
                _check_same(collection, making)
                put_in_place(making, target)
        finally:
            _remove(making)
    return next(copy for copy in list_tried(collection) if copy.place == str(target))


def list_tried(collection: Collection) -> list[TriedCopy]:
    """The copies beside a collection that can be used, in the order of their names."""
    found = []
    for path in _whole(collection.path):
        with (
            contextlib.suppress(RedlanternError, ValueError, TypeError),
            contextlib.closing(_opened(collection, path)) as copy,
        ):
            kept = json.loads(copy.facts.get(_MADE_AS, "{}"))
            found.append(TriedCopy(**kept | {"place": str(path), "size_bytes": path.stat().st_size}))
    return found


def open_tried(collection: Collection, word: str) -> Collection:
    """Open a copy by its word, to ask it.

    Raises
    ------
    TriedCopyGoneError
    """
    if not is_there(collection, word):
        raise TriedCopyGoneError(word)
    return _opened(collection, _place(collection, word))


def let_go(collection: Collection, word: str) -> None:
    """Remove a copy."""
    if is_there(collection, word):
        _remove(_place(collection, word))


def is_there(collection: Collection, word: str) -> bool:
    """Whether a copy is still there; a word that names anything else names none."""
    return _WORD.fullmatch(word) is not None and _place(collection, word).is_file()


def _place(collection: Collection, word: str) -> Path:
    return collection.path.with_name(f"{collection.path.name}.{word}")


def _opened(collection: Collection, path: Path) -> Collection:
    copy = Collection(CollectionFile(path, collection.file.key, collection.file.salt, None))
    try:
        if copy.file.row("PRAGMA user_version")[0] != VERSION:
            raise TriedCopyGoneError(path.name)
    except BaseException:
        copy.close()
        raise
    return copy


def _whole(path: Path) -> list[Path]:
    return [copy for copy in tried_copies(path) if copy.name[-1].isdigit()]


def _check_same(collection: Collection, making: Path) -> None:
    now = {document.key for document in collection.documents()}
    with contextlib.closing(
        Collection(CollectionFile(making, collection.file.key, collection.file.salt, None))
    ) as copy:
        held = {document.key for document in copy.documents()}
        copy.file.close_settled()
    if not held <= now:
        raise errors.DocumentChangedError


def _strip(connection: Any) -> None:
    for table in _NOT_NEEDED:
        connection.execute(f"DELETE FROM {table}")


def _remove(making: Path) -> None:
    for end in ("-wal", "-shm", "-journal", ""):
        making.with_name(making.name + end).unlink(missing_ok=True)
