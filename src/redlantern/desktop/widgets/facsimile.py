# SPDX-License-Identifier: GPL-3.0-or-later
"""The right column: the page as printed, with the cited words marked; or set by us where the file has no pages."""

from collections.abc import Callable

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.context import PAGES, Offer, show_menu
from redlantern.desktop.widgets.set_page import SetPage
from redlantern.reading.values import Box, Page
from redlantern.translation import tr

ZOOMS = (0.5, 0.67, 0.8, 1.0, 1.25, 1.5, 2.0, 3.0)


class PrintedPageView(QWidget):
    """A page's picture, fitted to the width and zoomed, with boxes marked on it; tells where on the page the mouse is."""

    pointed = pyqtSignal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.picture = QImage()
        self.page: Page | None = None
        self.boxes: list[Box] = []
        self.pixels_per_point = 1.0
        self.setAccessibleName(tr("Page as printed"))
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        """The page at its present scale."""
        if self.page is None:
            return QSize(10, 10)
        scale = self.pixels_per_point
        return QSize(round(self.page.width_pt * scale), round(self.page.height_pt * scale))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the picture, then the marks over it as a marker pen would."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor("white"))
        if not self.picture.isNull():
            painter.drawImage(self.rect(), self.picture)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.colours().marked))
        for box in self.boxes:
            painter.drawRect(self.on_screen(box))
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)
        # A line in the margin as well, so that the marks are told by more than their colour.
        painter.setPen(QPen(QColor(theme.colours().ask), 2.5))
        for before, box in zip([None, *self.boxes], self.boxes, strict=False):
            # Once a line: the words of a page that was scanned askew have a box each.
            if before is not None and box.left >= before.right - 1 and box.top < (before.top + before.bottom) / 2:
                continue
            area = self.on_screen(box)
            left = area.left() - 5
            painter.drawLine(QPoint(round(left), round(area.top())), QPoint(round(left), round(area.bottom())))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Tell the place in points from the page's top left corner."""
        if event is not None:
            place = event.position()
            self.pointed.emit(place.x() / self.pixels_per_point, place.y() / self.pixels_per_point)

    def on_screen(self, box: Box) -> QRectF:
        """Where a box of the page is on this widget, in pixels."""
        scale = self.pixels_per_point
        return QRectF(box.left * scale, box.top * scale, (box.right - box.left) * scale, (box.bottom - box.top) * scale)


