# SPDX-License-Identifier: GPL-3.0-or-later
"""One question of a run: what was expected, and the answers of all ways side by side."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from redlantern.answering.sheet import Sheet
from redlantern.application.trials import RunState
from redlantern.desktop.trials.words import expected_words, outcome_words, pages_words
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.given_dialog import GivenDialog
from redlantern.desktop.widgets.labels import quiet_button, words_label
from redlantern.desktop.widgets.sheet_columns import SheetColumns
from redlantern.translation import tr
from redlantern.trials.values import TrialQuestion


class QuestionView(QWidget):
    """The page of a question. `step_wanted` goes to the one before or after, `expect_wanted` changes what is expected."""

    back_wanted = pyqtSignal()
    step_wanted = pyqtSignal(int)
    page_wanted = pyqtSignal(object)
    expect_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.question: TrialQuestion | None = None
        self.title = words_label("", family=theme.SANS, scale=1.2)
        self.title.setFont(theme.voice(theme.SANS, scale=1.2, weight=theme.BOLD))
        self.expected = words_label("", family=theme.SANS, name="quiet")
        self.columns = SheetColumns()
        self.columns.page_wanted.connect(self.page_wanted)
        self.columns.given_wanted.connect(lambda sheet: GivenDialog(sheet, self).exec())
        back = quiet_button(tr("‹ The run"), tr("Back to the figures and the list"))
        back.clicked.connect(self.back_wanted)
        self.before, self.after = (
            quiet_button("‹", tr("The question before")),
            quiet_button("›", tr("The question after")),
        )
        for button, by in ((self.before, -1), (self.after, 1)):
            button.setAccessibleName(button.toolTip())
            button.clicked.connect(lambda _, by=by: self.step_wanted.emit(by))
        change = quiet_button(
            tr("Expect something else ..."), tr("Change what is expected; the answers are marked anew, not asked again")
        )
        change.clicked.connect(lambda: self.expect_wanted.emit(self.question))
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(back)
        top.addWidget(self.title, 1)
        for button in (change, self.before, self.after):
            top.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 8, 14, 8)
        layout.setSpacing(6)
        layout.addLayout(top)
        layout.addWidget(self.expected)
        layout.addWidget(self.columns, 1)

    def show_question(self, state: RunState, question: TrialQuestion, sheets: Sequence[Sheet | None]) -> None:
        """Show the sheets of a question, one for each way of the run."""
        self.question = question
        self.title.setText(question.question)
        expected = expected_words(question) or tr("no words")
        pages = tr("; right page: {pages_words}").format(pages_words=pages_words(question)) if question.right else ""
        self.expected.setText(tr("Expected: {expected}{pages}").format(expected=expected, pages=pages))
        titled = []
        for lane, sheet in zip(state.run.lanes, sheets, strict=True):
            cell = state.answers.get((lane.lane_id, question.question_id))
            marked = cell.marked if cell is not None else None
            words = outcome_words(question, marked)
            if marked is not None and marked.problem:
                words = f"{words}: {marked.problem}"
            titled.append((lane.title or lane.arrangement.name, sheet, words))
        right = {(page.path, page.page_number) for page in question.right}
        self.columns.show_sheets(titled, right=right)
