# SPDX-License-Identifier: GPL-3.0-or-later
"""The entries of a brief, in its order: documents' words in serif on paper, ours in sans; moved by dragging and by keys."""

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QDropEvent, QFont, QFontMetrics, QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from redlantern.answering.wording import SUPPORT_WORDS
from redlantern.application.briefs import QuoteNow
from redlantern.brief.values import OF_DOCUMENTS, Brief, BriefEntry, Quote
from redlantern.desktop.widgets import theme
from redlantern.safety.names import visible
from redlantern.translation import tr

ENTRY, NOW = Qt.ItemDataRole.UserRole + 1, Qt.ItemDataRole.UserRole + 2
KINDS = {
    "heading": tr("heading"), "own": tr("own words"), "claim": tr("written"), "line": tr("a document's words"), "figure": tr("reckoned"),
    "hit": tr("page of a read-through"), "list": tr("list of values"),
}  # fmt: skip
_SUPPORT_WORDS = {**SUPPORT_WORDS, "in doubt": tr("in doubt"), "reckoned": tr("reckoned")}
_PAD, _GAP, _MOST_CHARS = 12, 3, 1200
_WRAPPED = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop


class _EntryDelegate(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """As high as the words and what stands under them."""
        view = self.parent()
        width = view.viewport().width() if isinstance(view, QListWidget) else option.rect.width()  # type: ignore[union-attr]
        entry: BriefEntry = index.data(ENTRY)
        font = _font(entry)
        room = QRect(0, 0, max(80, width - 2 * _PAD), 10_000)
        height = QFontMetrics(font).boundingRect(room, _WRAPPED, _words(entry)).height()
        under = QFontMetrics(_small()).lineSpacing() if words_under(entry, index.data(NOW)) else 0
        return QSize(width, height + under + 2 * _PAD - 4 + _GAP)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """The words on their ground, and under them marks, support and what has changed."""
        assert painter is not None
        entry: BriefEntry = index.data(ENTRY)
        colours, area = theme.colours(), option.rect.adjusted(0, 0, 0, -_GAP)
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        is_paper = entry.kind in OF_DOCUMENTS
        painter.save()
        ground = (
            (colours.paper_chosen if is_chosen else colours.paper)
            if is_paper
            else (colours.raised if is_chosen else colours.panel)
        )
        painter.fillRect(area, QColor(ground if entry.kind != "heading" or is_chosen else colours.ground))
        if is_chosen:
            painter.fillRect(QRect(area.left(), area.top(), 4, area.height()), QColor(colours.ember))
        inner = area.adjusted(_PAD, _PAD - 4, -_PAD, -(_PAD - 4))
        painter.setFont(_font(entry))
        painter.setPen(QColor(colours.ink if is_paper else colours.text))
        words = _words(entry)
        painter.drawText(inner, _WRAPPED, words)
        under = words_under(entry, index.data(NOW))
        if under:
            painter.setFont(_small())
            is_warned = bool(index.data(NOW)) or entry.support in ("unsupported", "in doubt")
            painter.setPen(QColor(colours.faded_ink if is_paper else colours.amber if is_warned else colours.quiet))
            painter.drawText(inner, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, under)
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QPen(QColor(colours.amber), 1.5))
            painter.drawRect(area.adjusted(1, 1, -1, -1))
        painter.restore()


class EntriesList(QListWidget):
    """The list. Alt and the arrows move an entry, F2 changes its words, Delete takes it out."""

    ordered = pyqtSignal(list)
    moved = pyqtSignal(int)
    edit_wanted = pyqtSignal()
    remove_wanted = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setItemDelegate(_EntryDelegate(self))
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.setAccessibleName(
            tr("Entries of the brief. Alt and the arrows move one, F2 changes it, Delete takes it out")
        )
        self.itemDoubleClicked.connect(lambda _: self.edit_wanted.emit())

    @property
    def entry(self) -> BriefEntry | None:
        """The chosen entry."""
        item = self.currentItem()
        return item.data(ENTRY) if item is not None else None

    def show_brief(self, brief: Brief, now: dict[Quote, QuoteNow], chosen: int = 0) -> None:
        """Show the entries of a brief; `chosen` is the number of the one to choose, 0 for the one before."""
        entry = self.entry
        wanted = chosen or (entry.entry_id if entry is not None else 0)
        self.clear()
        for entry in brief.entries:
            item = QListWidgetItem()
            changed = [each for quote in entry.quotes if (each := now.get(quote)) is not None and each.is_changed]
            words = (
                ""
                if not changed
                else tr("its document is gone")
                if changed[0].document is None
                else tr("its document changed")
            )
            item.setData(ENTRY, entry)
            item.setData(NOW, words)
            item.setData(
                Qt.ItemDataRole.AccessibleTextRole, f"{KINDS[entry.kind]}: {_words(entry)}. {words_under(entry, words)}"
            )
            self.addItem(item)
            if entry.entry_id == wanted:
                self.setCurrentItem(item)
        if self.currentItem() is None and self.count():
            self.setCurrentRow(0)

    def dropEvent(self, event: QDropEvent | None) -> None:
        """An entry was dragged to another place."""
        super().dropEvent(event)
        self.ordered.emit([self.item(at).data(ENTRY).entry_id for at in range(self.count())])  # type: ignore[union-attr]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """See the class."""
        assert event is not None
        has_alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if has_alt and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.moved.emit(-1 if event.key() == Qt.Key.Key_Up else 1)
        elif event.key() == Qt.Key.Key_F2:
            self.edit_wanted.emit()
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.remove_wanted.emit()
        else:
            super().keyPressEvent(event)


def _words(entry: BriefEntry) -> str:
    if entry.kind in OF_DOCUMENTS:
        return visible(" ".join(quote.words for quote in entry.quotes)[:_MOST_CHARS])
    return "\n".join(visible(line) for line in entry.text[:_MOST_CHARS].split("\n"))


def words_under(entry: BriefEntry, changed: str) -> str:
    """What stands in small letters under an entry: call-marks, how far it is supported, rows, and what has changed."""
    marks = ", ".join(dict.fromkeys(visible(quote.mark) for quote in entry.quotes))
    rows = tr("{n_rows} rows of working").format(n_rows=len(entry.rows) - 1) if len(entry.rows) > 1 else ""
    said = entry.text if entry.kind == "hit" else _SUPPORT_WORDS.get(entry.support, "")
    return "   ".join(filter(None, (marks, visible(said) if said else "", rows, changed or "")))


def _font(entry: BriefEntry) -> QFont:
    if entry.kind == "heading":
        return theme.voice(theme.SANS, scale=1.2, weight=theme.BOLD)
    return theme.voice(theme.SERIF if entry.kind in OF_DOCUMENTS else theme.SANS, scale=1.02)


def _small() -> QFont:
    return theme.voice(theme.SANS, scale=0.88)
