# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern journal`: prints what was done with a collection, or exports it."""

from pathlib import Path

from redlantern.collection.journal import as_json_lines
from redlantern.commands.shared import plain
from redlantern.commands.unlock import open_collection


def journal(path: Path, *, as_json: bool, passphrase_source: str | None) -> int:
    """Print every entry, oldest first, and whether the chain holds; exit code 1 when it does not."""
    collection = open_collection(path, passphrase_source)
    try:
        if as_json and not collection.is_read_only:
            collection.journal.note("exported", "journal")
        entries, faults = collection.journal.entries(), list(collection.journal.faults())
    finally:
        collection.close()
    if as_json:
        print(as_json_lines(entries), end="")
    else:
        for entry in entries:
            words = "(erased)" if entry.words is None else plain(entry.words)
            print(
                f"{entry.number:5}  {entry.at}  {entry.what:12}  {words}"
                + ("  (the clock was set back)" if entry.clock_went_back else "")
            )
        if entries:
            print(f"\nLast hash: {entries[-1].hash}")
    for fault in faults:
        print(f"{fault}.")
    return 1 if faults else 0
