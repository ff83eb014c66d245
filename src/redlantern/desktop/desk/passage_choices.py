"""What a person decides about passages in a thread: pinned, put aside, and asked why not."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

from redlantern.answering.sheet import Evidence
from redlantern.desktop import workbench
from redlantern.retrieval.hybrid import Spot

if TYPE_CHECKING:
    from redlantern.desktop.desk.room import Desk


class PassageChoices(QObject):
    """The choices of the thread that goes on at a desk; each asks the shown question once more."""

    def __init__(self, desk: "Desk") -> None:
        super().__init__(desk)
        self.desk = desk
        self.put_aside: set[Spot] = set()
        self.pinned: set[Spot] = set()
        desk.view.pin_wanted.connect(self.pin)
        desk.view.put_aside_wanted.connect(self.leave_out)
        desk.view.bring_back_wanted.connect(self.bring_back)
        desk.view.why_not_wanted.connect(self.ask_why_not)

    def begin(self) -> None:
        """A thread begins: nothing is pinned or put aside in it."""
        self.put_aside, self.pinned = set(), set()
        self.desk.view.n_put_aside = 0

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
        desk, view = self.desk, self.desk.view
        document, shown, sheet = desk.facsimile.document, desk.facsimile.page, view.sheet
        if desk.opened is None or document is None or shown is None or sheet is None:
            view.show_why_not("Open a page from the shelf first; then ask again where it stands.")
            return
        page = (document.document_id, shown.page_number)
        view.show_why_not("Looking ...")
        named = f"{document.call_mark} page {page[1]}"
        desk.run(
            workbench.why_not(desk.opened.engine, sheet, desk.scope, page),
            finished=lambda words: view.show_why_not(f"{named}. {words}"),
            failed=view.show_why_not,
        )

    def _let_go(self, evidence: Evidence) -> None:
        # It may have been pinned with other neighbours joined to it.
        self.pinned = {one for one in self.pinned if not one.overlaps(_spot(evidence))}

    def _ask_once_more(self) -> None:
        self.desk.view.n_put_aside = len(self.put_aside)
        self.desk.ask_once_more()


def _spot(evidence: Evidence) -> Spot:
    citation = evidence.citation
    return Spot(citation.document_id, citation.page_number, citation.start, citation.end)
