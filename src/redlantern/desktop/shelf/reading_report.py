"""The reading report: a page as printed, and beside it what was read of it, block by block, and how it was split."""

from bisect import bisect_right

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QImage, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.facsimile import PrintedPageView
from redlantern.desktop.widgets.rows import words_label
from redlantern.reading.values import Block, Page
from redlantern.reckoning.cells import PrintedTable, block_rows
from redlantern.reckoning.tables import typed_table
from redlantern.reckoning.values import NUMERIC, shown_value
from redlantern.reckoning.wording import read_as

_MOST_ROWS = 80
_WIDE_CELL_CHARS = 36
_BRACKET_ROOM = 74
_KIND_WORDS = {"list item": "list", "header": "running head", "footer": "running foot"}
Passage = tuple[int, int, int, str]


class BlockRow(QFrame):
    """A block as it was read, with its kind beside it."""

    pointed = pyqtSignal(int)

    def __init__(self, number: int, page: Page, block: Block, language: str) -> None:
        super().__init__()
        self.number, self.block = number, block
        self.setObjectName("block")
        kind = QLabel(_KIND_WORDS.get(block.kind, block.kind) + (f" {block.level}" if block.level else ""))
        kind.setFont(theme.voice(theme.SANS, scale=0.78))
        kind.setObjectName("fadedInk")
        kind.setFixedWidth(78)
        kind.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(4, 3, 6, 3)
        layout.setSpacing(12)
        layout.addWidget(kind)
        layout.addWidget(_table(page, block, language) if block.kind == "table" else _prose(page, block), 1)
        self.set_lit(False)

    def set_lit(self, is_lit: bool) -> None:
        """Show whether this is the block that is pointed at."""
        colours = theme.LAMPLIGHT
        edge, ground = (colours.ask, colours.marked) if is_lit else ("transparent", "transparent")
        self.setStyleSheet(f"#block {{ background: {ground}; border: none; border-left: 3px solid {edge}; }}")

    def enterEvent(self, event: QEnterEvent | None) -> None:
        """The mouse came to it."""
        self.pointed.emit(self.number)

    def leaveEvent(self, event: QEvent | None) -> None:
        """The mouse left it."""
        self.pointed.emit(-1)


def _prose(page: Page, block: Block) -> QLabel:
    scale = {1: 1.3, 2: 1.15}.get(block.level, 1.05) if block.kind == "heading" else 0.95
    is_aside = block.kind in ("header", "footer", "note", "caption")
    label = words_label(page.text[block.start : block.end], family=theme.SERIF, scale=scale)
    label.setObjectName("fadedInk" if is_aside else "ink")
    if block.kind == "heading":
        label.setFont(theme.voice(theme.SERIF, scale=scale, weight=theme.BOLD))
    return label


def _table(page: Page, block: Block, language: str) -> QWidget:
    """A table as a table: numbers to the right; under it what its columns were taken for, and which rows are no items."""
    table = typed_table(PrintedTable("", block_rows(page, block)), 0, 0, language)
    widget = QWidget()
    grid = QGridLayout(widget)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(14)
    grid.setVerticalSpacing(1)
    rows = [(cells, None) for cells in table.headers] + [(row.cells, row.values) for row in table.rows]
    for row_number, (cells, values) in enumerate(rows[:_MOST_ROWS]):
        for index, cell in enumerate(cells):
            value = values[index] if values is not None else None
            label = words_label(cell.text, family=theme.SERIF, scale=0.88, name="ink")
            label.setFont(theme.voice(theme.SERIF, scale=0.88, weight=theme.REGULAR if value else theme.BOLD))
            label.setWordWrap(len(cell.text) > _WIDE_CELL_CHARS)
            side = Qt.AlignmentFlag.AlignRight if table.columns[index].is_numeric else Qt.AlignmentFlag.AlignLeft
            if value is not None and value.kind in NUMERIC:
                label.setToolTip(f"read as {shown_value(value)}")
            grid.addWidget(label, row_number, index, side | Qt.AlignmentFlag.AlignTop)
    more = [f"... and {len(rows) - _MOST_ROWS} more rows"] if len(rows) > _MOST_ROWS else []
    said = words_label("\n".join([*more, read_as(table)]), family=theme.SANS, scale=0.82, name="fadedInk")
    grid.addWidget(said, min(len(rows), _MOST_ROWS), 0, 1, -1)
    grid.setColumnStretch(len(table.columns), 1)
    return widget


