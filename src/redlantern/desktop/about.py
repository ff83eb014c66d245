# SPDX-License-Identifier: GPL-3.0-or-later
"""What this program is, under which licence, and what it is made with."""

from importlib import resources

from PyQt6.QtWidgets import QDialog, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from redlantern import __version__
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.translation import tr

_WORDS = tr(
    "Red Lantern {version}. Reads a private collection of documents on this machine and answers "
    "questions with cited passages; nothing leaves the machine. Free software under the GNU General "
    "Public License, version 3 or later, without any warranty."
)


def third_party() -> str:
    """What it is made with, as docs/third-party.md has it."""
    return (resources.files("redlantern.desktop") / "third-party.md").read_text(encoding="utf-8")


class AboutDialog(QDialog):
    """The dialog."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("About Red Lantern"))
        self.resize(860, 560)
        self.text = QPlainTextEdit(third_party())
        self.text.setReadOnly(True)
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName(tr("What it is made with, with licences and origin"))
        close = QPushButton(tr("Close"))
        close.setDefault(True)
        close.clicked.connect(self.accept)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.addWidget(words_label(_WORDS.format(version=__version__), family=theme.SANS))
        layout.addWidget(self.text, 1)
        layout.addWidget(close)
