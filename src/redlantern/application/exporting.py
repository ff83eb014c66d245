# SPDX-License-Identifier: GPL-3.0-or-later
"""Files that window and commands write for people: whole, in the folder that was named, for this login alone."""

import os
from pathlib import Path

from redlantern.collection.errors import CannotWriteError
from redlantern.safety.placing import put_bytes


def put_exported(target: Path, content: bytes) -> None:
    """Write a file that was asked for, in its folder, for this login alone.

    Raises
    ------
    CannotWriteError
        If it cannot be written; what was there is as it was.
    """
    try:
        target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        put_bytes(target, content)
    except OSError as failure:
        raise CannotWriteError(os.fsdecode(target), failure.strerror or "unknown error") from failure
