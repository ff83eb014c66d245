# SPDX-License-Identifier: GPL-3.0-or-later
"""The shelf: every document with its call-mark, whether it is in scope, and a ribbon of its pages lit by the question."""

from PyQt6.QtCore import QEvent, QModelIndex, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QFontMetrics, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop.widgets import drawing, theme
from redlantern.desktop.widgets.context import Offer, show_menu
from redlantern.desktop.widgets.documents_in_scope import BY_WORDS, DocumentsInScope, Role
from redlantern.text.listing import counted
from redlantern.translation import tr

_ROW_HEIGHT, _LINE_HEIGHT = 29, 19
"""At the usual size of text."""
_BOX = 14
_LEFT = 12
_TICK_HEIGHT, _DARK_HEIGHT = 8, 3
_MANY = 12
"""About so many documents are seen at once; of more, those that speak to a question may be out of sight."""


_KEYS = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Left, Qt.Key.Key_Right)


class _Delegate(QStyledItemDelegate):
    """Draws a row: check box, call-mark and title, and close under them the page ribbon."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """Every row is equally high."""
        return QSize(120, theme.px(_ROW_HEIGHT))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Draw a row."""
        assert painter is not None
        document: Document = index.data(Role.DOCUMENT)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, area = theme.colours(), option.rect
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, QColor(colours.raised))
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QPen(QColor(colours.amber), 1))
            painter.drawRect(area.adjusted(0, 0, -1, -1))
        is_in = index.data(Qt.ItemDataRole.CheckStateRole) == Qt.CheckState.Checked
        drawing.paint_tick(painter, box_of(area), is_ticked=is_in, is_possible=not document.is_refused)
        left = area.left() + _LEFT + _BOX + 9
        mark_font = theme.voice(theme.SANS, scale=0.92, weight=theme.BOLD)
        painter.setFont(mark_font)
        painter.setPen(QColor(colours.amber if is_in else colours.quiet))
        mark_width = QFontMetrics(mark_font).horizontalAdvance(document.call_mark) + 7
        place = QRect(left, area.top() + 1, mark_width, theme.px(_LINE_HEIGHT))
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, document.call_mark)
        title_font = theme.voice(theme.SERIF, scale=0.95)
        painter.setFont(title_font)
        painter.setPen(QColor(colours.text if is_in else colours.quiet))
        aside = tr("refused") if document.is_refused else "" if document.has_meaning else BY_WORDS
        small = theme.voice(theme.SANS, scale=0.8)
        aside_width = QFontMetrics(small).horizontalAdvance(aside) + 10 if aside else 0
        room = area.right() - left - mark_width - 8 - aside_width
        title = QFontMetrics(title_font).elidedText(document.title, Qt.TextElideMode.ElideRight, room)
        line = QRect(left + mark_width, area.top() + 1, room, theme.px(_LINE_HEIGHT))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, title)
        if aside:
            painter.setFont(small)
            painter.setPen(QColor(colours.ember if document.is_refused else colours.quiet))
            place = QRect(area.left(), area.top() + 1, area.width() - 10, theme.px(_LINE_HEIGHT))
            painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, aside)
        if not document.is_refused:
            self._paint_ribbon(painter, ribbon_of(area), index.data(Role.STRENGTHS), is_in)
        painter.restore()

    def _paint_ribbon(self, painter: QPainter, area: QRect, strengths: list[float], is_in: bool) -> None:
        step = _tick_step(area.width(), len(strengths))
        dark, bright = QColor(theme.colours().line), QColor(theme.colours().amber)
        painter.setPen(Qt.PenStyle.NoPen)
        for page_index, strength in enumerate(strengths):
            # A lit page is taller as well as brighter, so that colour is not the only sign.
            lit = max(0.0, strength - 0.25) / 0.75 if is_in else 0.0
            height = _DARK_HEIGHT + lit * (_TICK_HEIGHT - _DARK_HEIGHT)
            mixed = [round(a + (b - a) * lit) for a, b in zip(dark.getRgb()[:3], bright.getRgb()[:3], strict=True)]
            painter.setBrush(QColor(*mixed))
            width = max(1.0, min(step - 1.5, 7.0))
            painter.drawRect(QRectF(area.left() + page_index * step, area.bottom() - height, width, height))


