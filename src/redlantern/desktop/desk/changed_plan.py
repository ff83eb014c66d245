# SPDX-License-Identifier: GPL-3.0-or-later
"""Carries out a reckoning whose plan was changed on its sheet."""

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.answering.sheet import Sheet
from redlantern.application.questions import reckon_again
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.workspace import Workspace
from redlantern.reckoning.plan import Plan


class ChangedPlan(QObject):
    """Reckons again for a desk; `carried_out` has the shown sheet with its new figure."""

    carried_out = pyqtSignal(object)

    def __init__(self, workspace: Workspace, view: SheetView) -> None:
        super().__init__(view)
        self._workspace, self._view = workspace, view
        view.reckon_wanted.connect(self.reckon)

    def reckon(self, plan: Plan, label: int) -> None:
        """Carry out the changed plan of the shown sheet."""
        session, sheet = self._workspace.session, self._view.sheet
        if session is None or sheet is None or self._workspace.is_asking:
            return
        engine, scope = session.engine, self._workspace.scope

        def show(changed: Sheet) -> None:
            # Another sheet may be shown by now.
            if self._view.sheet is sheet:
                self.carried_out.emit(changed)

        def say(reason: str) -> None:
            if self._view.sheet is sheet and self._view.reckoned is not None:
                self._view.reckoned.show_problem(reason)

        self._workspace.run(lambda _: reckon_again(engine, sheet, plan, label, scope), finished=show, failed=say)
