# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern mend`: makes a whole collection of what can still be read of a damaged one."""

from pathlib import Path

from redlantern.collection.upkeep.mending import mend as mend_collection
from redlantern.commands.shared import ProgressLine, plain, stoppable
from redlantern.commands.unlock import open_damaged


def mend(path: Path, *, passphrase_source: str | None) -> int:
    """Mend, and name what has to be read again."""
    progress = ProgressLine()
    collection = open_damaged(path, passphrase_source)
    try:
        with stoppable() as cancel:
            mended = mend_collection(collection, report=progress, cancel=cancel)
    finally:
        progress.finish()
        collection.close()
    print(f"{path} is whole again: {mended.n_kept} documents kept. The damaged file is {mended.damaged_path}.")
    for title in mended.lost:
        print(f"  to be read again: {plain(title)}")
    if mended.lost:
        print(f"Run redlantern update {path} to read them again.")
    if mended.n_sheets_lost:
        print(f"{mended.n_sheets_lost} sheets could not be read and are lost.")
    return 0
