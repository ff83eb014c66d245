# SPDX-License-Identifier: GPL-3.0-or-later
"""A run: what to conclude, the figures of each way, and every question with what it came to."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.marks import Lost
from redlantern.application.trials import RunState
from redlantern.desktop.trials.run_bar import RunBar
from redlantern.desktop.trials.words import is_right, outcome_words
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dot_plot import DotPlot, Plotted
from redlantern.desktop.widgets.labels import (
    clear,
    column_area,
    name_choice,
    notice,
    quiet_button,
    section_label,
    words_label,
)
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr
from redlantern.trials.comparing import MAIN, conclusion, lane_figures, overall, seconds_of, versus
from redlantern.trials.values import TrialQuestion

OTHERWISE, NOT_RIGHT, ALL = tr("Came out otherwise"), tr("Not as expected"), tr("All questions")
_SIGNS = {True: "✓", False: "✗", None: "·"}
_ROWS_SHOWN, _ROW_PX, _HEADING_PX = 14, 28, 240


class RunView(theme.ThemeAware, QWidget):
    """The page of a run. `question_opened` carries a question's id."""

    question_opened = pyqtSignal(str)
    mark_wanted = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.state: RunState | None = None
        self.bar = RunBar()
        self.mark_button = quiet_button(
            tr("Hold later runs against it"), tr("Later runs of this set say what they lost against this one")
        )
        self.mark_button.clicked.connect(
            lambda: self.mark_wanted.emit(not (self.state is not None and self.state.run.is_mark))
        )
        self.bar.row.insertWidget(2, self.mark_button)
        self._concluded = QVBoxLayout()
        self._concluded.setSpacing(6)
        self.plot = DotPlot()
        self.filter = QComboBox()
        name_choice(self.filter, tr("Which questions are listed"))
        self.filter.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.filter.currentIndexChanged.connect(self._fill)
        self.tag = QComboBox()
        name_choice(self.tag, tr("Questions of which tag are counted"))
        self.tag.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.tag.currentIndexChanged.connect(self._show)
        self.list = QTreeWidget()
        self._seconds = words_label("", family=theme.SANS, name="quiet")
        self._lost: Sequence[Lost] = ()
        self._build()

    def show_state(self, state: RunState, lost: Sequence[Lost] = ()) -> None:
        """Show a run as it stands; `lost` is what it lost against the mark."""
        is_other = self.state is None or self.state.run.run_id != state.run.run_id
        self.state, self._lost = state, lost
        self.bar.show_state(state)
        self.mark_button.setText(tr("No longer the mark") if state.run.is_mark else tr("Hold later runs against it"))
        self.mark_button.setVisible(state.is_done)
        if is_other:
            self._show_filters(state)
        self._show()

    @property
    def questions(self) -> list[TrialQuestion]:
        """The questions that are counted: all, or those of the chosen tag."""
        tag = self.tag.currentText()
        questions = self.state.run.questions if self.state is not None else ()
        return [question for question in questions if tag in ("", ALL) or tag in question.tags]

    def _show(self) -> None:
        state = self.state
        if state is None:
            return
        self._show_conclusions(state)
        marked, questions = state.marked, self.questions
        self.plot.show_ways(
            [Plotted(lane.arrangement.name, lane_figures(questions, marked, lane.lane_id)) for lane in state.run.lanes]
        )
        self._seconds.setText(_seconds_words(state))
        self._fill()

    def _show_filters(self, state: RunState) -> None:
        tags = dict.fromkeys(tag for question in state.run.questions for tag in question.tags)
        has_two = len(state.run.lanes) > 1
        for combo, names in (
            (self.filter, [*([OTHERWISE] if has_two else []), NOT_RIGHT, ALL]),
            (self.tag, [ALL, *tags]),
        ):
            combo.blockSignals(True)
            combo.clear()
            combo.addItems(names)
            combo.blockSignals(False)
        self.tag.setVisible(bool(tags))

    def _show_conclusions(self, state: RunState) -> None:
        clear(self._concluded)
        for each in self._lost:
            n = len({difference.question.question_id for difference in each.differences})
            since = each.mark.began_at[:10]
            self._concluded.addWidget(
                notice(
                    tr("Since the run of {since} that is the mark, “{name}” lost on {question}.").format(
                        since=since, name=each.lane.arrangement.name, question=counted(n, "question")
                    )
                )
            )
        for heading, words in conclusions(state, self.questions):
            self._concluded.addLayout(_concluded_row(heading, words))

    def _restyle(self) -> None:
        self._fill()

    def _fill(self) -> None:
        state = self.state
        if state is None:
            return
        chosen = self.filter.currentText()
        current = self.list.currentItem()
        before = current.data(0, Qt.ItemDataRole.UserRole) if current is not None else None
        self.list.clear()
        lanes = state.run.lanes
        self.list.setHeaderLabels([tr("Question"), *(lane.arrangement.name for lane in lanes)])
        for question in self.questions:
            rights = [self._right(question, lane.lane_id) for lane in lanes]
            outcomes = {self._outcome(question, lane.lane_id) for lane in lanes}
            is_answered = all((lane.lane_id, question.question_id) in state.answers for lane in lanes)
            if (chosen == OTHERWISE and (len(outcomes) < 2 or not is_answered)) or (
                chosen == NOT_RIGHT and False not in rights
            ):
                continue
            item = self._item(question, rights)
            self.list.addTopLevelItem(item)
            if question.question_id == before:
                self.list.setCurrentItem(item)
        for at in range(len(lanes) + 1):
            self.list.setColumnWidth(at, 480 if at == 0 else 300)
        n = self.list.topLevelItemCount()
        self.list.setFixedHeight(theme.px(_ROW_PX) * (min(_ROWS_SHOWN, max(2, n)) + 1) + 8)
        self._none.setVisible(not n)
        self.list.setVisible(bool(n))

    def _right(self, question: TrialQuestion, lane_id: str) -> bool | None:
        assert self.state is not None
        cell = self.state.answers.get((lane_id, question.question_id))
        return is_right(question, cell.marked if cell is not None else None)

    def _outcome(self, question: TrialQuestion, lane_id: str) -> str:
        assert self.state is not None
        cell = self.state.answers.get((lane_id, question.question_id))
        return outcome_words(question, cell.marked if cell is not None else None)

    def _item(self, question: TrialQuestion, rights: Sequence[bool | None]) -> QTreeWidgetItem:
        assert self.state is not None
        item = QTreeWidgetItem([visible(question.question)])
        item.setToolTip(0, visible(question.question))
        item.setData(0, Qt.ItemDataRole.UserRole, question.question_id)
        for at, (lane, right) in enumerate(zip(self.state.run.lanes, rights, strict=True), start=1):
            cell = self.state.answers.get((lane.lane_id, question.question_id))
            item.setText(at, f"{_SIGNS[right]} {self._outcome(question, lane.lane_id)}")
            item.setToolTip(at, visible(cell.shown) if cell is not None else "")
            if right is False:
                item.setForeground(at, QColor(theme.colours().amber))
        return item

    def _on_activated(self, item: QTreeWidgetItem) -> None:
        self.question_opened.emit(item.data(0, Qt.ItemDataRole.UserRole))

    def _build(self) -> None:
        self.list.setRootIsDecorated(False)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setAccessibleName(tr("Questions with what each way came to. Enter shows the answers side by side"))
        self.list.itemActivated.connect(self._on_activated)
        self.list.itemClicked.connect(self._on_activated)
        self._none = words_label(tr("None."), family=theme.SANS, name="quiet")
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(22, 6, 18, 14)
        column.setSpacing(7)
        column.addWidget(section_label(tr("WHAT TO CONCLUDE")))
        column.addLayout(self._concluded)
        column.addSpacing(8)
        figures = QHBoxLayout()
        figures.addWidget(
            section_label(tr("FIGURES: THE DOT IS WHAT CAME OUT, THE LINE WHERE THE TRUE VALUE LIES (95 %)"))
        )
        figures.addStretch(1)
        figures.addWidget(self.tag)
        column.addLayout(figures)
        column.addWidget(self.plot)
        column.addWidget(self._seconds)
        column.addSpacing(8)
        row = QHBoxLayout()
        row.addWidget(section_label(tr("QUESTION BY QUESTION")))
        row.addStretch(1)
        row.addWidget(self.filter)
        column.addLayout(row)
        column.addWidget(self.list)
        column.addWidget(self._none)
        column.addStretch(1)
        scroll = column_area()
        scroll.setWidget(body)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(6)
        head = QHBoxLayout()
        head.setContentsMargins(18, 0, 22, 0)
        head.addWidget(self.bar)
        layout.addLayout(head)
        layout.addWidget(scroll, 1)


