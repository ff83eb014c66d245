# SPDX-License-Identifier: GPL-3.0-or-later
"""Where Red Lantern may write outside a collection: keys, lock files and sockets, never documents' words."""

import os
import stat
import tempfile
from pathlib import Path

from redlantern.base_directories import data_place
from redlantern.errors import RedlanternError
from redlantern.translation import tr


class PlaceNotPrivateError(RedlanternError):
    """A directory that must be ours alone belongs to somebody else."""

    def __init__(self, directory: str) -> None:
        super().__init__(directory)
        self.directory = directory

    def __str__(self) -> str:
        return tr(
            "The folder {directory} belongs to another user, so keys and sockets are not safe there. Nothing was "
            "written. Remove it or set XDG_RUNTIME_DIR to a folder of your own."
        ).format(directory=self.directory)


def data_directory() -> Path:
    """The application's own directory for keys and the demo collection (XDG base directories), mode 0700."""
    return private_directory(data_place())


def state_directory() -> Path:
    """The directory for what helps to find a fault: never words or names of documents; mode 0700."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return private_directory(Path(base) / "redlantern")


def runtime_directory() -> Path:
    """A directory for locks and sockets that lasts as long as the login, mode 0700."""
    base = os.environ.get("XDG_RUNTIME_DIR")
    if base and os.access(base, os.W_OK):
        return private_directory(Path(base) / "redlantern")
    return private_directory(Path(tempfile.gettempdir()) / f"redlantern-{os.getuid()}")


def private_directory(directory: Path) -> Path:
    """Make a directory that this user alone can enter, or check that it is one."""
    directory.mkdir(parents=True, exist_ok=True, mode=0o700)
    status = directory.lstat()
    if not stat.S_ISDIR(status.st_mode) or status.st_uid != os.getuid():
        raise PlaceNotPrivateError(str(directory))
    if stat.S_IMODE(status.st_mode) & 0o077:
        directory.chmod(0o700)
    return directory
