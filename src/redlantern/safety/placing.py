# SPDX-License-Identifier: GPL-3.0-or-later
"""The one way in which a file that is written outside of a collection is put in its place: whole, on the disk, ours alone."""

import contextlib
import os
import tempfile
from pathlib import Path


def put_text(target: Path, text: str) -> None:
    """Write a text file (mode 0600) beside its place and give it its name in one step; on every way out nothing else is left.

    Raises
    ------
    OSError
        If it cannot be written; what was at `target` is as it was.
    """
    put_bytes(target, text.encode("utf-8", "surrogateescape"))


def put_bytes(target: Path, content: bytes) -> None:
    """The same for bytes."""
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=".writing-")
    beside = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        beside.replace(target)
    except BaseException:
        with contextlib.suppress(OSError):
            beside.unlink()
        raise
    sync_folder(target.parent)


def sync_folder(folder: Path) -> None:
    """See that names given in a folder are on the disk."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
