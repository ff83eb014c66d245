# SPDX-License-Identifier: GPL-3.0-or-later
"""Lists the files in folders that could be documents. None of them is opened."""

import os
import stat
from collections.abc import Sequence
from pathlib import Path

from redlantern.collection import errors
from redlantern.collection.opening import is_of_a_collection
from redlantern.collection.prepared import Source
from redlantern.collection.process_lock import LOCK_ENDING
from redlantern.collection.unfinished import UNFINISHED
from redlantern.progress import Cancel
from redlantern.safety.names import path_of, path_text

_OUR_ENDINGS = (".redlantern", LOCK_ENDING, UNFINISHED)
"""Only files with one of these in their names are looked into whether they are ours."""


def scan(paths: list[Path], cancel: Cancel | None = None) -> dict[str, Source]:
    """List the regular files under the paths. Links are not followed, hidden files not looked at.

    Raises
    ------
    SourceMissingError
        If one of the paths is not there.
    Cancelled
    """
    found: dict[str, Source] = {}
    for path in paths:
        if not path.exists():
            raise errors.SourceMissingError(str(path))
        if path.is_dir():
            for folder, folders, names in os.walk(path, followlinks=False):
                if cancel is not None:
                    cancel.check()
                folders[:] = sorted(name for name in folders if not name.startswith("."))
                for name in sorted(names):
                    if not name.startswith((".", "~$")):
                        _note(found, Path(folder) / name, path)
        elif path_text(path) not in found:
            # Named within a folder that is looked at, too, it keeps that folder for its root.
            _note(found, path, path.parent)
    return found


def _note(found: dict[str, Source], path: Path, root: Path) -> None:
    try:
        status = path.lstat()
    except OSError:
        return  # it went away while the folder was listed
    if stat.S_ISREG(status.st_mode):
        name = path_text(path)
        found[name] = Source(name, path_text(root), status.st_size, status.st_mtime_ns)


def list_files(paths: Sequence[Path]) -> list[Path]:
    """The regular files in folders and below them, in order; links are not followed, hidden files not looked at.

    Raises
    ------
    SourceMissingError
        If one of the paths is not there.
    """
    return [path_of(name) for name in scan([path.absolute() for path in paths])]


def check_there_are_files(paths: Sequence[Path]) -> None:
    """See that there is something to read, before anything is made for it.

    Raises
    ------
    SourceMissingError, NothingToReadError
    """
    if not list_files(paths):
        raise errors.NothingToReadError(str(paths[0]))


def is_ours(path: str) -> bool:
    """Whether a file is a collection or lies beside one for its sake: no document, whosever it is."""
    return any(end in path for end in _OUR_ENDINGS) and is_of_a_collection(path_of(path))
