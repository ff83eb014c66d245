# SPDX-License-Identifier: GPL-3.0-or-later
"""Lets a run go on in the background: one at a time, with pause and stop."""

import time

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.application import trials
from redlantern.application.trials import RunState
from redlantern.desktop.bridge import Task
from redlantern.desktop.workspace import Workspace
from redlantern.progress import Progress

_RELOAD_PAUSE_S = 0.7


class Runner(QObject):
    """`progressed` carries a report and the seconds left, `answered` the run as it stands, `ended` what went wrong, if anything."""

    progressed = pyqtSignal(object, object)
    answered = pyqtSignal(object)
    ended = pyqtSignal(str)

    def __init__(self, workspace: Workspace, parent: QObject) -> None:
        super().__init__(parent)
        self._workspace = workspace
        self.run_id = 0
        self._task: Task | None = None
        self._began = self._loaded_at = 0.0
        self._began_done: int | None = None
        self._is_loading = False

    def begin(self, run_id: int) -> bool:
        """Ask what is missing of a run; gives whether it began: one that is going on already is not disturbed."""
        session = self._workspace.session
        if session is None or self._task is not None:
            return False
        engine, self.run_id = session.engine, run_id
        self._began, self._began_done = time.monotonic(), None
        self._task = self._workspace.run(
            lambda task: trials.go_on_with(
                engine, run_id, report=task.report, cancel=task.cancel, on_cell=task.stepped.emit
            ),
            progressed=self._on_progress,
            stepped=lambda _: self._reload_soon(),
            finished=lambda _: self._on_ended(""),
            cancelled=lambda: self._on_ended(""),
            failed=self._on_ended,
        )
        return True

    def stop(self) -> None:
        """Stop asking; what was answered is kept."""
        if self._task is not None:
            self._task.cancel.now()

    def pause(self, is_paused: bool) -> None:
        """Hold still before the next question, or go on."""
        if self._task is not None:
            if is_paused:
                self._task.cancel.hold()
            else:
                self._task.cancel.go_on()

    def _on_progress(self, progress: Progress) -> None:
        if self._began_done is None:
            self._began, self._began_done = time.monotonic(), progress.done
        n_now = progress.done - self._began_done
        spent = time.monotonic() - self._began
        left = spent / n_now * ((progress.total or 0) - progress.done) if n_now > 2 else None
        if self._task is not None and not self._task.cancel.is_held:
            self.progressed.emit(progress, left)

    def _reload_soon(self) -> None:
        """Answers came in: show them, but not more often than eyes can follow."""
        if not self._is_loading and time.monotonic() - self._loaded_at > _RELOAD_PAUSE_S:
            self._reload()

    def _reload(self) -> None:
        run_id = self.run_id
        self._is_loading = True
        self._workspace.with_engine(lambda engine: trials.load(engine, run_id), self._on_loaded, self._on_not_loaded)

    def _on_loaded(self, state: RunState) -> None:
        self._is_loading, self._loaded_at = False, time.monotonic()
        self.answered.emit(state)

    def _on_not_loaded(self, reason: str) -> None:
        self._is_loading = False

    def _on_ended(self, problem: str) -> None:
        run_id, self._task, self.run_id = self.run_id, None, 0
        self.ended.emit(problem)
        self._workspace.with_engine(lambda engine: trials.load(engine, run_id), self.answered.emit, self._on_not_loaded)
