# SPDX-License-Identifier: GPL-3.0-or-later
"""Room under the sheet for what the language model says of a question by itself, set apart from everything that is cited."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.translation import tr

_WARNING = tr("No document supports any of this. It is what the model learned elsewhere, and it may be wrong.")


class ModelAlonePart(QWidget):
    """The button that asks the model alone, and room for what it says, set apart from everything that is cited."""

    wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.button = QPushButton(tr("What does the model say without the documents?"))
        self.button.setObjectName("quiet")
        self.button.setToolTip(tr("Ask the language model alone, to see what it adds that no document says"))
        self.button.setAccessibleName(tr("Ask the model without the documents"))
        self.button.clicked.connect(self.wanted)
        self._frame = QFrame()
        self._frame.setObjectName("modelAlone")
        self.words = words_label("", family=theme.SANS)
        self.warning = words_label(_WARNING, family=theme.SANS, scale=0.9, name="problem")
        inner = QVBoxLayout(self._frame)
        inner.setContentsMargins(14, 10, 14, 10)
        inner.setSpacing(6)
        inner.addWidget(section_label(tr("THE MODEL ALONE, WITHOUT DOCUMENTS")))
        inner.addWidget(self.words)
        inner.addWidget(self.warning)
        self._frame.hide()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        box.addWidget(self._frame)

    def show_words(self, words: str) -> None:
        """Show what the model has said so far, or why it says nothing."""
        self.button.hide()
        self._frame.show()
        self.words.setText(words)

    def offer_again(self) -> None:
        """Let it be asked once more."""
        self.button.show()
