# SPDX-License-Identifier: GPL-3.0-or-later
"""The pages of runs: figures, a question's answers, grids; and what is done on them."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QStackedWidget, QWidget

from redlantern.answering.sheet import Sheet
from redlantern.application import grids, marks, trials
from redlantern.application.exporting import put_exported
from redlantern.application.grids import GridRow
from redlantern.application.marks import Lost
from redlantern.application.trials import RunState
from redlantern.desktop.trials.expect_dialog import ExpectDialog
from redlantern.desktop.trials.grid_view import GridView
from redlantern.desktop.trials.question_view import QuestionView
from redlantern.desktop.trials.run_view import RunView
from redlantern.desktop.trials.runner import Runner
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import visible
from redlantern.translation import tr
from redlantern.trials.values import TrialQuestion


class RunPages(QStackedWidget):
    """The pages. `back_wanted` leads to all trials; `page_wanted` carries a citation to be opened on the desk."""

    back_wanted = pyqtSignal()
    page_wanted = pyqtSignal(object)
    ended = pyqtSignal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.figures, self.question, self.grid = RunView(), QuestionView(), GridView()
        self.runner = Runner(workspace, self)
        self._from: QWidget = self.figures
        for page in (self.figures, self.question, self.grid):
            self.addWidget(page)
        self._connect()

    def open(self, run_id: int, then: Callable[[], object] = lambda: None) -> None:
        """Show a run; one that is not done waits until it is gone on with."""

        def show(state: RunState) -> None:
            self._show(state)
            then()

        self.workspace.with_engine(lambda engine: trials.load(engine, run_id), show, self._tell)

    def begin(self, run_id: int) -> None:
        """Show a run, and ask what is missing of it."""
        self.open(run_id, lambda: self._go_on(run_id))

    def _go_on(self, run_id: int) -> None:
        if not self.runner.begin(run_id) and self.runner.run_id != run_id:
            self._tell(tr("Another run is being asked just now; go on with this one when it is done."))
            return
        for view in (self.figures, self.grid):
            if view.state is not None and view.state.run.run_id == run_id:
                view.bar.show_running(True, is_done=False)

    def _show(self, state: RunState) -> None:
        if state.run.kind == "grid":
            self.workspace.with_engine(
                lambda engine: grids.grid_rows(engine, state), lambda rows: self._show_grid(state, rows), self._tell
            )
        else:
            self.workspace.with_engine(
                lambda engine: marks.lost_against_mark(engine, state),
                lambda lost: self._show_figures(state, lost), self._tell,
            )  # fmt: skip

    def _show_figures(self, state: RunState, lost: list[Lost]) -> None:
        self.figures.show_state(state, lost)
        self._settle(self.figures, state)

    def _show_grid(self, state: RunState, rows: list[GridRow]) -> None:
        self.grid.show_grid(state, rows)
        self._settle(self.grid, state)

    def _settle(self, view: RunView | GridView, state: RunState) -> None:
        is_running = self.runner.run_id == state.run.run_id
        if view.bar.is_running != is_running:
            view.bar.show_running(is_running, is_done=state.is_done)
        self.setCurrentWidget(view)

    def _on_answers(self, state: RunState) -> None:
        """Answers came in: show them where their run is shown."""
        view = self.currentWidget()
        if view in (self.figures, self.grid) and view.state is not None and view.state.run.run_id == state.run.run_id:  # type: ignore[union-attr]
            self._show(state)

    def _on_ended(self, problem: str) -> None:
        for view in (self.figures, self.grid):
            if view.state is not None and view.bar.is_running:
                view.bar.show_running(False, is_done=view.state.is_done, problem=problem)
        self.ended.emit()

    # What is done with a run

    def _open_question(self, view: RunView | GridView, question_id: str, lane_id: str = "") -> None:
        state = view.state
        if state is None:
            return
        self._from = view
        lanes = [lane for lane in state.run.lanes if lane_id in ("", lane.lane_id)]
        narrowed = replace(state, run=replace(state.run, lanes=tuple(lanes)))
        question, run_id = state.run.question(question_id), state.run.run_id

        def show(sheets: list[Sheet | None]) -> None:
            self.question.show_question(narrowed, question, sheets)
            self.setCurrentWidget(self.question)

        self.workspace.with_engine(
            lambda engine: [trials.sheet_of(engine, run_id, lane.lane_id, question_id) for lane in lanes],
            show,
            self._tell,
        )

    def _on_step(self, by: int) -> None:
        state, question = self.figures.state, self.question.question
        if state is None or question is None or self._from is self.grid:
            return
        ids = [each.question_id for each in state.run.questions]
        at = ids.index(question.question_id) + by
        if 0 <= at < len(ids):
            self._open_question(self.figures, ids[at])

    def _on_expect(self, question: TrialQuestion) -> None:
        state = self.figures.state if self._from is self.figures else self.grid.state
        dialog = ExpectDialog(question, self)
        if state is None or dialog.exec() != QDialog.DialogCode.Accepted:
            return
        run_id, changed = state.run.run_id, dialog.question()

        def show(now: RunState) -> None:
            if self._from is self.figures:
                self.figures.show_state(now)
                self._open_question(self.figures, changed.question_id)

        self.workspace.with_engine(lambda engine: trials.mend_question(engine, run_id, changed), show, self._tell)

    def _on_mark(self, is_mark: bool) -> None:
        state = self.figures.state
        if state is not None:
            run_id = state.run.run_id
            self.workspace.with_engine(
                lambda engine: marks.set_mark(engine, run_id, is_mark=is_mark), lambda _: self.open(run_id), self._tell
            )

    def _on_corrected(self, lane_id: str, question_id: str, words: str) -> None:
        state = self.grid.state
        if state is not None:
            run_id = state.run.run_id
            self.workspace.with_engine(
                lambda engine: grids.correct(engine, run_id, lane_id, question_id, words),
                lambda _: self.open(run_id), self._tell,
            )  # fmt: skip

    def _on_saving(self, path: str) -> None:
        state = self.grid.state
        if state is not None:
            target = Path(path)
            self.workspace.with_engine(
                lambda engine: put_exported(
                    target, grids.grid_as_file(state.run.name, grids.grid_rows(engine, state), grids.put_form(target))
                ),
                lambda _: self.grid.said.setText(tr("Saved as {path}").format(path=visible(path))), self._tell,
            )  # fmt: skip

    def _tell(self, reason: str) -> None:
        view = self.currentWidget()
        label = (
            self.grid.said
            if view is self.grid
            else self.question.expected
            if view is self.question
            else self.figures.bar.state
        )
        label.setText(reason)

    def _connect(self) -> None:
        self.figures.question_opened.connect(lambda question_id: self._open_question(self.figures, question_id))
        self.figures.mark_wanted.connect(self._on_mark)
        self.question.back_wanted.connect(lambda: self.setCurrentWidget(self._from))
        self.question.step_wanted.connect(self._on_step)
        self.question.page_wanted.connect(self.page_wanted)
        self.question.expect_wanted.connect(self._on_expect)
        self.grid.opened.connect(lambda lane_id, question_id: self._open_question(self.grid, question_id, lane_id))
        self.grid.corrected.connect(self._on_corrected)
        self.grid.saving.connect(self._on_saving)
        for view in (self.figures, self.grid):
            view.bar.back_wanted.connect(self.back_wanted)
            view.bar.go_on_wanted.connect(lambda view=view: self._go_on(view.state.run.run_id) if view.state else None)
            view.bar.stop_wanted.connect(self.runner.stop)
            view.bar.pause_wanted.connect(self.runner.pause)
        self.runner.progressed.connect(self._on_progress)
        self.runner.answered.connect(self._on_answers)
        self.runner.ended.connect(self._on_ended)

    def _on_progress(self, progress: object, seconds_left: object) -> None:
        for view in (self.figures, self.grid):
            if view.bar.is_running and view.state is not None and view.state.run.run_id == self.runner.run_id:
                view.bar.show_progress(progress, seconds_left)  # type: ignore[arg-type]
