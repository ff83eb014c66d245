# SPDX-License-Identifier: GPL-3.0-or-later
"""The status line: what is being done, how far it is, and whether the seal is on."""

import os
import time

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.amounts import duration_words
from redlantern.models import machine
from redlantern.progress import Progress
from redlantern.safety.seal import SealState
from redlantern.translation import tr

_LONGEST_DETAIL = 80


_SCARCE = tr(
    "The machine is about to use its disk for memory, and everything will be slow. Close other programs, "
    "or choose a smaller language model in the Models room."
)


class StatusLine(QWidget):
    """The bottom line of the window."""

    cancel_wanted = pyqtSignal()
    hold_wanted = pyqtSignal(bool)

    def __init__(self, seal: SealState, model_server: str = "") -> None:
        """`model_server` is the address of the one server on this machine that its owner lets be spoken to, if any."""
        super().__init__()
        self.setObjectName("status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._began = self._held_at = 0.0
        self.activity = QLabel("")
        self.activity.setTextFormat(Qt.TextFormat.PlainText)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(150)
        self.bar.setAccessibleName(tr("Progress"))
        self.cancel_button = QPushButton(tr("Cancel"))
        self.cancel_button.setObjectName("quiet")
        self.cancel_button.setAccessibleName(tr("Cancel what is being done"))
        self.cancel_button.clicked.connect(self.cancel_wanted)
        self.hold_button = QPushButton(tr("Pause"))
        self.hold_button.setObjectName("quiet")
        self.hold_button.setCheckable(True)
        self.hold_button.setAccessibleName(tr("Pause reading and indexing"))
        self.hold_button.toggled.connect(self._on_hold)
        self._speed = QLabel("")
        self._memory = QLabel("")
        self.seal_label = _seal_label(seal, model_server)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 5, 14, 5)
        layout.setSpacing(14)
        layout.addWidget(self.activity)
        layout.addWidget(self.bar)
        layout.addWidget(self.hold_button)
        layout.addWidget(self.cancel_button)
        layout.addStretch(1)
        layout.addWidget(self._speed)
        layout.addWidget(self._memory)
        layout.addWidget(self.seal_label)
        self._pids: list[int] = []
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._measure)
        self._timer.start(2000)
        self._measure()
        self.finish("")

    def begin(self, words: str, *, can_pause: bool = True) -> None:
        """A long piece of work begins."""
        self._began = time.monotonic()
        self.activity.setText(words)
        self.bar.setRange(0, 0)
        self.bar.show()
        self.hold_button.setChecked(False)
        for button, is_wanted in ((self.hold_button, can_pause), (self.cancel_button, True)):
            button.setVisible(is_wanted)
            button.setEnabled(True)

    def show_progress(self, progress: Progress) -> None:
        """Show how far it is, and from the second document on how long it will take."""
        if progress.total is None:
            self.activity.setText(f"{progress.stage} ...")
            return
        if self.hold_button.isChecked():
            return
        self.bar.setRange(0, max(1, progress.total))
        self.bar.setValue(progress.done)
        words = tr("{stage}: {done} of {total} {unit}").format(
            stage=progress.stage, done=progress.done, total=progress.total, unit=progress.unit
        )
        if progress.done > 1 and progress.done < progress.total:
            left_s = (time.monotonic() - self._began) / progress.done * (progress.total - progress.done)
            words += tr(", about {duration_words} left").format(duration_words=duration_words(left_s))
        detail = progress.detail if len(progress.detail) <= _LONGEST_DETAIL else progress.detail[:_LONGEST_DETAIL] + "…"
        self.activity.setText(f"{words} · {detail}" if detail else words)
        self.activity.setToolTip(progress.detail)

    def stopping(self) -> None:
        """Cancelling was asked for."""
        self.activity.setText(tr("Stopping ..."))
        self.cancel_button.setEnabled(False)
        self.hold_button.setEnabled(False)

    def _on_hold(self, is_held: bool) -> None:
        self.hold_button.setText(tr("Resume") if is_held else tr("Pause"))
        if is_held:
            self.activity.setText(tr("Paused. What was finished can be asked about."))
            self._held_at = time.monotonic()
        else:
            # Time that passed while nothing was done must not count in what is left.
            self._began += time.monotonic() - self._held_at
        self.hold_wanted.emit(is_held)

    def finish(self, words: str) -> None:
        """The work has ended, with these words about it."""
        self.activity.setText(words)
        self.activity.setToolTip("")
        for widget in (self.bar, self.hold_button, self.cancel_button):
            widget.hide()

    def show_speed(self, words: str) -> None:
        """Say how fast the model wrote."""
        self._speed.setText(words)

    def watch(self, pids: list[int]) -> None:
        """Count the memory of these processes as well as our own."""
        self._pids = pids

    def _measure(self) -> None:
        total = sum(machine.resident_bytes(pid) for pid in [os.getpid(), *self._pids])
        free = machine.free_bytes()
        is_scarce = free < machine.SCARCE_BYTES
        warned = tr(", only {free:.0f} MB free on this machine").format(free=free / 2**20) if is_scarce else ""
        self._memory.setText(tr("memory {total:.0f} MB{warned}").format(total=total / 2**20, warned=warned))
        self._memory.setToolTip(_SCARCE if is_scarce else "")
        theme.set_style_name(self._memory, "warned" if is_scarce else "")


def _seal_label(seal: SealState, model_server: str) -> QLabel:
    """Whether the network is closed off, in a word, and in a tip what that means."""
    but_for = (
        tr(", but for your model server at {model_server}").format(model_server=model_server) if model_server else ""
    )
    unwalled = "" if seal.has_wall or not seal.is_on else tr(", without Landlock")
    label = QLabel(
        tr("● sealed{unwalled}{but_for}").format(unwalled=unwalled, but_for=but_for)
        if seal.is_on
        else tr("○ NOT SEALED")
    )
    limits = (
        tr(" It has no Landlock: what readers may read is not limited; the Seal room says more.") if unwalled else ""
    )
    label.setToolTip(
        tr("The kernel refuses every network socket to Red Lantern and everything it starts{but_for}.{limits}").format(
            but_for=but_for, limits=limits
        )
        if seal.is_on
        else tr("The network is not closed off. {reason}").format(reason=seal.reason)
    )
    label.setObjectName("sealed" if seal.is_on else "failed")
    return label
