# SPDX-License-Identifier: GPL-3.0-or-later
"""What was read of a page, block by block, with a bracket for each passage; a table with what it was taken for."""

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import quiet_button, words_label
from redlantern.reading.values import Block, BlockKind, Page
from redlantern.reckoning.cells import Cell, PrintedTable, block_rows
from redlantern.reckoning.tables import Table, typed_table
from redlantern.reckoning.values import NUMERIC, shown_value
from redlantern.reckoning.wording import read_as
from redlantern.translation import tr

_MOST_ROWS = 80
_WIDE_CELL_CHARS = 36
_BRACKET_ROOM = 74
_KIND_WORDS: dict[BlockKind, str] = {
    "heading": tr("heading"), "paragraph": tr("paragraph"), "list item": tr("list"), "table": tr("table"),
    "caption": tr("caption"), "note": tr("note"), "header": tr("running head"), "footer": tr("running foot"),
}  # fmt: skip
Passage = tuple[int, int, int, str]


class BlockRow(QFrame):
    """A block as it was read, with its kind beside it."""

    pointed = pyqtSignal(int)
    put_right_wanted = pyqtSignal(object)

    def __init__(self, number: int, page: Page, block: Block, table: Table | None) -> None:
        super().__init__()
        self.number, self.block = number, block
        self.setObjectName("block")
        kind = QLabel(_KIND_WORDS[block.kind] + (f" {block.level}" if block.level else ""))
        kind.setFont(theme.voice(theme.SANS, scale=0.78))
        kind.setObjectName("fadedInk")
        kind.setFixedWidth(theme.px(78))
        kind.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(4, 3, 6, 3)
        layout.setSpacing(12)
        layout.addWidget(kind)
        if block.kind == "table":
            shown = _table(page, block, table)
            layout.addWidget(shown, 1)
            if table is not None:
                button = quiet_button(
                    tr("Put right ..."), tr("Say what the columns are and which rows count, where it was read wrongly")
                )
                button.setObjectName("onPaper")
                button.clicked.connect(lambda: self.put_right_wanted.emit(table))
                box = shown.layout()
                assert isinstance(box, QGridLayout)
                box.addWidget(button, box.rowCount(), 0, 1, -1, Qt.AlignmentFlag.AlignLeft)
        else:
            layout.addWidget(_prose(page, block), 1)
        self.set_lit(False)

    def set_lit(self, is_lit: bool) -> None:
        """Show whether this is the block that is pointed at."""
        colours = theme.colours()
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


def _table(page: Page, block: Block, table: Table | None) -> QWidget:
    """The rows of a table that stand in a block: numbers to the right; under it what its columns were taken for, and which rows are
    no items. Without a table the rows as they were read.
    """
    widget = QWidget()
    grid = QGridLayout(widget)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(14)
    grid.setVerticalSpacing(1)
    if table is None:
        table = typed_table(PrintedTable("", block_rows(page, block)), 0, 0)
    every = [(cells, None) for cells in table.headers] + [(row.cells, row.values) for row in table.rows]
    rows = [(cells, values) for cells, values in every if _is_within(cells[0], page, block)]
    for row_number, (cells, values) in enumerate(rows[:_MOST_ROWS]):
        for index, cell in enumerate(cells):
            value = values[index] if values is not None else None
            label = words_label(cell.text, family=theme.SERIF, scale=0.88, name="ink")
            label.setFont(theme.voice(theme.SERIF, scale=0.88, weight=theme.REGULAR if value else theme.BOLD))
            label.setWordWrap(len(cell.text) > _WIDE_CELL_CHARS)
            side = Qt.AlignmentFlag.AlignRight if table.columns[index].is_numeric else Qt.AlignmentFlag.AlignLeft
            if value is not None and value.kind in NUMERIC:
                label.setToolTip(tr("read as {shown_value}").format(shown_value=shown_value(value)))
            grid.addWidget(label, row_number, index, side | Qt.AlignmentFlag.AlignTop)
    more = [tr("... and {n} more rows").format(n=len(rows) - _MOST_ROWS)] if len(rows) > _MOST_ROWS else []
    said = words_label("\n".join([*more, read_as(table)]), family=theme.SANS, scale=0.82, name="fadedInk")
    grid.addWidget(said, min(len(rows), _MOST_ROWS), 0, 1, -1)
    grid.setColumnStretch(len(table.columns), 1)
    return widget


def _is_within(cell: Cell, page: Page, block: Block) -> bool:
    return cell.page_number == page.page_number and block.start <= cell.start <= block.end


class TextAsRead(QWidget):
    """The blocks of a page under one another, with a bracket beside them for each passage and its tokens."""

    pointed = pyqtSignal(int)
    put_right_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.rows: list[BlockRow] = []
        self.passages: list[Passage] = []
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(2, 12, _BRACKET_ROOM, 16)
        self._box.setSpacing(2)

    def show_page(self, page: Page, passages: list[Passage], tables: Sequence[Table]) -> None:
        """Show what was read of a page; `tables` are those of its document."""
        while (item := self._box.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.passages = passages
        begins = {
            (cells[0].page_number, cells[0].start): table
            for table in tables
            for cells in [*table.headers, *(row.cells for row in table.rows)]
        }
        self.rows = [
            BlockRow(number, page, block, begins.get((page.page_number, block.start)))
            for number, block in enumerate(page.blocks)
        ]
        for row in self.rows:
            row.pointed.connect(self.pointed)
            row.put_right_wanted.connect(self.put_right_wanted)
            self._box.addWidget(row)
        if not self.rows:
            self._box.addWidget(
                words_label(tr("No words were read from this page."), family=theme.SANS, name="fadedInk")
            )
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
            painter.setPen(QPen(QColor(theme.colours().ask), 1.6))
            painter.drawPolyline(
                QPolygonF([QPointF(x, top), QPointF(x + 5, top), QPointF(x + 5, bottom), QPointF(x, bottom)])
            )
            painter.setPen(QColor(theme.colours().faded_ink))
            area = QRectF(left + 15, (top + bottom) / 2 - 16, _BRACKET_ROOM - 24, 32)
            painter.drawText(
                area,
                Qt.AlignmentFlag.AlignVCenter,
                tr("{n_tokens}\ntokens").format(n_tokens=n_tokens) if index == 0 else str(n_tokens),
            )

    def _height_of(self, offset: int, *, is_end: bool) -> float:
        """Where a character of the page stands: within its block as far down as it is far into it."""
        for row in self.rows:
            if row.block.start <= offset <= row.block.end and (is_end or offset < row.block.end):
                into = (offset - row.block.start) / max(1, row.block.end - row.block.start)
                return row.y() + into * row.height()
        return float(self.rows[-1].geometry().bottom()) if self.rows else 0.0
