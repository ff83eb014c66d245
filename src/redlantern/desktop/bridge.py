# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs slow functions off the interface thread and brings back what they say."""

import os
import threading
import time
from collections.abc import Callable
from functools import cache
from typing import Any

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from redlantern.errors import RedlanternError
from redlantern.progress import Cancel, Cancelled, Progress
from redlantern.safety.failures import something_went_wrong
from redlantern.safety.names import visible_lines

_REPORT_PAUSE_S = 0.1
_NICENESS = 5
_MOST_THREADS = 24


class Task(QObject):
    """One slow function at work. Exactly one of `finished`, `cancelled` and `failed` is emitted, as the last signal.

    `progressed` comes at most ten times a second, but for the last report of a
    stage; `stepped` brings every value the function passes on. `failure` is what went wrong, once `failed` was emitted.
    """

    progressed = pyqtSignal(object)
    stepped = pyqtSignal(object)
    finished = pyqtSignal(object)
    cancelled = pyqtSignal()
    failed = pyqtSignal(str)
    _over = pyqtSignal()

    def __init__(self, work: "Callable[[Task], Any]") -> None:
        """`work` gets the task, to report with and to look at `cancel`; what it gives is passed to `finished`.

        A task has no parent: its thread holds it until the work has ended, whatever widget goes meanwhile.
        """
        super().__init__()
        self.cancel = Cancel()
        self.failure: RedlanternError | None = None
        self._work = work
        self._reported_at = 0.0
        self._ended = threading.Event()
        self._over.connect(self._on_over)

    def start(self) -> "Task":
        """Begin; returns at once. (Starting a Python thread would wait until it runs.)"""
        # Held until it is gone: what nobody holds may be collected in any thread, and under signals that are on their way.
        _started().add(self)
        self.destroyed.connect(lambda: _started().discard(self))
        _pool().start(_Runnable(self))
        return self

    @property
    def has_ended(self) -> bool:
        """Whether the work's thread has let go of this task."""
        return self._ended.is_set()

    def report(self, progress: Progress) -> None:
        """Pass on a report, unless one was passed on a moment ago. Called by the work, in its thread."""
        now = time.monotonic()
        is_last = progress.total is not None and progress.done >= progress.total
        if is_last or now - self._reported_at >= _REPORT_PAUSE_S:
            self._reported_at = now
            self.progressed.emit(progress)

    def wait(self) -> None:
        """Wait for the work to end; for closing only."""
        self._ended.wait()

    def run(self) -> None:
        """Do the work and tell how it ended, in a thread of the pool."""
        try:
            self._do()
        finally:
            # Comes after every other signal; then this thread touches nothing of the object any more.
            self._over.emit()
            self._ended.set()

    def _on_over(self) -> None:
        """Everybody was told: go, in the interface thread, once the work's thread has let go."""
        if self.has_ended:
            self.deleteLater()
        else:
            QTimer.singleShot(1, self._on_over)

    def _do(self) -> None:
        # On Linux each thread has its own priority, and what it starts inherits it: readers, model host and the threads
        # of the embedding runtime all give way to the interface.
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICENESS)
        try:
            result = self._work(self)
        except Cancelled:
            self.cancelled.emit()
        except RedlanternError as failure:
            self.failure = failure
            self.failed.emit(visible_lines(str(failure)))
        except Exception as failure:  # the outer edge of the thread: a bug must be told, not lost
            self.failed.emit(something_went_wrong(failure))
        else:
            self.finished.emit(result)


class _Runnable(QRunnable):
    """Holds a task while it runs."""

    def __init__(self, task: Task) -> None:
        super().__init__()
        self._task: Task | None = task

    def run(self) -> None:
        """Run the task and let go of it: it belongs to the interface thread, and must not end in this one."""
        task, self._task = self._task, None
        assert task is not None
        task.run()


def wait_for_all() -> None:
    """Wait for every task, also for one begun while the window was closing: Python must not end under a task."""
    _pool().waitForDone()


@cache
def _started() -> set[Task]:
    """The tasks that are not gone yet."""
    return set()


@cache
def _pool() -> QThreadPool:
    """Threads for all tasks; enough that a page is never waiting behind a long update."""
    pool = QThreadPool()
    pool.setMaxThreadCount(_MOST_THREADS)
    return pool
