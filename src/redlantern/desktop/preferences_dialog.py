# SPDX-License-Identifier: GPL-3.0-or-later
"""How the window looks and behaves, and the keys of every action; each change but that of the language takes effect at once."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop.preferences import DAYLIGHT, LAMPLIGHT, SYSTEM, Preferences
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import name_choice, section_label, words_label
from redlantern.translation import LANGUAGES, tr

CAME_WITH = "came with"
"""The property of an action that holds the keys it comes with."""
_THEMES = (
    (SYSTEM, tr("As the &desktop is set")),
    (LAMPLIGHT, tr("&Lamplight: dark and warm")),
    (DAYLIGHT, tr("Dayligh&t: paper and ink")),
)


class PreferencesDialog(QDialog):
    """`changed` brings what is wanted now. `actions` are those whose keys can be changed, with the group of each."""

    changed = pyqtSignal(object)

    def __init__(self, preferences: Preferences, actions: Sequence[tuple[str, QAction]], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Look and keys"))
        self.resize(760, 600)
        self.preferences, self._actions = preferences, actions
        self.themes = {name: QRadioButton(words) for name, words in _THEMES}
        self.stark = QCheckBox(tr("More &contrast"))
        self.tells = QCheckBox(tr("Let the desktop tell when long &work has ended (never with a word of a document)"))
        self.awake = QCheckBox(tr("Ask the machine not to &sleep while files are read"))
        self.filter, self.list = QLineEdit(), QTreeWidget()
        self.keys, self.put_button, self.back_button = (
            QKeySequenceEdit(),
            QPushButton(tr("Use these")),
            QPushButton(tr("As it came")),
        )
        self.language = QComboBox()
        for name, words in (("", tr("as the desktop is set")), *LANGUAGES.items()):
            self.language.addItem(words, name)
        self.language.setCurrentIndex(max(0, self.language.findData(preferences.language)))
        self._said = QLabel("")
        self._build()
        self._fill("")
        self._connect()

    def _build(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 18, 24, 16)
        box.setSpacing(7)
        box.addWidget(section_label(tr("LOOK")))
        row, group = QHBoxLayout(), QButtonGroup(self)
        row.setSpacing(22)
        for name, button in self.themes.items():
            button.setChecked(name == self.preferences.theme)
            group.addButton(button)
            row.addWidget(button)
        row.addWidget(self.stark)
        row.addStretch(1)
        box.addLayout(row)
        box.addLayout(self._language_row())
        box.addWidget(
            words_label(tr("The size of text follows the desktop's."), family=theme.SANS, scale=0.92, name="quiet")
        )
        box.addSpacing(4)
        box.addWidget(section_label(tr("LONG WORK")))
        for check, is_on in (
            (self.tells, self.preferences.tells), (self.awake, self.preferences.stays_awake), (self.stark, self.preferences.is_stark),
        ):  # fmt: skip
            check.setChecked(is_on)
            theme.outline(check)
        box.addWidget(self.tells)
        box.addWidget(self.awake)
        box.addSpacing(4)
        box.addWidget(section_label(tr("KEYS")))
        self.filter.setObjectName("filter")
        self.filter.setPlaceholderText(tr("Show only actions with these words or keys ..."))
        self.filter.setAccessibleName(tr("Words or keys of an action"))
        box.addWidget(self.filter)
        self._dress_list()
        box.addWidget(self.list, 1)
        box.addLayout(self._keys_row())
        self._said.setObjectName("problem")
        self._said.setWordWrap(True)
        close = QPushButton(tr("Close"))
        close.setDefault(True)
        close.clicked.connect(self.accept)
        end = QHBoxLayout()
        end.addWidget(self._said, 1)
        end.addWidget(close)
        box.addLayout(end)

    def _dress_list(self) -> None:
        self.list.setHeaderLabels([tr("Action"), tr("Keys"), tr("Part of the menu")])
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName(tr("Actions with their keys"))
        header = self.list.header()
        if header is not None:
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            header.setStretchLastSection(False)
            for column, width in ((1, 150), (2, 170)):
                header.resizeSection(column, theme.px(width))

    def _language_row(self) -> QHBoxLayout:
        label = QLabel(tr("Lan&guage"))
        label.setBuddy(self.language)
        name_choice(self.language, tr("Language"))
        row = QHBoxLayout()
        row.addWidget(label)
        row.addWidget(self.language)
        row.addWidget(words_label(tr("holds from the next start on"), family=theme.SANS, scale=0.92, name="quiet"), 1)
        return row

    def _keys_row(self) -> QHBoxLayout:
        self.keys.setAccessibleName(tr("New keys of the chosen action"))
        self.keys.setMaximumSequenceLength(1)
        field = self.keys.findChild(QLineEdit)
        if field is not None:
            field.setObjectName("filter")
        row = QHBoxLayout()
        label = QLabel(tr("&New keys"))
        label.setBuddy(self.keys)
        row.addWidget(label)
        row.addWidget(self.keys, 1)
        row.addWidget(self.put_button)
        row.addWidget(self.back_button)
        return row

    def _connect(self) -> None:
        for button in self.themes.values():
            button.toggled.connect(lambda is_on: self._on_look() if is_on else None)
        for check in (self.stark, self.tells, self.awake):
            check.toggled.connect(lambda _: self._on_look())
        self.language.currentIndexChanged.connect(lambda _: self._on_look())
        self.filter.textChanged.connect(self._fill)
        self.list.currentItemChanged.connect(lambda *_: self._on_chosen())
        self.put_button.clicked.connect(lambda: self._give(self.keys.keySequence().toString()))
        self.back_button.clicked.connect(self._give_back)
        self._on_chosen()

    @property
    def chosen(self) -> QAction | None:
        """The action whose keys are to be changed."""
        item = self.list.currentItem()
        return item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None

    def choose(self, name: str) -> None:
        """Choose an action by its words."""
        for at in range(self.list.topLevelItemCount()):
            item = self.list.topLevelItem(at)
            if item is not None and item.text(0) == name:
                self.list.setCurrentItem(item)

    def _fill(self, text: str) -> None:
        wanted, chosen = text.casefold().split(), self.chosen
        self.list.clear()
        for group, action in self._actions:
            keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            if all(word in f"{action.text()} {keys} {group}".casefold() for word in wanted):
                item = QTreeWidgetItem([action.text().removesuffix(" ..."), keys, group])
                item.setData(0, Qt.ItemDataRole.UserRole, action)
                if not keys:
                    item.setData(1, Qt.ItemDataRole.AccessibleTextRole, tr("no keys"))
                self.list.addTopLevelItem(item)
                if action is chosen:
                    self.list.setCurrentItem(item)

    def _on_chosen(self) -> None:
        action = self.chosen
        for widget in (self.keys, self.put_button, self.back_button):
            widget.setEnabled(action is not None)
        self.keys.setKeySequence(action.shortcut() if action is not None else QKeySequence())

    def _on_look(self) -> None:
        theme_name = next(name for name, button in self.themes.items() if button.isChecked())
        self._change(
            theme=theme_name, is_stark=self.stark.isChecked(), tells=self.tells.isChecked(), stays_awake=self.awake.isChecked(),
            language=self.language.currentData(),
        )  # fmt: skip

    def _give(self, keys: str) -> None:
        action = self.chosen
        if action is None:
            return
        other = next(
            (each for _, each in self._actions if keys and each is not action and each.shortcut().toString() == keys),
            None,
        )
        if other is not None:
            self._said.setText(
                tr("{keys} is “{name}”. Give that one other keys first.").format(
                    keys=keys, name=other.text().removesuffix(" ...")
                )
            )
            return
        action.setShortcut(QKeySequence(keys))
        self._change(keys={**self.preferences.keys, action.objectName(): keys})
        self._said.setText(
            "" if keys else tr("“{name}” has no keys now.").format(name=action.text().removesuffix(" ..."))
        )
        self._fill(self.filter.text())

    def _give_back(self) -> None:
        action = self.chosen
        if action is not None:
            came_with = action.property(CAME_WITH)
            self._give(came_with)
            if action.shortcut().toString() == came_with:
                self._change(
                    keys={name: keys for name, keys in self.preferences.keys.items() if name != action.objectName()}
                )

    def _change(self, **changes: object) -> None:
        self.preferences = self.preferences.kept(**changes)
        self.changed.emit(self.preferences)