def _seconds_words(state: RunState) -> str:
    """How long each way took for a question."""
    said = []
    for lane in state.run.lanes:
        spent = seconds_of(state.marked, lane.lane_id)
        if spent is not None:
            said.append(
                tr("“{name}” {spent:.1f} s (95 % within {spent2:.1f} s)").format(
                    name=lane.arrangement.name, spent=spent[0], spent2=spent[1]
                )
            )
    return tr("A question took, in the middle: {said}.").format(said=", ".join(said)) if said else ""


def conclusions(state: RunState, questions: Sequence[TrialQuestion]) -> list[tuple[str, str]]:
    """What to conclude, as a heading and a sentence: for each pair of ways in all, then by each main figure."""
    lanes = state.run.lanes
    if all(question.expects_nothing for question in questions):
        return [
            (
                "",
                tr("Nothing is expected of these questions, so nothing is marked: open the set and say what is right."),
            )
        ]
    if len(lanes) < 2:
        return [("", tr("There is one way only: its figures are below. Ask the set in a second way to compare."))]
    said = []
    first = lanes[0].arrangement.name
    for other in lanes[1:]:
        found = versus(questions, state.marked, lanes[0].lane_id, other.lane_id)
        second = other.arrangement.name
        said += [("", overall(found, first, second))] if found else []
        said += [(tr(each.figure.name), conclusion(each, first, second)) for each in found if each.figure.name in MAIN]
    return said or [("", tr("No question was answered in two ways yet."))]


def _concluded_row(heading: str, words: str) -> QHBoxLayout:
    """A sentence with the figure that it is of at its left; that of all figures stands alone, and larger."""
    row = QHBoxLayout()
    row.setSpacing(14)
    if heading:
        name = words_label(heading, family=theme.SANS, name="quiet")
        name.setFixedWidth(theme.px(_HEADING_PX))
        row.addWidget(name, 0, Qt.AlignmentFlag.AlignTop)
    row.addWidget(words_label(words, family=theme.SANS, scale=1.0 if heading else 1.12), 1)
    return row
