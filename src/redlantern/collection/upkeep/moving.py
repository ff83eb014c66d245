# SPDX-License-Identifier: GPL-3.0-or-later
"""Gives a collection file another name or place."""

import contextlib
import errno
import shutil
from pathlib import Path

from redlantern.collection import errors
from redlantern.collection.copying import write_copy
from redlantern.collection.known import note_copy
from redlantern.collection.opening import copies_beside
from redlantern.collection.store import Collection
from redlantern.collection.unfinished import make_unfinished, put_in_place
from redlantern.collection.upkeep.backup import check_place
from redlantern.progress import Cancel, Report, silent
from redlantern.safety.placing import sync_folder


def move(collection: Collection, target: Path, *, report: Report = silent, cancel: Cancel | None = None) -> None:
    """Give the collection file another name or place; its key is found there, too. What was put aside beside it goes along.

    Raises
    ------
    CollectionInUseError
        If another process has it open.
    CannotWriteError, DiskFullError, Cancelled
    """
    file, before = collection.file, collection.path
    target = target.absolute()
    check_place(target)
    with file.alone(cancel), contextlib.ExitStack() as undone:
        lock = file.lock_for(target)
        if lock is not None:
            undone.callback(lock.release)
        # Another process may have made one while we waited.
        check_place(target)
        key, salt = file.key, file.salt
        file.close_settled()
        for copy in copies_beside(before):
            _move_aside(copy, target.with_name(target.name + copy.name.removeprefix(before.name)))
        try:
            before.rename(target)
        except OSError as failure:
            if failure.errno != errno.EXDEV:
                raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure
            # Onto another disk: complete there before it goes here. If that is broken off, both have the key.
            note_copy(target)
            write_copy(file, target, key, salt, report=report, cancel=cancel)
            file.drop_connections()
            before.unlink()
        undone.pop_all()
        file.become(target, key, salt, lock)
        for folder in {target.parent, before.parent}:
            with contextlib.suppress(OSError):
                sync_folder(folder)
        collection.journal.note("moved", f"{before} to {target}")


def _move_aside(source: Path, target: Path) -> None:
    """Move a file that nobody has open; complete there before it goes here."""
    if target.exists():
        return
    try:
        source.rename(target)
    except OSError as failure:
        if failure.errno != errno.EXDEV:
            raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure
        beside = make_unfinished(target)
        shutil.copyfile(source, beside)
        put_in_place(beside, target)
        source.unlink()
