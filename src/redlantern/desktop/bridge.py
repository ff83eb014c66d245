"""Runs slow functions off the interface thread and brings back what they say."""

import threading
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.errors import RedlanternError
from redlantern.progress import Cancel, Cancelled, Progress

_REPORT_PAUSE_S = 0.1


class Task(QObject):
    """One slow function at work. Exactly one of `finished`, `cancelled` and `failed` is emitted, as the last signal.

    `progressed` comes at most ten times a second, but for the last report of a
    stage; `stepped` brings every value the function passes on.
    """

    progressed = pyqtSignal(object)
    stepped = pyqtSignal(object)
    finished = pyqtSignal(object)
    cancelled = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, work: "Callable[[Task], Any]", parent: QObject | None = None) -> None:
        """`work` gets the task, to report with and to look at `cancel`; what it gives is passed to `finished`."""
        super().__init__(parent)
        self.cancel = Cancel()
        self._work = work
        self._reported_at = 0.0
        self._thread = threading.Thread(target=self._run, name="task", daemon=True)

    def start(self) -> "Task":
        """Begin."""
        self._thread.start()
        return self

    def report(self, progress: Progress) -> None:
        """Pass on a report, unless one was passed on a moment ago. Called by the work, in its thread."""
        now = time.monotonic()
        is_last = progress.total is not None and progress.done >= progress.total
        if is_last or now - self._reported_at >= _REPORT_PAUSE_S:
            self._reported_at = now
            self.progressed.emit(progress)

    def wait(self) -> None:
        """Wait for the thread to end; for closing only."""
        if self._thread.is_alive():
            self._thread.join()

    def _run(self) -> None:
        try:
            result = self._work(self)
        except Cancelled:
            self.cancelled.emit()
        except RedlanternError as failure:
            self.failed.emit(str(failure))
        except Exception as failure:  # the outer edge of the thread: a bug must be told, not lost
            self.failed.emit(
                f"Something went wrong in redlantern ({type(failure).__name__}). Nothing was lost; please report it."
            )
        else:
            self.finished.emit(result)
