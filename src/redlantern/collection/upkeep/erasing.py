# SPDX-License-Identifier: GPL-3.0-or-later
"""Erases a whole collection: its key first, then its files."""

import os
from dataclasses import dataclass
from pathlib import Path

from redlantern.collection import errors
from redlantern.collection.known import others_with_salt
from redlantern.collection.opening import files_of, read_salt
from redlantern.collection.process_lock import held_alone, lock_path
from redlantern.safety import keys
from redlantern.safety.keys import Holding
from redlantern.safety.placing import sync_folder

_LOOKED_AT_BYTES = 1024
_OVERWRITTEN_BYTES = 4096


@dataclass(frozen=True)
class ErasedCollection:
    """What was removed, and which other known files need the key, so that it was kept."""

    removed: tuple[str, ...]
    key_kept_for: tuple[str, ...]


def check_is_ours(path: Path) -> None:
    """See that a file is a collection, by its first bytes, before anything is done to it.

    Raises
    ------
    CollectionMissingError, CannotReadError, NotACollectionError
    """
    holding = keys.holding_of(read_salt(path))
    with path.open("rb") as file:
        beginning = file.read(_LOOKED_AT_BYTES)
    # Our mark alone could begin a letter; the rest of a collection is random bytes, which are no text.
    if holding is None or len(beginning) < _LOOKED_AT_BYTES or _is_text(beginning):
        raise errors.NotACollectionError(str(path))


def erase_collection(path: Path) -> ErasedCollection:
    """Erase a collection for good: first its key, then the file with everything beside it.

    With a passphrase, the bytes that the key is derived with are destroyed
    first: from then on the passphrase opens nothing. A key that is held
    elsewhere is destroyed unless another known file needs it. A symbolic link is
    followed, and goes as well.

    Raises
    ------
    NotACollectionError
        If it is none; the file is as it was.
    CollectionMissingError, CollectionInUseError, CannotWriteError
    """
    named, path = path, path.resolve()
    check_is_ours(path)
    with held_alone(path):
        salt = read_salt(path)
        others = others_with_salt(salt, path)
        try:
            if keys.holding_of(salt) is Holding.PASSPHRASE:
                keys.overwrite(path, 0, keys.SALT_BYTES)
            if not others:
                keys.destroy_key(salt)
            removed = [file for file in files_of(path) if file != lock_path(path)]
            for left_file in removed:
                keys.overwrite(left_file, 0, min(_OVERWRITTEN_BYTES, left_file.stat().st_size))
                left_file.unlink()
            if named.is_symlink():
                named.unlink()
            sync_folder(path.parent)
        except OSError as failure:
            raise errors.CannotWriteError(os.fsdecode(path), failure.strerror or "unknown error") from failure
    return ErasedCollection(tuple(map(str, removed)), tuple(map(str, others)))


def _is_text(raw: bytes) -> bool:
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError as failure:
        # Cut within its last character.
        return failure.start >= len(raw) - 3
    return True
