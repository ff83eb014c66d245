# SPDX-License-Identifier: GPL-3.0-or-later
"""How the language model writes: its settings, built from their declarations, refused where they cannot be."""

from collections.abc import Callable
from dataclasses import Field, replace
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPlainTextEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from redlantern.answering.writing.reading import FIXED
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.errors import RedlanternError
from redlantern.settings import INSTRUCTION, WRITING, Method, declared_settings
from redlantern.translation import tr

_STEPS = {"context_tokens": 512, "prompt_tokens": 50, "answer_tokens": 20}


class WritingSettings(QFrame):
    """The settings of one collection's writing. `wanted` carries a method that they can be used as."""

    wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._method = Method()
        self.controls: dict[str, QWidget] = {}
        self._read: dict[str, Callable[[], Any]] = {}
        self._write: dict[str, Callable[[Any], None]] = {}
        self.instruction = QPlainTextEdit()
        self.instruction.setObjectName("question")
        self.instruction.setTabChangesFocus(True)
        self.instruction.setFixedHeight(theme.px(64))
        self.instruction.setAccessibleName(tr("Wording of the instruction"))
        self.instruction.textChanged.connect(self._on_changed)
        self.problem = words_label("", family=theme.SANS, name="problem")
        self.use_button = QPushButton(tr("Use these settings"))
        self.reset_button = QPushButton(tr("Back to the defaults"))
        self.use_button.clicked.connect(self._on_use)
        self.reset_button.clicked.connect(lambda: self._fill(Method()))
        self._build()
        self.show_method(Method(), may_change=False)

    def show_method(self, method: Method, *, may_change: bool) -> None:
        """Show the settings that are used, to be changed or not."""
        self._method, self._may_change = method, may_change
        for control in (*self.controls.values(), self.instruction):
            control.setEnabled(may_change)
        self._fill(method)

    def chosen(self) -> Method:
        """The method that the controls make.

        Raises
        ------
        SettingOutOfRangeError, NoRoomInContextError
        """
        values = {name: read() for name, read in self._read.items()}
        return replace(self._method, instruction=self.instruction.toPlainText().strip(), **values)

    def _fill(self, method: Method) -> None:
        for name, write in self._write.items():
            write(getattr(method, name))
        self.instruction.setPlainText(method.instruction)
        self._on_changed()

    def _on_changed(self) -> None:
        """Say at once what cannot be."""
        try:
            chosen, said = self.chosen(), ""
        except RedlanternError as failure:
            chosen, said = None, str(failure)
        self.problem.setText(said)
        self.problem.setVisible(bool(said))
        self.use_button.setEnabled(self._may_change and chosen is not None and chosen != self._method)
        is_standard = chosen is not None and chosen.writing_as_text() == Method().writing_as_text()
        self.reset_button.setEnabled(self._may_change and not is_standard)

    def _on_use(self) -> None:
        self.wanted.emit(self.chosen())

    def _build(self) -> None:
        self._may_change = False
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        box.addWidget(section_label(tr("HOW IT WRITES, IN THIS COLLECTION")))
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(2, 1)
        declared = {setting.name: setting for setting in declared_settings()}
        for row, name in enumerate(setting for setting in WRITING if setting in declared):
            self._add(grid, row, declared[name])
        box.addLayout(grid)
        box.addSpacing(4)
        box.addWidget(section_label(tr("THE INSTRUCTION")))
        fixed = words_label(
            tr("Always there, for a model that reads: “{fixed}”").format(fixed=FIXED), family=theme.SANS, name="quiet"
        )
        box.addWidget(fixed)
        box.addWidget(self.instruction)
        standard = words_label(
            tr("Default: “{instruction}”").format(instruction=INSTRUCTION), family=theme.SANS, scale=0.9, name="quiet"
        )
        box.addWidget(standard)
        box.addWidget(self.problem)
        buttons = QHBoxLayout()
        buttons.addWidget(self.use_button)
        buttons.addWidget(self.reset_button)
        buttons.addStretch(1)
        box.addLayout(buttons)

    def _add(self, grid: QGridLayout, row: int, declared: Field[Any]) -> None:
        """One setting: its name, its control, and what it means with its limits and default."""
        name, about = declared.name, declared.metadata
        control = self._control(declared)
        control.setAccessibleName(about["words"])
        theme.outline(control)
        self.controls[name] = control
        if isinstance(control, QCheckBox):
            grid.addWidget(control, row, 0, 1, 2)
            limits = tr("Default: {default}.").format(default=tr("yes") if declared.default else tr("no"))
        else:
            label = QLabel(about["words"])
            label.setBuddy(control)
            grid.addWidget(label, row, 0)
            grid.addWidget(control, row, 1)
            limits = tr("{about:,} to {about2:,}; default {default:,}.").format(
                about=about["minimum"], about2=about["maximum"], default=declared.default
            )
        meaning = words_label(f"{about['meaning']} {limits}", family=theme.SANS, scale=0.9, name="quiet")
        grid.addWidget(meaning, row, 2, Qt.AlignmentFlag.AlignVCenter)

    def _control(self, declared: Field[Any]) -> QWidget:
        name, about = declared.name, declared.metadata
        if isinstance(declared.default, bool):
            tick = QCheckBox(about["words"])
            tick.toggled.connect(self._on_changed)
            self._read[name], self._write[name] = tick.isChecked, tick.setChecked
            return tick
        box = QDoubleSpinBox() if isinstance(declared.default, float) else QSpinBox()
        if isinstance(box, QDoubleSpinBox):
            box.setSingleStep(0.1)
            box.setRange(about["minimum"], about["maximum"])
        else:
            box.setSingleStep(_STEPS.get(name, 1))
            box.setRange(int(about["minimum"]), int(about["maximum"]))
        box.setSuffix(f" {about['unit']}" if about["unit"] else "")
        box.setButtonSymbols(QSpinBox.ButtonSymbols.PlusMinus)
        box.setMinimumWidth(150)
        box.valueChanged.connect(self._on_changed)
        self._read[name], self._write[name] = box.value, box.setValue
        return box
