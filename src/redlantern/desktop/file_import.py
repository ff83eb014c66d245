# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes in: folders, files and collections that are chosen, dropped, pasted or named when the program is started."""

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, QMimeData, QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QDropEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QWidget

from redlantern.application.demo import find_demo
from redlantern.application.opening import NewKey
from redlantern.application.scratch import new_scratch
from redlantern.desktop.bridge import Task
from redlantern.desktop.door import Door
from redlantern.desktop.widgets.file_names import COLLECTION_ENDING
from redlantern.desktop.widgets.import_dialog import ImportDialog
from redlantern.indexing.survey import survey
from redlantern.safety import secretstore
from redlantern.safety.keys import Holding
from redlantern.safety.names import path_of, path_text, visible
from redlantern.translation import tr

_FEW = 12
"""Single files up to this number are read at once; of more, and of folders, it is shown first what they hold."""
_WAIT = tr("Wait for the reading to end, or stop it first; then add these.")
_ONLY_READING = tr("This collection is open for questions only, so nothing can be added to it here.")


class FileImport(QObject):
    """Leads files and folders into the open collection, or into a new one. `demo_read` brings the questions of the demo."""

    demo_read = pyqtSignal(object)

    def __init__(self, window: QWidget, door: Door) -> None:
        super().__init__(window)
        self._window, self._door = window, door

    def watch(self, window: QWidget, question: QWidget) -> None:
        """Take in what is dropped anywhere on the window, and files that are pasted into the question."""
        window.setAcceptDrops(True)
        for widget in (window, question):
            widget.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Files are taken in as files; in no other way is anything changed."""
        if isinstance(event, QDropEvent):
            paths = paths_in(event.mimeData())
            if paths and watched is not self._window:
                # A field would take them for words: let the window have them.
                event.ignore()
            elif paths and event.type() == QEvent.Type.Drop:
                event.acceptProposedAction()
                # The other program waits until this returns, and a dialog may follow.
                QTimer.singleShot(0, lambda: self.take(paths))
            elif paths:
                event.acceptProposedAction()
            return bool(paths)
        is_pasting = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if is_pasting and event.matches(QKeySequence.StandardKey.Paste):  # type: ignore[union-attr]
            clipboard = QApplication.clipboard()
            data = clipboard.mimeData() if clipboard is not None else None
            if data is not None and data.hasUrls():
                self.paste()
                return True
        return False

    def choose_new(self) -> None:
        """Ask for a folder, and make a collection of it."""
        folder = self._ask_for_folder()
        if folder is not None:
            self._make_new([folder])

    def choose_folder(self) -> None:
        """Ask for a folder, and read it into the open collection, or make a new one of it."""
        folder = self._ask_for_folder()
        if folder is not None:
            self.take([folder])

    def take(self, paths: list[Path]) -> None:
        """Take in what was dropped, pasted or named: a collection is opened, anything else read."""
        workspace = self._door.workspace
        if paths and paths[0].name.endswith(COLLECTION_ENDING) and paths[0].is_file():
            self._door.open_other(paths[0])
        elif not paths or self._door.is_opening:
            return
        elif workspace.session is None:
            self._make_new(paths)
        elif not workspace.can_change:
            self._tell(_ONLY_READING)
        elif not workspace.updates.can_begin:
            self._tell(_WAIT)
        elif len(paths) <= _FEW and not any(path.is_dir() for path in paths):
            workspace.updates.add(*paths)
        else:
            self._add(paths)

    def paste(self) -> None:
        """Take in the files on the clipboard."""
        clipboard = QApplication.clipboard()
        paths = paths_in(clipboard.mimeData()) if clipboard is not None else []
        if paths:
            self.take(paths)
        else:
            self._tell(tr("There are no files on the clipboard: copy some in your file manager first."))

    def open_demo(self) -> None:
        """Open the collection of the demo, and read into it what is missing."""
        demo = find_demo()
        if demo is not None:
            self._door.open_collection(
                demo.collection, creates=True, then=partial(self.read_then_ask, demo.documents, demo.questions)
            )

    def read_then_ask(self, folder: Path, questions: Path | None = None) -> None:
        """Read a folder into the open collection; `demo_read` comes then with the questions, if there are any."""
        updates = self._door.workspace.updates

        def read(problem: str) -> None:
            updates.ended.disconnect(read)
            if questions is not None and not problem:
                self.demo_read.emit(questions)

        updates.ended.connect(read)
        updates.add(folder)

    def _add(self, paths: list[Path]) -> None:
        session = self._door.workspace.session
        assert session is not None
        name = visible(path_text(session.engine.collection.name))
        dialog = ImportDialog(paths, collection=name, parent=self._window)
        if self._agreed(dialog, paths) and self._door.workspace.session is session:
            self._door.workspace.updates.add(*paths)

    def _make_new(self, paths: list[Path]) -> None:
        dialog = ImportDialog(paths, collection="", parent=self._window)
        new = dialog.new_place
        assert new is not None
        # A secret store may take a moment to answer, or to ask its owner.
        self._door.run(lambda _: secretstore.is_there(), new.choice.allow_secret_store)
        is_agreed = self._agreed(dialog, paths)
        if is_agreed and new.choice.is_scratch:
            path, passphrase = new_scratch()
            key = NewKey(Holding.PASSPHRASE, passphrase)
        elif is_agreed:
            path, key = new.path, new.choice.chosen
        new.choice.forget()
        if is_agreed:
            self._door.open_collection(
                path, creates=True, key=key, then=lambda: self._door.workspace.updates.add(*paths)
            )

    def _agreed(self, dialog: ImportDialog, paths: list[Path]) -> bool:
        """Look the files over while the dialog is shown; whether it was agreed to."""
        looking: Task = self._door.run(
            lambda task: survey(paths, report=task.report, cancel=task.cancel), dialog.show_survey
        )
        looking.progressed.connect(dialog.show_progress)
        looking.failed.connect(dialog.show_problem)
        dialog.finished.connect(lambda _: looking.cancel.now())
        try:
            return dialog.exec() == QDialog.DialogCode.Accepted
        finally:
            dialog.deleteLater()

    def _ask_for_folder(self) -> Path | None:
        if self._door.workspace.is_updating:
            self._tell(_WAIT)
            return None
        chosen = QFileDialog.getExistingDirectory(self._window, tr("Choose the folder to read"))
        return Path(chosen) if chosen else None

    def _tell(self, words: str) -> None:
        self._door.workspace.status.activity.setText(words)


def paths_in(data: QMimeData | None) -> list[Path]:
    """The files and folders of this machine that were dropped or copied: as such, or as a list of full paths, one a line."""
    if data is None:
        return []
    if data.hasUrls():
        return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    named = [path_of(line.strip()) for line in data.text().splitlines() if line.strip()]
    return named if named and all(path.is_absolute() and path.exists() for path in named) else []
