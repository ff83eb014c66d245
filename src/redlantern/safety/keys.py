"""The keys of collections: random, one file each, mode 0600.

A collection file begins with the 16 random bytes that its encryption is salted
with. They are no secret, and they name the key: a collection that is moved or
renamed still finds it.
"""

import os
import secrets
from pathlib import Path

from redlantern.safety.places import data_directory, private_directory

SALT_BYTES = 16
KEY_BYTES = 32


def new_salt() -> bytes:
    """Choose the 16 bytes that a new collection file will begin with."""
    return secrets.token_bytes(SALT_BYTES)


def make_key(salt: bytes) -> bytes:
    """Make a 32-byte key for the collection with this salt and keep it in a file of mode 0600.

    Raises
    ------
    FileExistsError
        If there is a key for this salt already; it is never overwritten.
    """
    key = secrets.token_bytes(KEY_BYTES)
    handle = os.open(key_path(salt), os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(handle, "wb") as file:
        file.write(key)
        file.flush()
        os.fsync(file.fileno())
    return key


def find_key(salt: bytes) -> bytes | None:
    """Give the key of the collection with this salt, or None if this login has none."""
    try:
        key = key_path(salt).read_bytes()
    except FileNotFoundError:
        return None
    return key if len(key) == KEY_BYTES else None


def key_path(salt: bytes) -> Path:
    """Where the key of the collection with this salt is kept."""
    return private_directory(data_directory() / "keys") / f"{salt.hex()}.key"
