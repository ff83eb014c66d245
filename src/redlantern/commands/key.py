"""`redlantern key`: changes how the key of a collection is held, and with it the key."""

from pathlib import Path

from redlantern.collection import upkeep
from redlantern.commands.unlock import new_passphrase, open_to_change
from redlantern.safety.keys import Holding


def key(path: Path, holding: Holding, *, passphrase_source: str | None, new_source: str | None) -> int:
    """Encrypt the collection anew; the old key or passphrase opens it no longer."""
    passphrase = new_passphrase(new_source) if holding is Holding.PASSPHRASE else ""
    collection = open_to_change(path, passphrase_source)
    try:
        upkeep.change_key(collection, holding, passphrase)
    finally:
        collection.close()
    print(
        f"{path} was encrypted anew. Key held by: {holding}. Backups made before still open with the old passphrase, if any."
    )
    return 0
