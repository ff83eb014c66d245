# SPDX-License-Identifier: GPL-3.0-or-later
"""What the middle column shows when there is no sheet: the first steps, work under way, and what went wrong."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.drawing import paint_lamp
from redlantern.desktop.widgets.labels import clear, notice, quiet_button, section_label, words_label
from redlantern.safety.names import visible
from redlantern.translation import tr, trn

_HINTS = tr("Enter asks    Esc stops    Ctrl+L question    ↑ ↓ walk through the lines    Alt+← → sheets")


_WAYS_OF_ASKING = (
    tr(
        "Words in “quotation marks” are looked up. “Summarise the survey” or “What is this document about?” "
        "gives a summary, “Draft a letter to the Trust about the deposit” a draft; every sentence from a "
        "document keeps its page."
    ),
    tr("On the shelf, each small bar under a document is a page; it lights up when the question finds it."),
)


class BigLamp(QWidget):
    """Our mark, large; dimmed while a collection is locked."""

    def __init__(self, *, dimmed: bool = False) -> None:
        super().__init__()
        self._opacity = 0.45 if dimmed else 1.0
        self.setFixedSize(92, 92)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the lamp."""
        painter = QPainter(self)
        painter.setOpacity(self._opacity)
        paint_lamp(painter, QRectF(self.rect()))


def without_documents(on_add: Callable[[], None]) -> QWidget:
    """The collection is empty."""
    page, box = _page(tr("Add the first documents"))
    box.addWidget(
        _words(
            tr(
                "Choose a folder. PDF, scans, Office files, mail, web pages and tables in it and below it are read; "
                "whatever cannot be read is listed with the reason. Nothing leaves this machine."
            )
        )
    )
    row = QHBoxLayout()
    row.addWidget(_button(tr("Add a folder ..."), on_add, is_first=True))
    row.addStretch(1)
    return _finish(page, box, row)


def empty_shelf(on_files: Callable[[], None], on_folder: Callable[[], None], on_look: Callable[[], None]) -> QWidget:
    """The shelf room of an empty collection."""
    page, box = _page(tr("The shelf is empty"))
    box.addWidget(
        _words(
            tr(
                "Drop files or folders here, or choose them. Look first shows how files would be read and split "
                "before anything is kept. The files themselves stay where they are."
            )
        )
    )
    row = QHBoxLayout()
    row.addWidget(_button(tr("Add a folder ..."), on_folder, is_first=True))
    row.addWidget(_button(tr("Add files ..."), on_files))
    row.addWidget(_button(tr("Look first ..."), on_look))
    row.addStretch(1)
    return _finish(page, box, row)


def shelf_without_collection() -> QWidget:
    """The shelf room while nothing is open."""
    page, box = _page(tr("No collection is open"))
    box.addWidget(_words(tr("Open a collection, or make one from a folder, with the menu at the top left.")))
    return _finish(page, box, QHBoxLayout())


class Ready(QWidget):
    """Documents are there, or come in just now; nothing was asked yet. `asked` brings an example that was clicked."""

    asked = pyqtSignal(str)

    def __init__(self, n_documents: int, *, is_reading: bool) -> None:
        super().__init__()
        box = _fill(self, tr("Reading the documents") if is_reading else tr("Ask a question"))
        self._words = words_label("", family=theme.SANS, scale=1.1)
        box.addWidget(self._words)
        self._is_reading = is_reading
        self.show_count(n_documents)
        self._title, self._examples = section_label(tr("FOR EXAMPLE")), QVBoxLayout()
        self._examples.setSpacing(2)
        box.addSpacing(6)
        box.addWidget(self._title)
        box.addLayout(self._examples)
        self._title.hide()
        box.addSpacing(6)
        for words in _WAYS_OF_ASKING:
            box.addWidget(words_label(words, family=theme.SANS, name="quiet"))
        _finish(self, box, None)

    def show_count(self, n_documents: int) -> None:
        """So many documents can be asked about now."""
        counted = trn("One document is ready.", "{n} documents are ready.", n_documents)
        if self._is_reading:
            ready = f" {counted}" if n_documents else ""
            self._words.setText(
                tr("Each document can be asked about as soon as it stands on the shelf.{ready}").format(ready=ready)
            )
        else:
            self._words.setText(
                tr(
                    "{counted} Type a question above. The lines that answer it best appear at once, word for word, each "
                    "with its page; a written answer follows, and every sentence of it is checked against the line it "
                    "cites."
                ).format(counted=counted)
            )

    def show_examples(self, questions: Sequence[str]) -> None:
        """Offer these questions."""
        clear(self._examples)
        for question in questions:
            button = quiet_button(visible(question), tr("Ask this"))
            button.clicked.connect(lambda _, question=question: self.asked.emit(question))
            row = QHBoxLayout()
            row.addWidget(button)
            row.addStretch(1)
            self._examples.addLayout(row)
        self._title.setVisible(bool(questions))


def problem(title: str, reason: str) -> QWidget:
    """Something did not work."""
    page, box = _page(title)
    box.addWidget(notice(reason))
    return _finish(page, box, None)


def _page(title: str) -> tuple[QWidget, QVBoxLayout]:
    page = QWidget()
    return page, _fill(page, title)


def _fill(page: QWidget, title: str) -> QVBoxLayout:
    page.setAccessibleName(title)
    box = QVBoxLayout(page)
    box.setContentsMargins(46, 60, 46, 24)
    box.setSpacing(12)
    box.addWidget(BigLamp())
    label = words_label(title, family=theme.SANS, scale=1.7)
    label.setFont(theme.voice(theme.SANS, scale=1.7, weight=theme.BOLD))
    box.addWidget(label)
    return box


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
