# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes and opens collection files, and brings older ones up to the present version."""

import contextlib
import os
import re
import shutil
from pathlib import Path

from redlantern.collection import errors, schema
from redlantern.collection.file import CollectionFile
from redlantern.collection.process_lock import LOCK_ENDING, ProcessLock
from redlantern.collection.unfinished import UNFINISHED, make_unfinished, put_in_place
from redlantern.safety import keys
from redlantern.safety.keys import Holding

MIN_FILE_BYTES = 1024


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
    if path.exists() or path.is_symlink():
        raise errors.CannotWriteError(str(path), "there is a file of this name already")
    if not path.parent.is_dir():
        raise errors.CannotWriteError(str(path), "its folder does not exist")
    if not os.access(path.parent, os.W_OK):
        raise errors.CannotWriteError(str(path), "its folder cannot be written to")
    with contextlib.ExitStack() as undone:
        lock = ProcessLock.opened(path)
        undone.callback(lock.release)
        # The key is held before anything is encrypted with it.
        salt, key = keys.new_key(holding, passphrase)
        undone.callback(keys.destroy_key, salt)
        _make_empty(path)
        undone.callback(path.unlink)
        file = CollectionFile(path, key, salt, lock)
        undone.callback(file.close)
        with file.reading() as connection:
            connection.execute("PRAGMA journal_mode = WAL")
            connection.executescript(
                f"BEGIN; PRAGMA application_id = {schema.APPLICATION_ID}; PRAGMA user_version = {schema.VERSION};"
                f"{schema.TABLES} COMMIT;"
            )
        undone.pop_all()
    return file


def open_file(path: Path, passphrase: str | None = None) -> CollectionFile:
    """Open a collection. A symbolic link is followed: what is locked, replaced and erased is the file itself.

    Raises
    ------
    CollectionMissingError, NotACollectionError, NewerCollectionError, DamagedCollectionError
        If it cannot be.
    CollectionInUseError, CannotLockError
        If another process is replacing it, or nothing would keep one from doing so.
    PassphraseNeededError, WrongPassphraseError, SecretStoreError
        If its key is not to be had; the file is untouched.
    """
    path = path.resolve()
    # Before anything is left beside a file that is none of ours.
    if keys.holding_of(read_salt(path)) is None:
        raise errors.NotACollectionError(str(path))
    lock = ProcessLock.opened(path)
    try:
        # Only now: it may have been replaced a moment ago.
        file = _opened(path, lock, passphrase)
    except BaseException:
        lock.release()
        raise
    try:
        with file.reading() as connection:
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            application = connection.execute("PRAGMA application_id").fetchone()[0]
        if application != schema.APPLICATION_ID:
            raise errors.NotACollectionError(str(path))
        if version > schema.VERSION:
            raise errors.NewerCollectionError(str(path), version, schema.VERSION)
        if version < schema.VERSION:
            _migrate(file, version)
    except BaseException:
        file.close()
        raise
    return file


def _opened(path: Path, lock: ProcessLock, passphrase: str | None) -> CollectionFile:
    salt = read_salt(path)
    key = keys.find_key(salt, passphrase)
    if key is None:
        if keys.holding_of(salt) is not None:
            raise errors.KeyMissingError(str(path))
        raise errors.NotACollectionError(str(path))
    if path.stat().st_size < MIN_FILE_BYTES:
        raise errors.DamagedCollectionError(str(path), "most of the file is missing")
    can_write = os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)
    return CollectionFile(path, key, salt, lock, is_read_only=not can_write)


def read_salt(path: Path) -> bytes:
    """The bytes that a collection file begins with.

    Raises
    ------
    CollectionMissingError, CannotReadError
        If there is no file, or it cannot be read.
    """
    if not path.is_file():
        raise errors.CollectionMissingError(str(path))
    try:
        with path.open("rb") as raw:
            return raw.read(keys.SALT_BYTES)
    except FileNotFoundError as failure:
        # Moved or replaced between the two looks.
        raise errors.CollectionMissingError(str(path)) from failure
    except OSError as failure:
        raise errors.CannotReadError(str(path), failure.strerror or "unknown error") from failure


