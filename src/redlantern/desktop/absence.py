# SPDX-License-Identifier: GPL-3.0-or-later
"""Notices that nobody is there: no key and no mouse for a while, or the machine goes to sleep."""

import contextlib
import time
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QTimer, pyqtSignal, pyqtSlot
from PyQt6.QtDBus import QDBusConnection
from PyQt6.QtWidgets import QApplication

from redlantern.translation import tr

_LOOK_MS = 5_000
_SLEPT_S = 3.0
_SIGNS = frozenset(
    {
        QEvent.Type.KeyPress,
        QEvent.Type.MouseButtonPress,
        QEvent.Type.MouseMove,
        QEvent.Type.Wheel,
        QEvent.Type.TouchBegin,
    }
)
SLEEP, IDLE = tr("The machine went to sleep."), tr("Nobody was here for a while.")


def seconds_asleep() -> float:
    """How long the machine has slept since it was started: only one of these two clocks counts that time."""
    return time.clock_gettime(time.CLOCK_BOOTTIME) - time.clock_gettime(time.CLOCK_MONOTONIC)


class Absence(QObject):
    """Emits `noticed` with the reason in words. Sleep is told before it comes where the system says so, else after."""

    noticed = pyqtSignal(str)

    def __init__(
        self,
        parent: QObject,
        *,
        clock: Callable[[], float] = time.monotonic,
        asleep: Callable[[], float] = seconds_asleep,
    ) -> None:
        super().__init__(parent)
        self.idle_minutes = 0
        self._clock, self._asleep = clock, asleep
        self._last_sign, self._slept_before = clock(), asleep()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(_LOOK_MS)
        app = QApplication.instance()
        if app is not None:
            app.installEventFilter(self)
        with contextlib.suppress(RuntimeError):
            QDBusConnection.systemBus().connect(
                "org.freedesktop.login1", "/org/freedesktop/login1", "org.freedesktop.login1.Manager", "PrepareForSleep",
                self.on_sleep,
            )  # fmt: skip

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Any key or movement is a sign of somebody."""
        if event is not None and event.type() in _SIGNS:
            self._last_sign = self._clock()
        return False

    @pyqtSlot(bool)
    def on_sleep(self, is_beginning: bool) -> None:
        """The system says that it goes to sleep, or has woken up."""
        if is_beginning:
            self.noticed.emit(SLEEP)

    def look(self) -> None:
        """Look at both clocks."""
        slept = self._asleep()
        has_slept, self._slept_before = slept - self._slept_before > _SLEPT_S, slept
        if has_slept:
            self.noticed.emit(SLEEP)
        elif self.idle_minutes and self._clock() - self._last_sign > self.idle_minutes * 60:
            self._last_sign = self._clock()
            self.noticed.emit(IDLE)
