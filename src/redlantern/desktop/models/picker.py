# SPDX-License-Identifier: GPL-3.0-or-later
"""The choice between packaged models, each with what it is good for and what it takes here."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QLabel, QRadioButton, QVBoxLayout, QWidget

from redlantern.application.models import ReaderChoice
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.models.card import in_mib
from redlantern.translation import tr

READER_NAMES = {"close": tr("Close reader"), "light": tr("Light reader")}
_READERS_GOOD_FOR = {
    "close": tr("Tells best whether the documents answer at all."),
    "light": tr(
        "Answers sooner and on small machines; whether the documents answer is then told by the found lines alone."
    ),
}
_HOW_TO_GET = tr("Not on this machine yet: run ./run setup again, with the network on, to fetch it.")


@dataclass(frozen=True)
class Choice:
    """One model that can be chosen, by its word; `name` and `said` are for people."""

    word: str
    name: str
    said: str
    is_there: bool = True


EMBEDDING_CHOICES = (
    Choice(
        "both",
        tr("Both together"),
        tr("Finds best, in English and in other languages; indexing takes about twice as long."),
    ),
    Choice(
        "languages",
        tr("Many languages"),
        tr("About a hundred; a question in one language finds pages in another."),
    ),
    Choice(
        "english",
        tr("English"),
        tr("Indexes fastest and takes the least room; other languages are found by their words."),
    ),
)


class ModelPicker(QWidget):
    """One row a model; choosing one is announced by `wanted` with its word."""

    wanted = pyqtSignal(str)

    def __init__(self, title: str) -> None:
        super().__init__()
        self.buttons: dict[str, QRadioButton] = {}
        self.chosen = ""
        self._group = QButtonGroup(self)
        self._group.idClicked.connect(lambda _: self.wanted.emit(self._clicked()))
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 4, 0, 2)
        self._box.setSpacing(3)
        self._box.addWidget(section_label(title))
        self._box.addSpacing(4)
        self._said: dict[str, QLabel] = {}
        self._there: set[str] = set()

    def show_choices(self, choices: Sequence[Choice], chosen: str) -> None:
        """Show the models, and which one is used; none of them where the user's own model is."""
        self._there = {choice.word for choice in choices if choice.is_there}
        for choice in choices:
            if choice.word not in self.buttons:
                self._add(choice)
            self.buttons[choice.word].setEnabled(choice.is_there)
            self._said[choice.word].setText(choice.said)
        self.show_chosen(chosen)

    def show_chosen(self, chosen: str) -> None:
        """Show which one is used, whatever was clicked."""
        self.chosen = chosen
        self._group.setExclusive(False)
        for word, button in self.buttons.items():
            button.setChecked(word == chosen)
        self._group.setExclusive(True)

    def allow(self, is_allowed: bool) -> None:
        """Offer the choice only while it can be made."""
        for word, button in self.buttons.items():
            button.setEnabled(is_allowed and word in self._there)

    def _add(self, choice: Choice) -> None:
        button = QRadioButton(choice.name)
        button.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
        said = words_label("", family=theme.SANS, scale=0.92, name="quiet")
        said.setContentsMargins(26, 0, 0, 4)
        self.buttons[choice.word], self._said[choice.word] = button, said
        self._group.addButton(button)
        self._box.addWidget(button)
        self._box.addWidget(said)

    def _clicked(self) -> str:
        return next(word for word, button in self.buttons.items() if button.isChecked())


def described_readers(readers: Sequence[ReaderChoice]) -> list[Choice]:
    """The packaged language models in words."""
    return [Choice(reader.word, READER_NAMES[reader.word], _words(reader), reader.is_there) for reader in readers]


def _words(reader: ReaderChoice) -> str:
    if not reader.is_there:
        return f"{_READERS_GOOD_FOR[reader.word]} {_HOW_TO_GET}"
    takes = (
        tr(" A usual answer takes about {answer_s:.0f} s here.").format(answer_s=reader.answer_s)
        if reader.answer_s
        else ""
    )
    return tr("{readers_good_for}{takes} Needs about {in_mib} of free memory.").format(
        readers_good_for=_READERS_GOOD_FOR[reader.word], takes=takes, in_mib=in_mib(reader.memory_bytes)
    )
