# SPDX-License-Identifier: GPL-3.0-or-later
"""Mends a damaged collection file: keeps everything of it that can still be read."""

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.collection import errors
from redlantern.collection.file import CollectionFile
from redlantern.collection.kept_trials import KeptTrials
from redlantern.collection.schema import APPLICATION_ID, TABLES, VERSION
from redlantern.collection.store import Collection
from redlantern.collection.unfinished import make_unfinished, put_in_place
from redlantern.progress import Cancel, Progress, Report, silent
from redlantern.translation import tr

_MOST_IN_VAIN = 1_000
"""More rows than one damaged page of the file can hold."""


@dataclass(frozen=True)
class Mended:
    """What mending kept: documents by title that have to be read again, and where the damaged file now is."""

    n_kept: int
    lost: tuple[str, ...]
    n_sheets_lost: int
    damaged_path: str


def mend(collection: Collection, *, report: Report = silent, cancel: Cancel | None = None) -> Mended:
    """Make a whole file of everything that can still be read; the damaged one is put aside under another name.

    The documents that were damaged are named; an update reads them again.

    Raises
    ------
    DamagedCollectionError
        If nothing can be read at all; the file is as it was.
    CollectionInUseError
        If another process has it open.
    CannotWriteError, DiskFullError, Cancelled
    """
    file = collection.file
    with file.alone(cancel):
        file.close_settled()
        key, salt = file.key, file.salt
        aside = _free_name(file.path, "damaged")
        place = make_unfinished(file.path)
        try:
            mended = _Salvage(collection, place, report, cancel or Cancel()).run(str(aside))
            file.close_settled()
            _copy(file.path, aside)
            put_in_place(place, file.path)
        finally:
            place.unlink(missing_ok=True)
        file.become(file.path, key, salt)
        collection.journal.note("mended", f"{mended.n_kept} documents kept, {len(mended.lost)} to be read again")
    return mended


def _copy(source: Path, target: Path) -> None:
    """Copy a file, complete before it bears its name."""
    try:
        beside = make_unfinished(target)
        shutil.copyfile(source, beside)
    except OSError as failure:
        raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure
    put_in_place(beside, target)


class _Salvage:
    """Copies what can be read, row by row where need be. After a page that is damaged the connection is of no more use."""

    _WHOLE_TABLES = ("followed", "taken_out", "facts", "read_throughs")

    def __init__(self, collection: Collection, place: Path, report: Report, cancel: Cancel) -> None:
        self._file, self._report, self._cancel = collection.file, report, cancel
        self._segments: dict[int, bool] = {}
        self._n_read = 0
        self._new = CollectionFile(place, self._file.key, self._file.salt, None)
        with self._new.reading() as connection:
            connection.execute("PRAGMA journal_mode = WAL")
            connection.executescript(
                f"BEGIN; PRAGMA application_id = {APPLICATION_ID}; PRAGMA user_version = {VERSION}; {TABLES} COMMIT;"
            )

    def run(self, aside: str) -> Mended:
        """Copy everything; gives what could not be."""
        self._new.rows("PRAGMA foreign_keys = OFF")
        try:
            lost: list[str] = []
            kept = 0
            for document_id in self._ids("documents"):
                self._cancel.check()
                self._report(Progress(tr("Mending"), kept + len(lost), None, "documents"))
                title = self._copy_document(document_id)
                if title is None:
                    kept += 1
                else:
                    lost.append(title)
            self._drop_orphans()
            n_sheets_lost = sum(not self._copy("sheets", "id = ?", document_id) for document_id in self._ids("sheets"))
            for table in self._WHOLE_TABLES:
                self._copy(table, "1")
            for key in self._ids("read_throughs"):
                self._copy("read_pages", "through_id = ?", key)
            for run_id in self._new_runs():
                self._copy("cells", "run_id = ?", run_id)
            for entry in self._ids("journal"):
                self._copy("journal", "id = ?", entry)
            if not self._n_read:
                # Nothing of it opens: to put an empty collection in its place would help nobody.
                raise errors.DamagedCollectionError(str(self._file.path), "nothing in it can be read")
            self._new.close_settled()
        finally:
            self._new.close()
        return Mended(kept, tuple(lost), n_sheets_lost, aside)

    def _new_runs(self) -> list[int]:
        """The runs that were kept, whose answers are copied run by run."""
        return list(KeptTrials(self._new).runs())

    def _copy_document(self, document_id: int) -> str | None:
        """Copy a document with all that belongs to it; gives its title if that cannot be read whole."""
        tables = [("documents", "id"), *((table, "document_id") for table in ("sources", "pages", "passages"))]
        with self._new.writing() as connection:
            connection.execute("SAVEPOINT document")
            is_whole = all(self._copy(table, f"{column} = ?", document_id) for table, column in tables)
            is_whole = is_whole and self._copy_index(document_id)
            if not is_whole:
                connection.execute("ROLLBACK TO document")
            connection.execute("RELEASE document")
        if is_whole:
            return None
        named = self._rows("SELECT title FROM documents WHERE id = ?", document_id)
        return str(named[0][0]) if named else f"document {document_id}"

    def _copy_index(self, document_id: int) -> bool:
        """Copy a document's index; of one in a segment, only if the segment can be read."""
        rows = self._rows("SELECT segment_id FROM indexes WHERE document_id = ?", document_id)
        if rows is None:
            return False
        segment_id = rows[0][0] if rows else None
        if segment_id is not None and segment_id not in self._segments:
            self._segments[segment_id] = self._copy("segments", "id = ?", segment_id)
        is_there = segment_id is None or self._segments[segment_id]
        return is_there and self._copy("indexes", "document_id = ?", document_id)

    def _drop_orphans(self) -> None:
        # What lay within a lost file goes with it, and is read again with it.
        with self._new.writing() as connection:
            orphans = "SELECT id FROM documents WHERE container_id NOT IN (SELECT id FROM documents)"
            for table, column in (("pages", "document_id"), ("passages", "document_id"), ("indexes", "document_id")):
                connection.execute(f"DELETE FROM {table} WHERE {column} IN ({orphans})")
            connection.execute(f"DELETE FROM documents WHERE id IN ({orphans})")

    def _copy(self, table: str, where: str, *values: object) -> bool:
        rows = self._rows(f"SELECT * FROM {table} WHERE {where}", *values)
        if rows is None:
            return False
        if rows:
            with self._new.writing() as connection:
                holes = ", ".join("?" * len(rows[0]))
                connection.executemany(f"INSERT OR REPLACE INTO {table} VALUES ({holes})", rows)
        return True

    def _ids(self, table: str) -> Iterator[int]:
        """All ids of a table, also where it is damaged: then each number is tried, until nothing comes any more."""
        found = self._rows(f"SELECT id FROM {table} ORDER BY id")
        if found is not None:
            yield from (row[0] for row in found)
            return
        n_in_vain = number = 0
        while n_in_vain < _MOST_IN_VAIN:
            number += 1
            row = self._rows(f"SELECT id FROM {table} WHERE id = ?", number)
            n_in_vain = 0 if row else n_in_vain + 1
            if row:
                yield number

    def _rows(self, sql: str, *values: object) -> list[Any] | None:
        try:
            found = self._file.rows(sql, *values)
        except (errors.DamagedCollectionError, errors.CannotWriteError, errors.DiskFullError):
            self._file.drop_connections()
            return None
        self._n_read += len(found)
        return found


def _free_name(path: Path, word: str) -> Path:
    names = (path.with_name(f"{path.name}.{word}-{number}") for number in range(1, 10_000))
    return next(name for name in names if not name.exists())
