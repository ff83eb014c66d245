# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern backup`: writes a copy of a collection while it may be in use."""

from pathlib import Path

from redlantern.collection import upkeep
from redlantern.commands.shared import ProgressLine, plain, stoppable
from redlantern.commands.unlock import new_passphrase, open_with_passphrase
from redlantern.safety.keys import Holding


def backup(path: Path, target: Path, *, locks_anew: bool, passphrase_source: str | None, new_source: str | None) -> int:
    """Write the copy, under a passphrase of its own if wanted."""
    progress = ProgressLine()
    passphrase = new_passphrase(new_source) if locks_anew else ""
    collection, given = open_with_passphrase(path, passphrase_source)
    try:
        with stoppable() as cancel:
            upkeep.back_up(collection, target, passphrase or given, report=progress, cancel=cancel)
        is_key_here = collection.holding is not Holding.PASSPHRASE and not passphrase
    finally:
        progress.finish()
        collection.close()
    print(
        f"{plain(str(target))} holds everything in {plain(str(path))} as it was at this moment, under a key of its own."
    )
    if is_key_here:
        print("It opens under this login only. Give it a passphrase of its own (--lock) to take it elsewhere.")
    elif not passphrase:
        print("It is opened by the passphrase that the collection has now, also after that is changed.")
    return 0
