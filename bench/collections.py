# SPDX-License-Identifier: GPL-3.0-or-later
"""Collections made for measuring, in a folder that is thrown away, keys included."""

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.collection.store import Collection
from redlantern.models.chosen import chosen_embedder
from redlantern.models.protocols import LanguageModel
from redlantern.models.register import DEFAULT_EMBEDDING
from redlantern.progress import Cancel, silent


@contextlib.contextmanager
def opened(
    folder: Path,
    documents: Path,
    language_model: LanguageModel | None = None,
    *,
    embedding: str = DEFAULT_EMBEDDING,
) -> Iterator[Engine]:
    """An engine on a collection of these documents; `folder` takes the file and its key, or has them from before."""
    os.environ["XDG_DATA_HOME"] = str(folder)
    path = folder / "bench.redlantern"
    is_kept = path.exists()
    collection = Collection.open(path) if is_kept else Collection.create(path)
    engine = Engine(collection, chosen_embedder(embedding), language_model)
    try:
        engine.collection.claim_writing()
        engine.update([documents], report=silent, cancel=Cancel())
        if is_kept:
            # What was read or split by another version is made anew.
            engine.update([], report=silent, cancel=Cancel())
        yield engine
    finally:
        engine.close()
