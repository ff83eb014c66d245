# SPDX-License-Identifier: GPL-3.0-or-later
"""The shelf room's list: every document with what was read of it and how, to sort, filter and choose from."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath

from PyQt6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QRect,
    QSortFilterProxyModel,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from redlantern.collection.fingerprints import Version
from redlantern.collection.values import Document
from redlantern.desktop.widgets import drawing, theme
from redlantern.desktop.widgets.amounts import size_words
from redlantern.desktop.widgets.documents_in_scope import DocumentsInScope
from redlantern.text.languages import name_of_language
from redlantern.translation import tr, trn

_DOCUMENT = Qt.ItemDataRole.UserRole
_TICK_ROOM = 36
_SORT = Qt.ItemDataRole.UserRole + 1
_KIND_NAMES = {
    "pdf": "PDF",
    "docx": tr("Word"),
    "pptx": tr("slides"),
    "xlsx": tr("workbook"),
    "odt": tr("ODF text"),
    "odp": tr("ODF slides"),
    "ods": tr("ODF workbook"),
    "epub": tr("book"),
    "html": tr("web page"),
    "rtf": "RTF",
    "eml": tr("e-mail"),
    "mbox": tr("mailbox"),
    "csv": tr("table"),
    "tsv": tr("table"),
    "markdown": tr("Markdown"),
    "text": tr("text"),
    "png": tr("picture"),
    "jpeg": tr("picture"),
    "tiff": tr("picture"),
}


def kind_name(document: Document) -> str:
    """What a document is, in words; for a refused one what its name says."""
    if document.is_refused:
        return PurePosixPath(document.path).suffix[1:].upper() or "–"
    return _KIND_NAMES.get(document.kind, document.kind)


def how_read(document: Document) -> str:
    """How its text was come by."""
    if document.is_refused:
        return ""
    if not document.n_recognised:
        return tr("text")
    by = (
        tr("recognised")
        if document.n_recognised == document.n_pages
        else tr("{n_recognised} p. recognised").format(n_recognised=document.n_recognised)
    )
    return tr("{by}, {confidence:.0%} sure").format(by=by, confidence=document.confidence)


def state_of(document: Document, on_disk: str) -> str:
    """How a document stands: what is wrong first."""
    if on_disk == "missing":
        return tr("missing")
    if document.is_refused:
        return tr("refused: {reason}").format(reason=document.reason)
    if on_disk:
        return tr(on_disk)
    if document.n_unread:
        return tr("partly read: {n_unread} p. without text").format(n_unread=document.n_unread)
    return tr("read, look at its warnings") if document.n_warned else tr("read")


@dataclass(frozen=True)
class _Column:
    name: str
    width: int
    shown: Callable[[Document, str], str]
    sort: Callable[[Document, str], object]
    is_number: bool = False


_COLUMNS = (
    _Column(tr("Mark"), 104, lambda it, disk: it.call_mark, lambda it, disk: it.call_mark),
    _Column(tr("Title"), 330, lambda it, disk: ("↳ " if it.part else "") + it.title, lambda it, disk: it.title.casefold()),
    _Column(tr("Kind"), 92, lambda it, disk: kind_name(it), lambda it, disk: kind_name(it)),
    _Column(tr("Pages"), 58, lambda it, disk: str(it.n_pages or ""), lambda it, disk: it.n_pages, True),
    _Column(tr("Passages"), 76, lambda it, disk: str(it.n_passages or ""), lambda it, disk: it.n_passages, True),
    _Column(tr("Language"), 84, lambda it, disk: tr(name_of_language(it.language)), lambda it, disk: it.language),
    _Column(tr("Read as"), 168, lambda it, disk: how_read(it), lambda it, disk: how_read(it)),
    _Column(tr("State"), 270, state_of, state_of),
    _Column(tr("Size"), 70, lambda it, disk: size_words(it.size_bytes), lambda it, disk: it.size_bytes, True),
)  # fmt: skip


_TITLE_COLUMN, _LEAST_TITLE = 1, 260


class DocumentsModel(QAbstractTableModel):
    """The documents of the shelf as a table; the box in the first column is the shelf's own scope."""

    def __init__(self, shelf: DocumentsInScope) -> None:
        super().__init__()
        self._shelf = shelf
        self.documents: list[Document] = []
        self._versions: Mapping[int, Version] = {}
        self._marks: dict[int, str] = {}
        self._on_disk: dict[str, str] = {}
        shelf.scope_changed.connect(self._on_scope_changed)

    def set_documents(self, documents: list[Document], versions: Mapping[int, Version]) -> None:
        """Show these, with their places among near versions."""
        self.beginResetModel()
        self.documents, self._versions = documents, versions
        self._marks = {document.document_id: document.call_mark for document in documents}
        self.endResetModel()

    def document(self, document_id: int) -> Document | None:
        """One of the documents by its id."""
        return next((document for document in self.documents if document.document_id == document_id), None)

    def set_on_disk(self, states: dict[str, str]) -> None:
        """Show which files are missing or changed."""
        self._on_disk = states
        if self.documents:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.documents) - 1, len(_COLUMNS) - 1))

    def state(self, document: Document) -> str:
        """How a document stands, in words."""
        return state_of(document, self._on_disk.get(document.file_text, ""))

    def relation(self, document: Document) -> str:
        """How it stands to other documents: copies of the same file, and near versions, the newest of which is named."""
        said = [tr("in {beside}").format(beside=document.beside)] if document.beside else []
        version = self._versions.get(document.document_id)
        if version is not None and version.place > 1:
            said.append(tr("older version of {mark}").format(mark=self._marks.get(version.newest_id, tr("another"))))
        elif version is not None:
            said.append(tr("newest of {total} versions").format(total=version.total))
        if document.copies:
            said.append(trn("{n} copy elsewhere", "{n} copies elsewhere", len(document.copies)))
        return ", ".join(said)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        """How many documents there are."""
        return len(self.documents)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        """How many columns there are."""
        return len(_COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The columns' names."""
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _COLUMNS[section].name
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """The first column can be ticked."""
        flags = super().flags(index)
        is_box = index.column() == 0 and not self.documents[index.row()].is_refused
        return flags | Qt.ItemFlag.ItemIsUserCheckable if is_box else flags

    def setData(self, index: QModelIndex, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Tick or untick a document."""
        if role != Qt.ItemDataRole.CheckStateRole:
            return False
        self._shelf.set_in_scope([self.documents[index.row()]], Qt.CheckState(value) == Qt.CheckState.Checked)
        return True

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """What a cell shows and sorts by."""
        document, column = self.documents[index.row()], _COLUMNS[index.column()]
        on_disk = self._on_disk.get(document.file_text, "")
        is_in = self._shelf.is_in_scope(document)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            related = self.relation(document) if column.name == tr("State") and not on_disk else ""
            return f"{related}; {column.shown(document, on_disk)}" if related else column.shown(document, on_disk)
        if role == _SORT:
            return column.sort(document, on_disk)
        if role == _DOCUMENT:
            return document
        if role == Qt.ItemDataRole.ToolTipRole:
            words = (
                column.shown(document, on_disk) if index.column() != 1 else f"{document.title}\n{document.shown_path}"
            )
            if index.column() == 7:
                words = "\n".join([words, self.relation(document), *document.copies]).strip()
            return words
        if role == Qt.ItemDataRole.CheckStateRole and index.column() == 0 and not document.is_refused:
            return Qt.CheckState.Checked if is_in else Qt.CheckState.Unchecked
        if role == Qt.ItemDataRole.TextAlignmentRole and column.is_number:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ForegroundRole:
            return self._colour(document, index.column(), on_disk, is_in)
        if role == Qt.ItemDataRole.FontRole:
            return _font(index.column())
        return None

    def _colour(self, document: Document, column: int, on_disk: str, is_in: bool) -> QColor:
        colours = theme.colours()
        if _COLUMNS[column].name == tr("State") and (document.is_refused or on_disk):
            return QColor(colours.ember)
        if _COLUMNS[column].name == tr("State") and document.n_warned:
            return QColor(colours.amber)
        if column == 0:
            return QColor(colours.amber if is_in else colours.quiet)
        return QColor(colours.text if is_in and column == 1 else colours.quiet)

    def _on_scope_changed(self) -> None:
        if self.documents:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.documents) - 1, 1))


def _font(column: int) -> QFont:
    if column == 0:
        return theme.voice(theme.SANS, scale=0.92, weight=theme.BOLD)
    return theme.voice(theme.SERIF if column == 1 else theme.SANS, scale=0.95)


class _Filtered(QSortFilterProxyModel):
    """Shows the rows in which every word of the filter stands somewhere."""

    def __init__(self) -> None:
        super().__init__()
        self._words: list[str] = []
        self.setSortRole(_SORT)

    def set_filter(self, text: str) -> None:
        self._words = text.casefold().split()
        self.invalidateRowsFilter()

    def filterAcceptsRow(self, row: int, parent: QModelIndex) -> bool:
        model = self.sourceModel()
        assert isinstance(model, DocumentsModel)
        document = model.documents[row]
        shown = " ".join(str(model.data(model.index(row, column))) for column in range(len(_COLUMNS)))
        text = f"{shown} {document.path} {' '.join(document.details.values())}".casefold()
        return all(word in text for word in self._words)


class _MarkDelegate(QStyledItemDelegate):
    """Draws the first column as the shelf on the desk does: the box of the scope, and the call-mark."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Draw a cell."""
        assert painter is not None
        painter.save()
        area, document = option.rect, index.data(_DOCUMENT)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, QColor(theme.colours().raised))
        is_in = index.data(Qt.ItemDataRole.CheckStateRole) == Qt.CheckState.Checked
        drawing.paint_tick(painter, tick_of(area), is_ticked=is_in, is_possible=not document.is_refused)
        painter.setFont(_font(0))
        painter.setPen(index.data(Qt.ItemDataRole.ForegroundRole))
        painter.drawText(area.adjusted(_TICK_ROOM, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, document.call_mark)
        painter.restore()

    def editorEvent(
        self,
        event: QEvent | None,
        model: QAbstractItemModel | None,
        option: QStyleOptionViewItem,
        index: QModelIndex,
    ) -> bool:
        """A click on the box ticks or unticks it."""
        is_click = isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseButtonRelease
        if not is_click or model is None or not index.flags() & Qt.ItemFlag.ItemIsUserCheckable:
            return False
        assert isinstance(event, QMouseEvent)
        if not tick_of(option.rect).adjusted(-8, -6, 6, 6).contains(event.pos()):
            return False
        is_in = index.data(Qt.ItemDataRole.CheckStateRole) == Qt.CheckState.Checked
        state = Qt.CheckState.Unchecked if is_in else Qt.CheckState.Checked
        return model.setData(index, state, Qt.ItemDataRole.CheckStateRole)


def tick_of(cell: QRect) -> QRect:
    """Where a row's box is."""
    return QRect(cell.left() + 12, cell.center().y() - 7, 15, 15)


class DocumentsTable(QTableView):
    """The table. Space ticks the chosen rows, Delete asks for their removal, Enter goes into the report."""

    document_chosen = pyqtSignal(object)
    removal_wanted = pyqtSignal()
    scope_wanted = pyqtSignal()
    report_wanted = pyqtSignal()

    def __init__(self, model: DocumentsModel) -> None:
        super().__init__()
        self._filtered = _Filtered()
        self._filtered.setSourceModel(model)
        self.setModel(self._filtered)
        self.setItemDelegateForColumn(0, _MarkDelegate(self))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSortingEnabled(True)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setTabKeyNavigation(False)
        self.setAccessibleName(tr("Documents and what was read of them"))
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        side, head = self.verticalHeader(), self.horizontalHeader()
        assert side is not None and head is not None
        side.hide()
        side.setDefaultSectionSize(theme.px(29))
        head.setHighlightSections(False)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        # In the order of their paths, until the user sorts.
        head.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        for number, column in enumerate(_COLUMNS):
            self.setColumnWidth(number, theme.px(column.width))
        chosen = self.selectionModel()
        assert chosen is not None
        chosen.currentRowChanged.connect(self._on_current)

    def set_filter(self, text: str) -> None:
        """Show only the rows that hold all these words."""
        self._filtered.set_filter(text)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The title has what the others leave, but so much that it can be told; then the last columns are scrolled to."""
        super().resizeEvent(event)
        viewport = self.viewport()
        others = sum(self.columnWidth(number) for number in range(len(_COLUMNS)) if number != _TITLE_COLUMN)
        if viewport is not None:
            self.setColumnWidth(_TITLE_COLUMN, max(theme.px(_LEAST_TITLE), viewport.width() - others))

    def shown(self) -> list[Document]:
        """The documents shown, in their order."""
        return [self._filtered.index(row, 0).data(_DOCUMENT) for row in range(self._filtered.rowCount())]

    def chosen(self) -> list[Document]:
        """The documents chosen, in the order shown."""
        selection = self.selectionModel()
        assert selection is not None
        return [
            index.data(_DOCUMENT)
            for index in sorted(selection.selectedRows(), key=lambda selectedRow: selectedRow.row())
        ]

    def choose(self, document_id: int) -> None:
        """Choose one document, whatever keys are held down."""
        selection = self.selectionModel()
        assert selection is not None
        how = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        for row, document in enumerate(self.shown()):
            if document.document_id == document_id:
                selection.setCurrentIndex(self._filtered.index(row, 0), how)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """See the class."""
        signals = {
            Qt.Key.Key_Space: self.scope_wanted,
            Qt.Key.Key_Delete: self.removal_wanted,
            Qt.Key.Key_Return: self.report_wanted,
            Qt.Key.Key_Enter: self.report_wanted,
        }
        signal = signals.get(Qt.Key(event.key())) if event is not None else None
        if signal is not None:
            signal.emit()
        else:
            super().keyPressEvent(event)

    def _on_current(self, current: QModelIndex, previous: QModelIndex) -> None:
        if current.isValid():
            self.document_chosen.emit(current.data(_DOCUMENT))
