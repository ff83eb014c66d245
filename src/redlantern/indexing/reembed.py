# SPDX-License-Identifier: GPL-3.0-or-later
"""Another embedding model for a whole collection: everything is embedded anew in a copy, which then takes the collection's place."""

import contextlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from redlantern.collection.copying import write_copy
from redlantern.collection.file import CollectionFile
from redlantern.collection.opening import EXCHANGED, exchange_copies
from redlantern.collection.store import Collection
from redlantern.collection.unfinished import put_in_place
from redlantern.indexing.plan import UpdatePlan
from redlantern.indexing.prepare import Workshop
from redlantern.indexing.update import carry_out
from redlantern.progress import Cancel, Progress, Report

_MEANWHILE = (
    "sheets", "facts", "journal", "sources", "taken_out", "followed", "read_throughs", "read_pages", "cells",
)  # fmt: skip
"""Tables that a collection in use goes on writing while its copy is made."""


def embed_anew(
    collection: Collection,
    workshop: Workshop,
    *,
    facts: dict[str, str],
    exchanged: Callable[[], object] = lambda: None,
    report: Report,
    cancel: Cancel,
) -> int:
    """Make all passages and vectors anew with the workshop's embedding model, and gives how many documents that were.

    Until the copy is whole the collection stays as it is, and answers with the
    model before. Then the copy takes its place in one step, with the sheets and
    the journal as they are by then.

    Parameters
    ----------
    collection : Collection
        With the claim to write; no update may run meanwhile.
    workshop : Workshop
        With the embedding model to come.
    facts : dict
        What the collection is to know of itself from the exchange on, such as the model's name.
    exchanged : callable
        Called when the copy has taken the collection's place, before any question is let in again. The file may be read by then.

    Raises
    ------
    CollectionInUseError
        If another process has the collection open.
    CollectionBusyError
        If its documents are being read.
    DiskFullError, CannotWriteError, Cancelled
    """

    def anew(progress: Progress) -> None:
        report(replace(progress, stage="Embedding anew"))

    file = collection.file
    collection.claim_writing()
    target = file.path.with_name(file.path.name + EXCHANGED)
    with file.changing_documents():
        remove_copy(file.path)
        try:
            write_copy(file, target, file.key, file.salt, report=report, cancel=cancel)
            with contextlib.closing(Collection(CollectionFile(target, file.key, file.salt, None))) as copy:
                everything = [(document_id, n) for document_id, (_, n) in copy.made_with().items()]
                carry_out(copy, UpdatePlan(to_remake=everything), workshop, report=anew, cancel=cancel)
                with workshop.queue.alone(cancel):
                    _take_its_place(file, copy, facts, cancel)
                    exchanged()
        finally:
            remove_copy(file.path)
    return len(everything)


def _take_its_place(file: CollectionFile, copy: Collection, facts: dict[str, str], cancel: Cancel) -> None:
    """Put the copy, brought up to date once more, in the file's place in one step."""
    with file.alone(cancel):
        # From here on nothing may be written to the collection: what was, goes along.
        _bring_along(file, copy.file, facts)
        copy.file.close_settled()
        copy.close()
        key, salt, target = file.key, file.salt, copy.path
        file.close_settled()
        put_in_place(target, file.path)
        file.become(file.path, key, salt)


def _bring_along(file: CollectionFile, copy: CollectionFile, facts: dict[str, str]) -> None:
    """Bring into the copy what the collection came to hold while it was made, and take out what it lost."""
    with copy.writing() as connection:
        kept = {row[0] for row in file.rows("SELECT id FROM documents")}
        gone = [
            (document_id,)
            for (document_id,) in connection.execute("SELECT id FROM documents").fetchall()
            if document_id not in kept
        ]
        connection.executemany("DELETE FROM documents WHERE id = ?", gone)
        for table in _MEANWHILE:
            rows = file.rows(f"SELECT * FROM {table}")
            connection.execute(f"DELETE FROM {table}")
            for row in rows:
                connection.execute(f"INSERT INTO {table} VALUES ({', '.join('?' * len(row))})", row)
        connection.executemany("INSERT OR REPLACE INTO facts VALUES (?, ?)", list(facts.items()))


def remove_copy(path: Path) -> None:
    """Remove what an exchange that was broken off has left."""
    for copy in exchange_copies(path):
        with contextlib.suppress(FileNotFoundError):
            copy.unlink()
