# SPDX-License-Identifier: GPL-3.0-or-later
"""Opens a collection for a command, with its passphrase where it has one."""

import getpass
import sys
from pathlib import Path

from redlantern.application import opening
from redlantern.application.opening import WriteAccess
from redlantern.collection.store import Collection
from redlantern.errors import UsageError
from redlantern.safety.keys import PassphraseNeededError

BY_COMMAND = "by a command"


def passphrase_from(source: str | None, prompt: str = "Passphrase: ") -> str | None:
    """Read a passphrase: the first line of a file or, for “-”, of standard input; asked for on a terminal; else None.

    Raises
    ------
    UsageError
        If the file cannot be read.
    """
    if source is not None:
        try:
            raw = sys.stdin.buffer.readline() if source == "-" else Path(source).read_bytes()
            return raw.split(b"\n")[0].decode("utf-8")
        except OSError as failure:
            raise UsageError(f"the passphrase cannot be read from {source}: {failure.strerror}") from failure
        except UnicodeDecodeError as failure:
            raise UsageError(f"the passphrase in {source} is not valid text (UTF-8)") from failure
    return getpass.getpass(prompt) if sys.stdin.isatty() else None


def open_collection(path: Path, passphrase_source: str | None) -> Collection:
    """Open a collection; its passphrase is asked for only if it has one."""
    return open_with_passphrase(path, passphrase_source)[0]


def open_with_passphrase(path: Path, passphrase_source: str | None) -> tuple[Collection, str]:
    """The same, with the passphrase that opened it; empty if it has none."""
    collection, _, given = opening.open_collection(
        path, by=BY_COMMAND, passphrase=lambda: passphrase_from(passphrase_source)
    )
    return collection, given


def open_damaged(path: Path, passphrase_source: str | None) -> Collection:
    """Open a collection without a look at anything in it, nor a word in its journal."""
    try:
        return Collection.open(path)
    except PassphraseNeededError:
        return Collection.open(path, passphrase_from(passphrase_source))


def open_to_change(path: Path, passphrase_source: str | None) -> Collection:
    """Open a collection with the claim to change it, and finish what an interruption left."""
    return opening.open_collection(
        path, by=BY_COMMAND, passphrase=lambda: passphrase_from(passphrase_source), claim=WriteAccess.MUST
    )[0]


def new_passphrase(source: str | None) -> str:
    """Read a passphrase that is to be used from now on; on a terminal it has to be typed twice.

    Raises
    ------
    UsageError
        If there is none, or the two differ.
    """
    first = passphrase_from(source, "New passphrase: ")
    if not first:
        raise UsageError("a passphrase is needed: type it on a terminal, or give --new-passphrase-from FILE")
    if source is None and getpass.getpass("The same again: ") != first:
        raise UsageError("the two passphrases differ; nothing was changed")
    return first
