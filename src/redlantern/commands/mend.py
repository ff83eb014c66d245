"""`redlantern mend`: makes a whole collection of what can still be read of a damaged one."""

from pathlib import Path

from redlantern.collection import mending
from redlantern.commands.shared import plain
from redlantern.commands.unlock import open_damaged


def mend(path: Path, *, passphrase_source: str | None) -> int:
    """Mend, and name what has to be read again."""
    collection = open_damaged(path, passphrase_source)
    try:
        mended = mending.mend(collection)
    finally:
        collection.close()
    print(f"{path} is whole again: {mended.n_kept} documents kept. The damaged file is {mended.damaged_path}.")
    for title in mended.lost:
        print(f"  to be read again: {plain(title)}")
    if mended.lost:
        print(f"Run redlantern update {path} to read them again.")
    if mended.n_sheets_lost:
        print(f"{mended.n_sheets_lost} sheets could not be read and are lost.")
    return 0
