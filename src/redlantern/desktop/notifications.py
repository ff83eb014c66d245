# SPDX-License-Identifier: GPL-3.0-or-later
"""Tells through the desktop that long work has ended, never with a word of a document; and asks it not to sleep meanwhile."""

import time
from collections.abc import Callable
from typing import Any, Protocol

from PyQt6.QtCore import QMetaType, QObject, QVariant
from PyQt6.QtDBus import QDBusConnection, QDBusMessage
from PyQt6.QtWidgets import QWidget

from redlantern.desktop.preferences import Preferences
from redlantern.desktop.workspace import Workspace
from redlantern.translation import tr

_SCREEN, _SCREEN_PATH = "org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver"
_NOTES, _NOTES_PATH = "org.freedesktop.Notifications", "/org/freedesktop/Notifications"
_LONG_S = 20.0
_SHOWN_MS, _PATIENCE_MS = 8_000, 500
_NAME = "Red Lantern"
READ, READ_TO_ITS_END, READ_THROUGH, KEPT_UP = (
    tr("The documents are read."), tr("Reading has stopped; the window says why."), tr("Every page was gone through."),
    tr("The work on the collection is done."),
)  # fmt: skip
"""All that is ever told."""


class Bus(Protocol):
    """The session's bus, as far as it is used."""

    def call(self, service: str, path: str, method: str, *words: object) -> object:
        """Call a method; gives its first result, None where there is none or nobody answered."""


class SessionBus:
    """The real one."""

    def call(self, service: str, path: str, method: str, *words: object) -> object:
        """See Bus. Waits for no answer longer than a moment."""
        bus = QDBusConnection.sessionBus()
        if not bus.isConnected():
            return None
        # Not through an interface, which would first ask the service to describe itself.
        message = QDBusMessage.createMethodCall(service, path, service, method)
        message.setArguments(list(words))
        reply = bus.call(message, timeout=_PATIENCE_MS)
        is_reply = reply.type() == QDBusMessage.MessageType.ReplyMessage
        return reply.arguments()[0] if is_reply and reply.arguments() else None


class Notifications(QObject):
    """Watches the long work of a window. Made anew with the workspace it watches."""

    def __init__(
        self, window: QWidget, workspace: Workspace, preferences: Callable[[], Preferences], bus: Bus,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:  # fmt: skip
        super().__init__(window)
        self._window, self._preferences, self._bus, self._clock = window, preferences, bus, clock
        self._began: dict[str, float] = {}
        self._cookie: object = None
        workspace.updates.began.connect(self._on_reading_began)
        workspace.updates.ended.connect(self._on_reading_ended)
        workspace.reading_through_changed.connect(lambda is_on: self._on_changed("read-through", is_on, READ_THROUGH))
        workspace.upkeep.changed.connect(lambda words: self._on_changed("upkeep", bool(words), KEPT_UP))

    def let_sleep(self) -> None:
        """Nothing speaks against sleeping any more."""
        if self._cookie is not None:
            self._bus.call(_SCREEN, _SCREEN_PATH, "UnInhibit", _as(self._cookie, QMetaType.Type.UInt))
            self._cookie = None

    def _on_reading_began(self) -> None:
        self._began["reading"] = self._clock()
        if self._preferences().stays_awake:
            self._cookie = self._bus.call(_SCREEN, _SCREEN_PATH, "Inhibit", _NAME, tr("Files are being read"))

    def _on_reading_ended(self, problem: str) -> None:
        self.let_sleep()
        self._on_changed("reading", False, READ_TO_ITS_END if problem else READ)

    def _on_changed(self, work: str, is_on: bool, words: str) -> None:
        if is_on:
            self._began.setdefault(work, self._clock())
            return
        began = self._began.pop(work, None)
        is_long = began is not None and self._clock() - began >= _LONG_S
        if is_long and self._preferences().tells and not self._window.isActiveWindow():
            hints: dict[str, Any] = {}
            no_actions = _as([], QMetaType.Type.QStringList)
            self._bus.call(
                _NOTES, _NOTES_PATH, "Notify", _NAME, _as(0, QMetaType.Type.UInt), "org.redlantern.RedLantern", _NAME, words,
                no_actions, hints, _SHOWN_MS,
            )  # fmt: skip


def _as(value: object, kind: QMetaType.Type) -> QVariant:
    """A value in the kind that the bus wants."""
    wanted = QVariant(value)
    wanted.convert(QMetaType(kind.value))  # type: ignore[call-overload]
    return wanted
