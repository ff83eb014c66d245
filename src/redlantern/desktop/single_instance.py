# SPDX-License-Identifier: GPL-3.0-or-later
"""One window a collection: whoever opens it once more brings the window forward that has it already.

A local socket in the login's private folder, by a hash of the collection's place; nothing but a ring goes over it.
"""

import contextlib
import hashlib
import os
import socket
from pathlib import Path

from PyQt6.QtCore import QObject, QSocketNotifier, Qt, pyqtSignal
from PyQt6.QtWidgets import QWidget

from redlantern.safety.places import runtime_directory

_RING, _HEARD = b"ring", b"heard"
_PATIENCE_S = 2.0


class SingleInstance(QObject):
    """Listens for one collection at a time. `raise_wanted` comes when somebody wants to see its window."""

    raise_wanted = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._socket: socket.socket | None = None
        self._notifier: QSocketNotifier | None = None
        self._place: Path | None = None

    def listen(self, collection: Path) -> None:
        """Listen for this collection; where another window does already, or no socket can be had, for none."""
        self.stop()
        place = _place_of(collection)
        if _is_answered(place):
            return
        with contextlib.suppress(OSError):
            place.unlink(missing_ok=True)  # of a window that was killed
            made = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
            made.bind(str(place))
            made.listen(4)
            made.setblocking(False)
            self._socket, self._place = made, place
            self._notifier = QSocketNotifier(made.fileno(), QSocketNotifier.Type.Read, self)  # type: ignore[call-overload]
            self._notifier.activated.connect(lambda *_: self._on_ring())

    def stop(self) -> None:
        """Listen no longer."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
        if self._socket is not None:
            self._socket.close()
        if self._place is not None:
            self._place.unlink(missing_ok=True)
        self._socket = self._notifier = self._place = None

    def _on_ring(self) -> None:
        if self._socket is None:
            return
        with contextlib.suppress(OSError):
            visitor, _ = self._socket.accept()
            with visitor:
                visitor.settimeout(0.2)
                if visitor.recv(len(_RING)) == _RING:
                    visitor.sendall(_HEARD)
                    self.raise_wanted.emit()


def raise_running(collection: Path) -> bool:
    """Let the window that has this collection come forward; whether there is one."""
    return _is_answered(_place_of(collection), rings=True)


def bring_forward(window: QWidget) -> None:
    """Show a window before all others."""
    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.raise_()
    window.activateWindow()


def _is_answered(place: Path, *, rings: bool = False) -> bool:
    try:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as caller:
            caller.settimeout(_PATIENCE_S)
            caller.connect(str(place))
            if not rings:
                return True
            caller.sendall(_RING)
            return caller.recv(len(_HEARD)) == _HEARD
    except OSError:
        return False


def _place_of(collection: Path) -> Path:
    named = hashlib.sha256(os.fsencode(collection.resolve())).hexdigest()[:24]
    return runtime_directory() / f"window-{named}"
