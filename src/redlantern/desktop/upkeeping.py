# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs what has a collection's file alone, such as a change of its key: shown in the status line, with a way to stop it."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.desktop.bridge import Task
from redlantern.desktop.widgets.status import StatusLine
from redlantern.progress import Progress
from redlantern.translation import tr

_STOPPED = tr("Stopped. The collection is as it was.")


class Upkeep(QObject):
    """One piece of upkeep at a time. Questions and reading wait meanwhile: `changed` says when, with what is going on."""

    changed = pyqtSignal(str)

    def __init__(self, run: Callable[..., Task], status: StatusLine) -> None:
        super().__init__()
        self._run, self._status = run, status
        self._task: Task | None = None
        self.words = ""
        status.cancel_wanted.connect(self.cancel)

    @property
    def is_running(self) -> bool:
        """Whether something has the collection alone."""
        return self._task is not None

    def begin(
        self,
        work: Callable[[Task], Any],
        words: str,
        *,
        finished: Callable[[Any], object],
        failed: Callable[[str], object],
    ) -> None:
        """Begin; `words` say what is going on."""
        self.words = words
        self._status.begin(words, can_pause=False)

        def done(result: Any) -> None:
            self._end("")
            finished(result)

        def broke(reason: str) -> None:
            self._end("")
            failed(reason)

        def stopped() -> None:
            self._end(_STOPPED)
            failed(_STOPPED)

        self._task = self._run(
            work, progressed=self._on_progress, finished=done, failed=broke, cancelled=stopped
        )  # fmt: skip
        self.changed.emit(words)

    def cancel(self) -> None:
        """Stop it, where it can still be stopped."""
        if self._task is not None:
            self._status.stopping()
            self._task.cancel.now()

    def forget(self) -> None:
        """The collection was closed; whatever ran has ended."""
        if self._task is not None:
            self._end("")

    def _on_progress(self, progress: Progress) -> None:
        if self._task is not None and not self._task.cancel.is_set:
            self._status.show_progress(progress)

    def _end(self, words: str) -> None:
        self._task, self.words = None, ""
        self._status.finish(words)
        self.changed.emit("")
