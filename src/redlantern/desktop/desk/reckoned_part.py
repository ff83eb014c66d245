# SPDX-License-Identifier: GPL-3.0-or-later
"""What was reckoned, on a sheet: the figure in a sentence, the rows it comes from, what was left out, and the plan to be changed."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from redlantern.answering.sheet import Reckoning, WorkingRow
from redlantern.collection.values import Citation
from redlantern.desktop.desk.plan_editor import PlanEditor
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import quiet_button, titled, words_label
from redlantern.desktop.widgets.rows import CitedRow
from redlantern.reckoning.plan import Plan
from redlantern.text.listing import counted
from redlantern.translation import tr, trn

_SHOWN_ROWS = 6
_NARROWEST, _WIDEST = 4, 24
_NAME_CHARS = 10
_ROOM = 68
"""Characters that fit beside one another in the column, gaps included: what has no room is left away."""
_GAP = 2
_LONGEST_CELL = 90


class CellLabel(QLabel):
    """A cell of the working: the document's words. Clicked, the page shows it marked."""

    clicked = pyqtSignal(object)

    def __init__(self, citation: Citation | None, *, is_figure: bool) -> None:
        super().__init__()
        self._citation = citation
        text = " ".join(citation.text.split()) if citation is not None else ""
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text[:_LONGEST_CELL] + ("..." if len(text) > _LONGEST_CELL else ""))
        self.setObjectName("ink")
        weight = theme.BOLD if is_figure else theme.REGULAR
        self.setFont(theme.voice(theme.SERIF, scale=0.98, weight=weight))
        self.setWordWrap(True)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        if citation is not None:
            self.setToolTip(tr("{mark}: click to see it on its page").format(mark=citation.mark))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Show this cell on its page; an empty one leaves it to its row."""
        if self._citation is not None:
            self.clicked.emit(self._citation)
        else:
            super().mouseReleaseEvent(event)


class WorkingRowView(CitedRow):
    """A row of the working, on paper. What it cites is the figure's cell, or the cell that was clicked last."""

    def __init__(
        self, row: WorkingRow, shown: list[int], widths: list[int], *, figure: int, names_document: bool = False
    ) -> None:
        cells = [cell for cell in row.cells if cell is not None]
        # A row that is not the figure's own is looked at by the same column.
        wanted = [*row.figures, figure] if figure < len(row.cells) else row.figures
        own = next((cell for index in wanted if (cell := row.cells[index]) is not None), cells[0])
        super().__init__(own)
        self.place = tr("a cell of the reckoning") if not row.reason else tr("a row that was left out")
        self._is_left_out = bool(row.reason)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 5, 10, 5)
        layout.setSpacing(10)
        if names_document:
            title = words_label(own.title, family=theme.SANS, scale=0.93, name="fadedInk")
            title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            layout.addWidget(title, _WIDEST)
        for index, width in zip(shown, widths, strict=True):
            label = CellLabel(row.cells[index], is_figure=index in row.figures)
            label.clicked.connect(self._on_cell)
            layout.addWidget(label, width)
        mark = QLabel(own.mark)
        mark.setObjectName("fadedInk")
        mark.setFont(theme.voice(theme.SANS, scale=0.85, weight=theme.BOLD))
        mark.setFixedWidth(mark.fontMetrics().horizontalAdvance("MMMM p.888"))
        mark.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(mark)
        if row.reason:
            mark.setText(row.reason)
            mark.setWordWrap(True)
        self._cells = [cell for index in shown if (cell := row.cells[index]) is not None]
        said = ", ".join(" ".join(cell.text.split()) for cell in cells)
        self.setAccessibleName(
            tr("Row, {reason}, {mark}: {said}").format(reason=row.reason or tr("counted"), mark=own.mark, said=said)
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and Right go from cell to cell."""
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if not step or self.citation not in self._cells:
            super().keyPressEvent(event)
            return
        at = max(0, min(len(self._cells) - 1, self._cells.index(self.citation) + step))
        self._on_cell(self._cells[at])

    def _on_cell(self, citation: Citation) -> None:
        self.citation = citation
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self.choose()

    def _ground(self) -> str:
        if self._is_left_out:
            return theme.colours().paper_left_out
        return theme.colours().paper_chosen if self._is_chosen else theme.colours().paper


class ReckonedPart(QFrame):
    """A reckoning on its sheet. `again_wanted` has the plan as it was changed."""

    again_wanted = pyqtSignal(object, int)

    def __init__(self, reckoning: Reckoning, take_in: Callable[[CitedRow], None]) -> None:
        super().__init__()
        self.reckoning = reckoning
        self.rows: list[CitedRow] = []
        self._take_in = take_in
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 4, 0, 0)
        self._box.setSpacing(3)
        title = tr("RECKONED") if reckoning.is_sure else tr("PERHAPS, RECKONED FROM A TABLE")
        self._box.addLayout(titled(title, tr("exactly, from the cells below")))
        answer = words_label(reckoning.answer, family=theme.SANS, scale=1.08)
        answer.setContentsMargins(12, 2, 0, 2)
        self._box.addWidget(answer)
        self._add_words(reckoning.check, "quiet" if reckoning.is_borne_out else "problem")
        for doubt in reckoning.doubts:
            self._add_words(doubt, "problem")
        self._shown = self._columns()
        self._widths = [self._width(index) for index in self._shown]
        if reckoning.rows:
            self._box.addWidget(self._head())
        for row in reckoning.rows[:_SHOWN_ROWS]:
            self._add_row(row)
        self._add_more()
        self._add_plan()

    @property
    def editor(self) -> PlanEditor | None:
        """The plan as it can be changed; None where it cannot."""
        return self._editor

    def show_problem(self, words: str) -> None:
        """Say why a changed plan could not be carried out."""
        if self._editor is not None:
            self._editor.show_problem(words)

    def _add_words(self, words: str, name: str) -> None:
        if words:
            label = words_label(words, family=theme.SANS, scale=0.93, name=name)
            label.setContentsMargins(12, 0, 0, 0)
            self._box.addWidget(label)

    def _columns(self) -> list[int]:
        """The columns that are shown where there is no room for all: those of figure, label and conditions, then from the left."""
        reckoning = self.reckoning
        every = [
            index
            for index in range(len(reckoning.columns))
            if any(index < len(row.cells) and row.cells[index] is not None for row in reckoning.rows)
        ]
        plan = reckoning.plan
        named = [plan.by, *(condition.column for condition in plan.conditions)] if plan else []
        first = {index for row in reckoning.rows for index in row.figures} | {reckoning.label}
        first |= {index for index in every if reckoning.columns[index] in named}
        chosen: list[int] = []
        room = _ROOM
        for index in sorted(every, key=lambda index: (index not in first, index)):
            if self._width(index) + _GAP <= room or not chosen:
                room -= self._width(index) + _GAP
                chosen.append(index)
        return sorted(chosen)

    def _width(self, index: int) -> int:
        """How many characters a column is given: as many as its longest cell has, within bounds."""
        rows = self.reckoning.rows[:_SHOWN_ROWS]
        texts = [len(cell.text) for row in rows if index < len(row.cells) and (cell := row.cells[index]) is not None]
        name = self.reckoning.columns[index]
        longest_word = max(map(len, name.split()), default=0)
        return max(_NARROWEST, min(_WIDEST, max([*texts, longest_word, min(len(name), _NAME_CHARS)])))

    def _head(self) -> QWidget:
        head = QWidget()
        layout = QHBoxLayout(head)
        layout.setContentsMargins(12, 6, 10, 0)
        layout.setSpacing(10)
        if self.reckoning.plan is not None and len(self.reckoning.plan.tables) > 1:
            layout.addWidget(words_label(tr("Document"), family=theme.SANS, scale=0.86, name="quiet"), _WIDEST)
        for index, width in zip(self._shown, self._widths, strict=True):
            label = words_label(self.reckoning.columns[index], family=theme.SERIF, scale=0.86, name="quiet")
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            label.setAlignment(Qt.AlignmentFlag.AlignBottom)
            layout.addWidget(label, width)
        spacer = QLabel("")
        spacer.setFont(theme.voice(theme.SANS, scale=0.85, weight=theme.BOLD))
        spacer.setFixedWidth(spacer.fontMetrics().horizontalAdvance("MMMM p.888"))
        layout.addWidget(spacer)
        return head

    def _add_row(self, row: WorkingRow, at: int = -1) -> None:
        at = at if at >= 0 else self._box.count()
        is_of_several = self.reckoning.plan is not None and len(self.reckoning.plan.tables) > 1
        figure = next((index for first in self.reckoning.rows[:1] for index in first.figures), 0)
        view = WorkingRowView(row, self._shown, self._widths, figure=figure, names_document=is_of_several)
        self.rows.append(view)
        self._take_in(view)
        self._box.insertWidget(at, view)
        if row.note:
            note = words_label(row.note, family=theme.SANS, scale=0.93, name="problem")
            note.setContentsMargins(12, 0, 0, 4)
            self._box.insertWidget(at + 1, note)

    def _add_more(self) -> None:
        """The rows that are not shown yet, and those that were left out: one click away."""
        reckoning = self.reckoning
        hidden = list(reckoning.rows[_SHOWN_ROWS:])
        line = QHBoxLayout()
        line.setContentsMargins(12, 2, 0, 0)
        more = reckoning.n_rows - min(_SHOWN_ROWS, len(reckoning.rows))
        said = []
        if more and len(hidden) < more:
            said.append(
                tr("{more} more rows count, {n_hidden} of them can be shown").format(more=more, n_hidden=len(hidden))
            )
        if reckoning.n_unfit:
            said.append(
                trn("{n} row does not fit the conditions", "{n} rows do not fit the conditions", reckoning.n_unfit)
            )
        label = words_label("; ".join(said), family=theme.SANS, scale=0.9, name="quiet")
        line.addWidget(label, 1)
        for name, rows in (
            (tr("Show {more_row}").format(more_row=counted(len(hidden), "more row")), hidden),
            (tr("Show {row} left out").format(row=counted(len(reckoning.left_out), "row")), list(reckoning.left_out)),
        ):
            if rows:
                button = quiet_button(name, tr("Show them here, each with its place on the page"))
                button.clicked.connect(partial(self._show_rows, rows, button))
                line.addWidget(button)
        self._more_at = self._box.count()
        if line.count() > 1 or said:
            self._box.addLayout(line)

    def _show_rows(self, rows: list[WorkingRow], button: QWidget) -> None:
        button.hide()
        for row in rows:
            if any(cell is not None for cell in row.cells):
                self._add_row(row, self._more_at)
                self._more_at += 2 if row.note else 1

    def _add_plan(self) -> None:
        reckoning = self.reckoning
        self._editor: PlanEditor | None = None
        line = QHBoxLayout()
        line.setContentsMargins(12, 0, 0, 0)
        line.addWidget(words_label(f"{reckoning.plan_words}.", family=theme.SANS, scale=0.9, name="quiet"), 1)
        self._box.addLayout(line)
        if reckoning.plan is None or reckoning.plan.of != "item":
            return
        self._editor = PlanEditor(reckoning.plan, reckoning.columns)
        self._editor.wanted.connect(self._on_changed)
        self._editor.hide()
        change = quiet_button(tr("Change ..."), tr("Change what is reckoned: the column, the conditions"))
        change.clicked.connect(self._on_change)
        line.addWidget(change)
        self._box.addWidget(self._editor)

    def _on_change(self) -> None:
        if self._editor is not None:
            self._editor.setVisible(self._editor.isHidden())

    def _on_changed(self, plan: Plan) -> None:
        self.again_wanted.emit(plan, self.reckoning.label)
