# SPDX-License-Identifier: GPL-3.0-or-later
"""Files that are made beside the one whose place they take, and put there in one step once they are whole and on the disk."""

import os
import stat
from pathlib import Path

from redlantern.collection import errors
from redlantern.safety import keys
from redlantern.safety.placing import sync_folder

UNFINISHED = ".unfinished"
"""Ends the name of a file that is being made beside the one it will replace."""


def make_unfinished(target: Path) -> Path:
    """Make the empty file that is to take the place of `target`; what an interruption left of one goes.

    Raises
    ------
    CannotWriteError
        If there is another file of its name, or none can be made.
    """
    beside = target.with_name(target.name + UNFINISHED)
    try:
        if beside.is_symlink() or (beside.exists() and not _is_a_beginning(beside)):
            raise errors.CannotWriteError(str(beside), "there is another file of this name")
        beside.unlink(missing_ok=True)
        os.close(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, 0o600))
    except OSError as failure:
        raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure
    return beside


def put_in_place(beside: Path, target: Path) -> None:
    """Give a finished file its name, in one step, once it is on the disk."""
    try:
        with beside.open("rb") as file:
            os.fsync(file.fileno())
        beside.replace(target)
        sync_folder(target.parent)
    except OSError as failure:
        raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure


def _is_a_beginning(path: Path) -> bool:
    """Whether a file is the beginning of a collection, as an interruption leaves it."""
    status = path.stat()
    if not stat.S_ISREG(status.st_mode):
        return False
    with path.open("rb") as file:
        salt = file.read(keys.SALT_BYTES)
    return not salt or keys.holding_of(salt) is not None
