# SPDX-License-Identifier: GPL-3.0-or-later
"""Parts of a sheet that stand on no words of a document: its title, how it was searched for, notices, the question why not."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer, pyqtBoundSignal, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from redlantern.answering.sheet import Sheet
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import quiet_button, words_label
from redlantern.translation import tr, trn

_LAID_OUT_MS = 40


def turner(text: str, name: str, signal: pyqtBoundSignal) -> QPushButton:
    """A button that goes to another sheet."""
    button = QPushButton(text)
    button.setObjectName("quiet")
    button.setFont(theme.voice(theme.SANS, scale=1.3))
    button.setAccessibleName(name)
    button.setToolTip(name)
    button.clicked.connect(signal)
    return button


def new_body(question: str) -> tuple[QWidget, QVBoxLayout]:
    """An empty sheet under its question, and the layout that its parts are added to."""
    body = QWidget()
    box = QVBoxLayout(body)
    box.setContentsMargins(22, 4, 18, 24)
    box.setSpacing(7)
    title = words_label(question, family=theme.SANS, scale=1.35)
    title.setFont(theme.voice(theme.SANS, scale=1.35, weight=theme.BOLD))
    box.addWidget(title)
    return body, box


def search_words(
    sheet: Sheet,
    *,
    edit: Callable[[str], object],
    without_thread: Callable[[str], object],
    as_typed: Callable[[str], object],
) -> QHBoxLayout | None:
    """What was searched for in place of what was typed, with the ways to ask otherwise; None where that is the same."""
    differs = sheet.standalone_question != sheet.question
    changes = (
        [tr("searched as: {standalone_question}").format(standalone_question=sheet.standalone_question)]
        if differs
        else []
    )
    changes += [
        tr("“{typed}” searched as “{form}”").format(typed=typed, form=form) for typed, form in sheet.mended.items()
    ]
    if not changes:
        return None
    row = QHBoxLayout()
    row.addWidget(words_label("; ".join(changes), family=theme.SANS, scale=0.95, name="quiet"), 1)
    if differs and sheet.draft is None:
        alone = quiet_button(
            tr("without the thread"), tr("Ask again as it was typed, with nothing from earlier questions")
        )
        alone.clicked.connect(lambda: without_thread(sheet.question))
        row.addWidget(alone, 0, Qt.AlignmentFlag.AlignTop)
    if sheet.mended:
        typed_button = quiet_button(tr("search as typed"), tr("Ask again with the words as they were typed"))
        typed_button.clicked.connect(lambda: as_typed(sheet.standalone_question))
        row.addWidget(typed_button, 0, Qt.AlignmentFlag.AlignTop)
    edit_button = QPushButton(tr("edit"))
    edit_button.setObjectName("quiet")
    edit_button.setToolTip(
        tr("Put the words that were searched for into the question bar, to change them and ask again")
    )
    edit_button.setAccessibleName(tr("Edit the question as it was searched for"))
    edit_button.clicked.connect(lambda: edit(sheet.standalone_question))
    row.addWidget(edit_button, 0, Qt.AlignmentFlag.AlignTop)
    return row


def put_aside_row(n_put_aside: int, bring_back: pyqtBoundSignal) -> QHBoxLayout:
    """How many passages were put aside in this thread, and the way back."""
    row = QHBoxLayout()
    words = trn("{n} passage put aside in this thread", "{n} passages put aside in this thread", n_put_aside)
    row.addWidget(words_label(words, family=theme.SANS, scale=0.92, name="quiet"), 1)
    back = quiet_button(tr("Bring back"), tr("Find the passages again that were put aside in this thread"))
    back.clicked.connect(bring_back)
    row.addWidget(back)
    return row


class WhyNot(QWidget):
    """The question why the page at the right was not found, and room for its answer."""

    wanted = pyqtSignal()

    def __init__(self, scroll: QScrollArea) -> None:
        super().__init__()
        self._scroll = scroll
        inner = QVBoxLayout(self)
        inner.setContentsMargins(0, 6, 0, 0)
        button = quiet_button(
            tr("Why is the page at the right not among them?"),
            tr("Open any page from the shelf, then ask where it stands for this question and what held it back"),
        )
        button.clicked.connect(self.wanted)
        inner.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        self.words = words_label("", family=theme.SANS, scale=0.95)
        self.words.setContentsMargins(12, 0, 0, 0)
        self.words.hide()
        inner.addWidget(self.words)

    def show_words(self, words: str) -> None:
        """Say what held the page back."""
        self.words.setText(words)
        self.words.setVisible(bool(words))
        # Once the layout has made room for the words, which wrap.
        QTimer.singleShot(_LAID_OUT_MS, self._reveal)

    def _reveal(self) -> None:
        self._scroll.ensureWidgetVisible(self.words, 0, 30)
