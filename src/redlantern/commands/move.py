# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern move`: gives a collection another name or place."""

from pathlib import Path

from redlantern.application import upkeep
from redlantern.commands.shared import ProgressLine, plain, stoppable
from redlantern.commands.unlock import open_to_change


def move(path: Path, target: Path, *, passphrase_source: str | None) -> int:
    """Move the collection file."""
    progress = ProgressLine()
    collection = open_to_change(path, passphrase_source)
    try:
        with stoppable() as cancel:
            upkeep.move(collection, target, report=progress, cancel=cancel)
    finally:
        progress.finish()
        collection.close()
    print(f"{plain(str(path))} is now {plain(str(target))}. Its key is found there, too.")
    return 0
