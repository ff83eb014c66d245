# SPDX-License-Identifier: GPL-3.0-or-later
"""Which models of their own people have brought in under this login, each by the SHA-256 of its files when it was tried.

A collection only names the place of its models. Whoever hands somebody a
collection, or can write to that place, must not be able to choose the code that
is loaded for it: what is loaded is what was tried here, byte for byte.
"""

import json
from pathlib import Path

from redlantern.errors import RedlanternError
from redlantern.models.register import sha256_of
from redlantern.safety.names import path_text
from redlantern.safety.places import data_directory
from redlantern.safety.placing import put_text
from redlantern.translation import tr

_PLACE = "models.json"


class ModelNotApprovedError(RedlanternError):
    """A model is not one that was brought in here, or not the same any more."""

    def __init__(self, path: str, has_changed: bool) -> None:
        super().__init__(path, has_changed)
        self.path, self.has_changed = path, has_changed

    def __str__(self) -> str:
        why = (
            tr("is not the model that was checked when it was brought in: its file was changed since")
            if self.has_changed
            else tr("was never brought in and checked under this login")
        )
        return tr(
            "The model at {path}, which this collection names, {why}. It was not loaded; the packaged model is "
            "used. If you trust it, bring it in again in the Models room."
        ).format(path=self.path, why=why)


def hashes_of(*files: Path) -> dict[str, str]:
    """The SHA-256 of files, by their names."""
    return {path_text(file.name): sha256_of(file) for file in files}


def approve(place: Path, hashes: dict[str, str]) -> None:
    """Remember that the model at a place was brought in with these files."""
    put_text(data_directory() / _PLACE, json.dumps(_read() | {path_text(place.absolute()): hashes}))


def approved_hashes(place: Path) -> dict[str, str]:
    """The SHA-256 that the files of the model at this place must have, by their names.

    Raises
    ------
    ModelNotApprovedError
        If it was never brought in.
    """
    found = _read().get(path_text(place.absolute()))
    if not found:
        raise ModelNotApprovedError(str(place), has_changed=False)
    return found


def is_approved(place: Path) -> bool:
    """Whether the model at this place was ever brought in here."""
    return path_text(place.absolute()) in _read()


def check(place: Path, hashes: dict[str, str]) -> None:
    """See that these are the files with which the model at a place was brought in.

    Raises
    ------
    ModelNotApprovedError
        If they are not.
    """
    if approved_hashes(place) != hashes:
        raise ModelNotApprovedError(str(place), has_changed=True)


def _read() -> dict[str, dict[str, str]]:
    try:
        found = json.loads((data_directory() / _PLACE).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    if not isinstance(found, dict):
        return {}
    return {
        str(place): {str(name): str(value) for name, value in hashes.items()}
        for place, hashes in found.items()
        if isinstance(hashes, dict)
    }
