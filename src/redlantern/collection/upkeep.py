"""Backs a collection up, gives it another key, moves, erases and mends it. Each can be interrupted and loses nothing."""

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.collection import errors
from redlantern.collection.file import UNFINISHED, alone_with, sync_folder
from redlantern.collection.opening import exchange_copies, older_copies, put_aside, read_salt
from redlantern.collection.store import Collection
from redlantern.collection.values import Document
from redlantern.safety import keys
from redlantern.safety.keys import Holding

_REPLACED = "replaced key"
"""The fact that names the salt whose key is to be destroyed once the file with the new key is in place."""


def back_up(collection: Collection, target: Path, passphrase: str = "") -> None:
    """Write a copy of one moment, while the collection is in use.

    Parameters
    ----------
    collection : Collection
    target : Path
        There must be no file of this name.
    passphrase : str
        What the copy is locked with. Without one it opens with the same key as
        the collection, and so only where that is held.

    Raises
    ------
    CannotWriteError, DiskFullError
    """
    if target.exists():
        raise errors.CannotWriteError(str(target), "there is a file of this name already")
    if not target.parent.is_dir():
        raise errors.CannotWriteError(str(target), "its folder does not exist")
    salt, key = collection.file.salt, collection.file.key
    if passphrase:
        salt, key = keys.new_key(Holding.PASSPHRASE, passphrase)
    collection.file.write_copy(target, key, salt)
    if not collection.is_read_only:
        collection.journal.note("backed up", str(target))


def change_key(collection: Collection, holding: Holding, passphrase: str = "") -> None:
    """Encrypt everything anew under a new key, held in this way, and destroy the old key.

    Until the new file takes the old one's name, in one step, the old one is
    untouched; from then on the old key opens nothing.

    Raises
    ------
    CollectionInUseError
        If another process has the collection open.
    PassphraseNeededError, SecretStoreError, CannotWriteError, DiskFullError
    """
    file = collection.file
    with file.alone():
        old = file.salt
        salt, key = keys.new_key(holding, passphrase)

        def note_old_key(connection: Any) -> None:
            connection.execute("INSERT OR REPLACE INTO facts VALUES (?, ?)", (_REPLACED, old.hex()))

        with contextlib.ExitStack() as held:
            try:
                file.settle()
                file.drop_connections()
                # From when the copy takes its place until the new key is known, nobody may open it.
                file.write_copy(
                    file.path, key, salt, changes=note_old_key, placing=lambda: held.enter_context(file.replacing())
                )
            except BaseException:
                if read_salt(file.path) == old:
                    keys.destroy_key(salt)
                raise
            file.become(file.path, key, salt)
        _remove_older_copies(file.path)
        tidy(collection)
        collection.journal.note("key changed", f"Key held by: {holding}")


def tidy(collection: Collection) -> None:
    """Finish what an interruption left: destroy a key that was replaced, remove files that were never finished."""
    path = collection.path
    if collection.is_read_only or not collection.file.is_claimed:
        return
    for copy in exchange_copies(path):
        copy.unlink()
    leftover = path.with_name(path.name + UNFINISHED)
    if leftover.is_file():
        salt = read_salt(leftover)
        if salt != collection.file.salt and len(salt) == keys.SALT_BYTES:
            keys.destroy_key(salt)
        leftover.unlink()
    replaced = collection.facts.get(_REPLACED)
    if replaced:
        keys.destroy_key(bytes.fromhex(replaced))
        collection.facts.drop(_REPLACED)


def move(collection: Collection, target: Path) -> None:
    """Give the collection file another name or place; its key is found there, too.

    Raises
    ------
    CollectionInUseError
        If another process has it open.
    CannotWriteError, DiskFullError
    """
    file, before = collection.file, collection.path
    if target.exists():
        raise errors.CannotWriteError(str(target), "there is a file of this name already")
    if not target.parent.is_dir():
        raise errors.CannotWriteError(str(target), "its folder does not exist")
    with file.alone():
        key, salt = file.key, file.salt
        file.settle()
        try:
            with file.replacing():
                file.drop_connections()
                before.rename(target)
                sync_folder(target.parent)
                file.become(target, key, salt)
        except OSError as failure:
            if failure.errno != _OTHER_DISK:
                raise errors.CannotWriteError(str(target), failure.strerror or "unknown error") from failure
            # Onto another disk: complete there before it goes here.
            file.write_copy(target, key, salt)
            with file.replacing():
                file.drop_connections()
                before.unlink()
                file.become(target, key, salt)
    collection.journal.note("moved", f"{before} to {target}")


