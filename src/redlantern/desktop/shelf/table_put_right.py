# SPDX-License-Identifier: GPL-3.0-or-later
"""A table put right by hand: which rows name the columns, what each column is, which rows count."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import name_choice, quiet_button, words_label
from redlantern.reckoning.cells import Cell
from redlantern.reckoning.put_right import ColumnPutRight, PutRight
from redlantern.reckoning.roles import ROLE_WORDS
from redlantern.reckoning.tables import Table
from redlantern.reckoning.values import ValueKind
from redlantern.translation import tr

_KINDS: tuple[tuple[ValueKind, str], ...] = (
    ("text", tr("words")),
    ("whole", tr("whole number")),
    ("decimal", tr("decimal")),
    ("money", tr("money")),
    ("percentage", tr("percentage")),
    ("date", tr("date")),
    ("time", tr("time of day")),
    ("duration", tr("duration")),
    ("quantity", tr("quantity")),
    ("identifier", tr("identifier")),
    ("empty", tr("empty")),
)
_MOST_ROWS = 200
_MOST_HEADERS = 5
_MARGIN, _COUNTS_WIDTH, _LEAST_WIDTH = 24, 130, 126
_KIND_ROW, _UNIT_ROW, _FIRST_ROW = 0, 1, 2
_COUNTS = 0


class TablePutRight(QDialog):
    """The table with a field for each column's kind and unit, and a box for each row. `change` is what was put right."""

    def __init__(self, now: Table, as_read: Table, parent: QWidget) -> None:
        super().__init__(parent)
        self._as_read = as_read
        self.setWindowTitle(tr("Put a table right"))
        self.resize(980, 620)
        self.headers = QSpinBox()
        self.headers.setRange(0, min(_MOST_HEADERS, len(_printed(as_read)) - 1))
        self.headers.setAccessibleName(tr("Rows that name the columns"))
        self.kinds: list[QComboBox] = []
        self.units: list[QLineEdit] = []
        self.rows = QTableWidget(_FIRST_ROW + min(_MOST_ROWS, len(_printed(as_read))), 1 + len(as_read.columns))
        self.rows.setAccessibleName(tr("The table's rows"))
        self._build()
        self._show(now)
        self.headers.valueChanged.connect(self._on_headers)

    @property
    def change(self) -> PutRight:
        """What differs from the table as it was read."""
        as_read = self._as_read
        n_headers = self.headers.value() if self.headers.value() != len(as_read.headers) else None
        columns = []
        for index, column in enumerate(as_read.columns):
            kind: ValueKind = self.kinds[index].currentData()
            unit = self.units[index].text().strip()
            if (kind, unit) != (column.kind, column.unit):
                columns.append(ColumnPutRight(index, kind, unit))
        counted = {row.place: row.is_item for row in as_read.rows}
        rows = [
            (place, is_ticked)
            for place, is_ticked in self._ticks()
            if n_headers is not None or counted.get(place, is_ticked) != is_ticked
        ]
        return PutRight(as_read.begins, n_headers, tuple(columns), tuple(rows))

    def _ticks(self) -> list[tuple[tuple[int, int], bool]]:
        """Of each row under the column names: its place, and whether its box is ticked."""
        found = []
        for at, cells in enumerate(_printed(self._as_read)[:_MOST_ROWS]):
            item = self.rows.item(_FIRST_ROW + at, _COUNTS)
            if at >= self.headers.value() and item is not None:
                place = cells[0].page_number, cells[0].start
                found.append((place, item.checkState() == Qt.CheckState.Checked))
        return found

    def _build(self) -> None:
        title = words_label(tr("Put this table right"), family=theme.SANS, scale=1.25)
        title.setFont(theme.voice(theme.SANS, scale=1.25, weight=theme.BOLD))
        intro = words_label(
            tr(
    "Figures are reckoned by what stands here, from the next question on. It is kept with the "
    "collection, and holds whenever the document is read again unchanged."
),
            family=theme.SANS, name="quiet",
        )  # fmt: skip
        top = QHBoxLayout()
        top.addWidget(QLabel(tr("Rows that name the columns")))
        top.addWidget(self.headers)
        top.addStretch(1)
        again = quiet_button(tr("As it was read"), tr("Take back everything that was put right in this table"))
        again.clicked.connect(lambda: self._show(self._as_read))
        top.addWidget(again)
        leave, keep = QPushButton(tr("Cancel")), QPushButton(tr("Keep"))
        keep.setObjectName("first")
        keep.setDefault(True)
        keep.clicked.connect(self.accept)
        leave.clicked.connect(self.reject)
        bottom = QHBoxLayout()
        bottom.addStretch(1)
        bottom.addWidget(leave)
        bottom.addWidget(keep)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(_MARGIN, 20, _MARGIN, 18)
        layout.setSpacing(10)
        for part in (title, intro):
            layout.addWidget(part)
        layout.addLayout(top)
        layout.addWidget(self.rows, 1)
        layout.addLayout(bottom)
        self._build_rows()

    def _build_rows(self) -> None:
        names = [
            tr("counts"),
            *(
                column.name or tr("column {at}").format(at=at)
                for at, column in enumerate(self._as_read.columns, start=1)
            ),
        ]
        self.rows.setHorizontalHeaderLabels(names)
        self.rows.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        header, side = self.rows.horizontalHeader(), self.rows.verticalHeader()
        assert header is not None and side is not None
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        header.setStretchLastSection(True)
        side.hide()
        for row, words in ((_KIND_ROW, tr("what it is")), (_UNIT_ROW, tr("its unit"))):
            label = QTableWidgetItem(words)
            label.setFlags(Qt.ItemFlag.NoItemFlags)
            self.rows.setItem(row, _COUNTS, label)
        for index, column in enumerate(self._as_read.columns):
            kind, unit = QComboBox(), QLineEdit()
            for value, words in _KINDS:
                kind.addItem(words, value)
            name = column.name or tr("column {index}").format(index=index + 1)
            name_choice(kind, tr("What “{name}” is").format(name=name))
            unit.setAccessibleName(tr("Unit of “{name}”").format(name=name))
            unit.setPlaceholderText(tr("none"))
            self.kinds.append(kind)
            self.units.append(unit)
            for row, field in ((_KIND_ROW, kind), (_UNIT_ROW, unit)):
                self.rows.setItem(row, 1 + index, _told(field.accessibleName()))
                self.rows.setCellWidget(row, 1 + index, field)
        for at, cells in enumerate(_printed(self._as_read)[:_MOST_ROWS]):
            self.rows.setItem(_FIRST_ROW + at, _COUNTS, QTableWidgetItem())
            for index, cell in enumerate(cells):
                self.rows.setItem(_FIRST_ROW + at, 1 + index, _told(cell.text or tr("empty"), cell.text))
        self.rows.setColumnWidth(_COUNTS, _COUNTS_WIDTH)
        room = self.width() - 2 * _MARGIN - _COUNTS_WIDTH - 4
        for index in range(1, self.rows.columnCount()):
            self.rows.setColumnWidth(index, max(_LEAST_WIDTH, room // len(self._as_read.columns)))

    def _show(self, table: Table) -> None:
        """Fill all fields by what a table is taken for."""
        self.headers.setValue(len(table.headers))
        for index, column in enumerate(table.columns):
            self.kinds[index].setCurrentIndex(self.kinds[index].findData(column.kind))
            self.units[index].setText(column.unit)
        self._show_boxes({row.place: (row.is_item, ROLE_WORDS.get(row.role, "")) for row in table.rows})

    def _on_headers(self) -> None:
        """Another row names the columns: the boxes that there are stay as they are."""
        ticked = {place: (is_ticked, "") for place, is_ticked in self._ticks()}
        self._show_boxes({row.place: (row.is_item, "") for row in self._as_read.rows} | ticked)

    def _show_boxes(self, counted: dict[tuple[int, int], tuple[bool, str]]) -> None:
        for at, cells in enumerate(_printed(self._as_read)[:_MOST_ROWS]):
            item = self.rows.item(_FIRST_ROW + at, _COUNTS)
            assert item is not None
            if at < self.headers.value():
                item.setFlags(Qt.ItemFlag.NoItemFlags)
                item.setData(Qt.ItemDataRole.CheckStateRole, None)
                item.setText(tr("names"))
                item.setData(Qt.ItemDataRole.AccessibleTextRole, item.text())
                continue
            is_item, role = counted.get((cells[0].page_number, cells[0].start), (True, ""))
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsSelectable)
            item.setCheckState(Qt.CheckState.Checked if is_item else Qt.CheckState.Unchecked)
            item.setText(tr(role))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, tr(role) or tr("counts"))


def _told(words: str, shown: str = "") -> QTableWidgetItem:
    """A cell that is told by other words than it shows."""
    item = QTableWidgetItem(shown)
    item.setData(Qt.ItemDataRole.AccessibleTextRole, words)
    return item


def _printed(table: Table) -> list[tuple[Cell, ...]]:
    """All rows as printed, those that name the columns first."""
    return [*table.headers, *(row.cells for row in table.rows)]
