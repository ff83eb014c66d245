# SPDX-License-Identifier: GPL-3.0-or-later
"""The login's secret store (the Secret Service of the desktop): holds keys while somebody is logged in.

It is spoken to over a Unix socket, so the seal leaves it open. Only this one
kind of store is used, never whatever else the library would fall back on.
"""

from typing import Any

from redlantern.errors import RedlanternError
from redlantern.translation import tr

_SERVICE = "Red Lantern"


class SecretStoreError(RedlanternError):
    """The login has no secret store that would answer."""

    def __str__(self) -> str:
        return tr(
            "The secret store of this login does not answer or was not unlocked. Nothing was changed. Log in to "
            "the desktop and unlock its password store, or hold the key in another way."
        )


def is_there() -> bool:
    """Whether this login has a secret store."""
    try:
        _store()
    except SecretStoreError:
        return False
    return True


def keep(name: str, secret: str) -> None:
    """Keep a secret under a name, and see that it is there."""
    store = _store()
    try:
        store.set_password(_SERVICE, name, secret)
        kept = store.get_password(_SERVICE, name)
    except _failures() as failure:
        raise SecretStoreError from failure
    if kept != secret:
        raise SecretStoreError


def find(name: str) -> str | None:
    """Give the secret of this name; None if there is none."""
    try:
        found = _store().get_password(_SERVICE, name)
    except _failures() as failure:
        raise SecretStoreError from failure
    return str(found) if found else None


def forget(name: str) -> None:
    """Remove a secret, if it is there."""
    store = _store()
    try:
        if store.get_password(_SERVICE, name) is not None:
            store.delete_password(_SERVICE, name)
    except _failures() as failure:
        raise SecretStoreError from failure


def forget_all() -> None:
    """Remove every secret that Red Lantern keeps there."""
    import secretstorage

    _store()
    try:
        with secretstorage.dbus_init() as connection:
            for item in secretstorage.get_default_collection(connection).search_items({"service": _SERVICE}):
                item.delete()
    except _failures() as failure:
        raise SecretStoreError from failure


def _store() -> Any:
    from keyring.backends import SecretService

    try:
        # Raises when there is no store; the number itself does not matter.
        _ = SecretService.Keyring.priority
    except _failures() as failure:
        raise SecretStoreError from failure
    return SecretService.Keyring()  # type: ignore[no-untyped-call]


def _failures() -> tuple[type[Exception], ...]:
    from jeepney.wrappers import DBusErrorResponse
    from keyring.errors import KeyringError
    from secretstorage.exceptions import SecretStorageException

    return KeyringError, SecretStorageException, DBusErrorResponse, RuntimeError, OSError
