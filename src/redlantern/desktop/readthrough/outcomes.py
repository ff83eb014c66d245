# SPDX-License-Identifier: GPL-3.0-or-later
"""What a read-through leads to on paper: the statement and lists of values, shown and saved."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from redlantern.application import briefs
from redlantern.application import read_through as throughs
from redlantern.application.exporting import put_exported
from redlantern.application.read_through import Listed
from redlantern.brief.values import Brief
from redlantern.desktop.readthrough.dialogs import ListDialog, StatementDialog
from redlantern.desktop.workspace import Workspace
from redlantern.readthrough.extraction import TITLES, Extract
from redlantern.readthrough.statement import Statement
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr


class Outcomes(QObject):
    """Makes them in the background; `told` says how that goes, `page_wanted` asks for the page of a value."""

    told = pyqtSignal(str)
    page_wanted = pyqtSignal(object)

    def __init__(self, workspace: Workspace, room: QWidget) -> None:
        super().__init__(room)
        self._workspace, self._room = workspace, room

    def state(self, key: int) -> None:
        """Show the statement of a read-through."""
        session = self._workspace.session
        if session is not None:
            engine = session.engine
            self._workspace.run(
                lambda _: throughs.statement(engine, throughs.load(engine, key)),
                finished=self._on_statement, failed=self.told.emit,
            )  # fmt: skip

    def make_list(self, kind: Extract, paths: tuple[str, ...] | None) -> None:
        """List all values of a kind in the documents at these places, None for all."""
        session = self._workspace.session
        if session is None:
            return
        engine = session.engine
        self.told.emit(tr("{title}: being listed ...").format(title=tr(TITLES[kind])))
        self._workspace.run(
            lambda task: throughs.listed(engine, kind, paths=paths, report=task.report, cancel=task.cancel),
            finished=lambda rows: self._on_listed(kind, rows), failed=self.told.emit,
        )  # fmt: skip

    def _on_statement(self, statement: Statement) -> None:
        dialog = StatementDialog(statement, self._room)
        dialog.saving.connect(lambda path, make: self._save(path, make, dialog.said.setText))
        dialog.exec()

    def _on_listed(self, kind: Extract, rows: list[Listed]) -> None:
        self.told.emit(
            "" if rows else tr("{title}: none were found in what is in scope.").format(title=tr(TITLES[kind]))
        )
        if not rows:
            return
        dialog = ListDialog(tr(TITLES[kind]), rows, self._room)

        def save(form: str, shown: list[Listed]) -> None:
            path, _ = QFileDialog.getSaveFileName(dialog, tr("Where to save the list"), f"{tr(TITLES[kind])}.{form}")
            if path:
                self._save(path, lambda: throughs.list_as_file(kind, shown, form), dialog.said.setText)

        def gather(chosen: list[Listed]) -> None:
            def gathered(brief: Brief) -> None:
                dialog.said.setText(
                    tr("{value} gathered into “{name}”.").format(
                        value=counted(len(chosen), "value"), name=visible(brief.name)
                    )
                )

            self._workspace.with_engine(
                lambda engine: briefs.gather(engine, [throughs.list_entry(engine, kind, chosen)]),
                gathered,
                dialog.said.setText,
            )

        dialog.saving.connect(save)
        dialog.gather_wanted.connect(gather)
        dialog.page_wanted.connect(dialog.accept)
        dialog.page_wanted.connect(self.page_wanted)
        dialog.exec()

    def _save(self, path: str, make: Callable[[], bytes], say: Callable[[str], Any]) -> None:
        self._workspace.run(
            lambda _: put_exported(Path(path), make()),
            finished=lambda _: say(tr("Saved as {path}").format(path=visible(path))), failed=say,
        )  # fmt: skip
