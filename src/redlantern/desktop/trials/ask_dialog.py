# SPDX-License-Identifier: GPL-3.0-or-later
"""In which ways a set is to be asked, or of which documents a grid is to be made; and what that takes."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QGridLayout,
    QLabel,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.ways import Way
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import foot
from redlantern.desktop.widgets.labels import name_choice, section_label, words_label
from redlantern.desktop.widgets.way_settings import WayChoice
from redlantern.settings import Method
from redlantern.text.listing import counted, seconds_words
from redlantern.translation import tr
from redlantern.trials.values import Arrangement

_MOST_WAYS = 4


class AskDialog(QDialog):
    """The ways of a run: ticked ones, and one of them with other settings."""

    def __init__(self, name: str, n_questions: int, ways: Sequence[Way], method: Method, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Ask “{name}”").format(name=name))
        self._n, self._ways = n_questions, list(ways)
        self.boxes: list[QCheckBox] = []
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setColumnStretch(1, 1)
        for row, way in enumerate(self._ways):
            box = QCheckBox(way.arrangement.name)
            box.setAccessibleDescription(way.explained)
            box.setChecked(row < 2)
            box.toggled.connect(self._show)
            theme.outline(box)
            self.boxes.append(box)
            grid.addWidget(box, row, 0)
            grid.addWidget(words_label(way.explained, family=theme.SANS, name="quiet"), row, 1)
            grid.addWidget(_right(seconds_words(way.seconds * n_questions)), row, 2)
        self.other = QCheckBox(tr("And one more, with other settings"))
        theme.outline(self.other)
        self.other.toggled.connect(self._show)
        self.choice = WayChoice(tr("The way with other settings"), may_be_none=False)
        self.choice.show_ways(self._ways, method, 0)
        self.choice.changed.connect(self._show)
        grid.addWidget(self.other, len(self._ways), 0)
        grid.addWidget(self.choice, len(self._ways), 1)
        self.said = words_label("", family=theme.SANS, name="quiet")
        self.begin_button = QPushButton(tr("Ask them"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 16, 22, 14)
        layout.setSpacing(12)
        layout.addWidget(
            section_label(
                tr("{question}, ASKED IN EACH TICKED WAY").format(question=counted(n_questions, "question").upper())
            )
        )
        layout.addLayout(grid)
        layout.addLayout(foot(self, self.begin_button, said=self.said))
        self.setMinimumWidth(760)
        self._show()

    def arrangements(self) -> list[Arrangement]:
        """What was chosen."""
        return [way.arrangement for way in self._chosen()]

    def _chosen(self) -> list[Way]:
        chosen = [way for way, box in zip(self._ways, self.boxes, strict=True) if box.isChecked()]
        if self.other.isChecked() and (changed := self.choice.way) is not None:
            chosen.append(changed)
        return chosen

    def _show(self) -> None:
        self.choice.setEnabled(self.other.isChecked())
        chosen = self._chosen()
        names = [way.arrangement.name for way in chosen]
        is_good = 0 < len(chosen) <= _MOST_WAYS and len(set(names)) == len(names)
        self.begin_button.setEnabled(is_good)
        seconds = sum(way.seconds for way in chosen) * self._n
        if not chosen:
            self.said.setText(tr("Tick at least one way. With two they can be compared."))
        elif len(set(names)) < len(names):
            self.said.setText(tr("The last way is the same as another one: change one of its settings."))
        elif len(chosen) > _MOST_WAYS:
            self.said.setText(
                tr("At most {most_ways} ways can be read beside one another.").format(most_ways=_MOST_WAYS)
            )
        else:
            self.said.setText(
                tr(
                    "Takes {seconds_words} in all. Questions on the desk go first; it can be stopped and gone on with."
                ).format(seconds_words=seconds_words(seconds))
            )


class GridDialog(QDialog):
    """The way and the rows of a grid."""

    def __init__(self, name: str, n_questions: int, n_documents: int, ways: Sequence[Way], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Grid of “{name}”").format(name=name))
        self._n, self._n_documents = n_questions, n_documents
        self._ways = [way for way in ways if way.arrangement.reader != "memory"]
        self.combo = QComboBox()
        self.combo.addItems([way.arrangement.name for way in self._ways])
        self.combo.setCurrentIndex(min(1, len(self._ways) - 1))
        name_choice(self.combo, tr("Way of answering"))
        self.combo.currentIndexChanged.connect(self._show)
        self.each = QRadioButton(
            tr("To each of the {document} in scope alone: a row for each").format(
                document=counted(n_documents, "document")
            )
        )
        self.whole = QRadioButton(tr("To all of them together: one row"))
        self.each.setChecked(True)
        for button in (self.each, self.whole):
            button.toggled.connect(self._show)
        self.explained = words_label("", family=theme.SANS, name="quiet")
        self.said = words_label("", family=theme.SANS, name="quiet")
        self.begin_button = QPushButton(tr("Make the grid"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 16, 22, 14)
        layout.setSpacing(9)
        layout.addWidget(section_label(tr("{question} PUT").format(question=counted(n_questions, "question").upper())))
        layout.addWidget(self.each)
        layout.addWidget(self.whole)
        layout.addSpacing(6)
        layout.addWidget(section_label(tr("ANSWERED BY")))
        layout.addWidget(self.combo)
        layout.addWidget(self.explained)
        layout.addSpacing(4)
        layout.addLayout(foot(self, self.begin_button, said=self.said))
        self.setMinimumWidth(600)
        self._show()

    @property
    def way(self) -> Way:
        """The chosen way."""
        return self._ways[max(0, self.combo.currentIndex())]

    def _show(self) -> None:
        self.explained.setText(self.way.explained)
        n_rows = self._n_documents if self.each.isChecked() else 1
        seconds = seconds_words(self.way.seconds * self._n * n_rows)
        self.said.setText(
            tr("{n:,} answers, {seconds} in all. It can be stopped and gone on with.").format(
                n=self._n * n_rows, seconds=seconds
            )
        )
        self.begin_button.setEnabled(n_rows > 0)


def _right(words: str) -> QLabel:
    label = words_label(words, family=theme.SANS, name="quiet")
    label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    label.setMinimumWidth(110)
    return label
