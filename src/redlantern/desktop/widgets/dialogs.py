# SPDX-License-Identifier: GPL-3.0-or-later
"""What dialogs of several rooms share: being sure, a few words typed, the two buttons at the foot, a page in the middle."""

from collections.abc import Callable

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QInputDialog, QLabel, QMessageBox, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets.labels import column_area
from redlantern.translation import tr

LEAVE, DELETE = tr("Leave it"), tr("Delete it")


def is_sure(parent: QWidget, title: str, question: str, explained: str, yes: str = DELETE) -> bool:
    """Whether a person wants what cannot be taken back, or takes long; leaving it is what Enter does."""
    box = QMessageBox(parent)
    box.setWindowTitle(title)
    box.setText(question)
    box.setInformativeText(explained)
    role = QMessageBox.ButtonRole.DestructiveRole if yes == DELETE else QMessageBox.ButtonRole.AcceptRole
    agree = box.addButton(yes, role)
    box.setDefaultButton(box.addButton(LEAVE, QMessageBox.ButtonRole.RejectRole))
    box.exec()
    return box.clickedButton() is agree


def asked_words(parent: QWidget, title: str, before: str, *, is_long: bool) -> str:
    """Words that a person types; empty where they leave it."""
    if is_long:
        words, is_said = QInputDialog.getMultiLineText(parent, title, "", before)
    else:
        words, is_said = QInputDialog.getText(parent, title, "", text=before)
    return words.strip() if is_said else ""


def foot(
    dialog: QDialog, agree: QPushButton, *, said: QLabel | None = None, act: Callable[[], object] | None = None
) -> QHBoxLayout:
    """What is said at the foot of a dialog, the button that leaves it, and the one that agrees; `act` in place of accepting."""
    agree.setObjectName("first")
    agree.setDefault(True)
    agree.clicked.connect(act or dialog.accept)
    leave = QPushButton(LEAVE)
    leave.clicked.connect(dialog.reject)
    row = QHBoxLayout()
    if said is not None:
        row.addWidget(said, 1)
    else:
        row.addStretch(1)
    row.addWidget(leave)
    row.addWidget(agree)
    return row


def show_in_the_middle(page: QWidget, body: QWidget, width_px: int) -> None:
    """Fill a page with a body that is no wider than can be read well, and scrolls."""
    body.setMaximumWidth(width_px)
    middle = QWidget()
    centred = QHBoxLayout(middle)
    centred.setContentsMargins(0, 0, 0, 0)
    centred.addStretch(1)
    centred.addWidget(body, 100)
    centred.addStretch(1)
    scroll = column_area()
    scroll.setWidget(middle)
    layout = QVBoxLayout(page)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(scroll)
