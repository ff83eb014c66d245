"""Ways from what the desk shows to other rooms, with it in hand."""

from collections.abc import Callable

from redlantern.desktop.desk.room import Desk
from redlantern.desktop.readthrough.room import ReadThroughRoom
from redlantern.desktop.rooms import room_number
from redlantern.desktop.sidebyside.room import SideBySideRoom
from redlantern.desktop.trials.room import TrialsRoom
from redlantern.desktop.workspace import Workspace

_NO_SHEET = "Ask something first: the sheet that is shown becomes a trial question."


class FromDesk:
    """Takes the shown question or sheet to another room; made anew with the rooms."""

    def __init__(
        self,
        workspace: Workspace,
        go_to: Callable[[int], None],
        desk: Desk,
        *,
        read_through: ReadThroughRoom,
        side_by_side: SideBySideRoom,
        trials: TrialsRoom,
    ) -> None:
        self._workspace, self._go_to, self._desk = workspace, go_to, desk
        self._read_through, self._side_by_side, self._trials = read_through, side_by_side, trials

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
