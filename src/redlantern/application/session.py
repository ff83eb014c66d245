# SPDX-License-Identifier: GPL-3.0-or-later
"""A collection open with its models, and what is shown of it: the one value that window and commands work with."""

from dataclasses import dataclass, field, replace

from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.answering.sheet_form import sheet_from_json
from redlantern.application.scratch import erase_scratch, is_scratch
from redlantern.collection.fingerprints import Version
from redlantern.collection.store import Collection
from redlantern.collection.values import Document
from redlantern.safety.keys import Holding

WATCHING, IDLE_MINUTES = "watching", "idle minutes"
"""The facts that keep how the folders are watched, and after how long without a person the collection is locked."""
_IDLE_MINUTES = 15


@dataclass
class Session:
    """A collection open with its models.

    `only_reading` says why it cannot be changed here although that was wanted;
    empty when it can. `notice` says which of its own models is not used, and why.
    The rest is what `load` fetched last: `watching` is how its folders are watched,
    `idle_minutes` after how long without a person it is locked (0 for never),
    `scopes` are the kept ones: the keys of each one's documents by its name.
    """

    engine: Engine
    only_reading: str = ""
    notice: str = ""
    documents: list[Document] = field(default_factory=list)
    sheets: list[Sheet] = field(default_factory=list)
    versions: dict[int, Version] = field(default_factory=dict)
    watching: str = "no"
    idle_minutes: int = 0
    scopes: dict[str, list[str]] = field(default_factory=dict)

    @property
    def can_change(self) -> bool:
        """Whether the collection can be changed here."""
        return not self.only_reading

    @property
    def is_scratch(self) -> bool:
        """Whether the collection goes when it is closed."""
        return is_scratch(self.engine.collection.path)

    def load(self) -> None:
        """Load the index, so that the first question need not, and fetch what is shown of the collection."""
        self.engine.reload_index()
        collection, facts = self.engine.collection, self.engine.collection.facts
        self.documents = collection.documents()
        self.sheets = load_sheets(collection, self.documents)
        self.versions = collection.versions()
        self.watching = facts.get(WATCHING, "no")
        # Nobody could open a scratch collection again.
        default = _IDLE_MINUTES if collection.holding is Holding.PASSPHRASE and not self.is_scratch else 0
        self.idle_minutes = int(facts.get(IDLE_MINUTES, str(default)))
        self.scopes = facts.scopes()

    def close(self, last_words: str = "") -> None:
        """End its models and readers, and close the collection; `last_words` say in its journal why it was locked.

        A scratch collection is erased then.

        Raises
        ------
        CollectionInUseError, CannotWriteError
            If a scratch collection cannot be erased.
        """
        collection = self.engine.collection
        if last_words and not collection.is_read_only:
            collection.journal.note("locked", last_words)
        path, goes = collection.path, self.is_scratch
        self.engine.close()
        if goes:
            erase_scratch(path)


def load_sheets(collection: Collection, documents: list[Document]) -> list[Sheet]:
    """The kept sheets, each citation led to the document that has its content now, or else lies at its place."""
    ids = {document.path: document.document_id for document in documents}
    by_key = {document.key: document.document_id for document in documents}
    return [
        replace(sheet_from_json(form, ids | by_key), asked_at=asked_at)
        for _, asked_at, _, form in collection.kept_sheets.all()
    ]
