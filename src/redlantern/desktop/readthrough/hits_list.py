# SPDX-License-Identifier: GPL-3.0-or-later
"""The pages of a read-through that are looked at: the documents' words, how certain the page is, and what was said to it."""

from enum import IntEnum
from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetrics, QKeyEvent, QPainter, QPen, QTextLayout, QTextOption
from PyQt6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from redlantern.collection.values import Document
from redlantern.desktop.readthrough.words import certainty_words, state_words
from redlantern.desktop.widgets import theme
from redlantern.reading.values import CELL_SEPARATOR
from redlantern.readthrough.values import PageRead
from redlantern.safety.names import visible
from redlantern.translation import tr

_ROW, _MOST_CHARS = 84, 320
_LINES = 2
_KEYS = {Qt.Key.Key_A: "accepted", Qt.Key.Key_R: "rejected", Qt.Key.Key_O: ""}


class RowRole(IntEnum):
    """What a row holds."""

    PAGE = Qt.ItemDataRole.UserRole + 1
    DOCUMENT = Qt.ItemDataRole.UserRole + 2


class PagesModel(QAbstractListModel):
    """Pages with their documents, in the order in which they are to be looked at."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[Document, PageRead]] = []

    def show_rows(self, rows: list[tuple[Document, PageRead]]) -> None:
        """Show these."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def replace(self, page: PageRead) -> None:
        """Show a page as it is now, in its row."""
        for at, (document, before) in enumerate(self.rows):
            if before.place == page.place:
                self.rows[at] = (document, page)
                index = self.index(at)
                self.dataChanged.emit(index, index)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        """How many pages are shown."""
        return len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """A page, its document, or both in words."""
        if not index.isValid() or index.row() >= len(self.rows):
            return None
        document, page = self.rows[index.row()]
        if role == RowRole.PAGE:
            return page
        if role == RowRole.DOCUMENT:
            return document
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            note = tr(" Note: {note}").format(note=page.note) if page.note else ""
            return tr("{call_mark} page {place}, {state_words}: {shown_words}{note}").format(
                call_mark=document.call_mark,
                place=page.place[1],
                state_words=state_words(page),
                shown_words=shown_words(page),
                note=note,
            )
        return None


def shown_words(page: PageRead) -> str:
    """The best line of a page, as it is shown in a row."""
    words = (
        " ".join(page.words[0].text.replace(CELL_SEPARATOR, "   ").split())
        if page.words
        else tr("no words on this page")
    )
    return visible(words[:_MOST_CHARS])


class _PageDelegate(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, theme.px(_ROW))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        document, page = index.data(RowRole.DOCUMENT), index.data(RowRole.PAGE)
        colours = theme.colours()
        area = option.rect.adjusted(8, 3, -8, -3)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.paper_chosen if is_chosen else colours.paper))
        painter.drawRoundedRect(QRectF(area), 4, 4)
        if is_chosen:
            painter.setBrush(QColor(colours.ember))
            painter.drawRect(QRectF(area.left(), area.top() + 4, 4, area.height() - 8))
        _paint_head(painter, area, document, page)
        _paint_words(painter, area.adjusted(14, 26, -12, -4), shown_words(page))
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(colours.ask), 1.5))
            painter.drawRoundedRect(QRectF(area).adjusted(0.75, 0.75, -0.75, -0.75), 4, 4)
        painter.restore()


def _paint_head(painter: QPainter, area: QRect, document: Document, page: PageRead) -> None:
    """Call-mark, title, and at the right what the page is with how certain that is."""
    colours = theme.colours()
    mark_font, small = theme.voice(theme.SANS, scale=0.88, weight=theme.BOLD), theme.voice(theme.SANS, scale=0.85)
    line = QRect(area.left() + 14, area.top() + 5, area.width() - 26, theme.px(19))
    mark = f"{document.call_mark} p.{page.place[1]}"
    painter.setFont(mark_font)
    painter.setPen(QColor(colours.ask))
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, mark)
    used = QFontMetrics(mark_font).horizontalAdvance(mark) + 10
    said = certainty_words(page) + ("  ✎" if page.note else "")
    painter.setFont(small)
    painter.setPen(QColor(colours.ink if page.judged else colours.faded_ink))
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, said)
    room = line.width() - used - QFontMetrics(small).horizontalAdvance(said) - 14
    painter.setPen(QColor(colours.faded_ink))
    title = QFontMetrics(small).elidedText(document.title, Qt.TextElideMode.ElideRight, max(0, room))
    painter.drawText(line.adjusted(used, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, title)


def _paint_words(painter: QPainter, area: QRect, words: str) -> None:
    """At most two lines of the documents' words, in their voice."""
    font = theme.voice(theme.SERIF, scale=0.98)
    layout = QTextLayout(words, font)
    option = QTextOption()
    option.setWrapMode(QTextOption.WrapMode.WordWrap)
    layout.setTextOption(option)
    painter.setFont(font)
    painter.setPen(QColor(theme.colours().ink))
    layout.beginLayout()
    top, height = area.top(), QFontMetrics(font).lineSpacing()
    for number in range(_LINES):
        line = layout.createLine()
        if not line.isValid():
            break
        line.setLineWidth(area.width())
        begin, length = line.textStart(), line.textLength()
        shown = words[begin : begin + length]
        if number == _LINES - 1:
            shown = QFontMetrics(font).elidedText(words[begin:], Qt.TextElideMode.ElideRight, area.width())
        painter.drawText(QRect(area.left(), top, area.width(), height), Qt.AlignmentFlag.AlignVCenter, shown)
        top += height
    layout.endLayout()


class HitsList(QListView):
    """The list. A accepts, R rejects, O leaves open again, N writes a note."""

    judged = pyqtSignal(str)
    note_wanted = pyqtSignal()
    page_chosen = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.pages = PagesModel()
        self.setModel(self.pages)
        self.setItemDelegate(_PageDelegate(self))
        self.setUniformItemSizes(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName(tr("Pages to look at. A accepts, R rejects, O leaves open, N writes a note"))

    @property
    def current(self) -> tuple[Document, PageRead] | None:
        """The chosen page with its document."""
        index = self.currentIndex()
        return self.pages.rows[index.row()] if index.isValid() and index.row() < len(self.pages.rows) else None

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        """Show the page of the row that was gone to."""
        super().currentChanged(current, previous)
        if self.current is not None:
            self.page_chosen.emit(self.current)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """See the class."""
        assert event is not None
        key = Qt.Key(event.key())
        if key in _KEYS and self.current is not None:
            self.judged.emit(_KEYS[key])
        elif key == Qt.Key.Key_N and self.current is not None:
            self.note_wanted.emit()
        else:
            super().keyPressEvent(event)
