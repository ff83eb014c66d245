# SPDX-License-Identifier: GPL-3.0-or-later
"""An open collection: its documents, pages and vectors over one encrypted file, with its journal, facts and kept sheets."""

from pathlib import Path
from typing import Any

from redlantern.collection import opening
from redlantern.collection.catalogue import Catalogue
from redlantern.collection.documents import Documents
from redlantern.collection.facts import Facts
from redlantern.collection.file import CollectionFile
from redlantern.collection.journal import Journal
from redlantern.collection.kept_briefs import KeptBriefs
from redlantern.collection.kept_read_throughs import KeptReadThroughs
from redlantern.collection.kept_sheets import KeptSheets
from redlantern.collection.kept_trials import KeptTrials
from redlantern.collection.pages import Pages
from redlantern.collection.schema import VERSION
from redlantern.collection.segments import Segments
from redlantern.collection.vectors import StoredVectors
from redlantern.safety.keys import Holding


class Collection(Documents, Pages, StoredVectors):
    """An open collection. Reading is safe from any thread; changing it needs `claim_writing` first."""

    def __init__(self, file: CollectionFile) -> None:
        self.file = file
        self.journal, self.facts, self.kept_sheets = Journal(file), Facts(file), KeptSheets(file)
        self.read_throughs, self.trials, self.briefs = KeptReadThroughs(file), KeptTrials(file), KeptBriefs(file)
        self.segments, self._catalogue = Segments(file), Catalogue(file)

    @classmethod
    def create(cls, path: Path, holding: Holding = Holding.FILE, passphrase: str = "") -> "Collection":
        """Make a new, empty collection; see opening.create."""
        made = cls(opening.create(path, holding, passphrase))
        made.journal.note("made", f"Key held by: {holding}")
        return made

    @classmethod
    def open(cls, path: Path, passphrase: str | None = None) -> "Collection":
        """Open a collection; see opening.open_file."""
        opened = cls(opening.open_file(path, passphrase))
        if opened.file.migrated_from is not None:
            opened.journal.note("settings", f"File version raised from {opened.file.migrated_from} to {VERSION}")
        return opened

    @property
    def path(self) -> Path:
        """The collection file."""
        return self.file.path

    @property
    def name(self) -> str:
        """What the collection is called: its file's name without the ending."""
        return self.file.path.stem

    @property
    def holding(self) -> Holding:
        """How its key is held."""
        return self.file.holding

    @property
    def is_read_only(self) -> bool:
        """Whether it lies where nobody can change it."""
        return self.file.is_read_only

    def tables_put_right(self) -> dict[str, Any]:
        """What was put right about tables, by the key of the document that they stand in."""
        return self.facts.tables()

    def claim_writing(self) -> None:
        """Become the one process that may change it; see CollectionFile.claim_writing."""
        self.file.claim_writing()

    def close(self) -> None:
        """Close it."""
        self.file.close()
