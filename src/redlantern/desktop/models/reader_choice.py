"""The choice between the packaged language models, each with what it is good for and how long an answer takes here."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QLabel, QRadioButton, QVBoxLayout, QWidget

from redlantern.application.models import ReaderChoice
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.rows import section_label, words_label
from redlantern.models.card import in_mib

READER_NAMES = {"close": "Close reader", "light": "Light reader"}
_GOOD_FOR = {
    "close": "Tells best whether the documents answer at all.",
    "light": "Answers sooner and on small machines; whether the documents answer is then told by the found lines alone.",
}
_HOW_TO_GET = "Not on this machine yet: run ./run setup again, with the network on, to fetch it."


class ReaderPicker(QWidget):
    """One row a reader; choosing one is announced by `wanted` with its word."""

    wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[str, QRadioButton] = {}
        self._group = QButtonGroup(self)
        self._group.idClicked.connect(lambda _: self.wanted.emit(self._chosen()))
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 4, 0, 2)
        self._box.setSpacing(3)
        self._box.addWidget(section_label("WHICH ONE ANSWERS"))
        self._box.addSpacing(4)
        self._said: dict[str, QLabel] = {}

    def show_choices(self, choices: Sequence[ReaderChoice], chosen: str) -> None:
        """Show the readers, and which one answers; none of them where the user's own model does."""
        for choice in choices:
            if choice.word not in self.buttons:
                self._add(choice.word)
            button, said = self.buttons[choice.word], self._said[choice.word]
            button.setEnabled(choice.is_there)
            said.setText(_words(choice))
            self._group.setExclusive(False)
            button.setChecked(choice.word == chosen)
            self._group.setExclusive(True)

    def allow(self, is_allowed: bool, choices: Sequence[ReaderChoice]) -> None:
        """Offer the choice only while it can be made."""
        for choice in choices:
            if choice.word in self.buttons:
                self.buttons[choice.word].setEnabled(is_allowed and choice.is_there)

    def _add(self, word: str) -> None:
        button = QRadioButton(READER_NAMES[word])
        button.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
        said = words_label("", family=theme.SANS, scale=0.92, name="quiet")
        said.setContentsMargins(26, 0, 0, 4)
        self.buttons[word], self._said[word] = button, said
        self._group.addButton(button)
        self._box.addWidget(button)
        self._box.addWidget(said)

    def _chosen(self) -> str:
        return next(word for word, button in self.buttons.items() if button.isChecked())


def _words(choice: ReaderChoice) -> str:
    if not choice.is_there:
        return f"{_GOOD_FOR[choice.word]} {_HOW_TO_GET}"
    takes = f" A usual answer takes about {choice.answer_s:.0f} s here." if choice.answer_s else ""
    return f"{_GOOD_FOR[choice.word]}{takes} Needs about {in_mib(choice.memory_bytes)} of free memory."
