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
from redlantern.text.listing import counted
from redlantern.translation import tr


class Removal(QFrame):
    """The line under the list that tells what was done, with what is done to the documents chosen in it."""

    def __init__(self, parent: QWidget, workspace: Workspace, table: DocumentsTable) -> None:
        super().__init__()
        self.setObjectName("notice")
        self._parent, self._workspace, self._table = parent, workspace, table
        self._undo_paths: list[Path] = []
        self.words, self.undo_button = QLabel(), QPushButton(tr("Undo"))
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
        taken = visible(path_text(paths[0].name)) if len(paths) == 1 else counted(len(paths), "file")
        within = f" (+ {counted(n_within, 'document')})" if n_within else ""
        self.tell(
            tr("Taken out of the collection: {taken}{within}. On disk nothing was changed.").format(
                taken=taken, within=within
            ),
            paths,
        )

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
            tr("\nand {n_paths} more").format(n_paths=len(paths) - 10) if len(paths) > 10 else ""
        )
        box = QMessageBox(self._parent)
        box.setWindowTitle(tr("Erase from the collection?"))
        box.setText(tr("Erase from the collection?"))
        box.setInformativeText(
            tr(
                "{names}\n\nTheir text, vectors and words go, with what lies within them, what sheets cite from them "
                "and what the journal says about them. It cannot be undone. The files on disk stay where they are; "
                "backups of the collection keep what they hold."
            ).format(names=names)
        )
        yes = box.addButton(tr("Erase"), QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(box.addButton(tr("Leave them"), QMessageBox.ButtonRole.RejectRole))
        box.exec()
        if box.clickedButton() is yes:
            engine = session.engine
            self._workspace.upkeep.begin(
                lambda _: erase_documents(engine, chosen),
                tr("Documents are being erased."),
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
        gone = counted(erased.n_documents, "document")
        cited = (
            tr(", with what was cited from them in {sheet}").format(sheet=counted(erased.n_sheets, "sheet"))
            if erased.n_sheets
            else ""
        )
        looked = " ".join(left) if left else tr("Looked through the file: nothing of it is left there.")
        self.tell(
            tr("Erased: {gone}{cited}. {looked} Backups, if there are any, were not reached.").format(
                gone=gone, cited=cited, looked=looked
            ),
            [],
        )
        session = self._workspace.session
        if session is not None:
            engine = session.engine
            self._workspace.run(lambda _: documents.reload(engine), finished=self._workspace.reloaded.emit)
