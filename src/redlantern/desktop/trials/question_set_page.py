# SPDX-License-Identifier: GPL-3.0-or-later
"""The page of a set: its editor, and what is done for it in the background."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QVBoxLayout, QWidget

from redlantern.application import trials
from redlantern.application.exporting import put_exported
from redlantern.application.side_by_side import Tried, try_ranking
from redlantern.desktop.trials.set_editor import SetEditor
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr
from redlantern.trials.values import QuestionSet, TrialQuestion

_MOST_PROPOSED, _USUAL_PROPOSED = 60, 10
_FORMS = tr("Questions (*.jsonl *.csv *.xlsx *.txt);;All files (*)")


class QuestionSetPage(QWidget):
    """The page. `run_wanted` carries the set's number."""

    back_wanted = pyqtSignal()
    run_wanted = pyqtSignal(int)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace, self.editor = workspace, SetEditor()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.editor)
        editor = self.editor
        editor.back_wanted.connect(self.back_wanted)
        editor.changed.connect(self._on_changed)
        editor.run_wanted.connect(lambda: self.run_wanted.emit(editor.set.set_id))
        editor.file_wanted.connect(self._on_file)
        editor.propose_wanted.connect(self._on_propose)
        editor.pages_wanted.connect(self._on_pages_wanted)
        editor.saving_wanted.connect(self._on_saving)

    def show_set(self, questions: QuestionSet, at: int = 0) -> None:
        """Show a set, with one of its questions chosen."""
        self.editor.show_set(questions, at)

    def take_file(self, path: Path) -> None:
        """Take the questions of a file into the set."""
        session = self.workspace.session
        if session is not None:
            engine = session.engine
            self.workspace.run(
                lambda task: trials.questions_from(engine, path, task.cancel),
                finished=self.editor.add, failed=self.editor.notice.setText,
            )  # fmt: skip

    def _on_changed(self, questions: QuestionSet) -> None:
        self.workspace.with_engine(
            lambda engine: trials.keep_set(engine, questions), lambda _: None, self.editor.notice.setText
        )

    def _on_file(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, tr("Questions from a file"), "", _FORMS)
        if path:
            self.take_file(Path(path))

    def _on_saving(self) -> None:
        questions = self.editor.set
        path, _ = QFileDialog.getSaveFileName(
            self, tr("Where to save the questions"), f"{questions.name}.jsonl", tr("JSONL (*.jsonl)")
        )
        if path:
            target, content = Path(path), trials.set_as_file(questions)
            self.workspace.with_engine(
                lambda _: put_exported(target, content),
                lambda _: self.editor.notice.setText(tr("Saved as {path}").format(path=visible(path))), self.editor.notice.setText,
            )  # fmt: skip

    def _on_propose(self) -> None:
        n, is_wanted = QInputDialog.getInt(
            self, tr("Let the model think of questions"),
            tr(
    "It asks something of so many passages, a few seconds each. Models ask easy questions:\nwhat they "
    "think of is marked as theirs for ever, and you should mend or remove each."
),
            _USUAL_PROPOSED, 1, _MOST_PROPOSED,
        )  # fmt: skip
        if is_wanted:
            self.propose(n)

    def propose(self, n: int) -> None:
        """Let the model think of at most so many questions; each is shown as it comes."""
        session = self.workspace.session
        if session is None:
            return
        engine, notice = session.engine, self.editor.notice

        def come(question: TrialQuestion) -> None:
            self.editor.add([question])
            notice.setText(tr("Thinking of questions ..."))

        notice.setText(tr("Thinking of questions ..."))
        self.workspace.run(
            lambda task: trials.propose_questions(
                engine, n, report=task.report, cancel=task.cancel, on_question=task.stepped.emit
            ),
            stepped=come,
            finished=lambda n: notice.setText(
                tr("{question} came. Read each: mend it, or remove it.").format(question=counted(n, "question"))
            ),
            failed=notice.setText,
        )

    def _on_pages_wanted(self, text: str) -> None:
        scope = self.workspace.scope
        paths = {each.document_id: (each.path, each.key) for each in self.workspace.documents}

        def show(tried: Tried) -> None:
            self.editor.show_pages(tried.columns[-1][1], paths)

        if text:
            self.workspace.with_engine(
                lambda engine: try_ranking(engine, text, scope), show, self.editor.notice.setText
            )
