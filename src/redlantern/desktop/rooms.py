# SPDX-License-Identifier: GPL-3.0-or-later
"""The rooms of the window, in one table: each knows the workspace and its own widgets, and none another."""

from collections.abc import Callable
from dataclasses import dataclass

from redlantern.application.opening import Models
from redlantern.desktop.brief.room import BriefRoom
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.models.room import ModelsRoom
from redlantern.desktop.readthrough.room import ReadThroughRoom
from redlantern.desktop.seal.room import SealRoom
from redlantern.desktop.shelf.room import ShelfRoom
from redlantern.desktop.sidebyside.room import SideBySideRoom
from redlantern.desktop.trials.room import TrialsRoom
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.safety import seal
from redlantern.translation import marked


@dataclass(frozen=True)
class RoomEntry:
    """A room's name, translated in the bar and the menu, and how it is made."""

    name: str
    make: Callable[[Workspace, Models], Room]


ROOMS = (
    RoomEntry(marked("Desk"), lambda workspace, models: Desk(workspace)),
    RoomEntry(marked("Shelf"), lambda workspace, models: ShelfRoom(workspace)),
    RoomEntry(marked("Read-through"), lambda workspace, models: ReadThroughRoom(workspace)),
    RoomEntry(marked("Side by side"), lambda workspace, models: SideBySideRoom(workspace)),
    RoomEntry(marked("Trials"), lambda workspace, models: TrialsRoom(workspace)),
    RoomEntry(marked("Brief"), lambda workspace, models: BriefRoom(workspace)),
    RoomEntry(marked("Models"), ModelsRoom),
    RoomEntry(marked("Seal"), lambda workspace, models: SealRoom(workspace, seal.state())),
)
"""In the order of the bar; Ctrl and its number goes to each."""


def room_number(name: str) -> int:
    """Where a room stands in the bar, from 0."""
    return [room.name for room in ROOMS].index(name)
