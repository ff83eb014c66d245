# SPDX-License-Identifier: GPL-3.0-or-later
"""The keys of collections, and the three ways to hold them: a passphrase, the login's secret store, a key file.

A collection file begins with 16 bytes that its encryption is salted with. They
are no secret. They say how the key is held, so that a file that was moved or
renamed still finds its key:

- `RLp`, time cost, memory and lanes, 8 random bytes, 3 check bytes: a passphrase;
- `RLs` and 13 random bytes: the login's secret store;
- `RLf` and 13 random bytes, or 16 random bytes (before file version 3): a key file.

The check bytes come from the same derivation as the key. They tell a wrong
passphrase from a damaged file, and tell an attacker nothing that the file's
first page, which bears a seal of the same key, would not.
"""

import contextlib
import os
import secrets
from enum import StrEnum
from pathlib import Path

from redlantern.errors import RedlanternError
from redlantern.safety import passphrases, secretstore
from redlantern.safety.places import data_directory, private_directory
from redlantern.translation import tr

SALT_BYTES = 16
KEY_BYTES = 32


class Holding(StrEnum):
    """How the key of a collection is held."""

    PASSPHRASE = "passphrase"
    LOGIN = "login"
    FILE = "file"


class PassphraseNeededError(RedlanternError):
    """The collection is locked with a passphrase, and none was given."""

    def __str__(self) -> str:
        return tr("This collection is locked with a passphrase. Give the passphrase to open it.")


class WrongPassphraseError(RedlanternError):
    """The passphrase is not the one that the collection was locked with."""

    def __str__(self) -> str:
        return tr(
            "This is not the passphrase. The collection is untouched; try again. Capital letters and blanks count."
        )


_MARKS = {b"RLp": Holding.PASSPHRASE, b"RLs": Holding.LOGIN, b"RLf": Holding.FILE}


def holding_of(salt: bytes) -> Holding | None:
    """Say how the key of the collection with this salt is held; None if there is no sign that it is a collection."""
    marked = _MARKS.get(salt[:3]) if len(salt) == SALT_BYTES else None
    return marked or (Holding.FILE if key_path(salt).exists() else None)


def is_marked(salt: bytes) -> bool:
    """Whether these are the first bytes of a collection of file version 3 or later."""
    return len(salt) == SALT_BYTES and salt[:3] in _MARKS


def new_key(holding: Holding, passphrase: str = "") -> tuple[bytes, bytes]:
    """Make a key and put it where it is to be held, on disk before anything is encrypted with it.

    Parameters
    ----------
    holding : Holding
        Where to.
    passphrase : str
        For Holding.PASSPHRASE; never empty there.

    Returns
    -------
    tuple of bytes
        The 16 bytes that the collection file begins with, and the key of 32 bytes.

    Raises
    ------
    PassphraseNeededError
        If an empty passphrase was given.
    SecretStoreError
        If the login has no secret store, or it refused.
    """
    if holding is Holding.PASSPHRASE:
        if not passphrase:
            raise PassphraseNeededError
        cost = passphrases.measured_cost()
        random = secrets.token_bytes(8)
        derived = passphrases.derive(passphrase, random, cost, KEY_BYTES + 3)
        return b"RLp" + cost.packed() + random + derived[KEY_BYTES:], derived[:KEY_BYTES]
    mark = b"RLs" if holding is Holding.LOGIN else b"RLf"
    salt, key = mark + secrets.token_bytes(SALT_BYTES - 3), secrets.token_bytes(KEY_BYTES)
    if holding is Holding.LOGIN:
        secretstore.keep(salt.hex(), key.hex())
    else:
        _write_key(key_path(salt), key)
    return salt, key


def find_key(salt: bytes, passphrase: str | None = None) -> bytes | None:
    """Give the key of the collection with this salt; None if this login holds none for it.

    Raises
    ------
    PassphraseNeededError
        If it is locked with a passphrase and none was given.
    WrongPassphraseError
        If it is locked with another.
    CostTooHighError
        If its first bytes ask for more work than ours ever do.
    SecretStoreError
        If the login's secret store cannot be asked.
    """
    holding = holding_of(salt)
    if holding is Holding.PASSPHRASE:
        if passphrase is None:
            raise PassphraseNeededError
        cost = passphrases.Cost.unpacked(salt[3:5])
        derived = passphrases.derive(passphrase, salt[5:13], cost, KEY_BYTES + 3)
        if not secrets.compare_digest(derived[KEY_BYTES:], salt[13:]):
            raise WrongPassphraseError
        return derived[:KEY_BYTES]
    if holding is Holding.LOGIN:
        kept = secretstore.find(salt.hex())
        return bytes.fromhex(kept) if kept else None
    if holding is Holding.FILE:
        with contextlib.suppress(FileNotFoundError):
            key = key_path(salt).read_bytes()
            return key if len(key) == KEY_BYTES else None
    return None


def destroy_key(salt: bytes) -> None:
    """Destroy the key that is held for this salt: nothing can open the file after that. A passphrase is held nowhere.

    Raises
    ------
    SecretStoreError
        If the login's secret store cannot be asked.
    """
    if holding_of(salt) is Holding.LOGIN:
        secretstore.forget(salt.hex())
    path = key_path(salt)
    with contextlib.suppress(FileNotFoundError):
        overwrite(path, 0, KEY_BYTES)
        path.unlink()


def overwrite(path: Path, at: int, n_bytes: int) -> None:
    """Put random bytes in place of others, on the disk itself as far as the file system lets us."""
    with path.open("r+b") as file:
        file.seek(at)
        file.write(secrets.token_bytes(n_bytes))
        file.flush()
        os.fsync(file.fileno())


def key_path(salt: bytes) -> Path:
    """Where the key file of the collection with this salt is, if it has one."""
    return private_directory(data_directory() / "keys") / f"{salt.hex()}.key"


def _write_key(path: Path, key: bytes) -> None:
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(handle, "wb") as file:
        file.write(key)
        file.flush()
        os.fsync(file.fileno())
