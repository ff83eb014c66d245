# SPDX-License-Identifier: GPL-3.0-or-later
"""Remembers where collections and copies of them are: their paths and nothing else.

For the menu, for erasing everything, and so that no key is destroyed that
another file still needs.
"""

import contextlib
import json
from pathlib import Path

from redlantern.safety.places import data_directory
from redlantern.safety.placing import put_text

_MOST = 200


_COLLECTIONS, _COPIES = "collections.json", "copies.json"


def known_collections() -> list[Path]:
    """The collections that were made or opened under this login and are still there, the latest first."""
    return [path for path in _read(_COLLECTIONS) if path.is_file()]


def note_collection(path: Path) -> None:
    """Remember a collection as the latest."""
    _write(_COLLECTIONS, [path.absolute(), *(known for known in _read(_COLLECTIONS) if known != path.absolute())])


def forget_collection(path: Path) -> None:
    """Remember a collection no longer."""
    _write(_COLLECTIONS, [known for known in _read(_COLLECTIONS) if known != path.absolute()])


def note_copy(path: Path) -> None:
    """Remember a file that is written as a copy of a collection, before it is there."""
    known = _read(_COPIES)
    if path.absolute() not in known:
        _write(_COPIES, [path.absolute(), *known])


def others_with_salt(salt: bytes, but: Path) -> list[Path]:
    """The known files other than one that begin with this salt: they need the key that is held for it."""
    found = []
    for path in dict.fromkeys(_read(_COLLECTIONS) + _read(_COPIES)):
        with contextlib.suppress(OSError):
            if path.resolve() != but.resolve() and path.is_file() and _first_bytes(path, len(salt)) == salt:
                found.append(path)
    return found


def _first_bytes(path: Path, n_bytes: int) -> bytes:
    with path.open("rb") as file:
        return file.read(n_bytes)


def _read(name: str) -> list[Path]:
    try:
        found = json.loads((data_directory() / name).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return []
    return [Path(path) for path in found if isinstance(path, str)] if isinstance(found, list) else []


def _write(name: str, paths: list[Path]) -> None:
    # ASCII with escapes: names that are not UTF-8 come back as they were.
    put_text(data_directory() / name, json.dumps([str(path) for path in paths[:_MOST]]))
