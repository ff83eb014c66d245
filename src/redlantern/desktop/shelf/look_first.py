# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads files for a look before they are added, and splits them as often as the settings are turned."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.desktop.bridge import Task
from redlantern.desktop.shelf.preview_pane import PreviewPane
from redlantern.desktop.workspace import Workspace
from redlantern.indexing.preview import Preview, Split, read_samples, split_samples
from redlantern.progress import Progress
from redlantern.settings import Method
from redlantern.translation import tr


class LookFirst(QObject):
    """One look at a time; nothing of it is kept. `began` and `failed` say when it is to be shown, and why not."""

    began = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, workspace: Workspace, pane: PreviewPane) -> None:
        super().__init__(pane)
        self._workspace, self._pane = workspace, pane
        self._reading: Task | None = None
        self._splitting: Task | None = None
        pane.split_wanted.connect(self._on_split_wanted)

    def look_at(self, paths: list[Path]) -> None:
        """Read files for a look, and keep nothing."""
        session = self._workspace.session
        if session is None or self._workspace.is_updating:
            return
        self.end()
        engine = session.engine
        self._pane.show_waiting(paths, engine.method, tr("Reading for a look ..."))
        self.began.emit()
        self._reading = self._workspace.run(
            lambda task: read_samples(paths, engine.readers, report=task.report, cancel=task.cancel),
            progressed=self._on_progress,
            finished=self._on_read,
            failed=self._on_failed,
        )

    def end(self) -> None:
        """Stop looking, and let go of what was read."""
        if self._reading is not None:
            task, self._reading = self._reading, None
            task.cancel.now()
        self._pane.preview = None

    def _on_progress(self, progress: Progress) -> None:
        if self._reading is not None:
            self._pane.show_progress(progress)

    def _on_read(self, preview: Preview) -> None:
        if self._reading is not None:
            self._reading = None
            self._pane.show_preview(preview)

    def _on_failed(self, reason: str) -> None:
        self.end()
        self.failed.emit(reason)

    def _on_split_wanted(self, methods: list[Method]) -> None:
        session, preview = self._workspace.session, self._pane.preview
        if session is None or preview is None:
            return
        embedder = session.engine.embedder
        task = self._splitting = self._workspace.run(
            lambda _: [split_samples(preview, embedder, method) for method in methods],
            finished=lambda splits: self._on_split(task, splits),
        )

    def _on_split(self, task: Task, splits: list[Split]) -> None:
        if task is self._splitting:
            self._pane.show_splits(splits)
