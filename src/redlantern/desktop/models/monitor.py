# SPDX-License-Identifier: GPL-3.0-or-later
"""What the models take of the machine while they work: memory, processor, tokens a second, and how it went in the last minute."""

import os
import time
from collections import deque
from collections.abc import Callable

from PyQt6.QtCore import QRectF, QTimer
from PyQt6.QtGui import QColor, QHideEvent, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.models import machine
from redlantern.models.protocols import LanguageModel
from redlantern.translation import tr

_EVERY_MS = 1000
_KEPT = 60
_MIB = 2**20


_WORDS = (tr("Memory"), tr("Processor"), tr("Tokens written"))


class Monitor(QFrame):
    """Measures once a second while it is shown. `model` gives the language model of now, or None."""

    def __init__(self, model: Callable[[], LanguageModel | None]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._model = model
        self._before: tuple[float, float, int] | None = None
        self.memory, self.processor, self.tokens = (_Measured(words) for words in _WORDS)
        self.warning = words_label("", family=theme.SANS, name="problem")
        self.warning.hide()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.measure)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        box.addWidget(section_label(tr("WHAT THEY TAKE, NOW AND IN THE LAST MINUTE")))
        row = QHBoxLayout()
        row.setSpacing(24)
        for part in (self.memory, self.processor, self.tokens):
            row.addWidget(part, 1)
        box.addLayout(row)
        box.addWidget(self.warning)

    def measure(self) -> None:
        """Measure once; speeds are since the last time."""
        model = self._model()
        pids = [os.getpid(), *([pid] if (pid := getattr(model, "pid", None)) else [])]
        now, spent = time.monotonic(), sum(map(machine.processor_seconds, pids))
        n_streamed = getattr(model, "n_streamed", 0)
        held, free = [machine.resident_bytes(pid) for pid in pids], machine.free_bytes()
        said = tr("{held:,.0f} MB here").format(held=held[0] / _MIB) + (
            tr(", {held:,.0f} MB the language model").format(held=held[1] / _MIB) if held[1:] else ""
        )
        self.memory.show_value(
            sum(held), sum(held) + free, tr("{said}; {free:,.0f} MB free").format(said=said, free=free / _MIB)
        )
        if self._before is not None:
            then, spent_then, n_then = self._before
            seconds, n_cores = max(now - then, 1e-6), os.cpu_count() or 1
            # A model host that was ended took its seconds with it.
            busy = max(0.0, spent - spent_then) / seconds
            pace = max(0, n_streamed - n_then) / seconds
            self.processor.show_value(
                busy, n_cores, tr("{busy:.1f} of {n_cores} cores").format(busy=busy, n_cores=n_cores)
            )
            self.tokens.show_value(
                pace, 0, tr("{pace:.0f} a second").format(pace=pace) if pace else tr("nothing is being written")
            )
        self._before = (now, spent, n_streamed)
        is_scarce = free < machine.SCARCE_BYTES
        self.warning.setText(
            tr("Only {free:,.0f} MB are free: the machine is about to use its disk for memory.").format(
                free=free / _MIB
            )
            * is_scarce
        )
        self.warning.setVisible(is_scarce)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Begin to measure."""
        super().showEvent(event)
        self.measure()
        self._timer.start(_EVERY_MS)

    def hideEvent(self, event: QHideEvent | None) -> None:
        """Nobody looks, so nothing is measured."""
        super().hideEvent(event)
        self._timer.stop()
        self._before = None


class _Measured(QWidget):
    """One value in words, over its last minute as a row of bars."""

    def __init__(self, words: str) -> None:
        super().__init__()
        self._words = words
        self.said = QLabel("")
        self.said.setObjectName("quiet")
        self._trace = _Trace()
        name = QLabel(words)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        grid.addWidget(name, 0, 0)
        grid.addWidget(self._trace, 1, 0)
        grid.addWidget(self.said, 2, 0)

    def show_value(self, value: float, whole: float, said: str) -> None:
        """Show a value; `whole` is the height of its picture, 0 for the highest so far."""
        self.said.setText(said)
        self.setAccessibleName(f"{self._words}: {said}")
        self._trace.add(value, whole)


class _Trace(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self._values: deque[float] = deque(maxlen=_KEPT)
        self._whole = 0.0
        self.setFixedHeight(34)

    def add(self, value: float, whole: float) -> None:
        self._values.append(value)
        self._whole = whole
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw a bar for each second, the newest at the right."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.colours().ground))
        highest = self._whole or max([1.0, *self._values])
        step = self.width() / _KEPT
        for back, value in enumerate(reversed(self._values)):
            height = self.height() * min(1.0, value / highest)
            right = self.width() - back * step
            bar = QRectF(right - step, self.height() - height, max(1.0, step - 1), height)
            painter.fillRect(bar, QColor(theme.colours().ember))