class Facsimile(QWidget):
    """Shows one page of one document with the cited words marked.

    It asks for what it needs by `page_wanted` and `picture_wanted`; whoever owns
    it answers with `show_page` and `show_picture`.
    """

    page_wanted = pyqtSignal(int, int)
    picture_wanted = pyqtSignal(object, int, float)
    step_wanted = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.document: Document | None = None
        self.page: Page | None = None
        self.span: tuple[int, int] | None = None
        self._zoom = ZOOMS.index(1.0)
        self._shows_text = False
        self._note = ""
        self.printed, self.set_page = PrintedPageView(), SetPage()
        self._build()
        self.clear()

    def clear(self) -> None:
        """Show nothing yet."""
        self.document = self.page = self.span = None
        self._mark.setText("")
        self._title.setText("")
        self._place.setText("")
        self._foot.setText("")
        self._set_buttons_visible(False)
        self._stack.setCurrentWidget(self._empty)

    def _set_buttons_visible(self, is_visible: bool) -> None:
        for button in (*self._page_buttons, self._as_button, *self._zoom_buttons, *self._steps):
            button.setVisible(is_visible)

    def show_page(self, document: Document, page: Page, span: tuple[int, int] | None) -> None:
        """Show a page, with a span of its text marked or none."""
        is_other = self.document != document or self.page is None or self.page.page_number != page.page_number
        self.document, self.page, self.span = document, page, span
        self._set_buttons_visible(True)
        self._mark.setText(document.call_mark)
        self._title.setText(document.title)
        self._place.setText(
            tr("page {page_number} of {n_pages}").format(page_number=page.page_number, n_pages=document.n_pages)
        )
        if is_other:
            self.printed.picture = QImage()
            self._note = ""
        self._draw()

    def show_picture(self, picture: QImage, page_number: int) -> None:
        """Show the picture of a page, if it is still the page wanted."""
        if self.page is not None and self.page.page_number == page_number:
            self.printed.picture = picture
            self.printed.update()

    def show_problem(self, reason: str) -> None:
        """There is no picture: show the text as read, and say why."""
        self._note, self._shows_text = reason, True
        self._draw()

    def set_row_place(self, words: str) -> None:
        """Say which of the sheet's rows this is."""
        self._foot.setText(words)

    def zoom(self, by: int) -> None:
        """Make the page larger (by > 0), smaller, or as it was (0)."""
        self._zoom = ZOOMS.index(1.0) if by == 0 else max(0, min(len(ZOOMS) - 1, self._zoom + by))
        self._draw()

    def marked_boxes(self) -> list[Box]:
        """The boxes marked on the printed page."""
        return list(self.printed.boxes)

    def resizeEvent(self, event: object) -> None:
        """Fit the page to the new width."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        if self.page is not None:
            self._draw()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Offer what can be done with the page."""
        if event is not None:
            show_menu(self, event.globalPos(), self.offers(), PAGES)

    def offers(self) -> list[Offer]:
        """What can be done with its words."""
        page = self.page
        return [(tr("Copy the text of this page"), self.copy, page is not None)]

    def copy(self) -> None:
        """Put the page's text, as it was read, on the clipboard."""
        clipboard = QApplication.clipboard()
        if clipboard is not None and self.page is not None:
            clipboard.setText(self.page.text)

    def _build(self) -> None:
        self._scroll = QScrollArea()
        self._scroll.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self._scroll.setWidget(self.printed)
        self._empty = QLabel(tr("The page that a line stands on is shown here, with its words marked."))
        self._empty.setObjectName("quiet")
        self._empty.setWordWrap(True)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._empty.setContentsMargins(40, 0, 40, 0)
        self._stack = QStackedWidget()
        for widget in (self._empty, self._scroll, self.set_page):
            self._stack.addWidget(widget)
        self._problem = QLabel()
        self._problem.setObjectName("problem")
        self._problem.setWordWrap(True)
        self._problem.setContentsMargins(14, 4, 14, 6)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(self._title_row())
        layout.addLayout(self._place_row())
        layout.addWidget(self._problem)
        layout.addWidget(self._stack, 1)
        layout.addLayout(self._foot_row())

    def _title_row(self) -> QHBoxLayout:
        """Call-mark and title."""
        self._mark, self._title = QLabel(), QLabel()
        self._mark.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
        self._mark.setObjectName("mark")
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        self._title.setFont(theme.voice(theme.SERIF))
        self._title.setMinimumWidth(20)
        row = QHBoxLayout()
        row.setContentsMargins(14, 10, 12, 0)
        row.setSpacing(9)
        row.addWidget(self._mark)
        row.addWidget(self._title, 1)
        return row

    def _place_row(self) -> QHBoxLayout:
        """Which page it is, the pages beside it, and how it is shown."""
        self._place = QLabel()
        self._place.setObjectName("quiet")
        self._page_buttons = (
            self._button("‹", tr("Page before"), lambda: self._turn(-1)),
            self._button("›", tr("Page after"), lambda: self._turn(1)),
        )
        self._zoom_buttons = (
            self._button("−", tr("Smaller"), lambda: self.zoom(-1)),
            self._button("+", tr("Larger"), lambda: self.zoom(1)),
        )
        self._as_button = self._button(tr("as read"), tr("Show the text as it was read from this page"), self._switch)
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, 8, 4)
        row.addWidget(self._place)
        for button in self._page_buttons:
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self._as_button)
        for button in self._zoom_buttons:
            row.addWidget(button)
        return row

    def _foot_row(self) -> QHBoxLayout:
        """Which row of the sheet is marked, and those beside it."""
        self._foot = QLabel()
        self._foot.setObjectName("quiet")
        self._steps = (
            self._button("↑", tr("Row before on the sheet"), lambda: self.step_wanted.emit(-1)),
            self._button("↓", tr("Row after on the sheet"), lambda: self.step_wanted.emit(1)),
        )
        row = QHBoxLayout()
        row.setContentsMargins(14, 2, 8, 4)
        row.addWidget(self._foot, 1)
        for button in self._steps:
            row.addWidget(button)
        return row

    def _button(self, text: str, name: str, slot: Callable[[], object]) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName("quiet")
        button.setToolTip(name)
        button.setAccessibleName(name)
        button.clicked.connect(lambda: slot())
        return button

    def _turn(self, by: int) -> None:
        if self.document is not None and self.page is not None:
            self.page_wanted.emit(self.document.document_id, self.page.page_number + by)

    def _switch(self) -> None:
        self._shows_text = not self._shows_text
        self._note = ""
        self._draw()

    def _draw(self) -> None:
        page, document = self.page, self.document
        if page is None or document is None:
            return
        self._page_buttons[0].setEnabled(page.page_number > 1)
        self._page_buttons[1].setEnabled(page.page_number < document.n_pages)
        self._as_button.setVisible(not page.is_set)
        self._as_button.setText(tr("as printed") if self._shows_text and not page.is_set else tr("as read"))
        self._problem.setText(self._note)
        self._problem.setVisible(bool(self._note))
        if page.is_set or self._shows_text:
            self._stack.setCurrentWidget(self.set_page)
            self.set_page.show_page(page, ZOOMS[self._zoom])
            if self.span is not None:
                self.set_page.mark(*self.span)
        else:
            self._stack.setCurrentWidget(self._scroll)
            self._draw_printed(document, page)

    def _draw_printed(self, document: Document, page: Page) -> None:
        viewport = self._scroll.viewport()
        assert viewport is not None
        bar = self._scroll.verticalScrollBar()
        # As if the bar were always there: its coming and going must not change the size of the page.
        room = self._scroll.width() - (bar.sizeHint().width() if bar is not None else 0) - 4
        fitted = max(0.2, room / page.width_pt)
        scale = fitted * ZOOMS[self._zoom]
        is_sharp = not self.printed.picture.isNull() and abs(self.printed.pixels_per_point - scale) < 1e-6
        self.printed.page, self.printed.pixels_per_point = page, scale
        self.printed.boxes = page.boxes(*self.span) if self.span is not None else []
        self.printed.resize(self.printed.sizeHint())
        self.printed.update()
        if not is_sharp:
            self.picture_wanted.emit(document, page.page_number, scale * self.devicePixelRatioF())
        if self.printed.boxes:
            whole = QRectF()
            for box in self.printed.boxes:
                whole = whole.united(self.printed.on_screen(box))
            centre = whole.center()
            self._scroll.ensureVisible(round(centre.x()), round(centre.y()), 60, viewport.height() // 3)
