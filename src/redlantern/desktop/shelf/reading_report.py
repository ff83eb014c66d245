# SPDX-License-Identifier: GPL-3.0-or-later
"""The reading report: a page as printed, and beside it what was read of it, block by block, and how it was split."""

from bisect import bisect_right
from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop.shelf.text_as_read import Passage, TextAsRead
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.facsimile import PrintedPageView
from redlantern.reading.values import Page
from redlantern.reckoning.tables import Table
from redlantern.text.listing import counted
from redlantern.translation import tr


class ReadingReport(QWidget):
    """One page of one document: as printed on the left if it is printed, as read on the right, warnings above both."""

    page_wanted = pyqtSignal(int, int)
    picture_wanted = pyqtSignal(object, int, float)
    put_right_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.document: Document | None = None
        self.page: Page | None = None
        self.printed, self.text = PrintedPageView(), TextAsRead()
        self._mark, self._title, self._place, self._facts, self._warning = (
            QLabel(),
            QLabel(),
            QLabel(),
            QLabel(),
            QLabel(),
        )
        self.before_button, self.after_button = self._turner("‹", -1), self._turner("›", 1)
        self._build()
        self.text.pointed.connect(self.light)
        self.text.put_right_wanted.connect(self.put_right_wanted)
        self.printed.pointed.connect(self._on_pointed)
        self.clear()

    def clear(self) -> None:
        """Show nothing yet."""
        self.document = self.page = None
        for label in (self._mark, self._place, self._facts, self._warning):
            label.setText("")
        self._title.setText("")
        for widget in (self._columns, self._warning, self._filler):
            widget.hide()
        self._hint.show()
        for button in (self.before_button, self.after_button):
            button.hide()

    def show_without_pages(self, document: Document) -> None:
        """There is nothing to show of this document but why."""
        self.clear()
        self.document = document
        self._head(document)
        self._hint.hide()
        self._filler.show()
        words = document.reason or tr("It has no pages of its own: what lies within it follows it in the list.")
        self._say(words, is_bad=document.is_refused)

    def show_page(self, document: Document, page: Page, passages: list[Passage], tables: Sequence[Table] = ()) -> None:
        """Show a page; `tables` are those of its document, which can be put right."""
        is_other = self.document != document or self.page is None or self.page.page_number != page.page_number
        self.document, self.page = document, page
        self._head(document)
        self._hint.hide()
        self._filler.hide()
        self._columns.show()
        how = {
            "text": tr("its own text"),
            "recognised": tr("recognised, {confidence:.0%} sure").format(confidence=page.confidence),
            "none": tr("no text"),
        }
        self._place.setText(
            tr("page {page_number} of {n_pages} · {how} · {counted}").format(
                page_number=page.page_number, n_pages=document.n_pages, how=how[page.origin], counted=_counted(passages)
            )
        )
        self._say(
            " ".join([*page.warnings, *(document.notes if page.page_number == 1 else ())]), is_bad=bool(page.warnings)
        )
        for button, ends in ((self.before_button, 1), (self.after_button, document.n_pages)):
            button.show()
            button.setEnabled(page.page_number != ends)
        self.text.show_page(page, passages, tables)
        self.printed.boxes = []
        self._text_scroll.ensureVisible(0, 0)
        self._print_scroll.setVisible(not page.is_set)
        if not page.is_set:
            if is_other:
                self.printed.picture = QImage()
            self._draw_printed()

    def show_picture(self, document: Document, page_number: int, picture: QImage) -> None:
        """Show the picture of the page, if it is still this one."""
        if self.document == document and self.page is not None and self.page.page_number == page_number:
            self.printed.picture = picture
            self.printed.update()

    def say_problem(self, reason: str) -> None:
        """Say what could not be done; the page stays."""
        self._say(reason, is_bad=True)

    def show_problem(self, reason: str) -> None:
        """There is no picture, and why."""
        self._say(reason, is_bad=True)
        self._print_scroll.hide()

    def resizeEvent(self, event: object) -> None:
        """Fit the page to the new width."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        if self.page is not None and not self.page.is_set and self._print_scroll.isVisible():
            self._draw_printed()

    def _build(self) -> None:
        self._mark.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
        self._mark.setObjectName("mark")
        for label in (self._title, self._facts, self._warning):
            label.setTextFormat(Qt.TextFormat.PlainText)
        self._title.setFont(theme.voice(theme.SERIF, scale=1.05))
        self._place.setObjectName("quiet")
        self._facts.setObjectName("quiet")
        self._warning.setObjectName("problem")
        self._warning.setWordWrap(True)
        self._warning.setContentsMargins(14, 0, 14, 6)
        head = QHBoxLayout()
        head.setContentsMargins(14, 8, 10, 4)
        head.setSpacing(10)
        head.addWidget(self._mark)
        head.addWidget(self._title)
        head.addWidget(self._facts)
        head.addStretch(1)
        head.addWidget(self._place)
        head.addWidget(self.before_button)
        head.addWidget(self.after_button)
        self._hint = QLabel(tr("Choose a document: its pages are shown here as printed and as they were read."))
        self._hint.setObjectName("quiet")
        self._hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._print_scroll, self._text_scroll = QScrollArea(), QScrollArea()
        self._print_scroll.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self._print_scroll.setWidget(self.printed)
        self._text_scroll.setWidgetResizable(True)
        self._text_scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._text_scroll.setWidget(self.text)
        self._print_scroll.setAccessibleName(tr("Page as printed"))
        self._text_scroll.setAccessibleName(tr("Page as it was read"))
        self._filler = QWidget()
        self._columns = QSplitter(Qt.Orientation.Horizontal)
        self._columns.addWidget(self._print_scroll)
        self._columns.addWidget(self._text_scroll)
        self._columns.setSizes([600, 680])
        self._columns.setChildrenCollapsible(False)
        self._columns.setHandleWidth(1)
        self._columns.splitterMoved.connect(lambda: self._draw_printed())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self._warning)
        layout.addWidget(self._hint, 1)
        layout.addWidget(self._columns, 1)
        layout.addWidget(self._filler, 1)

    def light(self, number: int) -> None:
        """Mark a block on both sides; -1 for none."""
        self.text.light(number)
        page = self.page
        is_there = page is not None and 0 <= number < len(page.blocks)
        self.printed.boxes = (
            page.boxes(page.blocks[number].start, page.blocks[number].end) if is_there and page is not None else []
        )
        self.printed.update()

    def _turner(self, text: str, by: int) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName("quiet")
        button.setAccessibleName(tr("Page before") if by < 0 else tr("Page after"))
        button.setToolTip(button.accessibleName())
        button.clicked.connect(lambda: self.turn(by))
        return button

    def turn(self, by: int) -> None:
        """Go to another page."""
        if (
            self.document is not None
            and self.page is not None
            and 0 < self.page.page_number + by <= self.document.n_pages
        ):
            self.page_wanted.emit(self.document.document_id, self.page.page_number + by)

    def _head(self, document: Document) -> None:
        self._mark.setText(document.call_mark)
        self._title.setText(document.title if len(document.title) <= 60 else f"{document.title[:59]}…")
        facts = [document.details[name] for name in ("author", "date") if document.details.get(name)]
        self._facts.setText(" · ".join(facts)[:70])

    def _say(self, words: str, *, is_bad: bool) -> None:
        self._warning.setText(words)
        self._warning.setVisible(bool(words))
        self._warning.setObjectName("problem" if is_bad else "quiet")
        self._warning.style().polish(self._warning)  # type: ignore[union-attr]

    def _on_pointed(self, x: float, y: float) -> None:
        """Mark the block under the mouse on the printed page."""
        page = self.page
        if page is None:
            return
        starts = [block.start for block in page.blocks]
        for run in page.runs:
            if run.top <= y <= run.bottom and run.edges[0] <= x <= run.edges[-1]:
                number = bisect_right(starts, run.start) - 1
                self.light(number)
                if 0 <= number < len(self.text.rows):
                    self._text_scroll.ensureWidgetVisible(self.text.rows[number], 0, 30)
                return

    def _draw_printed(self) -> None:
        page, document = self.page, self.document
        if page is None or document is None or page.is_set:
            return
        bar = self._print_scroll.verticalScrollBar()
        room = self._print_scroll.width() - (bar.sizeHint().width() if bar is not None else 0) - 4
        scale = max(0.2, room / page.width_pt)
        is_sharp = not self.printed.picture.isNull() and abs(self.printed.pixels_per_point - scale) < 1e-6
        self.printed.page, self.printed.pixels_per_point = page, scale
        self.printed.resize(self.printed.sizeHint())
        self.printed.update()
        if not is_sharp:
            self.picture_wanted.emit(document, page.page_number, scale * self.devicePixelRatioF())


def _counted(passages: list[Passage]) -> str:
    return counted(len(passages), "passage")
