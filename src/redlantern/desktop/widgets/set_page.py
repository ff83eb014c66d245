# SPDX-License-Identifier: GPL-3.0-or-later
"""A page of a file that has none, set by us: its blocks in the serif face, with cited words marked."""

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import (
    QColor,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextOption,
)
from PyQt6.QtWidgets import (
    QTextEdit,
)

from redlantern.desktop.widgets import theme
from redlantern.reading.values import Page
from redlantern.translation import tr

_LONGEST_UNDERLINED = 320


class SetPage(QTextEdit):
    """A page's text, set by us block by block; the same characters at the same places as in the page's stored text."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("setPage")
        self.setReadOnly(True)
        self.setAccessibleName(tr("Page as read"))
        self._text = ""

    def show_page(self, page: Page, zoom: float) -> None:
        """Set a page."""
        self._text = page.text
        self.clear()
        document = self.document()
        assert document is not None
        document.setDocumentMargin(26)
        cursor = QTextCursor(document)
        for index, block in enumerate(page.blocks):
            block_format, char_format = _formats(block.kind, block.level, zoom)
            if index:
                cursor.insertBlock(block_format, char_format)
            else:
                cursor.setBlockFormat(block_format)
            # Inserted as text: markup in a document is shown, never obeyed. Rows end in line breaks within the block.
            words = page.text[block.start : block.end].replace("\n", "\u2028")
            cursor.insertText(words, char_format)

    def mark(self, start: int, end: int) -> None:
        """Mark the characters from `start` up to `end` of the page's text, and bring them into view."""
        cursor = QTextCursor(self.document())
        cursor.setPosition(self._position(start))
        cursor.setPosition(self._position(end), QTextCursor.MoveMode.KeepAnchor)
        marked = QTextCharFormat()
        marked.setBackground(QColor(theme.colours().marked))
        # A line is underlined as well, so that it is told by more than its colour; a whole passage would be hard to read.
        if end - start <= _LONGEST_UNDERLINED:
            marked.setFontUnderline(True)
            marked.setUnderlineColor(QColor(theme.colours().ask))
        cursor.mergeCharFormat(marked)
        cursor.setPosition(self._position(start))
        self.setTextCursor(cursor)
        QTimer.singleShot(0, self._centre)

    def marked_text(self) -> str:
        """The words that are marked, as they stand on the page; for checking."""
        document = self.document()
        assert document is not None
        found = []
        block = document.begin()
        while block.isValid():
            iterator = block.begin()
            while not iterator.atEnd():
                fragment = iterator.fragment()
                if fragment.charFormat().background().style() != Qt.BrushStyle.NoBrush:
                    found.append(fragment.text().replace("\u2028", "\n"))
                iterator += 1
            block = block.next()
        return "".join(found)

    def _centre(self) -> None:
        bar = self.verticalScrollBar()
        assert bar is not None
        bar.setValue(bar.value() + self.cursorRect().top() - self.height() // 3)

    def _position(self, offset: int) -> int:
        # Qt counts UTF-16 units; we count code points.
        return len(self._text[:offset].encode("utf-16-le")) // 2


def _formats(kind: str, level: int, zoom: float) -> tuple[QTextBlockFormat, QTextCharFormat]:
    block_format, char_format = QTextBlockFormat(), QTextCharFormat()
    is_heading = kind == "heading"
    scale = {1: 1.45, 2: 1.2}.get(level, 1.08) if is_heading else 0.9 if kind in ("header", "footer") else 1.0
    weight = theme.BOLD if is_heading else theme.REGULAR
    char_format.setFont(theme.voice(theme.SERIF, scale=scale * zoom, weight=weight))
    char_format.setForeground(
        QColor(theme.colours().faded_ink if kind in ("header", "footer") else theme.colours().ink)
    )
    block_format.setTopMargin(14 if is_heading else 3)
    block_format.setBottomMargin(6)
    proportional: int = QTextBlockFormat.LineHeightTypes.ProportionalHeight.value  # type: ignore[assignment]
    block_format.setLineHeight(125, proportional)
    if kind == "list item":
        block_format.setLeftMargin(18)
    if kind == "table":
        left = QTextOption.TabType.LeftTab
        block_format.setTabPositions([QTextOption.Tab(place, left) for place in (130.0, 250.0, 350.0, 440.0)])
    return block_format, char_format
