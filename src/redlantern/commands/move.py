"""`redlantern move`: gives a collection another name or place."""

from pathlib import Path

from redlantern.collection import upkeep
from redlantern.collection.known import forget_collection, note_collection
from redlantern.commands.unlock import open_to_change


def move(path: Path, target: Path, *, passphrase_source: str | None) -> int:
    """Move the collection file."""
    collection = open_to_change(path, passphrase_source)
    try:
        upkeep.move(collection, target)
    finally:
        collection.close()
    forget_collection(path)
    note_collection(target)
    print(f"{path} is now {target}. Its key is found there, too.")
    return 0
