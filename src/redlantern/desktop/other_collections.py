# SPDX-License-Identifier: GPL-3.0-or-later
"""Asks another collection together with the open one."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLineEdit, QWidget

from redlantern.application import questions
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.desktop.widgets.file_names import COLLECTIONS
from redlantern.desktop.workspace import Workspace
from redlantern.safety.keys import PassphraseNeededError, WrongPassphraseError
from redlantern.safety.names import path_text, visible
from redlantern.translation import tr


class OtherCollections(QObject):
    """The other collection is only read; `told` says in words what is asked now, or why it is not."""

    told = pyqtSignal(str)

    def __init__(self, parent: QWidget, workspace: Workspace) -> None:
        super().__init__(parent)
        self._parent, self._workspace = parent, workspace

    def choose(self) -> None:
        """Ask for a collection that is to be asked together with the open one."""
        if self._workspace.session is None:
            return
        chosen, _ = QFileDialog.getOpenFileName(self._parent, tr("Ask this collection, too"), "", COLLECTIONS)
        if chosen:
            self._ask(Path(chosen), None)

    def ask_alone(self) -> None:
        """Ask the open collection alone again."""
        if self._workspace.session is not None and not self._workspace.is_asking:
            engine = self._workspace.session.engine
            self._workspace.run(lambda _: questions.ask_alone(engine), finished=self._on_asked)

    def _ask(self, path: Path, passphrase: str | None) -> None:
        session = self._workspace.session
        if session is None or self._workspace.is_asking:
            return
        task = self._workspace.run(
            lambda _: questions.ask_beside(session.engine, path, passphrase),
            finished=self._on_asked,
            failed=lambda reason: self._on_failed(path, task, reason),
        )

    def _on_asked(self, documents: list[Document]) -> None:
        self._workspace.show_documents(documents)
        names = {document.beside for document in documents if document.beside}
        asked = (
            tr("Asked together with {names}.").format(names=", ".join(sorted(names))) if names else tr("Asked alone.")
        )
        self.told.emit(asked)

    def _on_failed(self, path: Path, task: Task, reason: str) -> None:
        if not isinstance(task.failure, PassphraseNeededError | WrongPassphraseError):
            self.told.emit(reason)
            return
        words = "" if isinstance(task.failure, PassphraseNeededError) else f"{reason}\n"
        typed, is_given = QInputDialog.getText(
            self._parent,
            tr("A passphrase is needed"),
            tr("{words}Passphrase of {name}").format(words=words, name=visible(path_text(path.name))),
            QLineEdit.EchoMode.Password,
        )
        if is_given:
            self._ask(path, typed)
