"""Makes and opens collection files, and holds the claim to write to one."""

import contextlib
import fcntl
import hashlib
import os
import shutil
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from redlantern.collection import errors, schema
from redlantern.safety import keys
from redlantern.safety.places import private_directory, runtime_directory

MIN_FILE_BYTES = 1024


class CollectionFile:
    """An open collection file: one connection for each thread that uses it.

    Readers see the last whole state while a writer works (write-ahead log).
    """

    def __init__(self, path: Path, key: bytes, salt: bytes) -> None:
        self.path = path
        self._key, self._salt = key, salt
        self._mine = threading.local()
        self._all: list[Any] = []
        self._guard = threading.Lock()
        self._claim: int | None = None

    @property
    def key_path(self) -> Path:
        """Where the key of this file is kept."""
        return keys.key_path(self._salt)

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
    def writing(self) -> Iterator[Any]:
        """One transaction: everything in the body is kept, or nothing of it.

        Raises
        ------
        DiskFullError, CannotWriteError, DamagedCollectionError
            When the disk or the file system is at fault.
        """
        connection = self.connection
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

    def claim_writing(self) -> None:
        """Become the one process that may change the collection, until it is closed.

        Raises
        ------
        CollectionInUseError
            If another process is that already.
        """
        if self._claim is not None:
            return
        # Beside the login's other locks and not on the file itself: closing any handle of the
        # file would drop the locks the database holds on it (POSIX locks belong to the process).
        name = hashlib.sha256(str(self.path.resolve()).encode()).hexdigest()[:24]
        handle = os.open(
            private_directory(runtime_directory() / "locks") / f"{name}.lock", os.O_RDWR | os.O_CREAT, 0o600
        )
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as failure:
            holder = os.pread(handle, 20, 0).decode(errors="replace").strip()
            os.close(handle)
            raise errors.CollectionInUseError(str(self.path), f" (process {holder})" if holder else "") from failure
        os.truncate(handle, 0)
        os.pwrite(handle, str(os.getpid()).encode(), 0)
        self._claim = handle

    def close(self) -> None:
        """Close every connection and give up the claim to write."""
        with self._guard:
            connections, self._all = self._all, []
        self._mine = threading.local()
        for connection in connections:
            connection.close()
        if self._claim is not None:
            os.close(self._claim)
            self._claim = None

    def _connect(self) -> Any:
        driver = _database()
        connection = driver.connect(str(self.path), isolation_level=None, check_same_thread=False, timeout=10)
        connection.execute(f"PRAGMA key = \"x'{self._key.hex()}{self._salt.hex()}'\"")
        # Sorting and building indexes must not spill plain pages to disk.
        connection.execute("PRAGMA temp_store = MEMORY")
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA secure_delete = ON")
        connection.execute("PRAGMA synchronous = FULL")
        return connection


def create(path: Path) -> CollectionFile:
    """Make a new, empty collection with a key of its own.

    Raises
    ------
    CannotWriteError
        If there is a file already, or the place cannot be written to.
    """
    if path.exists():
        raise errors.CannotWriteError(str(path), "there is a file of this name already")
    if not path.parent.is_dir():
        raise errors.CannotWriteError(str(path), "its folder does not exist")
    if not os.access(path.parent, os.W_OK):
        raise errors.CannotWriteError(str(path), "its folder cannot be written to")
    salt = keys.new_salt()
    # The key is on disk before anything is encrypted with it.
    file = CollectionFile(path, keys.make_key(salt), salt)
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    os.close(handle)
    with file.explained():
        file.connection.execute("PRAGMA journal_mode = WAL")
        file.connection.executescript(
            f"BEGIN; PRAGMA application_id = {schema.APPLICATION_ID}; PRAGMA user_version = {schema.VERSION};"
            f"{schema.TABLES} COMMIT;"
        )
    return file


def open_file(path: Path) -> CollectionFile:
    """Open a collection.

    Raises
    ------
    CollectionMissingError, NotACollectionError, NewerCollectionError, DamagedCollectionError
        If it cannot be.
    """
    if not path.is_file():
        raise errors.CollectionMissingError(str(path))
    try:
        with path.open("rb") as raw:
            salt = raw.read(keys.SALT_BYTES)
        n_bytes = path.stat().st_size
    except OSError as failure:
        raise errors.CannotWriteError(str(path), failure.strerror or "unknown error") from failure
    key = keys.find_key(salt)
    if key is None:
        raise errors.NotACollectionError(str(path))
    if n_bytes < MIN_FILE_BYTES:
        raise errors.DamagedCollectionError(str(path), "most of the file is missing")
    file = CollectionFile(path, key, salt)
    try:
        with file.explained():
            version = file.connection.execute("PRAGMA user_version").fetchone()[0]
            application = file.connection.execute("PRAGMA application_id").fetchone()[0]
        if application != schema.APPLICATION_ID:
            raise errors.NotACollectionError(str(path))
        if version > schema.VERSION:
            raise errors.NewerCollectionError(str(path), version, schema.VERSION)
        _migrate(file, version)
    except BaseException:
        file.close()
        raise
    return file


def _migrate(file: CollectionFile, version: int) -> None:
    """Bring an older file up to this version, one step at a time, after a copy of it was made beside it."""
    if version == schema.VERSION:
        return
    file.claim_writing()
    with file.explained():
        file.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    copy = file.path.with_name(f"{file.path.name}.version-{version}")
    try:
        if not copy.exists():
            beside = copy.with_name(f"{copy.name}.writing")
            shutil.copyfile(file.path, beside)
            beside.chmod(0o600)
            beside.replace(copy)
    except OSError as failure:
        raise errors.CannotWriteError(str(copy), failure.strerror or "unknown error") from failure
    for step in range(version + 1, schema.VERSION + 1):
        with file.explained():
            file.connection.executescript(f"BEGIN; {schema.MIGRATIONS[step]} PRAGMA user_version = {step}; COMMIT;")


def _database() -> Any:
    import sqlcipher3.dbapi2 as driver

    return driver
