# SPDX-License-Identifier: GPL-3.0-or-later
"""The top of the window: the collection's menu, the question, its scope, and the button that asks or stops."""

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QWidget

from redlantern.desktop.widgets import drawing, theme
from redlantern.translation import tr

QUESTION_HINT = tr("Ask this collection ...")
_MOST_NAME_CHARS = 26
_PAUSE_MS = 700
_FEWEST_WORDS = 3


class QuestionBar(QWidget):
    """`asked` brings what is to be asked, and whether it stands alone: put there to be edited, it needs no thread."""

    asked = pyqtSignal(str, bool)
    stop_wanted = pyqtSignal()
    step_wanted = pyqtSignal(int)
    emptied = pyqtSignal()
    paused = pyqtSignal(str)
    """Somebody stopped typing for a moment: what stands there may be the whole question."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.question, self.ask_button = QLineEdit(), QPushButton(tr("Ask"))
        self.scope_button, self.collection_button = QPushButton(""), QPushButton(tr("No collection"))
        self._is_asking = False
        self._stands_alone = ""
        self._dress()
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_PAUSE_MS)
        self._pause.timeout.connect(self._on_paused)
        self.question.returnPressed.connect(self.ask)
        self.question.textEdited.connect(self._on_edited)
        self.ask_button.clicked.connect(self._on_ask_clicked)
        down = QShortcut(QKeySequence("Down"), self.question, lambda: self.step_wanted.emit(1))
        down.setContext(Qt.ShortcutContext.WidgetShortcut)

    def ask(self) -> None:
        """Ask what stands in the bar."""
        self._pause.stop()
        text = self.question.text().strip()
        if not text:
            self.emptied.emit()
            return
        stands_alone, self._stands_alone = bool(self._stands_alone), ""
        self.asked.emit(text, stands_alone)

    def put(self, text: str) -> None:
        """Put words into the bar that stand alone: they are asked as they are, without the thread."""
        self.question.setText(text)
        self._stands_alone = text
        self.question.setFocus()

    def forget(self) -> None:
        """Empty the bar."""
        self.question.clear()
        self._stands_alone = ""

    def focus(self) -> None:
        """Go to the question, all of it selected."""
        self.question.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.question.selectAll()

    def show_asking(self, is_asking: bool) -> None:
        """While a question is worked on, the button stops it."""
        self._is_asking = is_asking
        self.ask_button.setText(tr("Stop") if is_asking else tr("Ask"))

    def show_waiting(self, words: str) -> None:
        """Say why questions wait, or with no words that they do not."""
        self.question.setPlaceholderText(
            tr("{words} Questions wait until that is done.").format(words=words) if words else QUESTION_HINT
        )

    def show_collection(self, name: str, *, may_ask: bool) -> None:
        """Name what is open, and let questions be asked or not."""
        is_long = len(name) > _MOST_NAME_CHARS
        self.collection_button.setText(name[: _MOST_NAME_CHARS - 1] + "…" if is_long else name)
        for widget in (self.question, self.ask_button):
            widget.setEnabled(may_ask)

    def show_scope(self, n_readable: int, scope: frozenset[int] | None) -> None:
        """Say how many documents a question draws on."""
        words = (
            tr("All {n_readable}").format(n_readable=n_readable)
            if scope is None
            else tr("{n_scope} of {n_readable}").format(n_scope=len(scope), n_readable=n_readable)
        )
        self.scope_button.setText(words if n_readable else "")

    def _on_edited(self, text: str) -> None:
        self._pause.start()
        if not text:
            self._stands_alone = ""

    def _on_paused(self) -> None:
        text = self.question.text().strip()
        if len(text.split()) >= _FEWEST_WORDS and not self._is_asking:
            self.paused.emit(text)

    def _on_ask_clicked(self) -> None:
        if self._is_asking:
            self.stop_wanted.emit()
        else:
            self.ask()

    def _dress(self) -> None:
        self.collection_button.setObjectName("collection")
        self.collection_button.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self.collection_button.setAccessibleName(tr("Collection and menu"))
        self.question.setObjectName("question")
        self.question.setFont(theme.voice(theme.SANS, scale=1.15))
        self.question.setPlaceholderText(QUESTION_HINT)
        self.question.setAccessibleName(tr("Question"))
        self.ask_button.setObjectName("ask")
        self.scope_button.setObjectName("quiet")
        self.scope_button.setToolTip(
            tr("The documents that a question draws on; also ticked and unticked on the shelf")
        )
        self.scope_button.setAccessibleName(tr("Scope of the question"))
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 9, 14, 9)
        row.setSpacing(10)
        row.addWidget(drawing.Lamp())
        row.addWidget(self.collection_button)
        row.addWidget(self.question, 1)
        row.addWidget(self.scope_button)
        row.addWidget(self.ask_button)
