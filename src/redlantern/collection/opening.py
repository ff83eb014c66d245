"""Makes and opens collection files, and brings older ones up to the present version."""

import os
import shutil
from pathlib import Path

from redlantern.collection import errors, schema
from redlantern.collection.file import UNFINISHED, CollectionFile, put_in_place
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


EXCHANGED = ".other-model"
"""How the name of a copy ends that is embedded anew to take a collection's place."""


def exchange_copies(path: Path) -> list[Path]:
    """What there is of such a copy beside a collection: one that is being made, or that an interruption left."""
    return sorted(path.parent.glob(f"{_escaped(path.name)}{EXCHANGED}*"))


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
            put_in_place(beside, copy)
    except OSError as failure:
        raise errors.CannotWriteError(str(copy), failure.strerror or "unknown error") from failure
    for step in range(version + 1, schema.VERSION + 1):
        with file.explained():
            file.connection.executescript(f"BEGIN; {schema.MIGRATIONS[step]} PRAGMA user_version = {step}; COMMIT;")


def _escaped(name: str) -> str:
    return "".join(f"[{one}]" if one in "*?[" else one for one in name)