def box_of(row: QRect) -> QRect:
    """Where a row's check box is."""
    return QRect(row.left() + _LEFT, row.top() + 4, _BOX, _BOX)


def ribbon_of(row: QRect) -> QRect:
    """Where a row's page ribbon is."""
    left = row.left() + _LEFT + _BOX + 9
    return QRect(left, row.top() + theme.px(_LINE_HEIGHT), row.right() - left - 12, _TICK_HEIGHT + 1)


def _tick_step(width: int, n_pages: int) -> float:
    return min(9.0, width / max(1, n_pages))


class ShelfList(QListView):
    """The list of documents. A click on a tick opens the page; Space takes in or leaves out; Left and Right go by page."""

    page_chosen = pyqtSignal(int, int)

    def __init__(self, model: DocumentsInScope) -> None:
        super().__init__()
        self._in_scope = model
        self.setModel(model)
        self.setItemDelegate(_Delegate(self))
        self.setUniformItemSizes(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName(tr("Documents on the shelf"))
        self.setMouseTracking(True)
        self._page_index = 0

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """A click on the box changes the scope, one on a tick opens the page, one on the title the best page."""
        super().mouseReleaseEvent(event)
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        index = self.indexAt(event.pos())
        if not index.isValid():
            return
        if box_of(self.visualRect(index)).adjusted(-6, -6, 6, 6).contains(event.pos()):
            self._shelf().toggle(index)
        else:
            page_index = self._page_at(index, event.pos().x(), event.pos().y())
            self._open(index, self._best_page(index) if page_index is None else page_index)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Offer what can be done with the document."""
        if event is not None:
            is_by_key = event.reason() == QContextMenuEvent.Reason.Keyboard
            index = self.currentIndex() if is_by_key else self.indexAt(event.pos())
            at = self.visualRect(index).center() if is_by_key else event.pos()
            viewport = self.viewport()
            if index.isValid() and viewport is not None:
                self.setCurrentIndex(index)
                show_menu(self, viewport.mapToGlobal(at), self.offers(index))

    def offers(self, index: QModelIndex) -> list[Offer]:
        """What can be done with a document of the shelf."""
        document: Document = index.data(Role.DOCUMENT)
        is_in = self._in_scope.is_in_scope(document)
        can_ask = not document.is_refused
        return [
            (tr("Show its first page"), lambda: self.page_chosen.emit(document.document_id, 1), can_ask),
            (
                tr("Leave it out of questions") if is_in else tr("Take it into questions"),
                lambda: self._in_scope.toggle(index),
                can_ask,
            ),
            (tr("Ask this document alone"), lambda: self._in_scope.set_only([document]), can_ask),
        ]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """See the class."""
        assert event is not None
        index = self.currentIndex()
        if not index.isValid() or event.key() not in _KEYS:
            super().keyPressEvent(event)
        elif event.key() == Qt.Key.Key_Space:
            self._shelf().toggle(index)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._open(index, self._best_page(index))
        else:
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            n_pages = index.data(Role.DOCUMENT).n_pages
            if n_pages:
                self._open(index, max(0, min(n_pages - 1, self._page_index + step)))

    def viewportEvent(self, event: QEvent | None) -> bool:
        """Show what a tick stands for, or why a document was refused."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            index = self.indexAt(event.pos())
            if index.isValid():
                document: Document = index.data(Role.DOCUMENT)
                page_index = self._page_at(index, event.pos().x(), event.pos().y())
                words = document.reason or f"{document.title}, {document.shown_path}"
                if page_index is not None:
                    strength = index.data(Role.STRENGTHS)[page_index]
                    words = tr("{call_mark} page {page_index}, found {strength:.0%}").format(
                        call_mark=document.call_mark, page_index=page_index + 1, strength=strength
                    )
                QToolTip.showText(event.globalPos(), words, self)
            return True
        return super().viewportEvent(event)

    def _shelf(self) -> DocumentsInScope:
        model = self.model()
        assert isinstance(model, DocumentsInScope)
        return model

    def _open(self, index: QModelIndex, page_index: int) -> None:
        document: Document = index.data(Role.DOCUMENT)
        if document.n_pages:
            self._page_index = page_index
            self.page_chosen.emit(document.document_id, page_index + 1)

    def _best_page(self, index: QModelIndex) -> int:
        strengths = index.data(Role.STRENGTHS)
        return max(range(len(strengths)), key=lambda number: strengths[number]) if any(strengths) else 0

    def _page_at(self, index: QModelIndex, x: int, y: int) -> int | None:
        area = ribbon_of(self.visualRect(index))
        n_pages = index.data(Role.DOCUMENT).n_pages
        if not n_pages or not area.adjusted(0, -1, 0, 1).contains(x, y):
            return None
        page_index = int((x - area.left()) / _tick_step(area.width(), n_pages))
        return page_index if page_index < n_pages else None


class Shelf(QWidget):
    """The left column: a heading, the list, and what can be done with it."""

    page_chosen = pyqtSignal(int, int)
    add_wanted = pyqtSignal()
    update_wanted = pyqtSignal()

    def __init__(self, model: DocumentsInScope) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.model = model
        self.list = ShelfList(self.model)
        self.list.page_chosen.connect(self.page_chosen)
        self._count = QLabel(tr("SHELF"))
        self._count.setObjectName("section")
        self._count.setFont(theme.voice(theme.SANS, scale=0.85, weight=theme.BOLD))
        self.all_button = QPushButton(tr("All"))
        self.none_button = QPushButton(tr("None"))
        for button, is_in in ((self.all_button, True), (self.none_button, False)):
            button.setObjectName("quiet")
            button.setAccessibleName(
                tr("Take all of the documents into scope") if is_in else tr("Take none of the documents into scope")
            )
            button.clicked.connect(lambda _, is_in=is_in: self.model.set_shown_in_scope(is_in))
        self.filter = QLineEdit()
        self.filter.setObjectName("filter")
        self.filter.setPlaceholderText(tr("Show only ..."))
        self.filter.setToolTip(
            tr("Show only documents with these words in their title, path or call-mark; All and None then take these")
        )
        self.filter.setAccessibleName(tr("Show only documents with these words"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self.model.set_filter)
        self.best_first = QCheckBox(tr("best first"))
        theme.outline(self.best_first)
        self.best_first.setToolTip(tr("Show the documents first that the question finds most strongly"))
        self.best_first.toggled.connect(self.model.set_best_first)
        self.add_button = QPushButton(tr("Add ..."))
        self.add_button.setToolTip(tr("Add a folder and all below it"))
        self.add_button.clicked.connect(self.add_wanted)
        self.update_button = QPushButton(tr("Update"))
        self.update_button.setToolTip(tr("Read what is new or changed in the folders of this collection"))
        self.update_button.clicked.connect(self.update_wanted)
        self._build()
        self.model.scope_changed.connect(self._on_scope_changed)
        self._on_scope_changed()

    def _build(self) -> None:
        top, bottom = QHBoxLayout(), QHBoxLayout()
        top.setContentsMargins(12, 10, 8, 4)
        top.addWidget(self._count, 1)
        top.addWidget(self.all_button)
        top.addWidget(self.none_button)
        bottom.setContentsMargins(12, 8, 12, 10)
        bottom.setSpacing(8)
        bottom.addWidget(self.add_button, 1)
        bottom.addWidget(self.update_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        order = QHBoxLayout()
        order.setContentsMargins(12, 0, 8, 4)
        order.setSpacing(10)
        order.addWidget(self.filter, 1)
        order.addWidget(self.best_first)
        layout.addLayout(order)
        layout.addWidget(self.list, 1)
        layout.addLayout(bottom)

    def allow_updates(self, may_begin: bool) -> None:
        """Let files be added or not: not while some are read, nor where the collection cannot be changed."""
        for button in (self.add_button, self.update_button):
            button.setEnabled(may_begin)

    def show_changed(self, n_changed: int) -> None:
        """Say how many files were seen to be new, changed or gone."""
        self.update_button.setText(
            tr("Update ({n_changed})").format(n_changed=n_changed) if n_changed else tr("Update")
        )

    def _on_scope_changed(self) -> None:
        n_readable = len(self.model.readable)
        n_refused = self.model.n_documents - n_readable
        words = tr("SHELF  {document}").format(document=counted(n_readable, "document"))
        self._count.setText(words + (tr(", {n_refused} refused").format(n_refused=n_refused) if n_refused else ""))
        for widget in (self.best_first, self.filter):
            widget.setVisible(self.model.n_documents >= _MANY or bool(self.filter.text()))
        for button in (self.all_button, self.none_button):
            button.setEnabled(n_readable > 0)