@dataclass(frozen=True)
class Erased:
    """What erasing documents did: how many, in how many sheets they were cited, and which older copies went with them."""

    n_documents: int
    n_sheets: int
    older_copies: tuple[str, ...]


def erase_documents(collection: Collection, documents: Sequence[Document]) -> Erased:
    """Erase documents: text, vectors, words, journal entries, and what sheets cite from them; an update leaves them out.

    What lies within an erased file goes with it. Everything else is then
    written anew, so that nothing of them is left in unused parts of the file;
    copies made before a change of file version, which still hold them, go too.

    Raises
    ------
    CollectionInUseError
        If another process has the collection open: it may be reading them.
    """
    files = {one.container_id or one.document_id for one in documents}
    everything = [one for one in collection.documents() if (one.container_id or one.document_id) in files]
    names = {one.key for one in everything}
    paths = {one.full_path for one in everything if one.container_id is None}
    paths |= {copy for one in everything for copy in one.copies}
    places = {one.path for one in everything}

    def is_erased(citation: dict[str, Any]) -> bool:
        key = citation.get("document_key", "")
        return key in names if key else citation["path"] in places

    about = {one.sha256 for one in everything if one.sha256} | paths
    with collection.file.alone():
        with collection.file.writing():
            collection.take_out(paths, forgets_names=True)
            n_sheets = collection.kept_sheets.erase_citations(is_erased)
            collection.journal.erase_words(about)
            collection.facts.forget_in_scopes(names)
            n = len(everything)
            collection.journal.note("erased", f"{n} document{'s' * (n > 1)}, cited in {n_sheets} sheets")
        collection.segments.write_anew(only_if_many=False)
        _rewrite(collection)
        removed = _remove_older_copies(collection.path)
    return Erased(len(everything), n_sheets, tuple(removed))


def remnants(collection: Collection, keys_erased: set[str]) -> list[str]:
    """Look whether anything in the file still belongs to documents with these keys, or could be brought back.

    Gives what was found in plain words; nothing when they are gone.
    """
    found = []
    if keys_erased & {one.key for one in collection.documents()}:
        found.append("A document of this content is in the collection.")
    about = {one.split("/")[0] for one in keys_erased}
    if any(row[0] in about for row in collection.file.rows("SELECT about FROM journal WHERE about IS NOT NULL")):
        found.append("The journal has words about it.")
    if any(
        f'"document_key": "{one}"' in row[0]
        for one in keys_erased
        for row in collection.file.rows("SELECT sheet FROM sheets")
    ):
        found.append("A sheet cites it.")
    if collection.file.row("PRAGMA freelist_count")[0]:
        found.append("The file has unused parts.")
    log = collection.path.with_name(collection.path.name + "-wal")
    if log.exists() and log.stat().st_size:
        found.append("The write-ahead log is not empty.")
    if older_copies(collection.path):
        found.append("There are copies from before a change of file version.")
    return found  # fmt: skip


def files_of(path: Path) -> list[Path]:
    """Every file on disk that belongs to a collection, the collection itself last."""
    beside = [path.with_name(path.name + end) for end in (UNFINISHED, "-journal", "-shm", "-wal", "")]
    copies = [*older_copies(path), *put_aside(path), *exchange_copies(path)]
    return [one for one in [*copies, *beside] if one.is_file()]


def erase_collection(path: Path) -> list[str]:
    """Erase a collection for good: first its key, then the file with everything beside it. Gives what was removed.

    With a passphrase, the bytes that the key is derived with are destroyed
    first: from then on the passphrase opens nothing.

    Raises
    ------
    CollectionMissingError, CollectionInUseError, CannotWriteError
    """
    salt = read_salt(path)
    with alone_with(path):
        try:
            if keys.holding_of(salt) is Holding.PASSPHRASE:
                keys.overwrite(path, 0, keys.SALT_BYTES)
            keys.destroy_key(salt)
            removed = files_of(path)
            for one in removed:
                keys.overwrite(one, 0, min(4096, one.stat().st_size))
                one.unlink()
            sync_folder(path.parent)
        except OSError as failure:
            raise errors.CannotWriteError(str(path), failure.strerror or "unknown error") from failure
    return [str(one) for one in removed]


_OTHER_DISK = 18  # errno.EXDEV


def _rewrite(collection: Collection) -> None:
    """Write the file anew from its live rows, so that unused parts hold nothing, and empty the log."""
    with collection.file.explained():
        collection.file.settle()
        collection.file.connection.execute("VACUUM")
        collection.file.settle()


def _remove_older_copies(path: Path) -> list[str]:
    removed = []
    for one in older_copies(path):
        with contextlib.suppress(FileNotFoundError):
            one.unlink()
            removed.append(str(one))
    return removed
