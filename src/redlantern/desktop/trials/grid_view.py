# SPDX-License-Identifier: GPL-3.0-or-later
"""A grid: a row a document, a column a question; each answer opened, corrected, and all of it saved."""

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.grids import GridCell, GridRow
from redlantern.application.trials import RunState
from redlantern.desktop.trials.run_bar import RunBar
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import quiet_button, words_label
from redlantern.safety.names import visible
from redlantern.translation import tr

_ROW_PX, _COLUMN_PX, _TITLE_PX = 84, 250, 230
_WEAK = ("unsupported", "partly supported", "failed")
_FORMS = tr("Workbook with links (*.xlsx);;CSV (*.csv);;Web page (*.html);;JSON (*.json)")
_KEYS = tr("Enter opens an answer    F2 corrects it")


class GridView(theme.ThemeAware, QWidget):
    """The page of a grid. `opened` carries lane and question, `corrected` the words besides, `saving` a path."""

    opened = pyqtSignal(str, str)
    corrected = pyqtSignal(str, str, str)
    saving = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.state: RunState | None = None
        self._rows: list[GridRow] = []
        self.bar = RunBar()
        self.table = QTableWidget()
        self.said = words_label(_KEYS, family=theme.SANS, name="quiet")
        self.save_button = QPushButton(tr("Save as ..."))
        self.save_button.clicked.connect(self._on_save)
        self.correct_button = quiet_button(
            tr("Correct ..."), tr("Put your own words in the chosen answer's place (F2)")
        )
        self.correct_button.clicked.connect(self._on_correct)
        self._build()

    def show_grid(self, state: RunState, rows: list[GridRow]) -> None:
        """Show a grid as it stands; the chosen cell stays chosen."""
        at = self.table.currentRow(), self.table.currentColumn()
        is_other = self.state is None or self.state.run.run_id != state.run.run_id
        self.state, self._rows = state, rows
        self.bar.show_state(state)
        questions = state.run.questions
        if is_other:
            self.table.clear()
            self.table.setRowCount(len(rows))
            self.table.setColumnCount(len(questions))
            self.table.setHorizontalHeaderLabels([visible(question.question) for question in questions])
            self.table.setVerticalHeaderLabels([visible(row.title) for row in rows])
            for number, row in enumerate(rows):
                self.table.verticalHeaderItem(number).setToolTip(visible(row.title))  # type: ignore[union-attr]
        for number, row in enumerate(rows):
            for column, cell in enumerate(row.cells):
                self._put(number, column, cell)
        if is_other and rows:
            self.table.setCurrentCell(0, 0)
        elif at[0] >= 0:
            self.table.setCurrentCell(*at)
        self.save_button.setEnabled(bool(state.answers))

    def _restyle(self) -> None:
        if self.state is not None:
            self.show_grid(self.state, self._rows)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Enter opens, F2 corrects: before the table takes them for its own."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._on_open()
                return True
            if event.key() == Qt.Key.Key_F2:
                self._on_correct()
                return True
        return super().eventFilter(watched, event)

    def _put(self, row: int, column: int, cell: GridCell) -> None:
        words = "\n".join(filter(None, (cell.words, cell.standing)))
        item = self.table.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            item.setTextAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.table.setItem(row, column, item)
        if item.text() != words:
            item.setText(words)
            item.setToolTip(visible(words))
        is_weak = cell.support in _WEAK and not cell.is_corrected
        colour = (
            theme.colours().quiet
            if cell.support == "refused"
            else theme.colours().amber
            if is_weak
            else theme.colours().text
        )
        item.setForeground(QColor(colour))

    def _chosen(self) -> tuple[str, str] | None:
        """Lane and question of the chosen cell, if it is answered."""
        row, column = self.table.currentRow(), self.table.currentColumn()
        if self.state is None or row < 0 or column < 0:
            return None
        at = self.state.run.lanes[row].lane_id, self.state.run.questions[column].question_id
        return at if at in self.state.answers else None

    def _on_open(self) -> None:
        chosen = self._chosen()
        if chosen is not None:
            self.opened.emit(*chosen)

    def _on_correct(self) -> None:
        chosen = self._chosen()
        if chosen is None or self.state is None:
            return
        before = self.state.answers[chosen].shown
        words, is_said = QInputDialog.getMultiLineText(
            self, tr("Correct an answer"), tr("Your words in the answer's place; empty takes them back:"), before
        )
        if is_said and words.strip() != before:
            self.corrected.emit(*chosen, words)

    def _on_save(self) -> None:
        name = self.state.run.name if self.state is not None else "grid"
        path, chosen = QFileDialog.getSaveFileName(self, tr("Where to save the grid"), f"{name}.xlsx", _FORMS)
        if path:
            ending = chosen.rpartition("(*")[2].rstrip(")")
            self.saving.emit(path if path.casefold().endswith(ending) else path + ending)

    def _build(self) -> None:
        self.table.setWordWrap(True)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.table.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.table.setAccessibleName(tr("Answers: a row a document, a column a question"))
        self.table.installEventFilter(self)
        self.table.cellDoubleClicked.connect(lambda *_: self._on_open())
        across, down = self.table.horizontalHeader(), self.table.verticalHeader()
        assert across is not None and down is not None
        across.setDefaultSectionSize(theme.px(_COLUMN_PX))
        across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        down.setDefaultSectionSize(theme.px(_ROW_PX))
        down.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        down.setFixedWidth(theme.px(_TITLE_PX))
        down.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.table.setCornerButtonEnabled(False)
        row = QHBoxLayout()
        row.addWidget(self.said, 1)
        row.addWidget(self.correct_button)
        row.addWidget(self.save_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 8, 18, 10)
        layout.setSpacing(6)
        layout.addWidget(self.bar)
        layout.addWidget(self.table, 1)
        layout.addLayout(row)
