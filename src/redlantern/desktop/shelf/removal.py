# SPDX-License-Identifier: GPL-3.0-or-later
"""Takes documents out of the collection or erases them, tells how that ended, and undoes what can be undone."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QMessageBox, QPushButton, QWidget

from redlantern.application import documents
from redlantern.application.upkeep import erase_documents
from redlantern.collection.upkeep import Erased
from redlantern.collection.values import Document
from redlantern.desktop.shelf.documents_table import DocumentsTable
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import path_text, visible


class Removal(QFrame):
    """The line under the list that tells what was done, with what is done to the documents chosen in it."""

    def __init__(self, parent: QWidget, workspace: Workspace, table: DocumentsTable) -> None:
        super().__init__()
        self.setObjectName("notice")
        self._parent, self._workspace, self._table = parent, workspace, table
        self._undo_paths: list[Path] = []
        self.words, self.undo_button = QLabel(), QPushButton("Undo")
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setWordWrap(True)
        self.undo_button.setObjectName("quiet")
        self.undo_button.clicked.connect(self.undo)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 10, 4)
        row.addWidget(self.words, 1)
        row.addWidget(self.undo_button)
        self.hide()

    def take_out(self) -> None:
        """Take the files of the chosen documents out of the collection; it can be undone."""
        paths = list(dict.fromkeys(document.file_path for document in self.own()))
        session = self._workspace.session
        if not paths or session is None or self._workspace.is_updating:
            return
        n_within = sum(document.file_path in paths for document in self._workspace.documents) - len(paths)
        engine = session.engine
        self._workspace.run(
            lambda _: documents.take_out(engine, [path_text(path) for path in paths]),
            finished=self._workspace.show_documents,
        )
        counted = visible(path_text(paths[0].name)) if len(paths) == 1 else f"{len(paths)} files"
        within = f", with {n_within} documents within," if n_within else ""
        self.tell(f"{counted}{within} taken out of the collection. On disk nothing was changed.", paths)

    def undo(self) -> None:
        """Read again what was just taken out."""
        paths, self._undo_paths = self._undo_paths, []
        self.hide()
        self._workspace.updates.read_again({path: "" for path in paths if path.exists()})

    def erase(self) -> None:
        """Erase the chosen documents for good, after a yes."""
        session = self._workspace.session
        chosen = self.own()
        if not chosen or session is None or not self._workspace.is_free:
            return
        paths = list(dict.fromkeys(document.file_path for document in chosen))
        names = "\n".join(visible(path_text(path)) for path in paths[:10]) + (
            f"\nand {len(paths) - 10} more" if len(paths) > 10 else ""
        )
        box = QMessageBox(self._parent)
        box.setWindowTitle("Erase from the collection?")
        box.setText("Erase from the collection?")
        box.setInformativeText(
            f"{names}\n\nTheir text, vectors and words go, with what lies within them, what sheets cite from them and what "
            "the journal says about them. It cannot be undone. The files on disk stay where they are; "
            "backups of the collection keep what they hold."
        )
        yes = box.addButton("Erase", QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(box.addButton("Leave them", QMessageBox.ButtonRole.RejectRole))
        box.exec()
        if box.clickedButton() is yes:
            engine = session.engine
            self._workspace.upkeep.begin(
                lambda _: erase_documents(engine, chosen),
                "Documents are being erased.",
                finished=self._on_erased,
                failed=lambda reason: self.tell(reason, []),
            )

    def own(self) -> list[Document]:
        """The chosen documents that are the open collection's own; those of one asked with it cannot be changed here."""
        return [document for document in self._table.chosen() if not document.beside]

    def tell(self, words: str, undo_paths: list[Path]) -> None:
        """Say how something ended, with an Undo for these files if there are any."""
        self.words.setText(words)
        self._undo_paths = undo_paths
        self.undo_button.setVisible(bool(undo_paths))
        self.show()

    def _on_erased(self, found: tuple[Erased, list[str]]) -> None:
        erased, left = found
        counted = f"{erased.n_documents} document{'s' * (erased.n_documents != 1)} erased"
        cited = (
            f", with the words that {erased.n_sheets} sheet{'s' * (erased.n_sheets != 1)} cited"
            if erased.n_sheets
            else ""
        )
        looked = " ".join(left) if left else "Looked through the file: nothing of it is left there."
        self.tell(f"{counted}{cited}. {looked} Backups, if there are any, were not reached.", [])
        session = self._workspace.session
        if session is not None:
            engine = session.engine
            self._workspace.run(lambda _: documents.reload(engine), finished=self._workspace.reloaded.emit)
