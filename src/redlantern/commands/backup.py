"""`redlantern backup`: writes a copy of a collection while it may be in use."""

from pathlib import Path

from redlantern.collection import upkeep
from redlantern.commands.unlock import new_passphrase, open_collection
from redlantern.safety.keys import Holding


def backup(path: Path, target: Path, *, locks_anew: bool, passphrase_source: str | None, new_source: str | None) -> int:
    """Write the copy, under a passphrase of its own if wanted."""
    passphrase = new_passphrase(new_source) if locks_anew else ""
    collection = open_collection(path, passphrase_source)
    try:
        upkeep.back_up(collection, target, passphrase)
        is_key_here = collection.holding is not Holding.PASSPHRASE and not passphrase
    finally:
        collection.close()
    print(f"{target} holds everything in {path} as it was at this moment.")
    if is_key_here:
        print("It opens only where this login's key is. Give it a passphrase of its own (--lock) to take it elsewhere.")
    return 0