def older_copies(path: Path) -> list[Path]:
    """The copies that were made beside a collection before its file version was raised."""
    return _numbered(path, "version")


def put_aside(path: Path) -> list[Path]:
    """The damaged files that mending put aside beside a collection, with their logs."""
    return _numbered(path, "damaged")


EXCHANGED = ".other-model"
"""How the name of a copy ends that is embedded anew to take a collection's place."""
TRIED = "tried"
"""Names copies that are split or embedded otherwise, to be tried; with a number."""
_BESIDE_A_DATABASE = ("-journal", "-shm", "-wal", LOCK_ENDING, "")


def exchange_copies(path: Path) -> list[Path]:
    """What there is of copies beside a collection that are being made, or that an interruption left."""
    begun = (path.name + EXCHANGED, making_of(path.name))
    named = (path.with_name(name + end) for name in begun for end in (UNFINISHED, *_BESIDE_A_DATABASE))
    return [path for path in named if path.is_file()]


def making_of(name: str) -> str:
    """The name of a copy to be tried while it is being made."""
    return f"{name}.{TRIED}-new"


def tried_copies(path: Path) -> list[Path]:
    """The copies beside a collection that are to be tried, with what the database keeps beside each."""
    return [copy for end in ("", "-wal", "-shm", "-journal") for copy in _numbered(path, TRIED, end)]


def copies_beside(path: Path) -> list[Path]:
    """Every whole copy beside a collection: from before a change of file version, put aside, and to be tried."""
    return [*older_copies(path), *put_aside(path), *tried_copies(path)]


def files_of(path: Path) -> list[Path]:
    """Every file on disk that belongs to a collection, the collection itself last."""
    beside = [path.with_name(path.name + end) for end in (UNFINISHED, *_BESIDE_A_DATABASE)]
    copies = [*copies_beside(path), *exchange_copies(path)]
    return [copy for copy in [*copies, *beside] if copy.is_file()]


def is_of_a_collection(path: Path) -> bool:
    """Whether a file is a collection, or lies beside one for its sake, by its name and what is there: no document of anybody."""
    with contextlib.suppress(OSError, errors.CollectionMissingError, errors.CannotReadError):
        if keys.is_marked(read_salt(path)):
            return True
    name = path.name
    ends = (*_BESIDE_A_DATABASE[:-1], UNFINISHED)
    owners = [path.with_name(name.removesuffix(end)) for end in ends if name.endswith(end)]
    with contextlib.suppress(OSError, errors.CollectionMissingError, errors.CannotReadError):
        return any(keys.is_marked(read_salt(owner)) for owner in owners if owner.is_file())
    return False


def _make_empty(path: Path) -> None:
    try:
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, 0o600))
    except OSError as failure:
        raise errors.CannotWriteError(str(path), failure.strerror or "unknown error") from failure


def _migrate(file: CollectionFile, version: int) -> None:
    """Bring an older file up to this version, one step at a time, after a copy of it was made beside it."""
    with file.alone():
        file.migrated_from = version
        file.settle()
        copy = file.path.with_name(f"{file.path.name}.version-{version}")
        try:
            if not copy.exists():
                beside = make_unfinished(copy)
                shutil.copyfile(file.path, beside)
                put_in_place(beside, copy)
        except OSError as failure:
            raise errors.CannotWriteError(str(copy), failure.strerror or "unknown error") from failure
        for step in range(version + 1, schema.VERSION + 1):
            with file.reading() as connection:
                connection.executescript(f"BEGIN; {schema.MIGRATIONS[step]} PRAGMA user_version = {step}; COMMIT;")


def _numbered(path: Path, word: str, end: str = "") -> list[Path]:
    named = re.compile(rf"{re.escape(path.name)}\.{word}-\d+{end}", re.DOTALL)
    return sorted(sibling for sibling in path.parent.iterdir() if named.fullmatch(sibling.name) and sibling.is_file())
