"""Remembers where collections are: their paths and nothing else, for the menu and for erasing everything."""

import json
import os
from pathlib import Path

from redlantern.safety.places import data_directory

_MOST = 200


def known_collections() -> list[Path]:
    """The collections that were made or opened under this login and are still there, the latest first."""
    return [path for path in _read() if path.is_file()]


def note_collection(path: Path) -> None:
    """Remember a collection as the latest."""
    _write([path.absolute(), *(one for one in _read() if one != path.absolute())])


def forget_collection(path: Path) -> None:
    """Remember a collection no longer."""
    _write([one for one in _read() if one != path.absolute()])


def _place() -> Path:
    return data_directory() / "collections.json"


def _read() -> list[Path]:
    try:
        found = json.loads(_place().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return []
    return [Path(one) for one in found if isinstance(one, str)] if isinstance(found, list) else []


def _write(paths: list[Path]) -> None:
    beside = _place().with_suffix(".writing")
    handle = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        json.dump([str(one) for one in paths[:_MOST]], file)
    beside.replace(_place())
