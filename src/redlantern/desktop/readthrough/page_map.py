# SPDX-License-Identifier: GPL-3.0-or-later
"""The map of a read-through: under each document a cell for each page, told apart by shape first and colour second."""

from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QPoint, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetrics, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QVBoxLayout, QWidget

from redlantern.desktop.readthrough.words import state_words
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import column_area, section_label
from redlantern.readthrough.coverage import Coverage
from redlantern.readthrough.values import PageRead, Place
from redlantern.translation import tr

_CELL, _HEIGHT, _STEP_X, _STEP_Y = 9, 14, 13, 19
_LEFT, _TITLE, _GAP = 12, 20, 8
_MOST_BESIDE = 3


@dataclass(frozen=True)
class _Cell:
    place: Place
    mark: str
    page: PageRead | None


def paint_cell(painter: QPainter, area: QRect, page: PageRead | None) -> None:
    """Draw a page's cell: empty when unread, a low dash when silent, half when doubtful, full when a hit, crossed when unreadable.

    Accepted has a dot cut out of it, rejected a stroke through it.
    """
    colours = theme.colours()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if page is None:
        painter.setPen(QPen(QColor(colours.line), 1.2))
        painter.drawRect(QRectF(area).adjusted(0.5, 0.5, -0.5, -0.5))
        return
    painter.setPen(Qt.PenStyle.NoPen)
    if page.state == "unreadable":
        painter.setPen(QPen(QColor(colours.ember), 1.6))
        inner = QRectF(area).adjusted(1, 3, -1, -3)
        painter.drawLine(inner.topLeft(), inner.bottomRight())
        painter.drawLine(inner.bottomLeft(), inner.topRight())
        return
    share = {"silent": 0.16, "doubtful": 0.5, "hit": 1.0}[page.state]
    if page.judged == "accepted":
        share = 1.0
    height = round(area.height() * share)
    painter.setBrush(QColor(colours.quiet if page.state == "silent" and not page.judged else colours.amber))
    painter.drawRect(QRect(area.left(), area.bottom() + 1 - height, area.width(), height))
    if page.judged == "accepted":
        painter.setBrush(QColor(colours.panel))
        painter.drawEllipse(QRectF(area.center().x() - 1.5, area.center().y() - 1.5, 4, 4))
    elif page.judged == "rejected":
        painter.setPen(QPen(QColor(colours.text), 1.6))
        painter.drawLine(area.bottomLeft() + QPoint(-1, 1), area.topRight() + QPoint(1, -1))


