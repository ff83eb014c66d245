# SPDX-License-Identifier: GPL-3.0-or-later
"""Erases documents from a collection, and looks whether anything is left of them."""

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.collection.opening import copies_beside, older_copies, put_aside, tried_copies
from redlantern.collection.store import Collection
from redlantern.collection.values import Document


@dataclass(frozen=True)
class Erased:
    """What erasing documents did: how many, in how many sheets they were cited, and which older copies went with them."""

    n_documents: int
    n_sheets: int
    older_copies: tuple[str, ...]


def erase_documents(collection: Collection, documents: Sequence[Document]) -> Erased:
    """Erase documents: text, vectors, words, journal entries, and what sheets cite from them; an update leaves them out.

    What lies within an erased file goes with it. Everything else is then
    written anew, so that nothing of them is left in unused parts of the file;
    copies made before a change of file version, which still hold them, go too.

    Raises
    ------
    CollectionInUseError
        If another process has the collection open: it may be reading them.
    CollectionBusyError
        If documents are being read or embedded anew.
    """
    files = {document.container_id or document.document_id for document in documents}
    everything = [
        document for document in collection.documents() if (document.container_id or document.document_id) in files
    ]
    names = {document.key for document in everything}
    paths = {document.full_path for document in everything if document.container_id is None}
    paths |= {copy for document in everything for copy in document.copies}
    places = {document.path for document in everything}

    def is_erased(citation: dict[str, Any]) -> bool:
        key = citation.get("document_key", "")
        return key in names if key else citation["path"] in places

    about = {document.sha256 for document in everything if document.sha256} | paths
    with collection.file.changing_documents(), collection.file.alone():
        with collection.file.writing():
            collection.take_out(paths, forgets_names=True)
            n_sheets = collection.kept_sheets.erase_citations(is_erased)
            collection.journal.erase_words(about)
            collection.facts.forget(names)
            collection.read_throughs.forget(names)
            collection.trials.forget(names, places, is_erased)
            collection.briefs.forget(names)
            n = len(everything)
            collection.journal.note("erased", f"{n} document{'s' * (n > 1)}, cited in {n_sheets} sheets")
        collection.segments.write_anew(only_if_many=False)
        _rewrite(collection)
        removed = _remove_copies(collection.path)
    return Erased(len(everything), n_sheets, tuple(removed))


def remnants(collection: Collection, keys_erased: set[str]) -> list[str]:
    """Look whether anything in the file still belongs to documents with these keys, or could be brought back.

    Gives what was found in plain words; nothing when they are gone.
    """
    found = []
    if keys_erased & {document.key for document in collection.documents()}:
        found.append("A document of this content is in the collection.")
    about = {key.split("/")[0] for key in keys_erased}
    if any(row[0] in about for row in collection.file.rows("SELECT about FROM journal WHERE about IS NOT NULL")):
        found.append("The journal has words about it.")
    if any(
        f'"document_key": "{key}"' in row[0]
        for key in keys_erased
        for row in collection.file.rows("SELECT sheet FROM sheets")
    ):
        found.append("A sheet cites it.")
    if collection.read_throughs.hold_words_of(keys_erased):
        found.append("A read-through has pages of it.")
    if collection.trials.hold_words_of(keys_erased):
        found.append("A trial has words of it.")
    if collection.briefs.hold_words_of(keys_erased):
        found.append("A brief quotes it.")
    if keys_erased & set(collection.facts.tables()):
        found.append("What was put right in its tables is still there.")
    if collection.file.row("PRAGMA freelist_count")[0]:
        found.append("The file has unused parts.")
    log = collection.path.with_name(collection.path.name + "-wal")
    if log.exists() and log.stat().st_size:
        found.append("The write-ahead log is not empty.")
    if older_copies(collection.path):
        found.append("There are copies from before a change of file version.")
    if put_aside(collection.path):
        found.append("There are damaged files that were put aside.")
    if tried_copies(collection.path):
        found.append("There are copies that were made to be tried.")
    return found  # fmt: skip


def _rewrite(collection: Collection) -> None:
    """Write the file anew from its live rows, so that unused parts hold nothing, and empty the log."""
    collection.file.settle()
    collection.file.rows("VACUUM")
    collection.file.settle()


def _remove_copies(path: Path) -> list[str]:
    removed = []
    for copy in copies_beside(path):
        with contextlib.suppress(FileNotFoundError):
            copy.unlink()
            removed.append(str(copy))
    return removed
