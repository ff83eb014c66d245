# SPDX-License-Identifier: GPL-3.0-or-later
"""Connections to a collection file: the only module that loads the database driver."""

import os
from pathlib import Path
from typing import Any
from urllib.parse import quote

from redlantern.collection import errors


def log_path(path: Path) -> Path:
    """The write-ahead log of a collection."""
    return path.with_name(path.name + "-wal")


def connected(path: Path, key: bytearray, salt: bytes, *, is_read_only: bool = False) -> Any:
    """Open a connection to a collection file, with everything set that keeps its contents within it.

    Raises
    ------
    CannotWriteError
        If it cannot be opened.
    """
    driver = database()
    place = f"file:{quote(os.fsencode(path.absolute()))}{_options(path, is_read_only=is_read_only)}"
    try:
        connection = driver.connect(place, uri=True, isolation_level=None, check_same_thread=False, timeout=10)
    except driver.OperationalError as failure:
        raise errors.CannotWriteError(str(path), str(failure)) from failure
    # Damage is told in our words, and not on the terminal behind our back.
    connection.execute("PRAGMA cipher_log_level = NONE")
    connection.execute(f"PRAGMA key = \"x'{key.hex()}{salt.hex()}'\"")
    if is_read_only:
        # The index of the log is then kept in memory and not in a file beside it, which nobody could make here.
        connection.execute("PRAGMA locking_mode = EXCLUSIVE")
    # Sorting and building indexes must not spill plain pages to disk.
    connection.execute("PRAGMA temp_store = MEMORY")
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA secure_delete = ON")
    connection.execute("PRAGMA synchronous = FULL")
    return connection


def _options(path: Path, *, is_read_only: bool) -> str:
    if not is_read_only:
        return "?mode=rw"
    log = log_path(path)
    if log.exists() and log.stat().st_size:
        # Entries that a program did not come to bring into the file before it ended: they are read from the log. Nobody
        # takes the database's own locks for that, which would need the right to write; our lock keeps others from replacing it.
        return "?mode=ro&vfs=unix-none"
    return "?mode=ro&immutable=1"


def database() -> Any:
    """The database driver, loaded on first use."""
    import sqlcipher3.dbapi2 as driver

    return driver
