# SPDX-License-Identifier: GPL-3.0-or-later
"""What the middle column shows when there is no sheet: the first steps, work under way, and what went wrong."""

from collections.abc import Callable

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.drawing import paint_lamp
from redlantern.desktop.widgets.rows import notice, words_label

_HINTS = "Enter asks    Esc stops    Ctrl+L question    ↑ ↓ walk through the lines    Alt+← → sheets"


class _BigLamp(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(92, 92)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        paint_lamp(painter, QRectF(self.rect()))


def without_collection(on_new: Callable[[], None], on_open: Callable[[], None]) -> QWidget:
    """Nothing is open yet."""
    page, box = _page("Choose what to work on")
    box.addWidget(
        _words(
            "A collection is one encrypted file that holds what was read from your documents. The documents stay where they are."
        )
    )
    row = QHBoxLayout()
    row.addWidget(_button("New collection from a folder ...", on_new, is_first=True))
    row.addWidget(_button("Open a collection ...", on_open))
    row.addStretch(1)
    return _finish(page, box, row)


def without_documents(on_add: Callable[[], None]) -> QWidget:
    """The collection is empty."""
    page, box = _page("Add the first documents")
    box.addWidget(
        _words(
            "Choose a folder. PDF, scans, Office files, mail, web pages and tables in it and below it are read; "
            "whatever cannot be read is listed with the reason. Nothing leaves this machine."
        )
    )
    row = QHBoxLayout()
    row.addWidget(_button("Add a folder ...", on_add, is_first=True))
    row.addStretch(1)
    return _finish(page, box, row)


def empty_shelf(on_files: Callable[[], None], on_folder: Callable[[], None], on_look: Callable[[], None]) -> QWidget:
    """The shelf room of an empty collection."""
    page, box = _page("The shelf is empty")
    box.addWidget(
        _words(
            "Drop files or folders here, or choose them. Look first shows how files would be read and split before "
            "anything is kept. The files themselves stay where they are."
        )
    )
    row = QHBoxLayout()
    row.addWidget(_button("Add a folder ...", on_folder, is_first=True))
    row.addWidget(_button("Add files ...", on_files))
    row.addWidget(_button("Look first ...", on_look))
    row.addStretch(1)
    return _finish(page, box, row)


def shelf_without_collection() -> QWidget:
    """The shelf room while nothing is open."""
    page, box = _page("No collection is open")
    box.addWidget(_words("Open a collection, or make one from a folder, with the menu at the top left."))
    return _finish(page, box, QHBoxLayout())


def ready(n_documents: int, on_question: Callable[[str], None]) -> QWidget:
    """Documents are there; nothing was asked yet."""
    counted = "One document is" if n_documents == 1 else f"{n_documents} documents are"
    page, box = _page("Ask a question")
    box.addWidget(
        _words(
            f"{counted} ready. Type a question above. The lines that answer it best appear at once, word for word, each "
            "with its page; a written answer follows, and every sentence of it is checked against the line it cites."
        )
    )
    box.addSpacing(6)
    box.addWidget(
        words_label(
            "Words in “quotation marks” are looked up. “Summarise the survey” or “What is this document about?” gives a "
            "summary, “Draft a letter to the Trust about the deposit” a draft; every sentence from a document keeps its page.",
            family=theme.SANS,
            name="quiet",
        )
    )
    box.addWidget(
        words_label(
            "On the shelf, each small bar under a document is a page; it lights up when the question finds it.",
            family=theme.SANS,
            name="quiet",
        )
    )
    return _finish(page, box, None)


def reading() -> QWidget:
    """The first documents are being read."""
    page, box = _page("Reading the documents")
    box.addWidget(
        _words(
            "Each document appears on the shelf as soon as it is read, and can be asked about at once. "
            "The line at the bottom shows how far it is."
        )
    )
    return _finish(page, box, None)


def problem(title: str, reason: str) -> QWidget:
    """Something did not work."""
    page, box = _page(title)
    box.addWidget(notice(reason))
    return _finish(page, box, None)


def _page(title: str) -> tuple[QWidget, QVBoxLayout]:
    page = QWidget()
    page.setAccessibleName(title)
    box = QVBoxLayout(page)
    box.setContentsMargins(46, 60, 46, 24)
    box.setSpacing(12)
    box.addWidget(_BigLamp())
    label = words_label(title, family=theme.SANS, scale=1.7)
    label.setFont(theme.voice(theme.SANS, scale=1.7, weight=theme.BOLD))
    box.addWidget(label)
    return page, box


def _words(text: str) -> QWidget:
    return words_label(text, family=theme.SANS, scale=1.1)


def _button(text: str, slot: Callable[[], None], *, is_first: bool = False) -> QPushButton:
    button = QPushButton(text)
    button.setObjectName("first" if is_first else "other")
    button.clicked.connect(lambda: slot())
    return button


def _finish(page: QWidget, box: QVBoxLayout, row: QHBoxLayout | None) -> QWidget:
    if row is not None:
        box.addSpacing(6)
        box.addLayout(row)
    box.addStretch(1)
    box.addWidget(words_label(_HINTS, family=theme.SANS, scale=0.9, name="quiet"))
    return page
