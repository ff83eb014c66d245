# SPDX-License-Identifier: GPL-3.0-or-later
"""What a language model was given for an answer, word for word; to be read and copied."""

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from redlantern.answering.sheet import Sheet
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.text.listing import counted
from redlantern.translation import tr

_PURPOSES = {
    "search": tr("TO SEARCH ONCE MORE"),
    "judge": tr("TO SEE WHETHER THE PASSAGES ANSWER"),
    "write": tr("TO WRITE"),
}


def given_text(sheet: Sheet) -> str:
    """All prompts of a sheet with what came of them, as plain text."""
    parts = []
    for number, prompt in enumerate(sheet.given, start=1):
        parts += [
            f"{number}. {_PURPOSES[prompt.purpose]}", "", tr("The instruction:"), prompt.system, "", tr("The rest:"), prompt.user, "",
            tr("What came:"), prompt.came or tr("(nothing)"), "",
        ]  # fmt: skip
    return "\n".join(parts)


class GivenDialog(QDialog):
    """The dialog."""

    def __init__(self, sheet: Sheet, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("What the model was given"))
        self.resize(820, 600)
        said = tr("{reader} was asked {time}").format(
            reader=sheet.models.get("language", tr("The language model")), time=counted(len(sheet.given), "time")
        )
        if sheet.n_prompt_tokens:
            said += tr("; it read {n_prompt_tokens:,} tokens and wrote {n_written_tokens:,}").format(
                n_prompt_tokens=sheet.n_prompt_tokens, n_written_tokens=sheet.n_written_tokens
            )
        left_out = f" {sheet.left_out}" if sheet.left_out else ""
        head = words_label(
            tr("{said}. Nothing else was sent to it.{left_out}").format(said=said, left_out=left_out),
            family=theme.SANS,
            name="quiet",
        )
        self.text = QPlainTextEdit(given_text(sheet))
        self.text.setReadOnly(True)
        self.text.setFont(theme.voice(theme.SANS))
        self.text.setAccessibleName(tr("What the model was given, word for word"))
        copy = QPushButton(tr("Copy all"))
        copy.clicked.connect(self._copy)
        close = QPushButton(tr("Close"))
        close.setDefault(True)
        close.clicked.connect(self.accept)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(copy)
        buttons.addWidget(close)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.addWidget(head)
        layout.addWidget(self.text, 1)
        layout.addLayout(buttons)

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.text.toPlainText())
