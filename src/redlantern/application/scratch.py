# SPDX-License-Identifier: GPL-3.0-or-later
"""Scratch collections: for a few files and one sitting, erased when they are closed.

Each is an ordinary encrypted file in a folder of its own in the application's
data directory. What opens it is a random passphrase that is written down
nowhere: whatever is left of one after a crash opens no more, and is removed
when Red Lantern is started the next time.
"""

import contextlib
import secrets
import shutil
import time
from pathlib import Path

from redlantern.collection.errors import CollectionMissingError, NotACollectionError
from redlantern.collection.process_lock import held_alone, lock_path
from redlantern.collection.upkeep import erase_collection
from redlantern.errors import RedlanternError
from redlantern.safety.places import data_directory, private_directory

SCRATCH = "Scratch"
_NAME = f"{SCRATCH}.redlantern"
_MADE_LONG_AGO_S = 60
"""A folder in which nothing stands yet may be one that another window has made just now."""


def _folder() -> Path:
    return private_directory(data_directory() / "scratch")


def new_scratch() -> tuple[Path, str]:
    """A place for a scratch collection, and the passphrase to make it with, which must be kept in memory alone."""
    return private_directory(_folder() / secrets.token_hex(8)) / _NAME, secrets.token_urlsafe(24)


def is_scratch(path: Path) -> bool:
    """Whether a collection is one that goes when it is closed."""
    return path.name == _NAME and path.absolute().parent.parent == _folder()


def erase_scratch(path: Path) -> None:
    """Erase a closed scratch collection with its folder, and whatever was begun there and is no collection yet.

    Raises
    ------
    CollectionInUseError, CannotWriteError
        If another window has it open, or its files cannot be removed.
    """
    with contextlib.suppress(CollectionMissingError, NotACollectionError):
        erase_collection(path)
    # Whoever makes one holds the lock from before the first byte.
    with held_alone(path):
        shutil.rmtree(path.parent, ignore_errors=True)


def erase_left() -> int:
    """Remove what crashes left of scratch collections, but none that is open; gives how many."""
    n_removed = 0
    for folder in _folder().iterdir():
        path = folder / _NAME
        # A link would lead to something that is none of ours.
        if folder.is_symlink() or not folder.is_dir() or path.is_symlink():
            continue
        if not lock_path(path).exists() and time.time() - folder.stat().st_mtime < _MADE_LONG_AGO_S:
            continue
        # One that is open, or cannot be removed, does not keep the others.
        with contextlib.suppress(RedlanternError):
            erase_scratch(path)
            n_removed += 1
    return n_removed
