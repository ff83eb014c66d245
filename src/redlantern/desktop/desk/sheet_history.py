# SPDX-License-Identifier: GPL-3.0-or-later
"""The kept sheets at the desk: the list of all of them, a new thread, and printing."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from redlantern.answering.engine import Engine
from redlantern.application import sheets
from redlantern.application.documents import reload
from redlantern.application.sheets import ListedSheet
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.desk.sheets_dialog import SheetsDialog
from redlantern.desktop.widgets.printing import print_html
from redlantern.desktop.workspace import Workspace
from redlantern.translation import tr

_NEW_THREAD = tr("A new thread begins: the next question stands alone, and goes on from nothing asked before.")
_NOTHING = tr("Nothing was asked yet.")
_NOT_YET = tr("The sheet is still being put into the collection. Try again in a moment.")
_WAIT = tr("Wait until the answer is finished, or stop it with Esc.")


class SheetHistory(QObject):
    """Opens the list and does what is wished there. `opened` carries the place of a sheet among all, from 0, `asked` a question."""

    opened = pyqtSignal(int)
    asked = pyqtSignal(str)

    def __init__(self, parent: QWidget, workspace: Workspace, view: SheetView) -> None:
        super().__init__(parent)
        self._parent, self._workspace, self._view = parent, workspace, view
        self.thread_began = 0
        """The place among the sheets that the present thread begins at."""
        self._dialog: SheetsDialog | None = None
        self._listed: list[ListedSheet] = []

    def begin_thread(self, n_sheets: int) -> None:
        """Let the next question stand alone, after so many sheets."""
        self.thread_began = n_sheets
        self._workspace.status.activity.setText(_NEW_THREAD)

    def show_list(self) -> None:
        """Show all sheets."""
        if self._workspace.is_asking:
            self._workspace.status.activity.setText(_WAIT)
            return
        self._workspace.with_engine(sheets.list_sheets, self._open, self._workspace.status.activity.setText)

    def print_sheet(self) -> None:
        """Print the sheet that is shown; asks on what."""
        session = self._workspace.session
        sheet = self._view.sheet
        if session is None or sheet is None:
            self._workspace.status.activity.setText(_NOTHING)
            return
        self._workspace.with_engine(
            lambda engine: sheets.printed(engine, sheet),
            lambda html: print_html(self._parent, sheet.question, html),
            self._workspace.status.activity.setText,
        )

    def _open(self, listed: list[ListedSheet]) -> None:
        if not listed:
            # A model that was still being loaded when its writing was stopped holds the sheet for some seconds.
            self._workspace.status.activity.setText(_NOTHING if self._view.sheet is None else _NOT_YET)
            return
        self._listed = listed
        dialog = self._dialog = SheetsDialog(listed, can_change=self._workspace.can_change, parent=self._parent)
        dialog.open_wanted.connect(self._on_open)
        dialog.ask_wanted.connect(self.asked)
        dialog.name_wanted.connect(
            lambda number, name: self._change(lambda engine: sheets.rename_sheet(engine, number, name))
        )
        dialog.star_wanted.connect(
            lambda number, is_on: self._change(lambda engine: sheets.star_sheet(engine, number, is_on))
        )
        dialog.delete_wanted.connect(self._on_delete)
        dialog.exec()
        self._dialog = None
        dialog.deleteLater()

    def _on_open(self, sheet_id: int) -> None:
        place = next(at for at, each in enumerate(self._listed) if each.sheet_id == sheet_id)

        def show(fetched: object) -> None:
            self._workspace.reloaded.emit(fetched)
            self.opened.emit(place)

        # What is shown may not be in the order that is kept: a changed figure is kept once more.
        self._workspace.with_engine(reload, show, self._workspace.status.activity.setText)

    def _on_delete(self, sheet_ids: list[int]) -> None:
        self._change(lambda engine: sheets.delete_sheets(engine, sheet_ids), is_reloaded=True)

    def _change(self, change: Callable[[Engine], object], *, is_reloaded: bool = False) -> None:
        def work(engine: Engine) -> tuple[list[ListedSheet], object]:
            change(engine)
            return sheets.list_sheets(engine), reload(engine) if is_reloaded else None

        def show(found: tuple[list[ListedSheet], object]) -> None:
            self._listed = found[0]
            if self._dialog is not None:
                self._dialog.show_sheets(found[0])
            if found[1] is not None:
                self._workspace.reloaded.emit(found[1])

        self._workspace.with_engine(work, show, self._workspace.status.activity.setText)
