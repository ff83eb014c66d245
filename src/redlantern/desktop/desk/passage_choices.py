# SPDX-License-Identifier: GPL-3.0-or-later
"""What a person decides about passages in a thread: pinned, put aside, and asked why not."""

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.answering.sheet import Evidence
from redlantern.application.questions import why_not
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.widgets.facsimile import Facsimile
from redlantern.desktop.workspace import Workspace
from redlantern.retrieval.hybrid import Spot
from redlantern.translation import tr


class PassageChoices(QObject):
    """The choices of the thread that goes on at a desk; each asks the shown question once more."""

    again_wanted = pyqtSignal()

    def __init__(self, workspace: Workspace, view: SheetView, facsimile: Facsimile) -> None:
        super().__init__(view)
        self._workspace, self._view, self._facsimile = workspace, view, facsimile
        self.put_aside: set[Spot] = set()
        self.pinned: set[Spot] = set()
        view.pin_wanted.connect(self.pin)
        view.put_aside_wanted.connect(self.leave_out)
        view.bring_back_wanted.connect(self.bring_back)
        view.why_not_wanted.connect(self.ask_why_not)

    def begin(self) -> None:
        """A thread begins: nothing is pinned or put aside in it."""
        self.put_aside, self.pinned = set(), set()
        self._view.n_put_aside = 0

    def pin(self, evidence: Evidence) -> None:
        """Keep a passage first in this thread, or let go of it, and ask again."""
        self._let_go(evidence)
        if not evidence.is_pinned:
            self.pinned.add(_spot(evidence))
        self._ask_once_more()

    def leave_out(self, evidence: Evidence) -> None:
        """Leave a passage out for the rest of this thread, and ask again."""
        self._let_go(evidence)
        self.put_aside.add(_spot(evidence))
        self._ask_once_more()

    def bring_back(self) -> None:
        """Find again what was put aside in this thread."""
        self.put_aside = set()
        self._ask_once_more()

    def ask_why_not(self) -> None:
        """Say where the page of the facsimile stands for the question of the shown sheet."""
        session, view = self._workspace.session, self._view
        document, shown, sheet = self._facsimile.document, self._facsimile.page, view.sheet
        if session is None or document is None or shown is None or sheet is None:
            view.show_why_not(tr("Open a page from the shelf first; then ask again where it stands."))
            return
        page = (document.document_id, shown.page_number)
        view.show_why_not(tr("Looking ..."))
        named = tr("{call_mark} page {page}").format(call_mark=document.call_mark, page=page[1])
        engine, scope = session.engine, self._workspace.scope
        self._workspace.run(
            lambda _: why_not(engine, sheet, scope, page),
            finished=lambda words: view.show_why_not(f"{named}. {words}"),
            failed=view.show_why_not,
        )

    def _let_go(self, evidence: Evidence) -> None:
        # It may have been pinned with other neighbours joined to it.
        self.pinned = {spot for spot in self.pinned if not spot.overlaps(_spot(evidence))}

    def _ask_once_more(self) -> None:
        self._view.n_put_aside = len(self.put_aside)
        self.again_wanted.emit()


def _spot(evidence: Evidence) -> Spot:
    citation = evidence.citation
    return Spot(citation.document_id, citation.page_number, citation.start, citation.end)
