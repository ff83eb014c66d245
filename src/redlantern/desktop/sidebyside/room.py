# SPDX-License-Identifier: GPL-3.0-or-later
"""The room Side by side: one question answered in two or three ways, and what each step of finding does with it."""

from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.answering.sheet import Sheet
from redlantern.application.side_by_side import answer_in_ways
from redlantern.application.ways import Way, ways
from redlantern.desktop.bridge import Task
from redlantern.desktop.sidebyside.steps import StepsView
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.given_dialog import GivenDialog
from redlantern.desktop.widgets.labels import words_label
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.widgets.sheet_columns import SheetColumns
from redlantern.desktop.widgets.way_settings import WayChoice
from redlantern.desktop.workspace import Workspace
from redlantern.settings import Method
from redlantern.text.listing import seconds_words
from redlantern.translation import tr

_MOST_COLUMNS = 3
_INTRODUCTION = tr(
    "Put one question to two or three ways of answering: with and without a language model, with another "
    "one, with other settings, or by the model's memory alone. What only one way found is marked, and so "
    "is what one says against another. Nothing is kept and nothing of your collection changes. One "
    "question proves little: to choose by figures, run a set of questions in Trials."
)
_EMPTY = tr("The question is empty. Type what you want to find.")


class SideBySideRoom(Room):
    """The room. A chosen row opens its page on the desk."""

    page_wanted = pyqtSignal(object)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.sheets: dict[int, tuple[Sheet, bool]] = {}
        self._held: dict[int, int] = {}
        self._asked: list[Way] = []
        self._task: Task | None = None
        self.question = QLineEdit()
        self.question.setObjectName("question")
        self.question.setPlaceholderText(tr("A question to be looked at side by side ..."))
        self.question.setAccessibleName(tr("Question to look at side by side"))
        self.question.returnPressed.connect(self.begin)
        self.begin_button = QPushButton(tr("Compare"))
        self.begin_button.setObjectName("first")
        self.begin_button.clicked.connect(self.begin)
        self.stop_button = QPushButton(tr("Stop"))
        self.stop_button.clicked.connect(self.stop)
        self.stop_button.hide()
        self.choices = [
            WayChoice(tr("Way of column {number}").format(number=number + 1), may_be_none=number > 1)
            for number in range(_MOST_COLUMNS)
        ]
        self.columns, self.steps = SheetColumns(), StepsView(workspace)
        self.notice = words_label("", family=theme.SANS, scale=0.95, name="quiet")
        self.views = QButtonGroup(self)
        self._stack = QStackedWidget()
        self._build()
        self.columns.page_wanted.connect(self.page_wanted)
        self.columns.given_wanted.connect(lambda sheet: GivenDialog(sheet, self).exec())
        self.steps.page_wanted.connect(self.page_wanted)
        self.views.idClicked.connect(self._on_view)

    def enter(self) -> None:
        """Take over the desk's question when none was tried yet, and look which ways there are."""
        session = self.workspace.session
        if not self.question.text():
            self.question.setText(self.workspace.shown_question)
        for widget in (self.question, self.begin_button, *self.choices):
            widget.setEnabled(session is not None)
        if session is not None:
            engine = session.engine
            self.workspace.run(
                lambda _: (ways(engine), engine.method), finished=self._on_ways, failed=self.notice.setText
            )
        self.question.setFocus()

    def put(self, question: str) -> None:
        """Fill in a question from another room."""
        self.question.setText(question)
        self.views.button(0).click()  # type: ignore[union-attr]

    def begin(self) -> None:
        """Answer the question in each chosen way, or rank for it, by the view that is shown."""
        text, session = self.question.text().strip(), self.workspace.session
        if session is None or self._task is not None:
            return
        if not text:
            self.notice.setText(_EMPTY)
            return
        if self._stack.currentWidget() is self.steps:
            self.notice.setText("")
            self.steps.try_question(text)
            return
        self._asked = [way for choice in self.choices if (way := choice.way) is not None]
        self.sheets = {}
        engine, paths = session.engine, self._paths()
        arrangements = [replace(way.arrangement, paths=paths) for way in self._asked]
        self._stack.setCurrentWidget(self.columns)
        self._show_columns()
        self._show_running(True)
        self._task = self.workspace.run(
            lambda task: answer_in_ways(
                engine, text, arrangements, cancel=task.cancel, on_sheet=lambda *found: task.stepped.emit(found)
            ),
            stepped=self._on_sheet,
            finished=lambda _: self._on_ended(""),
            cancelled=lambda: self._on_ended(tr("Stopped. What was answered stands.")),
            failed=self._on_ended,
        )

    def stop(self) -> None:
        """Stop answering; what was answered stands."""
        if self._task is not None:
            self._task.cancel.now()

    def _on_view(self, number: int) -> None:
        if number == 1:
            self._stack.setCurrentWidget(self.steps)
        else:
            self._stack.setCurrentWidget(self.columns if self.columns.columns else self._introduction)
        self._choice_row.setVisible(number == 0)
        self.begin_button.setText(tr("Compare") if number == 0 else tr("Rank"))
        self.notice.setText("")
        if number == 1 and self.question.text().strip() and self.steps.tried is None:
            self.begin()

    def _on_ways(self, found: tuple[list[Way], Method]) -> None:
        offered, method = found
        for number, choice in enumerate(self.choices):
            choice.show_ways(offered, method, number if number < 2 else -1)

    def _on_sheet(self, found: tuple[int, Sheet, int]) -> None:
        number, sheet, held_bytes = found
        self.sheets[number], self._held[number] = (sheet, held_bytes > 0), held_bytes
        self._show_columns()

    def _on_ended(self, words: str) -> None:
        self._task = None
        self._show_running(False)
        self.notice.setText(words or tr("Click or Enter opens a page on the desk."))

    def _show_running(self, is_running: bool) -> None:
        self.stop_button.setVisible(is_running)
        self.begin_button.setEnabled(not is_running)
        if is_running:
            left = sum(way.seconds for way in self._asked)
            self.notice.setText(
                tr("Answering in one way after the other, {seconds_words} ...").format(
                    seconds_words=seconds_words(left)
                )
            )

    def _show_columns(self) -> None:
        titled = []
        for number, way in enumerate(self._asked):
            sheet, is_done = self.sheets.get(number, (None, False))
            waiting = (
                tr("{seconds_words}, after the others ...").format(seconds_words=seconds_words(way.seconds))
                if sheet is None
                else tr("found; being read and written ...")
            )
            held = tr("{held:,.0f} MB of memory held").format(held=self._held[number] / 2**20) if is_done else waiting
            titled.append((way.arrangement.name, sheet, held))
        self.columns.show_sheets(titled)

    def _paths(self) -> tuple[str, ...] | None:
        scope = self.workspace.scope
        if scope is None:
            return None
        return tuple(each.full_path for each in self.workspace.documents if each.document_id in scope)

    def _build(self) -> None:
        bar = QHBoxLayout()
        bar.setContentsMargins(22, 12, 22, 4)
        bar.setSpacing(10)
        bar.addWidget(self.question, 1)
        bar.addWidget(self.begin_button)
        bar.addWidget(self.stop_button)
        for number, (name, tip) in enumerate(
            (
                (tr("Ways of answering"), tr("The question answered in several ways")),
                (tr("Steps of finding"), tr("Its passages ranked by each step")),
            )
        ):
            button = QPushButton(name)
            button.setObjectName("room")
            button.setCheckable(True)
            button.setChecked(number == 0)
            button.setToolTip(tip)
            self.views.addButton(button, number)
            bar.addWidget(button)
        self._choice_row = QWidget()
        choices = QHBoxLayout(self._choice_row)
        choices.setContentsMargins(22, 2, 22, 2)
        choices.setSpacing(14)
        for choice in self.choices:
            choices.addWidget(choice, 1)
        self.notice.setContentsMargins(24, 0, 24, 4)
        self._introduction = QWidget()
        box = QVBoxLayout(self._introduction)
        box.setContentsMargins(24, 20, 24, 20)
        words = words_label(_INTRODUCTION, family=theme.SANS, scale=1.05)
        words.setMaximumWidth(760)
        box.addWidget(words)
        box.addStretch(1)
        body = QVBoxLayout()
        body.setContentsMargins(22, 4, 12, 8)
        for page in (self._introduction, self.columns, self.steps):
            self._stack.addWidget(page)
        body.addWidget(self._stack)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(bar)
        layout.addWidget(self._choice_row)
        layout.addWidget(self.notice)
        layout.addLayout(body, 1)