class PageMap(QWidget):
    """All documents in scope with their pages. Arrows go from page to page, Enter opens one; a click does, too."""

    page_chosen = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self._covered: Coverage | None = None
        self._cells: list[_Cell] = []
        self._areas: list[QRect] = []
        self._titles: list[tuple[QRect, str, str]] = []
        self._at = 0
        self._said()

    @property
    def current(self) -> Place | None:
        """The page that the arrows are at."""
        return self._cells[self._at].place if self._cells else None

    def show_coverage(self, covered: Coverage) -> None:
        """Show what is known of every page now; the arrows stay where they are."""
        current, self._covered = self.current, covered
        self._cells = [
            _Cell((each.document.key, number), each.document.call_mark, page)
            for each in covered.documents
            for number, page in enumerate(each.pages, start=1)
        ]
        self.go_to(current)
        self._lay_out()

    def go_to(self, place: Place | None) -> None:
        """Put the arrows at a page."""
        self._at = next((at for at, cell in enumerate(self._cells) if cell.place == place), 0)
        self._said()
        self.update()

    def text(self) -> str:
        """The whole map in words, for those who do not see it."""
        lines = []
        for each in self._covered.documents if self._covered is not None else ():
            states = [
                tr("page {number} {state_words}").format(number=number, state_words=state_words(page))
                for number, page in enumerate(each.pages, start=1)
            ]
            said = (
                tr("refused: {reason}").format(reason=each.document.reason)
                if each.document.is_refused
                else "; ".join(states)
            )
            lines.append(f"{each.document.call_mark}, {each.document.title}: {said}")
        return "\n".join(lines)

    def area_of(self, place: Place) -> QRect:
        """Where a page's cell is; empty for one that is not on the map."""
        at = next((at for at, cell in enumerate(self._cells) if cell.place == place), -1)
        return self._areas[at] if at >= 0 else QRect()

    def sizeHint(self) -> QSize:
        """As high as all rows are."""
        bottom = max((area.bottom() for area in (*self._areas, *(title for title, _, _ in self._titles))), default=0)
        return QSize(240, bottom + 12)

    def resizeEvent(self, event: object) -> None:
        """Lay the cells out for the width there is."""
        self._lay_out()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw what of it can be seen."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, seen = theme.colours(), event.rect() if event is not None else self.rect()
        mark_font = theme.voice(theme.SANS, scale=0.85, weight=theme.BOLD)
        title_font = theme.voice(theme.SERIF, scale=0.86)
        for area, mark, title in self._titles:
            if not area.intersects(seen):
                continue
            painter.setFont(mark_font)
            painter.setPen(QColor(colours.amber))
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, mark)
            used = QFontMetrics(mark_font).horizontalAdvance(mark) + 7
            painter.setFont(title_font)
            painter.setPen(QColor(colours.text))
            rest = area.adjusted(used, 0, 0, 0)
            shown = QFontMetrics(title_font).elidedText(title, Qt.TextElideMode.ElideMiddle, rest.width())
            painter.drawText(rest, Qt.AlignmentFlag.AlignVCenter, shown)
        for at, (cell, area) in enumerate(zip(self._cells, self._areas, strict=True)):
            if area.intersects(seen):
                paint_cell(painter, area, cell.page)
                if at == self._at:
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.setPen(QPen(QColor(colours.text if self.hasFocus() else colours.quiet), 1.4))
                    painter.drawRect(QRectF(area).adjusted(-2, -2, 2, 2))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """See the class."""
        assert event is not None
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self._cells:
            self.page_chosen.emit(self._cells[self._at].place)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self._cells:
            self._move(self._at + (1 if key == Qt.Key.Key_Right else -1))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self._cells:
            self._move_by_row(1 if key == Qt.Key.Key_Down else -1)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open the page that was clicked."""
        at = self._at_point(event.position().toPoint()) if event is not None else None
        if at is not None:
            self._move(at)
            self.page_chosen.emit(self._cells[at].place)

    def event(self, event: QEvent | None) -> bool:
        """Say what a cell stands for when it is pointed at."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            at = self._at_point(event.pos())
            if at is None:
                QToolTip.hideText()
            else:
                QToolTip.showText(event.globalPos(), self._words_of(self._cells[at]), self)
            return True
        return super().event(event)

    def _move(self, at: int) -> None:
        self._at = max(0, min(len(self._cells) - 1, at))
        self._said()
        self.update()

    def _move_by_row(self, by: int) -> None:
        here = self._areas[self._at]
        rows = sorted({area.top() for area in self._areas if (area.top() - here.top()) * by > 0})
        if rows:
            top = rows[0] if by > 0 else rows[-1]
            there = [at for at, area in enumerate(self._areas) if area.top() == top]
            self._move(min(there, key=lambda at: abs(self._areas[at].left() - here.left())))

    def _at_point(self, point: QPoint) -> int | None:
        return next((at for at, area in enumerate(self._areas) if area.adjusted(-2, -2, 2, 3).contains(point)), None)

    def _lay_out(self) -> None:
        self._areas, self._titles = [], []
        width, top, title_height = max(self.width(), 120), 8, theme.px(_TITLE)
        a_row = max(1, (width - 2 * _LEFT) // _STEP_X)
        for each in self._covered.documents if self._covered is not None else ():
            document, n_pages = each.document, len(each.pages)
            title = tr("{title}: refused").format(title=document.title) if document.is_refused else document.title
            # A few cells stand at the end of the title's line: most files have a page or two.
            is_short = n_pages <= _MOST_BESIDE
            beside = n_pages * _STEP_X + 6 if is_short else 0
            self._titles.append(
                (QRect(_LEFT, top, width - 2 * _LEFT - beside, title_height), document.call_mark, title)
            )
            if is_short:
                left, first = width - _LEFT - n_pages * _STEP_X + 3, top + 3
            else:
                top += title_height + 3
                left, first = _LEFT, top
            for at in range(n_pages):
                self._areas.append(QRect(left + at % a_row * _STEP_X, first + at // a_row * _STEP_Y, _CELL, _HEIGHT))
            top += title_height + 5 if is_short else -(-n_pages // a_row) * _STEP_Y + _GAP
        self.setMinimumHeight(top)
        self.updateGeometry()
        self.update()

    def _said(self) -> None:
        """What a screen reader says: the page that the arrows are at, and all of it as a description."""
        here = self._words_of(self._cells[self._at]) if self._cells else tr("no pages")
        self.setAccessibleName(tr("Map of all pages; {here}").format(here=here))
        self.setAccessibleDescription(self.text())

    def _words_of(self, cell: _Cell) -> str:
        return tr("{mark} page {place}: {state_words}").format(
            mark=cell.mark, place=cell.place[1], state_words=state_words(cell.page)
        )


class Legend(QWidget):
    """What the shapes of the map mean."""

    def __init__(self) -> None:
        super().__init__()
        blank = PageRead(("", 0), "silent", 0.0)
        self._entries: list[tuple[PageRead | None, str]] = [
            (PageRead(("", 0), "hit", 1.0), tr("hit")), (PageRead(("", 0), "doubtful", 0.5), tr("doubtful")), (blank, tr("silent")),
            (None, tr("not read yet")), (PageRead(("", 0), "unreadable", 0.0), tr("unreadable")),
            (PageRead(("", 0), "hit", 1.0, judged="accepted"), tr("accepted")),
            (PageRead(("", 0), "hit", 1.0, judged="rejected"), tr("rejected")),
        ]  # fmt: skip
        self.setFixedHeight(4 * theme.px(20) + 10)
        self.setAccessibleName(tr("What the shapes of the map mean: ") + ", ".join(words for _, words in self._entries))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw shape and word of each, in two columns."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.voice(theme.SANS, scale=0.82))
        for at, (page, words) in enumerate(self._entries):
            left, top = _LEFT + at % 2 * (self.width() // 2), 6 + at // 2 * theme.px(20)
            paint_cell(painter, QRect(left, top, _CELL, _HEIGHT), page)
            painter.setPen(QColor(theme.colours().quiet))
            painter.drawText(
                QRect(left + 16, top - 2, theme.px(110), theme.px(18)), Qt.AlignmentFlag.AlignVCenter, words
            )


def map_column(page_map: PageMap) -> QWidget:
    """The map with its heading above and what its shapes mean below."""
    column = QWidget()
    column.setObjectName("panel")
    column.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    box = QVBoxLayout(column)
    box.setContentsMargins(0, 8, 0, 0)
    box.setSpacing(2)
    heading = section_label(tr("EVERY PAGE"))
    heading.setContentsMargins(12, 0, 0, 0)
    scroll = column_area()
    scroll.setWidget(page_map)
    box.addWidget(heading)
    box.addWidget(scroll, 1)
    box.addWidget(Legend())
    return column
