# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern check`: verifies a collection file."""

import sys
from pathlib import Path

from redlantern.collection.check import find_faults
from redlantern.collection.errors import DamagedCollectionError
from redlantern.collection.store import Collection
from redlantern.commands.shared import ProgressLine, stoppable
from redlantern.commands.unlock import open_damaged
from redlantern.models.chosen import EMBEDDING_MODEL, named_embedder


def check(path: Path, *, passphrase_source: str | None) -> int:
    """Look at everything; exit code 1 when something is wrong."""
    collection = open_damaged(path, passphrase_source)
    progress = ProgressLine()
    try:
        with stoppable() as cancel:
            faults = find_faults(collection, _dimensions(collection), report=progress, cancel=cancel)
        n_documents = len(collection.documents()) if not faults else 0
    finally:
        progress.finish()
        collection.close()
    if faults:
        print(f"{path} is not whole:")
        print(*(f"  {fault}" for fault in faults), sep="\n")
        print(
            f"The original documents are untouched. Restore the file from a backup, or run redlantern mend {path}",
            file=sys.stderr,
        )
        return 1
    print(f"{path} is whole: {n_documents} documents, every page, passage and vector is there and fits.")
    return 0


def _dimensions(collection: Collection) -> int:
    """How many numbers the collection's vectors have; the default model's where the file is too damaged to tell."""
    try:
        named, identities = collection.facts.get(EMBEDDING_MODEL), collection.embedded_with()
    except DamagedCollectionError:
        named, identities = "", []
    return named_embedder(named, identities=identities)[0].dimensions
