# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be done with the documents chosen in the list: a row of buttons, and their keys."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt, QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QHBoxLayout, QInputDialog, QLineEdit, QMessageBox, QPushButton, QWidget

from redlantern.desktop.shelf.documents_table import DocumentsTable
from redlantern.desktop.shelf.removal import Removal
from redlantern.desktop.widgets.context import Offer, show_menu
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import path_text, visible
from redlantern.translation import tr

_MOST_OPENED = 5


class DocumentActions(QWidget):
    """Acts on what is chosen in the table."""

    def __init__(self, workspace: Workspace, table: DocumentsTable, removal: Removal) -> None:
        super().__init__()
        self._workspace, self._table, self._removal = workspace, table, removal
        self.scope_button = hinted_button(
            tr("Leave out / take in"), self.toggle_scope, tr("Whether questions draw on it (Space)")
        )
        self.again_button = hinted_button(tr("Read again"), self.read_again, tr("Read the file again (Ctrl+R)"))
        self.remove_button = hinted_button(
            tr("Take out"), removal.take_out, tr("Take it out of the collection (Delete)")
        )
        self.erase_button = hinted_button(
            tr("Erase ..."), removal.erase, tr("Erase it from the collection for good (Shift+Delete)")
        )
        self.outside_button = hinted_button(
            tr("Open the file"), self.open_outside, tr("In the desktop's own program (Ctrl+E)")
        )
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 14, 4)
        row.setSpacing(8)
        self._buttons = (
            self.scope_button, self.again_button, self.remove_button, self.erase_button, self.outside_button
        )  # fmt: skip
        for button in self._buttons:
            button.setObjectName("quiet")
            row.addWidget(button)
        row.addStretch(1)
        table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        table.customContextMenuRequested.connect(self._show_menu)

    def offers(self) -> list[Offer]:
        """The same as the buttons."""
        self.settle()
        return [(button.text(), button.click, button.isEnabled()) for button in self._buttons]

    def _show_menu(self, at: QPoint) -> None:
        viewport = self._table.viewport()
        if viewport is not None:
            show_menu(self._table, viewport.mapToGlobal(at), self.offers())

    def settle(self) -> None:
        """Offer what can be done with what is chosen now."""
        chosen = self._table.chosen()
        is_free = bool(self._removal.own()) and self._workspace.updates.can_begin
        self.scope_button.setEnabled(any(not document.is_refused for document in chosen))
        for button in (self.again_button, self.remove_button, self.erase_button):
            button.setEnabled(is_free)
        self.outside_button.setEnabled(bool(chosen))

    def toggle_scope(self) -> None:
        """Leave the chosen documents out of questions, or take them in again."""
        chosen = [document for document in self._table.chosen() if not document.is_refused]
        if chosen:
            in_scope = self._workspace.documents_in_scope
            in_scope.set_in_scope(chosen, not all(map(in_scope.is_in_scope, chosen)))

    def read_again(self) -> None:
        """Read the files of the chosen documents again; asks for the password of one that wants it."""
        passwords: dict[Path, str] = {}
        for document in self._removal.own():
            path = document.file_path
            if path in passwords or not path.exists():
                continue
            password = self._ask_for_password(path) if "password" in document.reason else ""
            if password is not None:
                passwords[path] = password
        if passwords:
            self._workspace.updates.read_again(passwords)

    def open_outside(self) -> None:
        """Open the chosen documents' files in the desktop's own programs, after a yes; never one that was refused."""
        chosen = [document for document in self._table.chosen() if not document.is_refused]
        paths = list(dict.fromkeys(document.file_path for document in chosen))[:_MOST_OPENED]
        if paths and self._is_sure_to_open(paths):
            for path in paths:
                QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))

    def _ask_for_password(self, path: Path) -> str | None:
        password, is_given = QInputDialog.getText(
            self,
            tr("A password is needed"),
            tr("Password of {name}. It is used once and not kept.").format(name=visible(path_text(path.name))),
            QLineEdit.EchoMode.Password,
        )
        return password if is_given else None

    def _is_sure_to_open(self, paths: list[Path]) -> bool:
        names = "\n".join(visible(path_text(path)) for path in paths)
        box = QMessageBox(self)
        box.setWindowTitle(tr("Open in another program?"))
        box.setText(tr("Open in another program?"))
        box.setInformativeText(
            tr(
                "{names}\n\nThe program that your desktop has for it reads the whole file, with everything that may be "
                "hidden in it. It has no network when it is started from here, but one that runs already may have."
            ).format(names=names)
        )
        yes = box.addButton(tr("Open"), QMessageBox.ButtonRole.AcceptRole)
        box.setDefaultButton(box.addButton(tr("Leave it"), QMessageBox.ButtonRole.RejectRole))
        box.exec()
        return box.clickedButton() is yes


def hinted_button(text: str, slot: Callable[[], object], hint: str) -> QPushButton:
    """A button with a hint, which is also read out after its words."""
    button = QPushButton(text)
    button.setToolTip(hint)
    button.clicked.connect(lambda: slot())
    return button
