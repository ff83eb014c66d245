# SPDX-License-Identifier: GPL-3.0-or-later
"""Asks how the key of a collection is to be held, with what each way is worth."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.opening import NewKey
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.safety.keys import Holding
from redlantern.translation import tr

HOLDING_NAMES = {
    Holding.PASSPHRASE: tr("A passphrase"),
    Holding.LOGIN: tr("The secret store of this login"),
    Holding.FILE: tr("A key file of this login"),
}
HOLDING_WORDS = {
    Holding.PASSPHRASE: tr(
        "Only who knows it opens the collection, on any machine. It is kept nowhere and cannot be found "
        "again if it is lost. Several words that you would not write down elsewhere are best."
    ),
    Holding.LOGIN: tr(
        "Opens by itself while you are logged in here and your desktop's password store is unlocked; nowhere "
        "else, unless you give it a passphrase first."
    ),
    Holding.FILE: tr(
        "Opens by itself for whoever uses this login. Protects copies of the collection file only, not the "
        "machine itself. Meant for trying things out and for work without a person."
    ),
}
_SCRATCH_NAME = tr("Nothing: only for now")
_SCRATCH_WORDS = tr(
    "A scratch collection, for a few files and one sitting. It is encrypted as well, but its key is kept "
    "nowhere: when it is closed it is erased, with every question asked of it. It is not locked while "
    "you are away. Your documents stay where they are."
)
_LEAST_CHARS = 10


class KeyChoice(QWidget):
    """The ways to hold a key, one of them chosen and explained; a passphrase has to be typed twice.

    `changed` comes with what is still wrong, empty when nothing is said about it.
    """

    changed = pyqtSignal()

    def __init__(
        self, ways: Sequence[Holding], *, has_secret_store: bool, present: Holding | None = None, scratch: bool = False
    ) -> None:
        """With `scratch`, one more way is offered: no key at all, for a collection that goes when it is closed."""
        super().__init__()
        self._group = QButtonGroup(self)
        self.buttons: dict[Holding, QRadioButton] = {}
        self.scratch_button = QRadioButton(_SCRATCH_NAME)
        self.first, self.second = QLineEdit(), QLineEdit()
        self._words: dict[QRadioButton, QLabel] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(5)
        self._fields_widget = self._fields()
        for holding in ways:
            again = tr("   (as it is now, but a new key)") if holding is present else ""
            button = self.buttons[holding] = QRadioButton(HOLDING_NAMES[holding] + again)
            self._add_way(box, button, HOLDING_WORDS[holding])
            if holding is Holding.PASSPHRASE:
                box.addWidget(self._fields_widget)
        if scratch:
            self._add_way(box, self.scratch_button, _SCRATCH_WORDS)
        if Holding.LOGIN in self.buttons:
            self.allow_secret_store(has_secret_store)
        self._group.buttonToggled.connect(lambda *_: self._show_state())
        for field in (self.first, self.second):
            field.textChanged.connect(lambda _: self._show_state())
        self.buttons[Holding.PASSPHRASE].setChecked(True)
        self._show_state()

    @property
    def is_scratch(self) -> bool:
        """Whether the collection is to go when it is closed."""
        return self.scratch_button.isChecked()

    @property
    def chosen(self) -> NewKey:
        """What was chosen, of ways that keep a key."""
        holding = next(radio for radio, button in self.buttons.items() if button.isChecked())
        return NewKey(holding, self.first.text() if holding is Holding.PASSPHRASE else "")

    @property
    def problem(self) -> str:
        """What is wrong with what was typed so far."""
        if not self.buttons[Holding.PASSPHRASE].isChecked():
            return ""
        if self.first.text() and len(self.first.text()) < _LEAST_CHARS:
            return tr("Take {least_chars} characters or more.").format(least_chars=_LEAST_CHARS)
        return tr("The two differ.") if self.second.text() and self.first.text() != self.second.text() else ""

    @property
    def is_ready(self) -> bool:
        """Whether it can be gone on with."""
        return not self.buttons[Holding.PASSPHRASE].isChecked() or (
            len(self.first.text()) >= _LEAST_CHARS and self.first.text() == self.second.text()
        )

    def allow_secret_store(self, has_secret_store: bool) -> None:
        """Whether the login has a secret store that answers."""
        button = self.buttons[Holding.LOGIN]
        button.setEnabled(has_secret_store)
        name = HOLDING_NAMES[Holding.LOGIN]
        button.setText(name if has_secret_store else tr("{name} (none answers in this login)").format(name=name))

    def forget(self) -> None:
        """The words typed must not live on in a hidden widget."""
        self.first.clear()
        self.second.clear()

    def _add_way(self, box: QVBoxLayout, button: QRadioButton, said: str) -> None:
        button.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self._group.addButton(button)
        words = self._words[button] = words_label(said, family=theme.SANS, scale=0.95, name="quiet")
        words.setIndent(26)
        button.setAccessibleDescription(said)
        box.addWidget(button)
        box.addWidget(words)

    def _fields(self) -> QWidget:
        widget = QWidget()
        grid = QGridLayout(widget)
        grid.setContentsMargins(26, 2, 0, 2)
        grid.setHorizontalSpacing(10)
        for row, (field, name) in enumerate(((self.first, tr("&Passphrase")), (self.second, tr("The &same again")))):
            field.setEchoMode(QLineEdit.EchoMode.Password)
            field.setObjectName("question")
            label = QLabel(name)
            label.setBuddy(field)
            field.setAccessibleName(name.replace("&", ""))
            grid.addWidget(label, row, 0)
            grid.addWidget(field, row, 1)
        return widget

    def _show_state(self) -> None:
        is_passphrase = self.buttons[Holding.PASSPHRASE].isChecked()
        for field in (self.first, self.second):
            field.setEnabled(is_passphrase)
        for button, words in self._words.items():
            words.setVisible(button.isChecked())
        self.changed.emit()


class KeyDialog(QDialog):
    """Asks for one of the ways."""

    def __init__(
        self,
        title: str,
        agree: str,
        *,
        has_secret_store: bool,
        present: Holding | None,
        ways: Sequence[Holding],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(620)
        self.choice = KeyChoice(ways, has_secret_store=has_secret_store, present=present)
        self._problem, self.agree_button = QLabel(""), QPushButton(agree)
        box = QVBoxLayout(self)
        box.setContentsMargins(26, 22, 26, 20)
        box.setSpacing(8)
        box.addWidget(heading_label(title))
        several = (
            tr(" Its key can be held in one of three ways.")
            if len(ways) > 1
            else tr(" It takes the same passphrase or another.")
        )
        box.addWidget(
            words_label(
                tr("The file is encrypted as a whole.{several}").format(several=several),
                family=theme.SANS,
                name="quiet",
            )
        )
        box.addWidget(self.choice)
        box.addSpacing(6)
        box.addLayout(agree_row(self, self._problem, self.agree_button))
        self.choice.changed.connect(self._show_state)
        self.choice.first.setFocus()
        self._show_state()

    @property
    def buttons(self) -> dict[Holding, QRadioButton]:
        """The button of each way."""
        return self.choice.buttons

    def _show_state(self) -> None:
        self._problem.setText(self.choice.problem)
        self.agree_button.setEnabled(self.choice.is_ready)


def heading_label(title: str) -> QLabel:
    """What stands over a dialog."""
    heading = words_label(title, family=theme.SANS, scale=1.35)
    heading.setFont(theme.voice(theme.SANS, scale=1.35, weight=theme.BOLD))
    return heading


def agree_row(dialog: QDialog, problem: QLabel, agree_button: QPushButton) -> QHBoxLayout:
    """What is still wrong, and the two ways out of a dialog."""
    problem.setObjectName("problem")
    problem.setWordWrap(True)
    cancel_button = QPushButton(tr("Cancel"))
    agree_button.setObjectName("first")
    agree_button.setDefault(True)
    row = QHBoxLayout()
    row.addWidget(problem, 1)
    for button in (cancel_button, agree_button):
        row.addWidget(button)
    agree_button.clicked.connect(dialog.accept)
    cancel_button.clicked.connect(dialog.reject)
    return row


def ask_for_key(
    parent: QWidget,
    title: str,
    agree: str,
    *,
    has_secret_store: bool,
    present: Holding | None = None,
    ways: Sequence[Holding] = tuple(Holding),
) -> NewKey | None:
    """Ask which of these ways it is to be; None when it was called off."""
    dialog = KeyDialog(title, agree, has_secret_store=has_secret_store, present=present, ways=ways, parent=parent)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
    try:
        return dialog.choice.chosen if dialog.exec() == QDialog.DialogCode.Accepted else None
    finally:
        dialog.choice.forget()
        dialog.deleteLater()
