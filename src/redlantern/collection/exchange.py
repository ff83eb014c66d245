"""Another embedding model for a whole collection: everything is embedded anew in a copy, which then takes the collection's place."""

import contextlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from redlantern.collection.file import CollectionFile, put_in_place
from redlantern.collection.opening import EXCHANGED, exchange_copies
from redlantern.collection.plan import UpdatePlan
from redlantern.collection.store import Collection
from redlantern.collection.update import Workshop, carry_out
from redlantern.progress import Cancel, Progress, Report

_MEANWHILE = ("sheets", "facts", "journal")
"""Tables that a collection in use goes on writing while its copy is made."""


def embed_anew(
    collection: Collection,
    workshop: Workshop,
    *,
    facts: dict[str, str],
    exchanged: Callable[[], None] = lambda: None,
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
        Called when the copy has taken the collection's place, before any question is let in again.

    Raises
    ------
    CollectionInUseError
        If another process has the collection open.
    DiskFullError, CannotWriteError, Cancelled
    """

    def anew(progress: Progress) -> None:
        report(replace(progress, stage="Embedding anew"))

    file = collection.file
    collection.claim_writing()
    target = file.path.with_name(file.path.name + EXCHANGED)
    report(Progress("Copying the collection", 0, None, "documents"))
    remove_copy(file.path)
    try:
        file.write_copy(target, file.key, file.salt)
        copy = Collection(CollectionFile(target, file.key, file.salt))
        try:
            copy.claim_writing()
            everything = [(document_id, n) for document_id, (_, n) in copy.made_with().items()]
            carry_out(copy, UpdatePlan(to_remake=everything), workshop, report=anew, cancel=cancel)
            copy.file.settle()
            with workshop.queue.alone(), file.alone():
                # From here on nothing may be written to the collection: what was, goes along.
                with copy.file.writing() as connection:
                    for table in _MEANWHILE:
                        rows = file.rows(f"SELECT * FROM {table}")
                        connection.execute(f"DELETE FROM {table}")
                        for row in rows:
                            connection.execute(f"INSERT INTO {table} VALUES ({', '.join('?' * len(row))})", row)
                    connection.executemany("INSERT OR REPLACE INTO facts VALUES (?, ?)", list(facts.items()))
                copy.file.settle()
                copy.close()
                key, salt = file.key, file.salt
                file.settle()
                with file.replacing():
                    file.drop_connections()
                    put_in_place(target, file.path)
                    file.become(file.path, key, salt)
                exchanged()
        finally:
            copy.close()
    finally:
        remove_copy(file.path)
    return len(everything)


def remove_copy(path: Path) -> None:
    """Remove what an exchange that was broken off has left."""
    for one in exchange_copies(path):
        with contextlib.suppress(FileNotFoundError):
            one.unlink()
