# SPDX-License-Identifier: GPL-3.0-or-later
"""A plan to be changed in place: what is reckoned, of which column, for which rows."""

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import name_choice, quiet_button, words_label
from redlantern.reckoning.plan import Condition, Operation, Plan, Relation
from redlantern.text.listing import counted
from redlantern.translation import tr

_OPERATIONS: tuple[tuple[Operation, str], ...] = (
    ("count", tr("count the rows")), ("distinct", tr("count the different values")), ("sum", tr("add up")),
    ("mean", tr("mean")), ("median", tr("median")), ("largest", tr("largest")), ("smallest", tr("smallest")),
    ("difference", tr("difference from first to last")), ("share", tr("share in all")), ("rows", tr("list the rows")),
    ("documents", tr("list the documents")), ("common", tr("what every document has")),
)  # fmt: skip
_RELATIONS: tuple[tuple[Relation, str], ...] = (
    ("contains", tr("has the words")), ("is", tr("is")), ("is not", tr("is not")), ("above", tr("above")),
    ("at least", tr("at least")), ("below", tr("below")), ("at most", tr("at most")), ("between", tr("from ... to")),
    ("in month", tr("is in month number")), ("in unit", tr("is in unit")), ("contains one of", tr("has one of")),
    ("is empty", tr("is empty")), ("is not empty", tr("is not empty")),
)  # fmt: skip
_BETWEEN_VALUES = ";"


class ConditionLine(QWidget):
    """One condition: column, relation, value."""

    removed = pyqtSignal(object)
    entered = pyqtSignal()

    def __init__(self, columns: Sequence[str], condition: Condition | None, number: int) -> None:
        super().__init__()
        self.column, self.relation, self.value = QComboBox(), QComboBox(), QLineEdit()
        self.column.addItems(list(columns))
        name_choice(self.column, tr("Column of condition {number}").format(number=number))
        for relation, words in _RELATIONS:
            self.relation.addItem(words, relation)
        name_choice(self.relation, tr("Relation of condition {number}").format(number=number))
        self.value.setAccessibleName(tr("Value of condition {number}").format(number=number))
        self.value.setPlaceholderText(tr("as in a cell; two with a semicolon between"))
        self.value.setObjectName("question")
        self.value.returnPressed.connect(self.entered)
        self.relation.currentIndexChanged.connect(self._on_relation)
        if condition is not None:
            self.column.setCurrentText(condition.column)
            self.relation.setCurrentIndex(self.relation.findData(condition.relation))
            self.value.setText(f"{_BETWEEN_VALUES} ".join(condition.values))
        remove = quiet_button(tr("Remove"), tr("Take this condition away"))
        remove.setAccessibleName(tr("Remove condition {number}").format(number=number))
        remove.clicked.connect(lambda: self.removed.emit(self))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        for widget, stretch in ((self.column, 3), (self.relation, 3), (self.value, 4), (remove, 0)):
            layout.addWidget(widget, stretch)
        self._on_relation()

    @property
    def condition(self) -> Condition:
        """The condition as it stands."""
        relation: Relation = self.relation.currentData()
        parts = (
            self.value.text().split(_BETWEEN_VALUES)
            if relation in ("between", "contains one of")
            else [self.value.text()]
        )
        values = tuple(part.strip() for part in parts if part.strip()) if self.value.isEnabled() else ()
        return Condition(self.column.currentText(), relation, values)

    def _on_relation(self) -> None:
        self.value.setEnabled(self.relation.currentData() not in ("is empty", "is not empty"))


class PlanEditor(QFrame):
    """The plan's parts as fields. `wanted` has the plan as it was changed."""

    wanted = pyqtSignal(object)

    def __init__(self, plan: Plan, columns: Sequence[str]) -> None:
        super().__init__()
        self._plan, self._columns = plan, [name for name in columns if name]
        self.setObjectName("notice")
        self._lines: list[ConditionLine] = []
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(14, 10, 12, 10)
        self._box.setSpacing(6)
        self.operation, self.column = QComboBox(), QComboBox()
        for operation, words in _OPERATIONS:
            self.operation.addItem(words, operation)
        self.operation.setCurrentIndex(self.operation.findData(plan.operation))
        name_choice(self.operation, tr("What is reckoned"))
        self.column.addItems(self._columns)
        self.column.setCurrentText(plan.column)
        name_choice(self.column, tr("Column that is reckoned"))
        self.operation.currentIndexChanged.connect(self._on_operation)
        self.tables = QComboBox()
        self.tables.addItem(tr("in {table}, as now").format(table=counted(len(plan.tables), "table")), False)
        self.tables.addItem(tr("in all tables in scope with these columns"), True)
        name_choice(self.tables, tr("Tables that are reckoned with"))
        self.tables.setToolTip(tr("In scope is what is ticked on the shelf"))
        top = QHBoxLayout()
        top.addWidget(self.operation, 1)
        top.addWidget(self.column, 1)
        self._box.addLayout(top)
        for condition in plan.conditions:
            self._add_line(condition)
        self._problem = words_label("", family=theme.SANS, scale=0.93, name="problem")
        self._problem.hide()
        add = quiet_button(tr("Add a condition"), tr("Count only rows that fit one more condition"))
        add.clicked.connect(lambda: self._add_line(None))
        again = QPushButton(tr("Reckon again"))
        again.setObjectName("first")
        again.setAccessibleName(tr("Reckon again"))
        again.clicked.connect(self._on_again)
        bottom = QHBoxLayout()
        # It gives way: nothing here may be wider than the sheet.
        self.tables.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.tables.setMinimumContentsLength(10)
        bottom.addWidget(add)
        bottom.addWidget(self.tables, 1)
        bottom.addWidget(again)
        self._box.addWidget(self._problem)
        self._box.addLayout(bottom)
        self._on_operation()

    @property
    def lines(self) -> list[ConditionLine]:
        """The conditions, from top to bottom."""
        return list(self._lines)

    @property
    def plan(self) -> Plan:
        """The plan as it stands; without tables where all in scope that have its columns are wanted."""
        operation: Operation = self.operation.currentData()
        is_same = operation == self._plan.operation
        return replace(
            self._plan,
            operation=operation,
            column=self.column.currentText() if self.column.isEnabled() else "",
            conditions=tuple(line.condition for line in self._lines),
            by=self._plan.by if is_same else "",
            pick=self._plan.pick if is_same else "",
            tables=() if self.tables.currentData() else self._plan.tables,
        )

    def show_problem(self, words: str) -> None:
        """Say why it could not be carried out."""
        self._problem.setText(words)
        self._problem.show()

    def _on_operation(self) -> None:
        self.column.setEnabled(self.operation.currentData() not in ("count", "rows", "documents"))

    def _add_line(self, condition: Condition | None) -> None:
        line = ConditionLine(self._columns, condition, len(self._lines) + 1)
        line.removed.connect(self._on_removed)
        line.entered.connect(self._on_again)
        self._lines.append(line)
        self._box.insertWidget(len(self._lines), line)
        if condition is None:
            line.column.setFocus()

    def _on_removed(self, line: ConditionLine) -> None:
        self._lines.remove(line)
        line.hide()
        line.deleteLater()

    def _on_again(self) -> None:
        self._problem.hide()
        self.wanted.emit(self.plan)
