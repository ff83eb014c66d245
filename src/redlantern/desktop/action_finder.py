# SPDX-License-Identifier: GPL-3.0-or-later
"""Finds an action by words of its name, and does it."""

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QAction, QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.translation import tr

_SIZE = (560, 420)


class ActionFinder(QDialog):
    """Every action with its keys; typing leaves those that have all the words, Enter does the chosen one."""

    def __init__(self, actions: Sequence[QAction], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Find an action"))
        self.resize(*_SIZE)
        self._actions = list(actions)
        self.words = QLineEdit()
        self.words.setObjectName("question")
        self.words.setPlaceholderText(tr("Words of what you want to do ..."))
        self.words.setAccessibleName(tr("Words of an action"))
        self.words.textChanged.connect(self._fill)
        self.words.returnPressed.connect(self._do)
        self.words.installEventFilter(self)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Actions with these words"))
        self.list.itemActivated.connect(lambda _: self._do())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 14, 16, 12)
        layout.addWidget(self.words)
        layout.addWidget(self.list, 1)
        layout.addWidget(
            words_label(
                tr("Enter does it. The keys at the right do it from anywhere."), family=theme.SANS, name="quiet"
            )
        )
        self._fill("")

    @property
    def chosen(self) -> QAction | None:
        """The action that Enter would do."""
        item = self.list.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item is not None else None

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Up and Down walk through the list while words are typed."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + step) % self.list.count())
                return True
        return super().eventFilter(watched, event)

    def _fill(self, text: str) -> None:
        wanted = text.casefold().split()
        self.list.clear()
        for action in self._actions:
            if all(word in action.text().casefold() for word in wanted):
                keys = action.shortcut().toString()
                item = QListWidgetItem(f"{action.text().removesuffix(' ...')}    {keys}")
                item.setData(Qt.ItemDataRole.UserRole, action)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _do(self) -> None:
        if self.chosen is not None:
            self.accept()


def find_action(window: QWidget, actions: Sequence[QAction]) -> None:
    """Let a person find an action, and do it once the dialog has gone."""
    finder = ActionFinder(actions, window)
    if finder.exec() == QDialog.DialogCode.Accepted and finder.chosen is not None:
        finder.chosen.trigger()
