# SPDX-License-Identifier: GPL-3.0-or-later
"""Asks how the key of a collection is to be held, with what each way is worth."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
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
from redlantern.desktop.widgets.rows import words_label
from redlantern.safety.keys import Holding

HOLDING_NAMES = {
    Holding.PASSPHRASE: "A passphrase",
    Holding.LOGIN: "The secret store of this login",
    Holding.FILE: "A key file of this login",
}
HOLDING_WORDS = {
    Holding.PASSPHRASE: "Only who knows it opens the collection, on any machine. It is kept nowhere and cannot be found "
    "again if it is lost. Several words that you would not write down elsewhere are best.",
    Holding.LOGIN: "Opens by itself while you are logged in here and your desktop's password store is unlocked; "
    "nowhere else, unless you give it a passphrase first.",
    Holding.FILE: "Opens by itself for whoever uses this login. Protects copies of the collection file only, not the "
    "machine itself. Meant for trying things out and for work without a person.",
}
_LEAST_CHARS = 10


class KeyDialog(QDialog):
    """Three ways, one of them chosen; a passphrase has to be typed twice."""

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
        self._group = QButtonGroup(self)
        self.buttons: dict[Holding, QRadioButton] = {}
        self.first, self.second, self._problem = QLineEdit(), QLineEdit(), QLabel("")
        self.agree_button = QPushButton(agree)
        box = QVBoxLayout(self)
        box.setContentsMargins(26, 22, 26, 20)
        box.setSpacing(8)
        heading = words_label(title, family=theme.SANS, scale=1.35)
        heading.setFont(theme.voice(theme.SANS, scale=1.35, weight=theme.BOLD))
        box.addWidget(heading)
        box.addWidget(
            words_label(
                "The file is encrypted as a whole."
                + (" Its key can be held in one of three ways." if len(ways) > 1 else " It takes the same passphrase or another."),
                family=theme.SANS, name="quiet",
            )
        )  # fmt: skip
        for holding in ways:
            self._add_way(box, holding, present)
            if holding is Holding.PASSPHRASE:
                box.addLayout(self._fields())
        if Holding.LOGIN in self.buttons and not has_secret_store:
            self.buttons[Holding.LOGIN].setEnabled(False)
            self.buttons[Holding.LOGIN].setText(f"{HOLDING_NAMES[Holding.LOGIN]} (none answers in this login)")
        box.addSpacing(6)
        box.addLayout(self._end_row())
        self._group.buttonToggled.connect(lambda *_: self._show_state())
        for field in (self.first, self.second):
            field.textChanged.connect(lambda _: self._show_state())
        self.buttons[Holding.PASSPHRASE].setChecked(True)
        self.first.setFocus()
        self._show_state()

    @property
    def chosen(self) -> NewKey:
        """What was chosen."""
        holding = next(radio for radio, button in self.buttons.items() if button.isChecked())
        return NewKey(holding, self.first.text() if holding is Holding.PASSPHRASE else "")

    def _end_row(self) -> QHBoxLayout:
        """What is still wrong, and the two ways out."""
        self._problem.setObjectName("problem")
        self._problem.setWordWrap(True)
        cancel_button = QPushButton("Cancel")
        self.agree_button.setObjectName("first")
        self.agree_button.setDefault(True)
        row = QHBoxLayout()
        row.addWidget(self._problem, 1)
        for button in (cancel_button, self.agree_button):
            row.addWidget(button)
        self.agree_button.clicked.connect(self.accept)
        cancel_button.clicked.connect(self.reject)
        return row

    def _add_way(self, box: QVBoxLayout, holding: Holding, present: Holding | None) -> None:
        button = QRadioButton(
            HOLDING_NAMES[holding] + ("   (as it is now, but a new key)" if holding is present else "")
        )
        button.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self._group.addButton(button)
        self.buttons[holding] = button
        words = words_label(HOLDING_WORDS[holding], family=theme.SANS, scale=0.95, name="quiet")
        words.setIndent(26)
        box.addSpacing(4)
        box.addWidget(button)
        box.addWidget(words)

    def _fields(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setContentsMargins(26, 2, 0, 2)
        grid.setHorizontalSpacing(10)
        for row, (field, name) in enumerate(((self.first, "&Passphrase"), (self.second, "The &same again"))):
            field.setEchoMode(QLineEdit.EchoMode.Password)
            field.setObjectName("question")
            label = QLabel(name)
            label.setBuddy(field)
            field.setAccessibleName(name.replace("&", ""))
            grid.addWidget(label, row, 0)
            grid.addWidget(field, row, 1)
        return grid

    def _show_state(self) -> None:
        is_passphrase = self.buttons[Holding.PASSPHRASE].isChecked()
        for field in (self.first, self.second):
            field.setEnabled(is_passphrase)
        problem = ""
        if is_passphrase and self.first.text() and len(self.first.text()) < _LEAST_CHARS:
            problem = f"Take {_LEAST_CHARS} characters or more."
        elif is_passphrase and self.second.text() and self.first.text() != self.second.text():
            problem = "The two differ."
        is_ready = not is_passphrase or (
            len(self.first.text()) >= _LEAST_CHARS and self.first.text() == self.second.text()
        )
        self._problem.setText(problem)
        self.agree_button.setEnabled(is_ready)


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
        return dialog.chosen if dialog.exec() == QDialog.DialogCode.Accepted else None
    finally:
        # The words typed must not live on in a hidden widget.
        dialog.first.clear()
        dialog.second.clear()
        dialog.deleteLater()
