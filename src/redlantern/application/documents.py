# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with a collection's documents: add, update, look at pages, take out."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType

from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.application.session import load_sheets
from redlantern.collection.fingerprints import Version
from redlantern.collection.values import Document
from redlantern.errors import RedlanternError
from redlantern.indexing.plan import UpdatePlan, make_plan
from redlantern.indexing.prepare import made_with_now
from redlantern.indexing.update import Summary, seconds_for
from redlantern.models.register import sha256_of
from redlantern.progress import Cancel, Progress, Report
from redlantern.reading.pool import PagePicture
from redlantern.reading.values import Page
from redlantern.reckoning.put_right import PutRight, with_put_right
from redlantern.reckoning.source import tables_of
from redlantern.reckoning.tables import Table
from redlantern.settings import Method
from redlantern.translation import tr

PassageSpan = tuple[int, int, int, str]
"""A passage on its page: start, end, tokens, heading."""
OnDocuments = Callable[[list[Document]], None]
"""Is given all documents after each one that was finished."""


class FileChangedError(RedlanternError):
    """The file behind a document is not the one that was read."""

    def __str__(self) -> str:
        return tr(
            "The file was changed since it was read, so this is the text as it was read. Update to read it again."
        )


class FileGoneError(RedlanternError):
    """The file behind a document is not there."""

    def __str__(self) -> str:
        return tr("The file is no longer where it was, so this is the text as it was read.")


def update(
    engine: Engine,
    paths: list[Path],
    *,
    again: Mapping[str, str] = MappingProxyType({}),
    method: Method | None = None,
    report: Report,
    cancel: Cancel,
    on_documents: OnDocuments,
) -> Summary:
    """Bring the collection up to date. `again` names files to read whatever they are, each with its password or nothing."""
    if again:
        engine.collection.let_in(again)
    report = _telling_documents(engine, report, on_documents)
    return engine.update(paths, report=report, cancel=cancel, again=again, method=method)


def plan_update(engine: Engine, cancel: Cancel) -> tuple[UpdatePlan, float]:
    """Say what an update of the followed folders would do, and about how many seconds it would take."""
    collection = engine.collection
    current = made_with_now(engine.workshop())
    plan = make_plan(collection, collection.followed(), cancel, current=current, leaves_missing=True)
    return plan, seconds_for(plan, collection.facts)


def carry_out(
    engine: Engine, plan: UpdatePlan, *, report: Report, cancel: Cancel, on_documents: OnDocuments
) -> Summary:
    """Do what a plan says."""
    return engine.carry_out(plan, report=_telling_documents(engine, report, on_documents), cancel=cancel)


def _telling_documents(engine: Engine, report: Report, on_documents: OnDocuments) -> Report:
    """A report that also passes on the documents after each one that was finished."""
    n_told = 0

    def tell(progress: Progress) -> None:
        nonlocal n_told
        report(progress)
        if progress.done > n_told:
            n_told = progress.done
            on_documents(engine.asked.documents())

    return tell


def take_out(engine: Engine, full_paths: list[str]) -> list[Document]:
    """Take files out of the collection; gives the documents that are left."""
    engine.collection.take_out(full_paths)
    engine.has_changed()
    engine.reload_index()
    return engine.asked.documents()


def load_documents(engine: Engine) -> tuple[list[Document], dict[int, Version]]:
    """Load the index anew, so that the next question need not, and give the documents with their versions."""
    engine.reload_index()
    return engine.asked.documents(), engine.collection.versions()


def reload(engine: Engine) -> tuple[list[Document], list[Sheet], dict[int, Version]]:
    """Fetch documents, sheets and versions anew, after some of their words were erased."""
    collection = engine.collection
    documents = engine.asked.documents()
    return documents, load_sheets(collection, documents), collection.versions()


@dataclass(frozen=True)
class DocumentTables:
    """The tables of a document as they are taken now, and as they were read."""

    document_key: str
    now: tuple[Table, ...]
    as_read: tuple[Table, ...]


NO_TABLES = DocumentTables("", (), ())


def load_tables(engine: Engine, document: Document) -> DocumentTables:
    """The tables of a document; of one that is asked with those of another collection none, for there nothing can be put right."""
    if document.beside or engine.collection.is_read_only:
        return NO_TABLES
    pages = [*engine.asked.pages(document.document_id)]
    put_right = engine.asked.tables_put_right()
    return DocumentTables(document.key, tables_of(document, pages, put_right), tables_of(document, pages))


def put_right(engine: Engine, document: Document, change: PutRight) -> None:
    """Keep what a person put right about a table; the next question reckons by it.

    Raises
    ------
    CannotWriteError, DiskFullError
        If the collection cannot be changed.
    """
    facts = engine.collection.facts
    # Read and kept in one transaction, so that of two changes at a time none is lost.
    with engine.collection.file.writing():
        facts.keep_tables(with_put_right(facts.tables(), document.key, change))


def load_reading(engine: Engine, document_id: int, page_number: int) -> tuple[Page | None, list[PassageSpan]]:
    """Fetch a page as it was read, with its passages."""
    return engine.asked.page(document_id, page_number), engine.asked.page_passages(document_id, page_number)


def disk_states(documents: list[Document], cancel: Cancel) -> dict[str, str]:
    """Look which files are not as they were read: by full path “missing” or “changed on disk”."""
    states = {}
    for path, document in {document.file_text: document for document in documents}.items():
        cancel.check()
        try:
            status = document.file_path.lstat()
        except OSError:
            states[path] = "missing"
            continue
        if (status.st_size, status.st_mtime_ns) != (document.size_bytes, document.mtime_ns):
            states[path] = "changed on disk"
    return states


def picture(engine: Engine, document: Document, page_number: int, scale: float, cancel: Cancel) -> PagePicture:
    """Print a page to a picture, from the file as it was when it was read.

    Raises
    ------
    FileGoneError, FileChangedError, Cancelled
    """
    path = document.file_path
    if not path.is_file():
        raise FileGoneError
    if sha256_of(path) != document.sha256:
        raise FileChangedError
    return engine.readers.picture(path, page_number - 1, scale, cancel, part=document.part)
