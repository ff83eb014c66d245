# SPDX-License-Identifier: GPL-3.0-or-later
"""The trials room: sets of questions with known answers, runs of them in several ways, and grids."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QInputDialog, QStackedWidget, QVBoxLayout

from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.application import grids, marks, trials
from redlantern.application.trials import RunState
from redlantern.application.ways import QUICK_WAYS, Way, ways
from redlantern.desktop.trials.ask_dialog import AskDialog, GridDialog
from redlantern.desktop.trials.copies import Copies
from redlantern.desktop.trials.home import Home
from redlantern.desktop.trials.question_set_page import QuestionSetPage
from redlantern.desktop.trials.run_pages import RunPages
from redlantern.desktop.widgets.dialogs import is_sure
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.settings import Method
from redlantern.translation import tr
from redlantern.trials.values import QuestionSet, TrialQuestion

_FROM_SHEETS = tr("From sheets")
_FORMS = tr("Questions (*.jsonl *.csv *.xlsx *.txt);;All files (*)")


class TrialsRoom(Room):
    """The room. `page_wanted` carries a citation to be opened on the desk."""

    page_wanted = pyqtSignal(object)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.home, self.set_page, self.runs = Home(), QuestionSetPage(workspace), RunPages(workspace)
        self.copies = Copies(workspace, self.home)
        self._sets: list[QuestionSet] = []
        self._stack = QStackedWidget()
        for page in (self.home, self.set_page, self.runs):
            self._stack.addWidget(page)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._stack)
        self._connect()

    def enter(self) -> None:
        """Look what is kept."""
        if self._stack.currentWidget() is self.home:
            self.show_home()

    def show_home(self) -> None:
        """Show the sets and runs."""
        self._stack.setCurrentWidget(self.home)
        for button in (self.home.new_button, self.home.file_button, self.home.paste_button):
            button.setEnabled(self.workspace.session is not None)
        self.copies.show()
        self.workspace.with_engine(
            lambda engine: (trials.sets(engine), trials.runs(engine), marks.outdated_marks(engine)),
            self._on_kept, self.home.notice.setText,
        )  # fmt: skip

    def take(self, sheet: Sheet) -> None:
        """Make a trial question of a sheet that is right, in a set of its own, and show it there."""

        def add(engine: Engine) -> QuestionSet:
            kept = reversed(trials.sets(engine))
            into = next((each for each in kept if each.name == _FROM_SHEETS), QuestionSet(_FROM_SHEETS, ()))
            question = trials.question_from(sheet, into.questions)
            return trials.keep_set(engine, replace(into, questions=(*into.questions, question)))

        self.workspace.with_engine(
            add, lambda kept: self.open_set(kept, len(kept.questions) - 1), self.home.notice.setText
        )

    def open_set(self, questions: QuestionSet, at: int = 0) -> None:
        """Show a set with its questions."""
        self.set_page.show_set(questions, at)
        self._stack.setCurrentWidget(self.set_page)

    def open_run(self, run_id: int) -> None:
        """Show a run as it stands."""
        self._stack.setCurrentWidget(self.runs)
        self.runs.open(run_id)

    def begin_run(self, set_id: int) -> None:
        """Ask in which ways a set is to be asked, then begin."""
        self._with_ways(set_id, self._choose_ways)

    def begin_grid(self, set_id: int) -> None:
        """Ask of which documents a grid is to be made, then begin."""
        self._with_ways(set_id, self._choose_grid)

    def take_file(self, path: Path) -> None:
        """Make a set of the questions of a file, and show it."""
        session = self.workspace.session

        def show(questions: list[TrialQuestion]) -> None:
            made = QuestionSet(path.stem, tuple(questions))
            self.workspace.with_engine(
                lambda engine: trials.keep_set(engine, made), self.open_set, self.home.notice.setText
            )

        if session is not None:
            engine = session.engine
            self.workspace.run(
                lambda task: trials.questions_from(engine, path, task.cancel),
                finished=show, failed=self.home.notice.setText,
            )  # fmt: skip

    def begin_first(self, path: Path) -> None:
        """Ask the questions of a file in two quick ways, as a collection's first run, without showing it yet."""
        session = self.workspace.session

        def go_on(run_id: int | None) -> None:
            if run_id is not None:
                self.runs.runner.begin(run_id)

        if session is not None:
            engine = session.engine
            self.workspace.run(
                lambda task: trials.begin_first(engine, path, QUICK_WAYS, task.cancel),
                finished=go_on, failed=self.home.notice.setText,
            )  # fmt: skip

    def _on_kept(self, found: tuple[list[QuestionSet], list[RunState], list[tuple[RunState, str]]]) -> None:
        self._sets = found[0]
        self.home.show_kept(*found)
        self.home.notice.setText("")

    def _with_ways(self, set_id: int, then: Callable[[QuestionSet, list[Way], Method], None]) -> None:
        def show(found: tuple[list[QuestionSet], list[Way], Method]) -> None:
            chosen = next((each for each in found[0] if each.set_id == set_id), None)
            if chosen is not None:
                then(chosen, found[1], found[2])

        self.workspace.with_engine(
            lambda engine: (trials.sets(engine), ways(engine), engine.method), show, self.home.notice.setText
        )

    def _choose_ways(self, chosen: QuestionSet, offered: list[Way], method: Method) -> None:
        dialog = AskDialog(chosen.name, len(chosen.questions), offered, method, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            arrangements = dialog.arrangements()
            self.workspace.with_engine(
                lambda engine: trials.begin(engine, chosen, arrangements), self._begin, self.home.notice.setText
            )

    def _choose_grid(self, chosen: QuestionSet, offered: list[Way], method: Method) -> None:
        scope = self.workspace.scope
        readable = self.workspace.documents_in_scope.readable
        documents = [each for each in readable if scope is None or each.document_id in scope]
        dialog = GridDialog(chosen.name, len(chosen.questions), len(documents), offered, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            rows, arrangement = documents if dialog.each.isChecked() else None, dialog.way.arrangement
            self.workspace.with_engine(
                lambda engine: grids.begin_grid(engine, chosen, arrangement, rows),
                self._begin,
                self.home.notice.setText,
            )

    def _begin(self, run_id: int) -> None:
        self._stack.setCurrentWidget(self.runs)
        self.runs.begin(run_id)

    def _on_new_set(self) -> None:
        self.workspace.with_engine(
            lambda engine: trials.keep_set(engine, QuestionSet(tr("New set"), ())),
            self.open_set,
            self.home.notice.setText,
        )

    def _on_file(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, tr("Questions from a file"), "", _FORMS)
        if path:
            self.take_file(Path(path))

    def _on_lines(self) -> None:
        """Make a set of lines that are pasted or typed."""
        text, is_said = QInputDialog.getMultiLineText(self, tr("Questions, one a line"), tr("Paste or type them:"))
        if not is_said or not text.strip():
            return
        questions = trials.questions_of_lines(text)
        self.workspace.with_engine(
            lambda engine: trials.keep_set(engine, QuestionSet(tr("Pasted questions"), tuple(questions))),
            self.open_set, self.home.notice.setText,
        )  # fmt: skip

    def _on_again(self, run_id: int) -> None:
        self.workspace.with_engine(
            lambda engine: marks.ask_again(engine, run_id), self._begin, self.home.notice.setText
        )

    def _on_update_ended(self, problem: str) -> None:
        """After an update, say which marks are to be held against it."""

        def tell(outdated: list[tuple[RunState, str]]) -> None:
            for state, _ in outdated:
                self.workspace.status.finish(
                    tr("The documents changed since the mark of “{name}”: Trials can ask it again.").format(
                        name=state.run.name
                    )
                )
            if self._stack.currentWidget() is self.home:
                self.show_home()

        if not problem:
            self.workspace.with_engine(marks.outdated_marks, tell, lambda _: None)

    def _on_delete_set(self, set_id: int) -> None:
        if is_sure(
            self, tr("Trials"), tr("Delete this set of questions?"), tr("Its runs stay. It cannot be brought back.")
        ):
            self.workspace.with_engine(
                lambda engine: trials.delete_set(engine, set_id), lambda _: self.show_home(), self.home.notice.setText
            )

    def _on_delete_run(self, run_id: int) -> None:
        if is_sure(
            self,
            tr("Trials"),
            tr("Delete this run with its answers?"),
            tr("The questions stay. It cannot be brought back."),
        ):
            if self.runs.runner.run_id == run_id:
                self.runs.runner.stop()
            self.workspace.with_engine(
                lambda engine: trials.delete_run(engine, run_id), lambda _: self.show_home(), self.home.notice.setText
            )

    def _on_run_ended(self) -> None:
        if self._stack.currentWidget() is self.home:
            self.show_home()

    def _connect(self) -> None:
        home = self.home
        home.lines_wanted.connect(self._on_lines)
        home.again_wanted.connect(self._on_again)
        self.workspace.updates.ended.connect(self._on_update_ended)
        home.set_begun.connect(self._on_new_set)
        home.file_wanted.connect(self._on_file)
        home.set_opened.connect(
            lambda set_id: self.open_set(next(each for each in self._sets if each.set_id == set_id))
        )
        home.run_wanted.connect(self.begin_run)
        home.grid_wanted.connect(self.begin_grid)
        home.set_deleted.connect(self._on_delete_set)
        home.run_opened.connect(self.open_run)
        home.run_deleted.connect(self._on_delete_run)
        self.set_page.back_wanted.connect(self.show_home)
        self.set_page.run_wanted.connect(self.begin_run)
        self.runs.back_wanted.connect(self.show_home)
        self.runs.page_wanted.connect(self.page_wanted)
        self.runs.ended.connect(self._on_run_ended)
