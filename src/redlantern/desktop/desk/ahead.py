# SPDX-License-Identifier: GPL-3.0-or-later
"""Reading ahead: what a question that is still being typed would be answered from is read already, and dropped without cost."""

from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.desktop.bridge import Task
from redlantern.desktop.workspace import Workspace


class ReadAhead:
    """Reads ahead for one question at a time; nothing of it is shown or kept."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._task: Task | None = None

    def begin(self, engine: Engine, question: Question) -> None:
        """Read for this question now, and for no other any more."""
        self.drop()
        # What fails now is told when the question is asked.
        self._task = self._workspace.run(lambda task: engine.read_ahead(question, task.cancel), failed=lambda _: None)

    def drop(self) -> None:
        """Stop: the question is asked, or another is being typed."""
        if self._task is not None:
            task, self._task = self._task, None
            task.cancel.now()
