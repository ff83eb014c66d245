# SPDX-License-Identifier: GPL-3.0-or-later
"""The head of a run's page: the way back, what it is, how far it is, and how it is stopped and gone on with."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from redlantern.application.trials import RunState
from redlantern.desktop.trials.words import how_far_words
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import quiet_button, words_label
from redlantern.progress import Progress
from redlantern.text.listing import seconds_words
from redlantern.translation import tr


class RunBar(QWidget):
    """The head, shared by figures and grids."""

    back_wanted = pyqtSignal()
    pause_wanted = pyqtSignal(bool)
    stop_wanted = pyqtSignal()
    go_on_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.is_running = False
        self.title = words_label("", family=theme.SANS, scale=1.2)
        self.title.setFont(theme.voice(theme.SANS, scale=1.2, weight=theme.BOLD))
        self.state = words_label("", family=theme.SANS, name="quiet")
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName(tr("How much is answered"))
        self.pause_button, self.stop_button = QPushButton(tr("Pause")), QPushButton(tr("Stop"))
        self.pause_button.setCheckable(True)
        self.pause_button.toggled.connect(self._on_pause)
        self.stop_button.clicked.connect(self.stop_wanted)
        self.go_on_button = QPushButton(tr("Go on"))
        self.go_on_button.setObjectName("first")
        self.go_on_button.clicked.connect(self.go_on_wanted)
        back = quiet_button(tr("‹ All trials"), tr("Back to the sets and runs"))
        back.clicked.connect(self.back_wanted)
        self.row = QHBoxLayout()
        self.row.setSpacing(10)
        self.row.addWidget(back)
        self.row.addWidget(self.title, 1)
        for button in (self.go_on_button, self.pause_button, self.stop_button):
            self.row.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(self.row)
        layout.addWidget(self.progress)
        layout.addWidget(self.state)
        self.show_running(False, is_done=True)

    def show_state(self, state: RunState) -> None:
        """Say what run this is and how far it is."""
        self.title.setText(state.run.name)
        if not self.is_running:
            # While it runs the line says how long the rest takes.
            self.state.setText(how_far_words(state))
        self.progress.setMaximum(max(1, state.run.n_cells))
        self.progress.setValue(len(state.answers))
        self.progress.setVisible(self.is_running or not state.is_done)
        self.go_on_button.setVisible(not state.is_done and not self.is_running)

    def show_running(self, is_running: bool, *, is_done: bool, problem: str = "") -> None:
        """Whether questions are being asked now."""
        self.is_running = is_running
        self.pause_button.setVisible(is_running)
        self.stop_button.setVisible(is_running)
        self.pause_button.setChecked(False)
        self.progress.setVisible(is_running or not is_done)
        self.go_on_button.setVisible(not is_running and not is_done)
        if problem:
            self.state.setText(problem)

    def show_progress(self, progress: Progress, seconds_left: float | None) -> None:
        """Say which answer is worked on, and how long the rest takes."""
        left = (
            tr(", {seconds_words} left").format(seconds_words=seconds_words(seconds_left))
            if seconds_left is not None
            else ""
        )
        self.progress.setValue(progress.done)
        self.state.setText(
            tr("{done} of {total} answers{left}.  {detail}").format(
                done=progress.done, total=progress.total, left=left, detail=progress.detail
            )
        )

    def _on_pause(self, is_paused: bool) -> None:
        self.pause_button.setText(tr("Go on") if is_paused else tr("Pause"))
        self.pause_wanted.emit(is_paused)
