# SPDX-License-Identifier: GPL-3.0-or-later
"""An open collection file: its connections and its locks."""

import contextlib
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from redlantern.collection import errors
from redlantern.collection.connecting import connected, database, log_path
from redlantern.collection.process_lock import ProcessLock
from redlantern.locks import ReadersWriterLock
from redlantern.progress import Cancel
from redlantern.safety import keys
from redlantern.safety.keys import Holding

_UNUSED_ONE_IN = 5
_BUSY, _NO_ROOM, _BROKEN = {5, 6}, {10, 13}, {11, 26}
"""Codes of the database: busy and locked; failed in writing and full; corrupt and no database."""


class CollectionFile:
    """An open collection file: one connection for each thread that uses it.

    Readers see the last whole state while a writer works (write-ahead log). On
    a disk that cannot be written to, everything can be read and asked. Whatever
    replaces or removes the file does it `alone`: no other thread and no other
    process has it open meanwhile.
    """

    def __init__(self, path: Path, key: bytes, salt: bytes, lock: ProcessLock | None, *, is_read_only: bool = False):
        """`lock` is the share that was taken in it; None for a copy that nobody else knows of yet."""
        self.path, self.salt, self.is_read_only = path, salt, is_read_only
        self.migrated_from: int | None = None
        self._key = bytearray(key)
        self._is_closed = False
        self._mine = threading.local()
        self._all: list[Any] = []
        self._guard = threading.Lock()
        self._gate = ReadersWriterLock()
        self._lock = lock
        self._changing = threading.Lock()

    @property
    def holding(self) -> Holding:
        """How its key is held."""
        return keys.holding_of(self.salt) or Holding.FILE

    @property
    def is_claimed(self) -> bool:
        """Whether this process may change it."""
        return self._lock is None or self._lock.is_claimed

    @property
    def key(self) -> bytes:
        """The key it is encrypted with."""
        self._check_open()
        return bytes(self._key)

    @contextlib.contextmanager
    def reading(self) -> Iterator[Any]:
        """The connection of the thread that asks, for as long as the body runs: nobody replaces the file meanwhile.

        Raises
        ------
        ClosedCollectionError
            If it was closed.
        """
        with self._gate.shared(), self.explained():
            yield self._connection()

    @contextlib.contextmanager
    def helper_connection(self) -> Iterator[Any]:
        """A connection of its own for reading, closed at the end: for a thread that helps another and then ends."""
        with self._gate.shared(), self.explained(), contextlib.closing(self._connect()) as connection:
            yield connection

    @contextlib.contextmanager
    def writing(self) -> Iterator[Any]:
        """One transaction: everything in the body is kept, or nothing of it. Within another one, a part of that.

        Raises
        ------
        DiskFullError, CannotWriteError, DamagedCollectionError
            When the disk or the file system is at fault.
        """
        if self.is_read_only:
            raise errors.CannotWriteError(str(self.path), "its disk or folder can only be read")
        with self._gate.shared():
            connection = self._connection()
            if connection.in_transaction:
                yield connection
                return
            with self.explained():
                connection.execute("BEGIN IMMEDIATE")
                try:
                    yield connection
                    connection.execute("COMMIT")
                except BaseException:
                    with contextlib.suppress(database().Error):
                        connection.execute("ROLLBACK")
                    raise

    @contextlib.contextmanager
    def explained(self) -> Iterator[None]:
        """Turn the database's errors into ours, by their codes."""
        driver = database()
        try:
            yield
        except (driver.IntegrityError, driver.ProgrammingError, driver.InterfaceError):
            raise  # a bug of ours
        except driver.DatabaseError as failure:
            # The primary code is the last byte of an extended one (https://sqlite.org/rescode.html).
            code = getattr(failure, "sqlite_errorcode", 0) & 0xFF
            if code in _NO_ROOM:
                raise errors.DiskFullError(str(self.path)) from failure
            if code in _BUSY:
                raise errors.CollectionInUseError(str(self.path), "") from failure
            if code not in _BROKEN and isinstance(failure, driver.OperationalError):
                raise errors.CannotWriteError(str(self.path), str(failure)) from failure
            raise errors.DamagedCollectionError(str(self.path), str(failure)) from failure

    def rows(self, sql: str, *values: object) -> list[Any]:
        """All rows that a statement gives."""
        with self.reading() as connection:
            return list(connection.execute(sql, values).fetchall())

    def row(self, sql: str, *values: object) -> Any:
        """The first row that a statement gives, or None."""
        with self.reading() as connection:
            return connection.execute(sql, values).fetchone()

    @contextlib.contextmanager
    def blob(self, table: str, column: str, row_id: int) -> Iterator[Any]:
        """One large value, to be read in parts.

        Raises
        ------
        DocumentChangedError
            If its row is gone.
        """
        with self.reading() as connection:
            try:
                opened = connection.open_blob(table, column, row_id, True)
            except database().OperationalError as failure:
                if "no such rowid" in str(failure):
                    raise errors.DocumentChangedError from failure
                raise
            with contextlib.closing(opened) as found:
                yield found

    @contextlib.contextmanager
    def snapshot(self) -> Iterator[None]:
        """Let everything that this thread reads in the body be of one moment."""
        with self.reading() as connection:
            if connection.in_transaction:
                yield
                return
            connection.execute("BEGIN")
            try:
                yield
            finally:
                connection.execute("COMMIT")

    def claim_writing(self) -> None:
        """Become the one process that may change the collection, until it is closed.

        Raises
        ------
        CollectionInUseError
            If another process is that already.
        CannotWriteError
            If nobody can change it there.
        """
        self._check_open()
        if self.is_read_only:
            raise errors.CannotWriteError(str(self.path), "its disk or folder can only be read")
        if self._lock is not None:
            self._lock.claim()

    @contextlib.contextmanager
    def changing_documents(self) -> Iterator[None]:
        """For what changes many documents, one after another: one such work at a time.

        Raises
        ------
        CollectionBusyError
            If another is under way.
        """
        if not self._changing.acquire(blocking=False):
            raise errors.CollectionBusyError(str(self.path))
        try:
            yield
        finally:
            self._changing.release()

    @contextlib.contextmanager
    def alone(self, cancel: Cancel | None = None) -> Iterator[None]:
        """Have the file alone, for what replaces or removes it, from the first byte that is read to the end.

        Waits for the threads of this process that are in the midst of something,
        and lets none begin; every connection is closed at the beginning and at the end.

        Raises
        ------
        CollectionInUseError
            If another process has it open, also to read.
        Cancelled
            If stopping was asked for while it waited.
        """
        self.claim_writing()
        with self._gate.exclusive(cancel):
            self._check_open()
            if self._lock is not None:
                self._lock.hold_alone()
            try:
                self.drop_connections()
                yield
            finally:
                self.drop_connections()
                if self._lock is not None:
                    self._lock.share_again()

    def give_back_space(self) -> None:
        """Write the file anew without its unused parts, where these are a fifth of it or more."""
        if self.row("PRAGMA freelist_count")[0] * _UNUSED_ONE_IN < self.row("PRAGMA page_count")[0]:
            return
        self.rows("VACUUM")
        self.settle()

    def settle(self) -> None:
        """Bring everything from the write-ahead log into the file, and empty the log."""
        self.rows("PRAGMA wal_checkpoint(TRUNCATE)")

    def close_settled(self) -> None:
        """Close every connection with nothing left in the log, within `alone`, before another file takes this one's place.

        A log that was left would be taken for the new file's.

        Raises
        ------
        CannotWriteError
            If the log could not be brought into the file.
        """
        self.settle()
        self.drop_connections()
        log = log_path(self.path)
        if log.exists() and log.stat().st_size:
            raise errors.CannotWriteError(str(self.path), "its latest changes could not be brought into the file")

    def drop_connections(self) -> None:
        """Close every connection once nobody is in the middle of something; new ones are made when needed."""
        with self._gate.exclusive():
            with self._guard:
                connections, self._all = self._all, []
            self._mine = threading.local()
            for connection in connections:
                connection.close()

    def lock_for(self, path: Path) -> ProcessLock | None:
        """Take the lock of the place that the file is to be moved to, alone, before anybody can find it there."""
        if self._lock is None:
            return None
        lock = ProcessLock.opened(path)
        try:
            lock.claim()
            lock.hold_alone()
        except BaseException:
            lock.release()
            raise
        return lock

    def become(self, path: Path, key: bytes, salt: bytes, lock: ProcessLock | None = None) -> None:
        """Go on with another file or key, within `alone`: this one was replaced, or moved to where `lock` was taken for."""
        self.drop_connections()
        if lock is not None:
            before, self._lock = self._lock, lock
            if before is not None:
                before.release()
        wipe(self._key)
        self.path, self.salt, self._key = path, salt, bytearray(key)

    def close(self) -> None:
        """Close every connection, forget the key and give up the claim to write. Whoever uses it after that is told."""
        with self._gate.exclusive():
            self.drop_connections()
            self._is_closed = True
            wipe(self._key)
            if self._lock is not None:
                self._lock.release()

    def _connection(self) -> Any:
        """The connection of the thread that asks."""
        self._check_open()
        found = getattr(self._mine, "connection", None)
        if found is None:
            found = self._connect()
            self._mine.connection = found
            with self._guard:
                self._all.append(found)
        return found

    def _connect(self) -> Any:
        self._check_open()
        return connected(self.path, self._key, self.salt, is_read_only=self.is_read_only)

    def _check_open(self) -> None:
        if self._is_closed:
            raise errors.ClosedCollectionError(str(self.path))


def wipe(key: bytearray) -> None:
    """Overwrite a key in memory."""
    key[:] = bytes(len(key))
