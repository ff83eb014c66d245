# SPDX-License-Identifier: GPL-3.0-or-later
"""Puts the same question to the language model alone: what is only the model's, and stands on no document."""

from PyQt6.QtCore import QObject

from redlantern.application.questions import ask_model_alone
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.workspace import Workspace
from redlantern.translation import tr


class ModelAlone(QObject):
    """Asks the model alone for a desk, one question at a time; Esc stops it."""

    def __init__(self, workspace: Workspace, view: SheetView) -> None:
        super().__init__(view)
        self._workspace, self._view = workspace, view
        self._task: Task | None = None

    @property
    def is_running(self) -> bool:
        """Whether the model is being asked."""
        return self._task is not None

    def ask(self) -> None:
        """Ask the model the question of the shown sheet."""
        session, sheet, part = self._workspace.session, self._view.sheet, self._view.model_alone
        if session is None or sheet is None or part is None:
            return
        engine, question = session.engine, sheet.standalone_question
        part.show_words(tr("thinking; Esc stops ..."))
        self._task = self._workspace.run(
            lambda task: ask_model_alone(engine, question, cancel=task.cancel, on_step=task.stepped.emit),
            stepped=self._on_words, finished=self._on_ended, failed=self._on_failed,
        )  # fmt: skip

    def stop(self) -> None:
        """Stop it; what was written stays."""
        if self._task is not None:
            task, self._task = self._task, None
            task.cancel.now()
            part = self._view.model_alone
            if part is not None:
                part.show_words(tr("{text} (stopped)").format(text=part.words.text()))
                part.offer_again()

    def _on_words(self, words: str) -> None:
        part = self._view.model_alone
        if self.sender() is self._task and part is not None:
            part.show_words(words)

    def _on_ended(self, words: str) -> None:
        if self.sender() is self._task:
            self._task = None

    def _on_failed(self, reason: str) -> None:
        part = self._view.model_alone
        if self.sender() is self._task:
            self._task = None
            if part is not None:
                part.show_words(reason)
                part.offer_again()
