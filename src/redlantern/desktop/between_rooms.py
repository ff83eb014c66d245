# SPDX-License-Identifier: GPL-3.0-or-later
"""What is taken from one room to another: the desk's question, its sheet, and what is gathered anywhere into a brief."""

from collections.abc import Callable

from redlantern.application import briefs
from redlantern.brief.values import Brief, BriefEntry
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.gathering import Gather, chosen_in
from redlantern.desktop.readthrough.room import ReadThroughRoom
from redlantern.desktop.rooms import room_number
from redlantern.desktop.sidebyside.room import SideBySideRoom
from redlantern.desktop.trials.room import TrialsRoom
from redlantern.desktop.widgets.dialogs import asked_words
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr

_NOTHING_CHOSEN = tr("Choose a row first: what is chosen is gathered into the brief.")
_NO_COLLECTION = tr("Open a collection first: a brief belongs to one.")
_NO_SHEET = tr("Ask something first: the sheet that is shown becomes a trial question.")


class BetweenRooms:
    """Takes what is shown or chosen to another room; made anew with the rooms."""

    def __init__(
        self,
        workspace: Workspace,
        go_to: Callable[[int], None],
        desk: Desk,
        *,
        read_through: ReadThroughRoom,
        side_by_side: SideBySideRoom,
        trials: TrialsRoom,
        current: Callable[[], Room],
    ) -> None:
        self._workspace, self._go_to, self._desk = workspace, go_to, desk
        self._read_through, self._side_by_side, self._trials = read_through, side_by_side, trials
        self._current = current

    def read_through(self) -> None:
        """Put the shown question to every page."""
        self._go_to(room_number("Read-through"))
        self._read_through.put(self._workspace.shown_question)

    def side_by_side(self) -> None:
        """Look at the shown question side by side."""
        self._go_to(room_number("Side by side"))
        self._side_by_side.put(self._workspace.shown_question)

    def trial_question(self) -> None:
        """Make a trial question of the shown sheet."""
        sheet = self._desk.view.sheet
        if sheet is None:
            self._workspace.status.finish(_NO_SHEET)
            return
        self._go_to(room_number("Trials"))
        self._trials.take(sheet)

    def write_note(self) -> None:
        """Ask for own words, and put them into the brief."""
        if self._workspace.session is None:
            self._workspace.status.finish(_NO_COLLECTION)
            return
        words = asked_words(self._current(), tr("Own words at the end of the brief"), "", is_long=True)
        if words:
            self._gather(lambda _: [BriefEntry(0, "own", words)])

    def gather(self) -> None:
        """Take what is chosen in the room that is shown into the brief."""
        make = chosen_in(self._current())
        if make is None:
            self._workspace.status.finish(_NOTHING_CHOSEN)
        else:
            self._gather(make)

    def _gather(self, make: Gather) -> None:
        status = self._workspace.status

        def gathered(brief: Brief) -> None:
            status.finish(
                tr("Gathered into “{name}”, which has {entry} now.").format(
                    name=visible(brief.name), entry=counted(len(brief.entries), "entry", "entries")
                )
            )

        self._workspace.with_engine(lambda engine: briefs.gather(engine, make(engine)), gathered, status.finish)
