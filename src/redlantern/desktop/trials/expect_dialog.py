# SPDX-License-Identifier: GPL-3.0-or-later
"""What is expected of a question, changed from its answers."""

from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QDialog, QLineEdit, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.trials.words import MANY, page_from, page_words, parts_of
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import foot
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.translation import tr
from redlantern.trials.values import TrialQuestion


class ExpectDialog(QDialog):
    """The dialog; `question` gives the question as it was changed."""

    def __init__(self, question: TrialQuestion, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("What is expected"))
        self._question = question
        self.expected = QLineEdit(f"{MANY} ".join(question.expected))
        self.pages = QLineEdit(f"{MANY} ".join(map(page_words, question.right)))
        self.absent = QCheckBox(tr("The documents do not answer this"))
        self.absent.setChecked(question.is_absent)
        theme.outline(self.absent)
        self.said = words_label("", family=theme.SANS, name="problem")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.setSpacing(7)
        layout.addWidget(words_label(question.question, family=theme.SANS, scale=1.1))
        layout.addWidget(self.absent)
        for title, field, hint in (
            (tr("THE ANSWER SAYS"), self.expected, tr("words that must be in it; several are parted by ;")),
            (tr("RIGHT PAGE"), self.pages, tr("path:number; several are parted by ;")),
        ):
            field.setObjectName("question")
            field.setPlaceholderText(hint)
            label = section_label(title)
            label.setBuddy(field)
            field.setAccessibleName(title.capitalize())
            layout.addWidget(label)
            layout.addWidget(field)
        layout.addLayout(foot(self, QPushButton(tr("Mark anew")), said=self.said, act=self._on_done))
        self.setMinimumWidth(640)

    def question(self) -> TrialQuestion:
        """The question as it is expected now.

        Raises
        ------
        ValueError
            If a page is not given as a path and a number.
        """
        right = tuple(page_from(words, self._question.right) for words in parts_of(self.pages.text()))
        expected = tuple(parts_of(self.expected.text()))
        return replace(self._question, expected=expected, right=right, is_absent=self.absent.isChecked())

    def _on_done(self) -> None:
        try:
            self.question()
        except ValueError:
            self.said.setText(tr("A page is given as its path, a colon and its number, such as letters/key.txt:1."))
            return
        self.accept()