class TextAsRead(QWidget):
    """The blocks of a page under one another, with a bracket beside them for each passage and its tokens."""

    pointed = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.rows: list[BlockRow] = []
        self.passages: list[Passage] = []
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(2, 12, _BRACKET_ROOM, 16)
        self._box.setSpacing(2)

    def show_page(self, page: Page, passages: list[Passage], language: str) -> None:
        """Show what was read of a page."""
        while (item := self._box.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.passages = passages
        self.rows = [BlockRow(number, page, block, language) for number, block in enumerate(page.blocks)]
        for row in self.rows:
            row.pointed.connect(self.pointed)
            self._box.addWidget(row)
        if not self.rows:
            self._box.addWidget(words_label("No words were read from this page.", family=theme.SANS, name="fadedInk"))
        self._box.addStretch(1)
        self.update()

    def light(self, number: int) -> None:
        """Show which block is pointed at; -1 for none."""
        for row in self.rows:
            row.set_lit(row.number == number)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the brackets."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = theme.voice(theme.SANS, scale=0.78)
        painter.setFont(font)
        left = self.width() - _BRACKET_ROOM + 8
        for index, (start, end, n_tokens, _) in enumerate(self.passages):
            top, bottom = self._height_of(start, is_end=False) + 2, self._height_of(end, is_end=True) - 2
            # Neighbours that overlap stand side by side.
            x = left + (6 if index % 2 else 0)
            painter.setPen(QPen(QColor(theme.LAMPLIGHT.ask), 1.6))
            painter.drawPolyline(
                QPolygonF([QPointF(x, top), QPointF(x + 5, top), QPointF(x + 5, bottom), QPointF(x, bottom)])
            )
            painter.setPen(QColor(theme.LAMPLIGHT.faded_ink))
            area = QRectF(left + 15, (top + bottom) / 2 - 16, _BRACKET_ROOM - 24, 32)
            painter.drawText(
                area, Qt.AlignmentFlag.AlignVCenter, f"{n_tokens}\ntokens" if index == 0 else str(n_tokens)
            )

    def _height_of(self, offset: int, *, is_end: bool) -> float:
        """Where a character of the page stands: within its block as far down as it is far into it."""
        for row in self.rows:
            if row.block.start <= offset <= row.block.end and (is_end or offset < row.block.end):
                into = (offset - row.block.start) / max(1, row.block.end - row.block.start)
                return row.y() + into * row.height()
        return float(self.rows[-1].geometry().bottom()) if self.rows else 0.0


class ReadingReport(QWidget):
    """One page of one document: as printed on the left if it is printed, as read on the right, warnings above both."""

    page_wanted = pyqtSignal(int, int)
    picture_wanted = pyqtSignal(object, int, float)

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
        words = document.reason or "It has no pages of its own: what lies within it follows it in the list."
        self._say(words, is_bad=document.is_refused)

    def show_page(self, document: Document, page: Page, passages: list[Passage]) -> None:
        """Show a page."""
        is_other = self.document != document or self.page is None or self.page.page_number != page.page_number
        self.document, self.page = document, page
        self._head(document)
        self._hint.hide()
        self._filler.hide()
        self._columns.show()
        how = {"text": "its own text", "recognised": f"recognised, {page.confidence:.0%} sure", "none": "no text"}
        self._place.setText(
            f"page {page.page_number} of {document.n_pages} · {how[page.origin]} · {_counted(passages)}"
        )
        self._say(
            " ".join([*page.warnings, *(document.notes if page.page_number == 1 else ())]), is_bad=bool(page.warnings)
        )
        for button, ends in ((self.before_button, 1), (self.after_button, document.n_pages)):
            button.show()
            button.setEnabled(page.page_number != ends)
        self.text.show_page(page, passages, document.language)
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
        self._mark.setStyleSheet(f"color: {theme.LAMPLIGHT.amber};")
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
        self._hint = QLabel("Choose a document: its pages are shown here as printed and as they were read.")
        self._hint.setObjectName("quiet")
        self._hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._print_scroll, self._text_scroll = QScrollArea(), QScrollArea()
        self._print_scroll.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self._print_scroll.setWidget(self.printed)
        self._text_scroll.setWidgetResizable(True)
        self._text_scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._text_scroll.setWidget(self.text)
        self._print_scroll.setAccessibleName("Page as printed")
        self._text_scroll.setAccessibleName("Page as it was read")
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
        self.text.pointed.connect(self.light)
        self.printed.pointed.connect(self._on_pointed)

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
        button.setAccessibleName("Page before" if by < 0 else "Page after")
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
    return "1 passage" if len(passages) == 1 else f"{len(passages)} passages"
