# SPDX-License-Identifier: GPL-3.0-or-later
"""Finishes what an interruption left of other upkeep. Destroys only what the collection itself has recorded as its own."""

import contextlib
import json
from pathlib import Path
from typing import Any

from redlantern.collection.errors import CannotReadError, CollectionMissingError
from redlantern.collection.known import note_copy, others_with_salt
from redlantern.collection.opening import exchange_copies, read_salt
from redlantern.collection.store import Collection
from redlantern.collection.unfinished import UNFINISHED
from redlantern.safety import keys
from redlantern.safety.names import path_of, path_text

_REPLACED = "replaced key"
"""The fact that names the salt whose key is to be destroyed once the file with the new key is in place."""
_UNFINISHED_KEYS = "unfinished keys"
"""The fact that names keys made for files that are not in place yet: from each salt to the path of its file."""


def tidy(collection: Collection) -> None:
    """Finish what an interruption left: destroy keys that no file came to need, remove files that were never finished."""
    if collection.is_read_only or not collection.file.is_claimed:
        return
    for copy in exchange_copies(collection.path):
        copy.unlink()
    _finish_keys(collection)
    leftover = _unfinished(collection.path)
    if _salt_at(leftover) in (collection.file.salt, b""):
        leftover.unlink()
    destroy_replaced(collection)
    _note_backups(collection)


def begin_key(collection: Collection, salt: bytes, path: Path) -> None:
    """Record that a key was made for a file that is to come to `path`, before anything is encrypted with it."""
    _keep(collection, _unfinished_keys(collection) | {salt.hex(): path_text(path.absolute())})


def end_key(collection: Collection, salt: bytes) -> None:
    """Record that the file of a key is in place, or that there will be none."""
    _keep(collection, {name: path for name, path in _unfinished_keys(collection).items() if name != salt.hex()})


def record_in_copy(connection: Any, replaced: bytes | None) -> None:
    """Let a copy know what it is to destroy: the key of the file whose place it takes, or nothing of the original's."""
    connection.execute("DELETE FROM facts WHERE name IN (?, ?)", (_REPLACED, _UNFINISHED_KEYS))
    if replaced is not None:
        connection.execute("INSERT INTO facts VALUES (?, ?)", (_REPLACED, replaced.hex()))


def destroy_replaced(collection: Collection) -> list[Path]:
    """Destroy the key that was replaced unless a known file needs it; gives the files that still do."""
    replaced = collection.facts.get(_REPLACED)
    if not replaced:
        return []
    salt = bytes.fromhex(replaced)
    others = others_with_salt(salt, collection.path)
    if salt != collection.file.salt and not others:
        keys.destroy_key(salt)
    collection.facts.drop(_REPLACED)
    return others


def _finish_keys(collection: Collection) -> None:
    for name, place in _unfinished_keys(collection).items():
        salt, path = bytes.fromhex(name), path_of(place)
        if salt != collection.file.salt and _salt_at(path) != salt:
            keys.destroy_key(salt)
            if _salt_at(_unfinished(path)) in (salt, b""):
                _unfinished(path).unlink()
        end_key(collection, salt)


def _note_backups(collection: Collection) -> None:
    """Remember the backups of before each copy had a key of its own."""
    for [words] in collection.file.rows("SELECT words FROM journal WHERE what = 'backed up' AND words IS NOT NULL"):
        if _salt_at(path_of(words)) == collection.file.salt:
            note_copy(path_of(words))


def _unfinished_keys(collection: Collection) -> dict[str, str]:
    return dict(json.loads(collection.facts.get(_UNFINISHED_KEYS, "{}")))


def _keep(collection: Collection, unfinished: dict[str, str]) -> None:
    if unfinished:
        collection.facts.put(_UNFINISHED_KEYS, json.dumps(unfinished))
    else:
        collection.facts.drop(_UNFINISHED_KEYS)


def _unfinished(path: Path) -> Path:
    return path.with_name(path.name + UNFINISHED)


def _salt_at(path: Path) -> bytes | None:
    with contextlib.suppress(CollectionMissingError, CannotReadError):
        return read_salt(path)
    return None
