# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern key`: changes how the key of a collection is held, and with it the key."""

from pathlib import Path

from redlantern.collection import upkeep
from redlantern.commands.shared import ProgressLine, plain, stoppable
from redlantern.commands.unlock import new_passphrase, open_to_change
from redlantern.safety.keys import Holding


def key(path: Path, holding: Holding, *, passphrase_source: str | None, new_source: str | None) -> int:
    """Encrypt the collection anew; the old key or passphrase opens it no longer."""
    progress = ProgressLine()
    passphrase = new_passphrase(new_source) if holding is Holding.PASSPHRASE else ""
    collection = open_to_change(path, passphrase_source)
    try:
        with stoppable() as cancel:
            others = upkeep.change_key(collection, holding, passphrase, report=progress, cancel=cancel)
    finally:
        progress.finish()
        collection.close()
    print(
        f"{plain(str(path))} was encrypted anew. Key held by: {holding}. Backups have keys or passphrases of their own."
    )
    if others:
        print("The old one still opens these, and so was kept:")
        print(*(f"  {plain(str(other))}" for other in others), sep="\n")
    return 0
