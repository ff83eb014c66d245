# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a new collection is kept and what opens it, with what is still wrong about either."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.file_names import COLLECTION_ENDING, COLLECTIONS
from redlantern.desktop.widgets.key_dialog import KeyChoice, agree_row, heading_label
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.safety.keys import Holding
from redlantern.safety.names import path_of, path_text
from redlantern.translation import tr


class NewPlace(QWidget):
    """A place and a key. `changed` comes whenever `problem` or `is_ready` may be others."""

    changed = pyqtSignal()

    def __init__(self, name: str, *, scratch: bool = False) -> None:
        """`name` is what the collection is called unless the user says otherwise; with `scratch` it may also be kept nowhere."""
        super().__init__()
        self.field, self.button = (
            QLineEdit(path_text(Path.home() / f"{name}{COLLECTION_ENDING}")),
            QPushButton(tr("Elsewhere ...")),
        )
        self.choice = KeyChoice(tuple(Holding), has_secret_store=False, scratch=scratch)
        self.field.setObjectName("filter")
        self.field.setAccessibleName(tr("Where the collection is kept"))
        self.button.setAccessibleDescription(tr("Choose another place for the collection"))
        row = QHBoxLayout()
        row.addWidget(self.field, 1)
        row.addWidget(self.button)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        box.addWidget(section_label(tr("KEPT IN")))
        box.addLayout(row)
        box.addSpacing(8)
        box.addWidget(section_label(tr("OPENED BY")))
        box.addWidget(self.choice)
        self.field.textChanged.connect(lambda _: self.changed.emit())
        self.button.clicked.connect(self._choose)
        self.choice.changed.connect(self._on_choice)

    @property
    def path(self) -> Path:
        """Where the collection is to be."""
        typed = self.field.text().strip()
        return path_of(typed if typed.endswith(COLLECTION_ENDING) else typed + COLLECTION_ENDING).expanduser()

    @property
    def problem(self) -> str:
        """What is wrong so far."""
        if not self.choice.is_scratch and not self.field.text().strip():
            return tr("Say where to keep it.")
        if not self.choice.is_scratch and self.path.exists():
            return tr("There is a file of this name already: choose another.")
        return self.choice.problem

    @property
    def is_ready(self) -> bool:
        """Whether it can be gone on with."""
        return not self.problem and self.choice.is_ready

    def _on_choice(self) -> None:
        for widget in (self.field, self.button):
            widget.setEnabled(not self.choice.is_scratch)
        self.changed.emit()

    def _choose(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, tr("Where to keep the new collection"), self.field.text(), COLLECTIONS
        )
        if chosen:
            self.field.setText(chosen)


class KeepDialog(QDialog):
    """Asks where a scratch collection is to be kept, and what opens it then."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Keep this collection"))
        self.setMinimumWidth(660)
        self.new_place = NewPlace(tr("Kept collection"))
        self._problem, self.agree_button = QLabel(""), QPushButton(tr("Keep it"))
        box = QVBoxLayout(self)
        box.setContentsMargins(26, 22, 26, 20)
        box.setSpacing(8)
        box.addWidget(heading_label(tr("Keep this collection")))
        box.addWidget(
            words_label(tr("Everything in it is written to one encrypted file, and the scratch collection is erased."),
                        family=theme.SANS, name="quiet")
        )  # fmt: skip
        box.addWidget(self.new_place)
        box.addStretch(1)
        box.addLayout(agree_row(self, self._problem, self.agree_button))
        self.new_place.changed.connect(self._show_state)
        self.new_place.choice.first.setFocus()
        self._show_state()

    def _show_state(self) -> None:
        self._problem.setText(self.new_place.problem)
        self.agree_button.setEnabled(self.new_place.is_ready)
