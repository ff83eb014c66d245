# SPDX-License-Identifier: GPL-3.0-or-later
"""Dialogs of the room: the statement, to be read, printed and saved; and lists of values, sortable and filterable."""

from collections.abc import Callable

from PyQt6.QtCore import QModelIndex, QSortFilterProxyModel, Qt, pyqtSignal
from PyQt6.QtGui import QStandardItem, QStandardItemModel
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.read_through import COLUMNS, Listed
from redlantern.brief.writing.pdf import html_as_pdf
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.readthrough.statement import Statement
from redlantern.safety.names import visible
from redlantern.text.listing import noun
from redlantern.translation import tr

_TABLE_NAMES = (tr("Value"), tr("Words"), tr("Document"), tr("Page"), tr("Path"), tr("Who"))


class StatementDialog(QDialog):
    """Shows a statement as it would be printed. `saving` carries a path and what makes what is to be written there."""

    saving = pyqtSignal(str, object)

    def __init__(self, statement: Statement, parent: QWidget) -> None:
        super().__init__(parent)
        self.statement = statement
        self.setWindowTitle(statement.title)
        self.resize(860, 640)
        self.text = QTextEdit()
        self.text.setObjectName("setPage")
        self.text.setReadOnly(True)
        self.text.setAccessibleName(statement.title)
        document = self.text.document()
        assert document is not None
        document.setDocumentMargin(28)
        document.setDefaultStyleSheet(f"h1, h2, p {{ color: {theme.colours().ink}; }} h2 {{ margin-top: 14px; }}")
        self.text.setHtml(statement.as_html())
        self.said = words_label("", family=theme.SANS, name="quiet")
        buttons = QHBoxLayout()
        buttons.addWidget(self.said, 1)
        for words, ending in (
            (tr("Save as PDF ..."), "pdf"),
            (tr("Save as text ..."), "txt"),
            (tr("Save as HTML ..."), "html"),
        ):
            button = QPushButton(words)
            button.clicked.connect(lambda _, ending=ending: self._save(ending))
            buttons.addWidget(button)
        close = QPushButton(tr("Close"))
        close.clicked.connect(self.accept)
        buttons.addWidget(close)
        layout = QVBoxLayout(self)
        layout.addWidget(self.text, 1)
        layout.addLayout(buttons)

    def _save(self, ending: str) -> None:
        path, _ = QFileDialog.getSaveFileName(self, tr("Where to save the statement"), f"statement.{ending}")
        if not path:
            return
        statement = self.statement
        makers: dict[str, Callable[[], bytes]] = {
            "pdf": lambda: html_as_pdf(statement.as_html()), "txt": lambda: statement.as_text().encode(),
            "html": lambda: statement.as_html().encode(),
        }  # fmt: skip
        self.saving.emit(path, makers[ending])


class ListDialog(QDialog):
    """A list of values: a click on a column orders by it, typing filters, Enter opens the page. `saving` carries a form."""

    saving = pyqtSignal(str, object)
    page_wanted = pyqtSignal(object)
    gather_wanted = pyqtSignal(object)

    def __init__(self, title: str, rows: list[Listed], parent: QWidget) -> None:
        super().__init__(parent)
        self._rows = rows
        self.setWindowTitle(title)
        self.resize(1080, 640)
        self._model = QStandardItemModel(0, len(COLUMNS))
        self._model.setHorizontalHeaderLabels(_TABLE_NAMES)
        for number, row in enumerate(rows):
            self._model.appendRow(_items(row, number))
        self.shown = QSortFilterProxyModel()
        self.shown.setSourceModel(self._model)
        self.shown.setSortRole(Qt.ItemDataRole.UserRole)
        self.shown.setFilterKeyColumn(-1)
        self.shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.filter = QLineEdit()
        self.filter.setObjectName("question")
        self.filter.setPlaceholderText(tr("Show only rows with these words ..."))
        self.filter.setAccessibleName(tr("Show only rows with these words"))
        self.filter.textChanged.connect(self._on_filter)
        self.said = words_label("", family=theme.SANS, name="quiet")
        self.table = self._table(has_bearers=any(row.item.bearer for row in rows))
        buttons = QHBoxLayout()
        buttons.addWidget(self.said, 1)
        self.gather_button = QPushButton(tr("Gather into the brief"))
        self.gather_button.setShortcut("Ctrl+G")
        self.gather_button.setToolTip(
            tr("The chosen rows, or all that are shown, as a table with its citations (Ctrl+G)")
        )
        self.gather_button.clicked.connect(lambda: self.gather_wanted.emit(self.chosen() or self.listed()))
        buttons.addWidget(self.gather_button)
        for words, form in ((tr("Save as CSV ..."), "csv"), (tr("Save as workbook ..."), "xlsx")):
            button = QPushButton(words)
            button.clicked.connect(lambda _, form=form: self.saving.emit(form, self.listed()))
            buttons.addWidget(button)
        close = QPushButton(tr("Close"))
        close.clicked.connect(self.accept)
        buttons.addWidget(close)
        layout = QVBoxLayout(self)
        layout.addWidget(self.filter)
        layout.addWidget(self.table, 1)
        layout.addLayout(buttons)
        self._on_filter("")

    def listed(self) -> list[Listed]:
        """The rows that are shown, in their order."""
        return [self._rows[self._number(at)] for at in range(self.shown.rowCount())]

    def chosen(self) -> list[Listed]:
        """The rows that are chosen, in their order."""
        model = self.table.selectionModel()
        rows = sorted(index.row() for index in model.selectedRows(1)) if model is not None else []
        return [self._rows[self._number(at)] for at in rows]

    def _number(self, at: int) -> int:
        return int(self.shown.index(at, 0).data(Qt.ItemDataRole.UserRole + 1))

    def _table(self, *, has_bearers: bool) -> QTableView:
        table = QTableView()
        table.setModel(self.shown)
        table.setSortingEnabled(True)
        table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        table.setShowGrid(False)
        table.setWordWrap(False)
        table.setAccessibleName(self.windowTitle())
        table.activated.connect(self._on_activated)
        header, rows = table.horizontalHeader(), table.verticalHeader()
        assert header is not None and rows is not None
        rows.hide()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column, width in enumerate((170, 440, 190, 60, 160, 150)):
            table.setColumnWidth(column, width)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        table.setColumnHidden(4, True)
        table.setColumnHidden(5, not has_bearers)
        if has_bearers:
            # The words of a duty are the duty.
            table.setColumnHidden(0, True)
            header.moveSection(5, 0)
        return table

    def _on_filter(self, words: str) -> None:
        self.shown.setFilterFixedString(words)
        of = tr(" of {n}").format(n=len(self._rows)) if self.shown.rowCount() != len(self._rows) else ""
        self.said.setText(
            tr("{rowcount}{of} {noun}. Enter opens the page.").format(
                rowcount=self.shown.rowCount(), of=of, noun=noun(len(self._rows), "value")
            )
        )

    def _on_activated(self, index: QModelIndex) -> None:
        self.page_wanted.emit(self._rows[self._number(index.row())])


def _items(row: Listed, number: int) -> list[QStandardItem]:
    items = []
    for at, words in enumerate(row.row):
        item = QStandardItem(visible(words))
        item.setToolTip(visible(words))
        order: object = words.casefold()
        if at == 0:
            order = row.item.order
        elif at == 3:
            order = row.page_number
        item.setData(order, Qt.ItemDataRole.UserRole)
        item.setData(number, Qt.ItemDataRole.UserRole + 1)
        if at == 1:
            item.setFont(theme.voice(theme.SERIF, scale=0.95))
        items.append(item)
    return items
