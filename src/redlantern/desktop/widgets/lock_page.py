# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window shows while a collection is locked: nothing of it, and the way back in."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.desktop.widgets.welcome import BigLamp
from redlantern.translation import tr


class LockPage(QWidget):
    """Asks for the passphrase, or only for a yes where the login holds the key."""

    unlock_wanted = pyqtSignal(str)
    other_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._title, self._why = QLabel(), words_label("", family=theme.SANS, scale=1.1, name="quiet")
        self._title.setFont(theme.voice(theme.SANS, scale=1.7, weight=theme.BOLD))
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        self.passphrase, self.unlock_button = QLineEdit(), QPushButton(tr("Unlock"))
        self.other_button = QPushButton(tr("Open another collection ..."))
        self.problem = words_label("", family=theme.SANS, name="problem")
        self.passphrase.setEchoMode(QLineEdit.EchoMode.Password)
        self.passphrase.setObjectName("question")
        self.passphrase.setPlaceholderText(tr("Passphrase"))
        self.passphrase.setAccessibleName(tr("Passphrase of the collection"))
        self.passphrase.returnPressed.connect(self._on_unlock)
        self.unlock_button.setObjectName("first")
        self.unlock_button.clicked.connect(self._on_unlock)
        self.other_button.setObjectName("other")
        self.other_button.clicked.connect(self.other_wanted)
        middle = QWidget()
        middle.setFixedWidth(theme.px(560))
        box = QVBoxLayout(middle)
        box.setSpacing(12)
        box.addWidget(BigLamp(dimmed=True))
        box.addWidget(self._title)
        box.addWidget(self._why)
        row = QHBoxLayout()
        row.addWidget(self.passphrase, 1)
        row.addWidget(self.unlock_button)
        row.addStretch(0)
        box.addSpacing(4)
        box.addLayout(row)
        box.addWidget(self.problem)
        below = QHBoxLayout()
        below.addWidget(self.other_button)
        below.addStretch(1)
        box.addSpacing(10)
        box.addLayout(below)
        outer = QVBoxLayout(self)
        outer.addStretch(2)
        outer.addWidget(middle, 0, Qt.AlignmentFlag.AlignHCenter)
        outer.addStretch(3)

    def show_locked(self, title: str, why: str, *, asks: bool) -> None:
        """Show why it is locked; `asks` for a passphrase or not."""
        self._title.setText(title)
        self._why.setText(why)
        self.passphrase.setVisible(asks)
        self.problem.setText("")
        self.set_busy(False)

    def show_problem(self, reason: str) -> None:
        """Say why it was not unlocked."""
        self.set_busy(False)
        self.problem.setText(reason)
        self.passphrase.selectAll()
        self.passphrase.setFocus()

    def set_busy(self, is_busy: bool) -> None:
        """Whether the key is being made from the passphrase, which takes its time on purpose."""
        self.unlock_button.setText(tr("Unlocking ...") if is_busy else tr("Unlock"))
        self.unlock_button.setEnabled(not is_busy)
        self.passphrase.setEnabled(not is_busy)
        if not is_busy:
            (self.passphrase if self.passphrase.isVisibleTo(self) else self.unlock_button).setFocus()

    def _on_unlock(self) -> None:
        words = self.passphrase.text()
        if self.passphrase.isVisibleTo(self) and not words:
            self.problem.setText(tr("Type the passphrase first."))
            return
        self.problem.setText("")
        self.set_busy(True)
        self.unlock_wanted.emit(words)

    def forget(self) -> None:
        """Empty the field."""
        self.passphrase.clear()
