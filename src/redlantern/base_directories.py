# SPDX-License-Identifier: GPL-3.0-or-later
"""Where this login keeps what is the program's own (XDG base directories); nothing is made here."""

import os
from pathlib import Path


def data_place() -> Path:
    """The folder for keys, preferences and the demo collection."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "redlantern"


def preferences_place() -> Path:
    """The file with how this login wants its windows."""
    return data_place() / "window.json"
