# SPDX-License-Identifier: GPL-3.0-or-later
"""Erases everything that Red Lantern keeps under this login, and says first what that is and what it cannot reach."""

import contextlib
import shutil
from dataclasses import dataclass
from pathlib import Path

from redlantern.collection.known import known_collections
from redlantern.collection.opening import files_of
from redlantern.collection.upkeep.erasing import erase_collection
from redlantern.errors import RedlanternError
from redlantern.safety import keys, secretstore
from redlantern.safety.places import data_directory, runtime_directory, state_directory

CANNOT_PROMISE = (
    "copies that you or a backup program made elsewhere, and exports",
    "blocks that a flash disk or a file system with snapshots keeps of a file that was removed",
    "what the system wrote of this program's memory to its swap space, unless that is encrypted",
    "the documents themselves: they stay where they are",
)
"""What no erasing can reach, in plain words."""


@dataclass(frozen=True)
class Everything:
    """What would be removed: collections with all that lies beside them, and the places of keys, settings and locks."""

    collections: tuple[Path, ...]
    places: tuple[Path, ...]

    @property
    def lines(self) -> list[str]:
        """Every file and folder that would go."""
        files = [str(file) for path in self.collections for file in files_of(path)]
        return [*files, *(f"{place}/ with all in it" for place in self.places)]


def everything() -> Everything:
    """Look what there is."""
    return Everything(tuple(known_collections()), (data_directory(), runtime_directory(), state_directory()))


def erase_everything(found: Everything) -> list[str]:
    """Erase it, collections first. Gives what could not be, each with the reason; the rest is gone."""
    problems = []
    for path in found.collections:
        try:
            erase_collection(path)
        except RedlanternError as failure:
            problems.append(str(failure))
    key_folder = data_directory() / "keys"
    for key in key_folder.glob("*.key") if key_folder.is_dir() else ():
        with contextlib.suppress(OSError):
            keys.overwrite(key, 0, keys.KEY_BYTES)
    if not problems:
        for place in found.places:
            shutil.rmtree(place, ignore_errors=True)
    with contextlib.suppress(secretstore.SecretStoreError):
        secretstore.forget_all()
    return problems
