# SPDX-License-Identifier: GPL-3.0-or-later
"""ScratchGuard a scratch collection, which is its end: asks first where something was asked of it, and can keep it instead."""

from collections.abc import Callable

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QDialog, QMessageBox, QWidget

from redlantern.application import upkeep
from redlantern.application.opening import NewKey
from redlantern.desktop.door import Door, Then
from redlantern.desktop.widgets.new_place import KeepDialog
from redlantern.safety import secretstore
from redlantern.translation import tr

_WORDS = tr(
    "This scratch collection is erased when it is closed, with every question asked of it. Your "
    "documents stay where they are."
)
_KEPT = tr("This collection is kept already: what is said of it in the Seal room holds.")


class ScratchGuard(QObject):
    """Stands before everything that closes a collection."""

    def __init__(self, window: QWidget, door: Door, has_sheets: Callable[[], bool]) -> None:
        """`has_sheets` says whether anything was asked."""
        super().__init__(window)
        self._window, self._door, self._has_sheets = window, door, has_sheets
        door.before_leaving = self.before

    def before(self, then: Then) -> None:
        """Call `then`, unless a scratch collection with sheets is open that its user wants to stay with, or to keep."""
        session = self._door.workspace.session
        if session is None or not session.is_scratch or not self._has_sheets():
            then()
            return
        box = QMessageBox(self._window)
        box.setWindowTitle(tr("Erase the scratch collection?"))
        box.setText(tr("Erase the scratch collection?"))
        box.setInformativeText(_WORDS)
        erase = box.addButton(tr("Erase and go on"), QMessageBox.ButtonRole.DestructiveRole)
        keep = box.addButton(tr("Keep it ..."), QMessageBox.ButtonRole.AcceptRole)
        box.setDefaultButton(box.addButton(tr("Stay"), QMessageBox.ButtonRole.RejectRole))
        box.exec()
        if box.clickedButton() is erase:
            then()
        elif box.clickedButton() is keep:
            self.keep()

    def keep(self) -> None:
        """Write the open scratch collection to a place of its own, and open it from there; only then is the scratch erased."""
        workspace = self._door.workspace
        session = workspace.session
        if session is None or not session.is_scratch:
            workspace.status.activity.setText(_KEPT if session is not None else "")
            return
        if not workspace.is_free:
            workspace.status.activity.setText(
                tr("Wait until the answer or the reading is finished, or stop it; then keep it.")
            )
            return
        dialog = KeepDialog(self._window)
        choice = dialog.new_place.choice
        self._door.run(lambda _: secretstore.is_there(), choice.allow_secret_store)
        is_agreed = dialog.exec() == QDialog.DialogCode.Accepted
        path, key = dialog.new_place.path, choice.chosen if is_agreed else NewKey()
        choice.forget()
        dialog.deleteLater()
        if is_agreed:
            collection = session.engine.collection
            workspace.upkeep.begin(
                lambda task: upkeep.back_up(collection, path, key, report=task.report, cancel=task.cancel),
                tr("The collection is being written to its own place."),
                finished=lambda _: self._door.open_collection(path, passphrase=key.passphrase or None),
                failed=workspace.status.activity.setText,
            )
