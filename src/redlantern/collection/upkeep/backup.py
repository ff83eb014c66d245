# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes a copy of a collection while it is in use."""

from pathlib import Path

from redlantern.collection import errors
from redlantern.collection.copying import write_copy
from redlantern.collection.known import note_copy
from redlantern.collection.store import Collection
from redlantern.collection.upkeep.tidying import begin_key, end_key, record_in_copy
from redlantern.errors import RedlanternError
from redlantern.progress import Cancel, Report, silent
from redlantern.safety import keys
from redlantern.safety.keys import Holding
from redlantern.translation import tr


class BackupNeedsPassphraseError(RedlanternError):
    """The backup of a collection with a passphrase was to be made without one."""

    def __str__(self) -> str:
        return tr(
            "This collection is opened by a passphrase, so its backup needs one, too: the same or another. "
            "Nothing was written. Give a passphrase for the backup."
        )


def back_up(
    collection: Collection,
    target: Path,
    passphrase: str = "",
    *,
    holding: Holding | None = None,
    report: Report = silent,
    cancel: Cancel | None = None,
) -> None:
    """Write a copy of one moment, while the collection is in use, under a salt and a key of its own.

    Erasing either, or changing the key of either, leaves the other as it is.

    Parameters
    ----------
    collection : Collection
    target : Path
        There must be no file of this name.
    passphrase : str
        What the copy is opened by, where that is a passphrase.
    holding : Holding
        How the copy's key is held; as the collection's is, unless a passphrase was given.

    Raises
    ------
    BackupNeedsPassphraseError, CannotWriteError, DiskFullError, SecretStoreError, Cancelled
    """
    check_place(target)
    holding = Holding.PASSPHRASE if passphrase else holding or collection.holding
    if holding is Holding.PASSPHRASE and not passphrase:
        raise BackupNeedsPassphraseError
    can_record = not collection.is_read_only
    salt, key = keys.new_key(holding, passphrase)
    try:
        if can_record:
            begin_key(collection, salt, target)
        note_copy(target)
        write_copy(
            collection.file,
            target,
            key,
            salt,
            changes=lambda copy: record_in_copy(copy, None),
            report=report,
            cancel=cancel,
        )
    except BaseException:
        if not target.exists():
            keys.destroy_key(salt)
        raise
    finally:
        if can_record:
            end_key(collection, salt)
    if can_record:
        collection.journal.note("backed up", str(target))


def check_place(target: Path) -> None:
    """See that a new file can come there.

    Raises
    ------
    CannotWriteError
    """
    if target.exists() or target.is_symlink():
        raise errors.CannotWriteError(str(target), "there is a file of this name already")
    if not target.parent.is_dir():
        raise errors.CannotWriteError(str(target), "its folder does not exist")
