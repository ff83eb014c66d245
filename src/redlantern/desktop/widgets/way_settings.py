# SPDX-License-Identifier: GPL-3.0-or-later
"""A way of answering with other settings: a choice of ways, and the dialog that changes what finds."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.ways import TRIED_SETTINGS, Way, changed_way
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import foot
from redlantern.desktop.widgets.labels import name_choice, quiet_button, words_label
from redlantern.settings import Method, declared_settings
from redlantern.translation import tr, trn

NO_WAY = tr("no further column")


@dataclass(frozen=True)
class Chosen:
    """What of a way is to differ."""

    settings: dict[str, Any] = field(default_factory=dict)
    has_thread: bool = True
    pattern: str = ""


class SettingsDialog(QDialog):
    """The settings that can be tried with another value, and what is asked of which documents; what is ticked differs from now."""

    def __init__(self, method: Method, chosen: "Chosen", parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Other settings for this way"))
        self.boxes: dict[str, tuple[QCheckBox, QDoubleSpinBox]] = {}
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        for row, declared in enumerate(each for each in declared_settings() if each.name in TRIED_SETTINGS):
            self._add(grid, row, declared, method, chosen.settings)
        self.alone = QCheckBox(tr("Without the thread: a follow-up stands alone"))
        self.alone.setChecked(not chosen.has_thread)
        theme.outline(self.alone)
        self.pattern = QLineEdit(chosen.pattern)
        self.pattern.setObjectName("question")
        self.pattern.setPlaceholderText(tr("of all in scope, or only such as letters/* or CON"))
        self.pattern.setAccessibleName(tr("Only documents whose path, name or call-mark fits"))
        explained = words_label(
            tr(
    "Tick what is to differ in this way alone; what is not ticked is as everywhere. Nothing of your "
    "collection changes."
),
            family=theme.SANS, name="quiet",
        )  # fmt: skip
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.setSpacing(12)
        layout.addWidget(explained)
        layout.addLayout(grid)
        layout.addWidget(self.alone)
        only = QHBoxLayout()
        only.addWidget(words_label(tr("Only documents"), family=theme.SANS))
        only.addWidget(self.pattern, 1)
        layout.addLayout(only)
        layout.addLayout(foot(self, QPushButton(tr("Use these"))))
        self.setMinimumWidth(560)

    def chosen(self) -> "Chosen":
        """What differs."""
        return Chosen(self._settings(), not self.alone.isChecked(), self.pattern.text().strip())

    def _settings(self) -> dict[str, Any]:
        whole = {each.name for each in declared_settings() if isinstance(each.default, int)}
        return {
            name: int(spin.value()) if name in whole else round(spin.value(), 3)
            for name, (box, spin) in self.boxes.items()
            if box.isChecked()
        }

    def _add(self, grid: QGridLayout, row: int, declared: Any, method: Method, settings: dict[str, Any]) -> None:
        data = declared.metadata
        box, spin = QCheckBox(data["words"]), QDoubleSpinBox()
        is_whole = isinstance(declared.default, int)
        spin.setDecimals(0 if is_whole else 2)
        spin.setSingleStep(1 if is_whole else 0.1)
        spin.setRange(data["minimum"], data["maximum"])
        spin.setValue(settings.get(declared.name, getattr(method, declared.name)))
        spin.setSuffix(f" {data['unit']}" if data["unit"] else "")
        spin.setAccessibleName(data["words"])
        spin.setMinimumWidth(150)
        box.setChecked(declared.name in settings)
        spin.setEnabled(box.isChecked())
        box.toggled.connect(spin.setEnabled)
        theme.outline(box)
        grid.addWidget(box, row, 0)
        grid.addWidget(spin, row, 1)
        self.boxes[declared.name] = (box, spin)


class WayChoice(QWidget):
    """A column's way: one of those there are, with other settings if wanted."""

    changed = pyqtSignal()

    def __init__(self, name: str, *, may_be_none: bool) -> None:
        super().__init__()
        self._ways: list[Way] = []
        self._method = Method()
        self._differs = Chosen()
        self._may_be_none = may_be_none
        self.combo = QComboBox()
        name_choice(self.combo, name)
        self.settings_button = quiet_button(tr("Settings ..."), tr("Let some settings of this way differ"))
        self.settings_button.setAccessibleName(tr("Settings of: {name}").format(name=name))
        self.settings_button.clicked.connect(self._on_settings)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.combo, 1)
        layout.addWidget(self.settings_button)
        self.combo.currentIndexChanged.connect(self._on_combo)

    @property
    def way(self) -> Way | None:
        """The chosen way with its settings; None for no column."""
        at = self.combo.currentIndex() - int(self._may_be_none)
        if not 0 <= at < len(self._ways):
            return None
        differs = self._differs
        return changed_way(self._ways[at], differs.settings, has_thread=differs.has_thread, pattern=differs.pattern)

    def show_ways(self, ways: Sequence[Way], method: Method, chosen: int) -> None:
        """Offer these ways; `chosen` is the number of the one to begin with, -1 for none. What was chosen before stays."""
        before, is_first = self.combo.currentText(), not self._ways
        self._ways, self._method = list(ways), method
        self.combo.blockSignals(True)
        self.combo.clear()
        self.combo.addItems([*([NO_WAY] if self._may_be_none else []), *(way.arrangement.name for way in ways)])
        at = self.combo.findText(before) if not is_first else min(chosen, len(ways) - 1) + int(self._may_be_none)
        self.combo.setCurrentIndex(max(0, at))
        self.combo.blockSignals(False)
        self._show_settings()

    def set_differing(self, differs: "Chosen") -> None:
        """Let these differ."""
        self._differs = differs
        self._show_settings()
        self.changed.emit()

    def _on_combo(self) -> None:
        self._differs = Chosen()
        self._show_settings()
        self.changed.emit()

    def _on_settings(self) -> None:
        dialog = SettingsDialog(self._method, self._differs, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.set_differing(dialog.chosen())

    def _show_settings(self) -> None:
        n = len(self._differs.settings) + (not self._differs.has_thread) + bool(self._differs.pattern)
        self.settings_button.setText(
            trn("Settings: {n} differs", "Settings: {n} differ", n) if n else tr("Settings ...")
        )
        self.settings_button.setEnabled(self.way is not None)
