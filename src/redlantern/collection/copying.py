# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies of a whole collection file, encrypted from the first byte on and complete before they bear their name."""

import contextlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from redlantern.collection import schema
from redlantern.collection.connecting import connected, database
from redlantern.collection.file import CollectionFile
from redlantern.collection.unfinished import make_unfinished, put_in_place
from redlantern.progress import Cancel, Progress, Report, silent
from redlantern.translation import tr

_STEPS_BETWEEN_LOOKS = 20_000
"""How many steps of the database's machine pass between two looks whether to stop: some hundredths of a second."""
_MB = 2**20


def write_copy(
    file: CollectionFile,
    target: Path,
    key: bytes,
    salt: bytes,
    *,
    changes: Callable[[Any], None] | None = None,
    report: Report = silent,
    cancel: Cancel | None = None,
) -> None:
    """Write everything, as it is at this moment, to another file under another key or the same.

    The copy holds live rows only, so that nothing erased comes along. It is
    complete and on the disk before it bears its name.

    Parameters
    ----------
    file : CollectionFile
    target : Path
        Replaced if it is there.
    key, salt : bytes
        What the copy is encrypted with.
    changes : callable
        Gets a connection to the copy before it bears its name.
    report : callable
        Gets a Progress in megabytes.

    Raises
    ------
    DiskFullError, CannotWriteError, Cancelled
    """
    with file.reading():
        beside = make_unfinished(target)
        try:
            export(file, beside, key, salt, report, cancel or Cancel())
            if changes is not None:
                with contextlib.closing(connected(beside, bytearray(key), salt)) as copy:
                    changes(copy)
            if target == file.path:
                file.close_settled()
            put_in_place(beside, target)
        except BaseException:
            with contextlib.suppress(FileNotFoundError):
                beside.unlink()
            raise


def export(file: CollectionFile, beside: Path, key: bytes, salt: bytes, report: Report, cancel: Cancel) -> None:
    """Write all live rows to a file that is not there yet, in one transaction."""
    total = max(1, file.path.stat().st_size // _MB)

    def look() -> int:
        with contextlib.suppress(FileNotFoundError):
            report(Progress(tr("Copying"), min(beside.stat().st_size // _MB, total), total, "MB"))
        return int(cancel.is_set)

    with file.helper_connection() as connection:
        connection.set_progress_handler(look, _STEPS_BETWEEN_LOOKS)
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
        except database().OperationalError:
            cancel.check()  # what was stopped is no failure
            raise
        connection.execute("DETACH DATABASE copy")
