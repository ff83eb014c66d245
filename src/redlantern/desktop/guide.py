# SPDX-License-Identifier: GPL-3.0-or-later
"""The guide within the program: opened at the room one is in, and searched by words."""

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QTextCursor, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.guide import GuidePage, guide_pages
from redlantern.desktop.widgets import theme
from redlantern.translation import tr

_SIZE = (1040, 700)
_PICTURE_WIDTH, _MARGIN = 680, 22
_PAGE_OF_ROOM = ("Desk", "Shelf", "Read-through", "Side by side", "Side by side", "Brief", "Models", "Seal")
"""How the page of each room begins."""


class GuideDialog(QDialog):
    """Pages at the left, the chosen one at the right. It stays open beside the window."""

    def __init__(self, room: int, parent: QWidget) -> None:
        """Opens at the page of a room, by its number; at the first one for a number below 0."""
        super().__init__(parent)
        self.setWindowTitle(tr("Guide"))
        self.resize(*_SIZE)
        self.pages = guide_pages()
        self.words, self.list, self.text = QLineEdit(), QListWidget(), QTextBrowser()
        self._build()
        self._fill("")
        wanted = _PAGE_OF_ROOM[room] if 0 <= room < len(_PAGE_OF_ROOM) else ""
        at = next((at for at, page in enumerate(self.pages) if wanted and page.title.startswith(wanted)), 0)
        self.list.setCurrentRow(at)

    @property
    def page(self) -> GuidePage | None:
        """The page that is shown."""
        item = self.list.currentItem()
        return self.pages[self.list.row(item)] if item is not None else None

    def _build(self) -> None:
        self.words.setObjectName("filter")
        self.words.setPlaceholderText(tr("Search the guide ..."))
        self.words.setAccessibleName(tr("Words to look for in the guide"))
        self.words.setClearButtonEnabled(True)
        self.words.textChanged.connect(self._fill)
        self.words.returnPressed.connect(self._find_next)
        self.list.setAccessibleName(tr("Pages of the guide"))
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.text.setObjectName("setPage")
        self.text.setOpenLinks(False)
        self.text.setFont(theme.voice(theme.SANS, scale=1.05))
        self.text.setAccessibleName(tr("The page"))
        left = QVBoxLayout()
        left.addWidget(self.words)
        left.addWidget(self.list, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 12, 14, 12)
        row.addLayout(left, 3)
        row.addWidget(self.text, 9)
        for page in self.pages:
            self.list.addItem(QListWidgetItem(page.title))
        if not self.pages:
            self.text.setPlainText(
                tr("The guide was not installed with the program. It is in docs/guide of the project.")
            )

    def _fill(self, words: str) -> None:
        """Leave the pages that have the words; where the shown one has them not, show the first that does."""
        for at, page in enumerate(self.pages):
            item = self.list.item(at)
            if item is not None:
                item.setHidden(not page.has(words))
        if self.page is not None and not self.page.has(words):
            found = next((at for at, page in enumerate(self.pages) if page.has(words)), -1)
            self.list.setCurrentRow(found)
        self._find_next()

    def _show(self) -> None:
        page = self.page
        if page is None:
            self.text.clear()
            return
        document = self.text.document()
        assert document is not None
        document.setBaseUrl(QUrl.fromLocalFile(f"{page.folder}/"))
        self.text.setMarkdown(page.text)
        document.setDocumentMargin(_MARGIN)
        self._fit_pictures(document)
        self.text.moveCursor(QTextCursor.MoveOperation.Start)
        self._find_next()

    def _fit_pictures(self, document: QTextDocument) -> None:
        """No picture is wider than its column."""
        block = document.begin()
        while block.isValid():
            parts = block.begin()
            while not parts.atEnd():
                fragment = parts.fragment()
                if fragment.charFormat().isImageFormat():
                    picture = fragment.charFormat().toImageFormat()
                    picture.setWidth(_PICTURE_WIDTH)
                    cursor = QTextCursor(document)
                    cursor.setPosition(fragment.position())
                    cursor.setPosition(fragment.position() + fragment.length(), QTextCursor.MoveMode.KeepAnchor)
                    cursor.setCharFormat(picture)
                    break
                parts += 1
            block = block.next()

    def _find_next(self) -> None:
        words = self.words.text().strip()
        if words and not self.text.find(words):
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
            self.text.find(words)


def show_guide(window: QWidget, room: int) -> None:
    """Open the guide beside the window, at the page of a room."""
    guide = GuideDialog(room, window)
    guide.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    guide.show()
