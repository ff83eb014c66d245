# SPDX-License-Identifier: GPL-3.0-or-later
"""Gives a collection another key: everything is encrypted anew."""

from pathlib import Path

from redlantern.collection.copying import write_copy
from redlantern.collection.opening import copies_beside, read_salt
from redlantern.collection.store import Collection
from redlantern.collection.upkeep.tidying import begin_key, destroy_replaced, end_key, record_in_copy
from redlantern.progress import Cancel, Report, silent
from redlantern.safety import keys
from redlantern.safety.keys import Holding


def change_key(
    collection: Collection,
    holding: Holding,
    passphrase: str = "",
    *,
    report: Report = silent,
    cancel: Cancel | None = None,
) -> list[Path]:
    """Encrypt everything anew under a new key, held in this way, and destroy the old key.

    Until the new file takes the old one's name, in one step, the old one is
    untouched; from then on the old key opens nothing here. Copies from before a
    change of file version and damaged files that were put aside go: they are
    under the old key.

    Returns
    -------
    list of Path
        Other known files that need the old key; it is destroyed only where there are none.

    Raises
    ------
    CollectionInUseError
        If another process has the collection open.
    PassphraseNeededError, SecretStoreError, CannotWriteError, DiskFullError, Cancelled
    """
    file = collection.file
    with file.alone(cancel):
        old = file.salt
        salt, key = keys.new_key(holding, passphrase)
        try:
            begin_key(collection, salt, file.path)
            write_copy(
                file, file.path, key, salt, changes=lambda copy: record_in_copy(copy, old), report=report, cancel=cancel
            )
        except BaseException:
            if read_salt(file.path) == old:
                keys.destroy_key(salt)
                end_key(collection, salt)
            raise
        file.become(file.path, key, salt)
        for copy_path in copies_beside(file.path):
            copy_path.unlink(missing_ok=True)
        others = destroy_replaced(collection)
        collection.journal.note("key changed", f"Key held by: {holding}")
    return others
