"""An open collection file: its connections, its locks, and copies of it."""

import contextlib
import fcntl
import hashlib
import os
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Literal
from urllib.parse import quote

from redlantern.collection import errors, schema
from redlantern.collection.gate import Gate
from redlantern.safety import keys
from redlantern.safety.keys import Holding
from redlantern.safety.places import private_directory, runtime_directory

_UNUSED_ONE_IN = 5
_Purpose = Literal["change", "open"]
_PURPOSES: tuple[_Purpose, ...] = ("change", "open")
UNFINISHED = ".unfinished"
"""Ends the name of a file that is being made beside the one it will replace."""


class CollectionFile:
    """An open collection file: one connection for each thread that uses it.

    Readers see the last whole state while a writer works (write-ahead log). On
    a disk that cannot be written to, everything can be read and asked.
    """

    def __init__(self, path: Path, key: bytes, salt: bytes, *, is_read_only: bool = False) -> None:
        self.path, self.salt, self.is_read_only = path, salt, is_read_only
        self.migrated_from: int | None = None
        self._key = bytearray(key)
        self._mine = threading.local()
        self._all: list[Any] = []
        self._guard = threading.Lock()
        self._gate = Gate()
        self._claim: int | None = None
        self._presence: int | None = _lock(path, "open", fcntl.LOCK_SH)

    @property
    def holding(self) -> Holding:
        """How its key is held."""
        return keys.holding_of(self.salt) or Holding.FILE

    @property
    def is_claimed(self) -> bool:
        """Whether this process may change it."""
        return self._claim is not None

    @property
    def connection(self) -> Any:
        """The connection of the thread that asks."""
        found = getattr(self._mine, "connection", None)
        if found is None:
            found = self._connect()
            self._mine.connection = found
            with self._guard:
                self._all.append(found)
        return found

    @contextlib.contextmanager
    def beside(self) -> Iterator[Any]:
        """A connection of its own for reading, closed at the end: for a thread that helps another and then ends."""
        connection = self._connect()
        try:
            with self.explained():
                yield connection
        finally:
            connection.close()

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
        with self._gate.inside():
            connection = self.connection
            if connection.in_transaction:
                yield connection
                return
            with self.explained():
                connection.execute("BEGIN IMMEDIATE")
                try:
                    yield connection
                    connection.execute("COMMIT")
                except BaseException:
                    with contextlib.suppress(_database().Error):
                        connection.execute("ROLLBACK")
                    raise

    @contextlib.contextmanager
    def explained(self) -> Iterator[None]:
        """Turn the database's errors into ours."""
        driver = _database()
        try:
            yield
        except driver.OperationalError as failure:
            said = str(failure)
            if "full" in said or "disk I/O" in said:
                raise errors.DiskFullError(str(self.path)) from failure
            if "locked" in said:
                raise errors.CollectionInUseError(str(self.path), "") from failure
            raise errors.CannotWriteError(str(self.path), said) from failure
        except driver.DatabaseError as failure:
            if isinstance(failure, driver.IntegrityError | driver.ProgrammingError | driver.InterfaceError):
                raise
            raise errors.DamagedCollectionError(str(self.path), str(failure)) from failure

    def rows(self, sql: str, *values: object) -> list[Any]:
        """All rows that a statement gives."""
        with self._gate.inside(), self.explained():
            return list(self.connection.execute(sql, values).fetchall())

    def row(self, sql: str, *values: object) -> Any:
        """The first row that a statement gives, or None."""
        with self._gate.inside(), self.explained():
            return self.connection.execute(sql, values).fetchone()

    @contextlib.contextmanager
    def blob(self, table: str, column: str, row_id: int) -> Iterator[Any]:
        """One large value, to be read in parts."""
        with (
            self._gate.inside(),
            self.explained(),
            contextlib.closing(self.connection.open_blob(table, column, row_id, True)) as found,
        ):
            yield found

    def replacing(self) -> contextlib.AbstractContextManager[None]:
        """For what puts another file in this one's place: nobody reads meanwhile, and whoever wants to waits."""
        return self._gate.held()

    def claim_writing(self) -> None:
        """Become the one process that may change the collection, until it is closed.

        Raises
        ------
        CollectionInUseError
            If another process is that already.
        CannotWriteError
            If nobody can change it there.
        """
        if self.is_read_only:
            raise errors.CannotWriteError(str(self.path), "its disk or folder can only be read")
        if self._claim is None:
            self._claim = _lock(self.path, "change", fcntl.LOCK_EX)

    @contextlib.contextmanager
    def alone(self) -> Iterator[None]:
        """Be the only process that has the file open at all, for what replaces or removes it.

        Raises
        ------
        CollectionInUseError
            If another process has it open, also to read.
        """
        self.claim_writing()
        assert self._presence is not None
        try:
            fcntl.flock(self._presence, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as failure:
            fcntl.flock(self._presence, fcntl.LOCK_SH)
            raise errors.CollectionInUseError(str(self.path), "") from failure
        try:
            yield
        finally:
            if self._presence is not None:
                fcntl.flock(self._presence, fcntl.LOCK_SH)

    def write_copy(
        self,
        target: Path,
        key: bytes,
        salt: bytes,
        *,
        changes: Callable[[Any], None] | None = None,
        placing: Callable[[], object] = lambda: None,
    ) -> None:
        """Write everything, as it is at this moment, to another file under another key or the same.

        The copy holds live rows only, so that nothing erased comes along. It is
        complete and on the disk before it bears its name.

        Parameters
        ----------
        target : Path
            Replaced if it is there.
        key, salt : bytes
            What the copy is encrypted with.
        changes : callable
            Gets a connection to the copy before it bears its name.

        Raises
        ------
        DiskFullError, CannotWriteError
        """
        beside = target.with_name(target.name + UNFINISHED)
        with contextlib.suppress(FileNotFoundError):
            beside.unlink()
        try:
            os.close(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
        except OSError as failure:
            raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure
        try:
            with self.explained():
                self._export(beside, key, salt)
            if changes is not None:
                copy = _connected(beside, bytearray(key), salt)
                try:
                    changes(copy)
                finally:
                    copy.close()
            placing()
            put_in_place(beside, target)
        except BaseException:
            with contextlib.suppress(FileNotFoundError):
                beside.unlink()
            raise

    def _export(self, beside: Path, key: bytes, salt: bytes) -> None:
        connection = self._connect()
        try:
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            connection.execute(f"ATTACH DATABASE ? AS copy KEY \"x'{key.hex()}{salt.hex()}'\"", (str(beside),))
            connection.execute("PRAGMA copy.synchronous = FULL")
            # One transaction: all of it is of one moment, whatever is written meanwhile.
            connection.execute("BEGIN")
            connection.execute("SELECT sqlcipher_export('copy')")
            connection.execute("COMMIT")
            connection.execute(f"PRAGMA copy.application_id = {schema.APPLICATION_ID}")
            connection.execute(f"PRAGMA copy.user_version = {version}")
            connection.execute("PRAGMA copy.journal_mode = WAL")
            connection.execute("DETACH DATABASE copy")
        finally:
            connection.close()

    def give_back_space(self) -> None:
        """Write the file anew without its unused parts, where these are a fifth of it or more."""
        if self.row("PRAGMA freelist_count")[0] * _UNUSED_ONE_IN < self.row("PRAGMA page_count")[0]:
            return
        with self.explained():
            self.connection.execute("VACUUM")
        self.settle()

    def settle(self) -> None:
        """Bring everything from the write-ahead log into the file, and empty the log."""
        with self.explained():
            self.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")

    def drop_connections(self) -> None:
        """Close every connection once nobody is in the middle of something; new ones are made when needed."""
        with self._gate.held():
            with self._guard:
                connections, self._all = self._all, []
            self._mine = threading.local()
            for connection in connections:
                connection.close()

    def become(self, path: Path, key: bytes, salt: bytes) -> None:
        """Go on with another file or key: this one was replaced or moved."""
        self.drop_connections()
        _wipe(self._key)
        if path != self.path:
            for handle in (self._claim, self._presence):
                if handle is not None:
                    os.close(handle)
            self._claim = _lock(path, "change", fcntl.LOCK_EX)
            self._presence = _lock(path, "open", fcntl.LOCK_SH)
        self.path, self.salt, self._key = path, salt, bytearray(key)

    @property
    def key(self) -> bytes:
        """The key it is encrypted with."""
        return bytes(self._key)

    def close(self) -> None:
        """Close every connection, forget the key and give up the claim to write."""
        self.drop_connections()
        _wipe(self._key)
        for handle in (self._claim, self._presence):
            if handle is not None:
                os.close(handle)
        self._claim = self._presence = None

    def _connect(self) -> Any:
        return _connected(self.path, self._key, self.salt, is_read_only=self.is_read_only)


@contextlib.contextmanager
def alone_with(path: Path) -> Iterator[None]:
    """Hold both locks of a collection that this process has not open, so that nobody has it open.

    Raises
    ------
    CollectionInUseError
        If somebody has.
    """
    with contextlib.ExitStack() as held:
        for purpose in _PURPOSES:
            held.callback(os.close, _lock(path, purpose, fcntl.LOCK_EX))
        yield


def sync_folder(folder: Path) -> None:
    """See that names given in a folder are on the disk."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def put_in_place(beside: Path, target: Path) -> None:
    """Give a finished file its name, in one step, once it is on the disk."""
    try:
        with beside.open("rb") as file:
            os.fsync(file.fileno())
        beside.replace(target)
        sync_folder(target.parent)
    except OSError as failure:
        raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure


def _lock(path: Path, purpose: _Purpose, how: int) -> int:
    """Take a lock that names this collection, beside the login's other locks; gives its handle.

    Not on the file itself: closing any handle of the file would drop the locks
    the database holds on it (POSIX locks belong to the process).
    """
    name = hashlib.sha256(str(path.resolve()).encode()).hexdigest()[:24]
    place = private_directory(runtime_directory() / "locks") / f"{name}.{purpose}"
    handle = os.open(place, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, how | fcntl.LOCK_NB)
    except BlockingIOError as failure:
        holder = os.pread(handle, 20, 0).decode(errors="replace").strip()
        os.close(handle)
        raise errors.CollectionInUseError(str(path), f" (process {holder})" if holder else "") from failure
    if how == fcntl.LOCK_EX:
        os.truncate(handle, 0)
        os.pwrite(handle, str(os.getpid()).encode(), 0)
    return handle


def _connected(path: Path, key: bytearray, salt: bytes, *, is_read_only: bool = False) -> Any:
    driver = _database()
    # On a disk that cannot be written to, no log can be made beside the file, and nobody changes it either.
    options = "?mode=ro&immutable=1" if is_read_only else "?mode=rw"
    place = f"file:{quote(str(path.absolute()))}{options}"
    try:
        connection = driver.connect(place, uri=True, isolation_level=None, check_same_thread=False, timeout=10)
    except driver.OperationalError as failure:
        raise errors.CannotWriteError(str(path), str(failure)) from failure
    # Damage is told in our words, and not on the terminal behind our back.
    connection.execute("PRAGMA cipher_log_level = NONE")
    connection.execute(f"PRAGMA key = \"x'{key.hex()}{salt.hex()}'\"")
    # Sorting and building indexes must not spill plain pages to disk.
    connection.execute("PRAGMA temp_store = MEMORY")
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA secure_delete = ON")
    connection.execute("PRAGMA synchronous = FULL")
    return connection


def _wipe(key: bytearray) -> None:
    key[:] = bytes(len(key))


def _database() -> Any:
    import sqlcipher3.dbapi2 as driver

    return driver
