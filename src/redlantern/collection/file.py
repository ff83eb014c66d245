"""Makes and opens collection files, and holds the claim to write to one."""

import contextlib
import fcntl
import hashlib
import os
import shutil
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Literal
from urllib.parse import quote

from redlantern.collection import errors, schema
from redlantern.safety import keys
from redlantern.safety.keys import Holding
from redlantern.safety.places import private_directory, runtime_directory

MIN_FILE_BYTES = 1024
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
    def writing(self) -> Iterator[Any]:
        """One transaction: everything in the body is kept, or nothing of it. Within another one, a part of that.

        Raises
        ------
        DiskFullError, CannotWriteError, DamagedCollectionError
            When the disk or the file system is at fault.
        """
        if self.is_read_only:
            raise errors.CannotWriteError(str(self.path), "its disk or folder can only be read")
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
        with self.explained():
            return list(self.connection.execute(sql, values).fetchall())

    def row(self, sql: str, *values: object) -> Any:
        """The first row that a statement gives, or None."""
        with self.explained():
            return self.connection.execute(sql, values).fetchone()

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
        self, target: Path, key: bytes, salt: bytes, *, changes: Callable[[Any], None] | None = None
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
            _put_in_place(beside, target)
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
        """Close every connection; new ones are made when needed."""
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


def create(path: Path, holding: Holding = Holding.FILE, passphrase: str = "") -> CollectionFile:
    """Make a new, empty collection with a key of its own.

    Parameters
    ----------
    path : Path
        There is no file of this name yet.
    holding : Holding
        How the key is to be held.
    passphrase : str
        For Holding.PASSPHRASE.

    Raises
    ------
    CannotWriteError
        If there is a file already, or the place cannot be written to.
    PassphraseNeededError, SecretStoreError
        If the key cannot be held so.
    """
    if path.exists():
        raise errors.CannotWriteError(str(path), "there is a file of this name already")
    if not path.parent.is_dir():
        raise errors.CannotWriteError(str(path), "its folder does not exist")
    if not os.access(path.parent, os.W_OK):
        raise errors.CannotWriteError(str(path), "its folder cannot be written to")
    # The key is held before anything is encrypted with it.
    salt, key = keys.new_key(holding, passphrase)
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    os.close(handle)
    file = CollectionFile(path, key, salt)
    with file.explained():
        file.connection.execute("PRAGMA journal_mode = WAL")
        file.connection.executescript(
            f"BEGIN; PRAGMA application_id = {schema.APPLICATION_ID}; PRAGMA user_version = {schema.VERSION};"
            f"{schema.TABLES} COMMIT;"
        )
    return file


def open_file(path: Path, passphrase: str | None = None) -> CollectionFile:
    """Open a collection.

    Raises
    ------
    CollectionMissingError, NotACollectionError, NewerCollectionError, DamagedCollectionError
        If it cannot be.
    PassphraseNeededError, WrongPassphraseError, SecretStoreError
        If its key is not to be had; the file is untouched.
    """
    salt = read_salt(path)
    key = keys.find_key(salt, passphrase)
    if key is None:
        if keys.holding_of(salt) is not None:
            raise errors.KeyMissingError(str(path))
        raise errors.NotACollectionError(str(path))
    if path.stat().st_size < MIN_FILE_BYTES:
        raise errors.DamagedCollectionError(str(path), "most of the file is missing")
    can_write = os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)
    file = CollectionFile(path, key, salt, is_read_only=not can_write)
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


def read_salt(path: Path) -> bytes:
    """The bytes that a collection file begins with.

    Raises
    ------
    CollectionMissingError, CannotWriteError
        If there is no file, or it cannot be read.
    """
    if not path.is_file():
        raise errors.CollectionMissingError(str(path))
    try:
        with path.open("rb") as raw:
            return raw.read(keys.SALT_BYTES)
    except OSError as failure:
        raise errors.CannotWriteError(str(path), failure.strerror or "unknown error") from failure


def older_copies(path: Path) -> list[Path]:
    """The copies that were made beside a collection before its file version was raised."""
    return sorted(path.parent.glob(f"{_escaped(path.name)}.version-*"))


def put_aside(path: Path) -> list[Path]:
    """The damaged files that mending put aside beside a collection."""
    return sorted(path.parent.glob(f"{_escaped(path.name)}.damaged-*"))


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


def _migrate(file: CollectionFile, version: int) -> None:
    """Bring an older file up to this version, one step at a time, after a copy of it was made beside it."""
    if version == schema.VERSION:
        return
    file.claim_writing()
    file.migrated_from = version
    file.settle()
    copy = file.path.with_name(f"{file.path.name}.version-{version}")
    try:
        if not copy.exists():
            beside = copy.with_name(copy.name + UNFINISHED)
            shutil.copyfile(file.path, beside)
            beside.chmod(0o600)
            _put_in_place(beside, copy)
    except OSError as failure:
        raise errors.CannotWriteError(str(copy), failure.strerror or "unknown error") from failure
    for step in range(version + 1, schema.VERSION + 1):
        with file.explained():
            file.connection.executescript(f"BEGIN; {schema.MIGRATIONS[step]} PRAGMA user_version = {step}; COMMIT;")


def _put_in_place(beside: Path, target: Path) -> None:
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
    connection.execute(f"PRAGMA key = \"x'{key.hex()}{salt.hex()}'\"")
    # Sorting and building indexes must not spill plain pages to disk.
    connection.execute("PRAGMA temp_store = MEMORY")
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA secure_delete = ON")
    connection.execute("PRAGMA synchronous = FULL")
    return connection


def _wipe(key: bytearray) -> None:
    key[:] = bytes(len(key))


def _escaped(name: str) -> str:
    return "".join(f"[{one}]" if one in "*?[" else one for one in name)


def _database() -> Any:
    import sqlcipher3.dbapi2 as driver

    return driver
