"""The same question to the language model alone, under the sheet: what is only the model's, and stands on no document."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop import workbench
from redlantern.desktop.bridge import Task
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.rows import section_label, words_label

if TYPE_CHECKING:
    from redlantern.desktop.desk.room import Desk


class ModelAlonePart(QWidget):
    """The button that asks the model alone, and room for what it says, set apart from everything that is cited."""

    wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.button = QPushButton("What does the model say without the documents?")
        self.button.setObjectName("quiet")
        self.button.setToolTip("Ask the language model alone, to see what it adds that no document says")
        self.button.setAccessibleName("Ask the model without the documents")
        self.button.clicked.connect(self.wanted)
        self._frame = QFrame()
        self._frame.setObjectName("modelAlone")
        self.words = words_label("", family=theme.SANS)
        self.warning = words_label(_WARNING, family=theme.SANS, scale=0.9, name="problem")
        inner = QVBoxLayout(self._frame)
        inner.setContentsMargins(14, 10, 14, 10)
        inner.setSpacing(6)
        inner.addWidget(section_label("THE MODEL ALONE, WITHOUT DOCUMENTS"))
        inner.addWidget(self.words)
        inner.addWidget(self.warning)
        self._frame.hide()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        box.addWidget(self._frame)

    def show_words(self, words: str) -> None:
        """Show what the model has said so far, or why it says nothing."""
        self.button.hide()
        self._frame.show()
        self.words.setText(words)

    def offer_again(self) -> None:
        """Let it be asked once more."""
        self.button.show()


class ModelAlone(QObject):
    """Asks the model alone for a desk, one question at a time; Esc stops it."""

    def __init__(self, desk: "Desk") -> None:
        super().__init__(desk)
        self._desk = desk
        self._task: Task | None = None
        desk.view.model_alone_wanted.connect(self.ask)

    @property
    def is_running(self) -> bool:
        """Whether the model is being asked."""
        return self._task is not None

    def ask(self) -> None:
        """Ask the model the question of the shown sheet; what is being written is stopped first."""
        desk, sheet, part = self._desk, self._desk.view.sheet, self._desk.view.model_alone
        if desk.opened is None or sheet is None or part is None:
            return
        desk.stop()
        part.show_words("thinking; Esc stops ...")
        self._task = desk.run(
            workbench.ask_model_alone(desk.opened.engine, sheet.standalone_question),
            stepped=self._on_words, finished=self._on_ended, failed=self._on_failed,
        )  # fmt: skip

    def stop(self) -> None:
        """Stop it; what was written stays."""
        if self._task is not None:
            task, self._task = self._task, None
            task.cancel.now()
            part = self._desk.view.model_alone
            if part is not None:
                part.show_words(f"{part.words.text()} (stopped)")
                part.offer_again()

    def _on_words(self, words: str) -> None:
        part = self._desk.view.model_alone
        if self.sender() is self._task and part is not None:
            part.show_words(words)

    def _on_ended(self, words: str) -> None:
        if self.sender() is self._task:
            self._task = None

    def _on_failed(self, reason: str) -> None:
        part = self._desk.view.model_alone
        if self.sender() is self._task:
            self._task = None
            if part is not None:
                part.show_words(reason)
                part.offer_again()


_WARNING = "No document supports any of this. It is what the model learned elsewhere, and it may be wrong."
