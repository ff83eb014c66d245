# SPDX-License-Identifier: GPL-3.0-or-later
"""Every action of the window with its name, its shortcut and its place in the menu."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QPushButton, QStackedWidget, QWidget

from redlantern.desktop.about import AboutDialog
from redlantern.desktop.action_finder import find_action
from redlantern.desktop.between_rooms import BetweenRooms
from redlantern.desktop.brief.verify_dialog import VerifyDialog
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.door import Door
from redlantern.desktop.file_import import FileImport
from redlantern.desktop.guide import show_guide
from redlantern.desktop.other_collections import OtherCollections
from redlantern.desktop.preferences_dialog import CAME_WITH
from redlantern.desktop.rooms import ROOMS
from redlantern.desktop.scratch_guard import ScratchGuard
from redlantern.desktop.widgets.context import MEANT_FOR, PAGES, ROWS
from redlantern.desktop.widgets.status import StatusLine
from redlantern.safety.names import path_text, visible
from redlantern.translation import marked, tr

_MOST_KNOWN = 8


MenuEntry = tuple[str, str, Callable[[], object]] | None
"""The words of an action, its keys and what it does; None for a line between groups."""
COLLECTION = marked("Collection")
FIND_KEYS = "Ctrl+Shift+A"
_GATHER = marked("Gather what is chosen into the brief")
_EVERY_PAGE = marked("Put this question to every page")
_SIDE_BY_SIDE = marked("Look at this question side by side")
_LARGER, _SMALLER, _FITTED = marked("Larger page"), marked("Smaller page"), marked("Page fitted to its column")
_MEANT_FOR = dict.fromkeys((_GATHER, _EVERY_PAGE, _SIDE_BY_SIDE), ROWS) | dict.fromkeys(
    (_LARGER, _SMALLER, _FITTED), PAGES
)
"""What is also offered where the right button, or the keyboard's own key, asks what can be done."""


@dataclass(frozen=True)
class MenuGroup:
    """Actions that belong together, under one name."""

    name: str
    entries: list[MenuEntry]


class Doer(Protocol):
    """Who can do all of it: the window. Asked by name each time, for locking puts new rooms in place of the old."""

    desk: Desk
    door: Door
    file_import: FileImport
    rooms: QStackedWidget
    scratch_guard: ScratchGuard
    status: StatusLine
    other_collections: OtherCollections
    between_rooms: BetweenRooms

    def go_to(self, number: int) -> None:
        """Go to a room by its number, from 0."""

    def plan_update(self) -> None:
        """Show what an update would do."""

    def escape(self) -> None:
        """Close what is shown, or stop the writing."""

    def choose_preferences(self) -> None:
        """Let look and keys be chosen."""

    def copy_failures(self) -> None:
        """Put the log of failures on the clipboard."""

    def focus_question(self) -> None:
        """Go to the question bar."""

    def close(self) -> bool:
        """Close the window."""
        ...


def groups(doer: Doer, window: QWidget) -> list[MenuGroup]:
    """Every action, in the order of the menu."""
    rooms: list[MenuEntry] = [
        (room.name, f"Ctrl+{number + 1}", lambda number=number: doer.go_to(number))  # type: ignore[misc]
        for number, room in enumerate(ROOMS)
    ]
    return [
        MenuGroup(COLLECTION, [
            (marked("New collection from a folder ..."), "Ctrl+N", doer.file_import.choose_new),
            (marked("Open a collection ..."), "Ctrl+O", doer.door.choose_collection),
            None,
            (marked("Ask another collection with it ..."), "Ctrl+Shift+O", lambda: doer.other_collections.choose()),
            (marked("Ask it alone again"), "Ctrl+Shift+1", lambda: doer.other_collections.ask_alone()),
            None,
            (marked("Keep this scratch collection ..."), "Ctrl+Shift+S", lambda: doer.scratch_guard.keep()),
            (marked("Lock"), "Ctrl+Shift+L", doer.door.lock),
            (marked("Close the window"), "Ctrl+Q", doer.close),
        ]),
        MenuGroup(marked("Documents"), [
            (marked("Add a folder ..."), "Ctrl+D", doer.file_import.choose_folder),
            (marked("Add the files on the clipboard"), "Ctrl+Shift+V", doer.file_import.paste),
            (marked("Update ..."), "F5", doer.plan_update),
            (marked("Stop what is being done"), "Ctrl+.", doer.status.cancel_wanted.emit),
        ]),
        MenuGroup(marked("Question and sheet"), _of_questions(doer)),
        MenuGroup(marked("Page"), [
            (_LARGER, "Ctrl++", lambda: doer.desk.facsimile.zoom(1)),
            (_SMALLER, "Ctrl+-", lambda: doer.desk.facsimile.zoom(-1)),
            (_FITTED, "Ctrl+0", lambda: doer.desk.facsimile.zoom(0)),
        ]),
        MenuGroup(marked("Rooms"), rooms),
        MenuGroup(marked("Help"), [
            (marked("Guide"), "F1", lambda: show_guide(window, doer.rooms.currentIndex())),
            (marked("Verify an exported brief ..."), "Ctrl+Shift+B", lambda: VerifyDialog(window).exec()),
            (marked("Look and keys ..."), "Ctrl+,", doer.choose_preferences),
            (marked("Copy what is known of failures"), "Ctrl+Shift+F", doer.copy_failures),
            (marked("About, and licences"), "Ctrl+Shift+H", lambda: AboutDialog(window).exec()),
        ]),
    ]  # fmt: skip


def _of_questions(doer: Doer) -> list[MenuEntry]:
    """What is done with a question and its sheet."""
    return [
        (marked("Go to the question"), "Ctrl+L", doer.focus_question),
        (marked("Stop writing, or close what is shown"), "Esc", doer.escape),
        (marked("Ask again and compare"), "Ctrl+Shift+R", lambda: doer.desk.ask_again()),
        None,
        (marked("All sheets ..."), "Ctrl+Y", lambda: doer.desk.sheet_history.show_list()),
        (
            marked("Begin a new thread"),
            "Ctrl+Shift+N",
            lambda: doer.desk.sheet_history.begin_thread(len(doer.desk.sheets)),
        ),
        (marked("Print this sheet ..."), "Ctrl+P", lambda: doer.desk.sheet_history.print_sheet()),
        (marked("Earlier sheet"), "Alt+Left", lambda: doer.desk.turn(-1)),
        (marked("Later sheet"), "Alt+Right", lambda: doer.desk.turn(1)),
        (marked("Row before"), "Ctrl+Up", lambda: doer.desk.view.step(-1)),
        (marked("Row after"), "Ctrl+Down", lambda: doer.desk.view.step(1)),
        None,
        (_GATHER, "Ctrl+G", lambda: doer.between_rooms.gather()),
        (marked("Write own words into the brief ..."), "Ctrl+Shift+G", lambda: doer.between_rooms.write_note()),
        (_EVERY_PAGE, "Ctrl+E", lambda: doer.between_rooms.read_through()),
        (_SIDE_BY_SIDE, "Ctrl+B", lambda: doer.between_rooms.side_by_side()),
        (
            marked("This sheet is right: make it a trial question"),
            "Ctrl+T",
            lambda: doer.between_rooms.trial_question(),
        ),
        None,
        (
            marked("Summarise the document at the right"),
            "Ctrl+M",
            lambda: doer.desk.ask_of_shown("Summarise this document"),
        ),
        (marked("Summarise what is in scope"), "Ctrl+Shift+M", lambda: doer.desk.ask("Summarise these documents")),
        (
            marked("Check the sums of the document at the right"),
            "Ctrl+K",
            lambda: doer.desk.ask_of_shown("Check the sums of this document"),
        ),
        (
            marked("Check the sums of what is in scope"),
            "Ctrl+Shift+K",
            lambda: doer.desk.ask("Check the sums of these documents"),
        ),
    ]


@dataclass(frozen=True)
class Menu:
    """The part that lists known collections, and every action with the name of its group."""

    known: QMenu
    actions: list[tuple[str, QAction]]


def build_menu(window: QWidget, doer: Doer, button: QPushButton, keys: Mapping[str, str]) -> Menu:
    """Give the window its actions and the button its menu; `keys` are those that actions were given instead of their own."""
    menu = QMenu(button)
    known, actions = QMenu(tr("Collections of this login"), menu), list[tuple[str, QAction]]()
    find = _action(
        window,
        marked("Find an action ..."),
        FIND_KEYS,
        lambda: find_action(window, [action for _, action in actions]),
        keys,
    )
    menu.addAction(find)
    menu.addSeparator()
    for group in groups(doer, window):
        part = QMenu(tr(group.name), menu)
        for entry in group.entries:
            if entry is None:
                part.addSeparator()
                continue
            action = _action(window, *entry, keys)
            actions.append((tr(group.name), action))
            part.addAction(action)
        if group.name == COLLECTION:
            part.insertMenu(part.actions()[2], known)
        menu.addMenu(part)
    button.setMenu(menu)
    return Menu(known, [(tr("Everything"), find), *actions])


def _action(window: QWidget, name: str, came_with: str, act: Callable[[], object], keys: Mapping[str, str]) -> QAction:
    action = QAction(tr(name), window)
    # What the program knows it by, in every language: keys of one's own are kept under it.
    action.setObjectName(name)
    action.setShortcut(QKeySequence(keys.get(name, came_with)))
    action.setProperty(CAME_WITH, came_with)
    action.setProperty(MEANT_FOR, _MEANT_FOR.get(name, ""))
    action.triggered.connect(lambda _: act())
    window.addAction(action)
    return action


def show_known(menu: QMenu, paths: list[Path], on_chosen: Callable[[Path], None]) -> None:
    """List the collections that were opened before."""
    menu.clear()
    for path in paths[:_MOST_KNOWN]:
        action = QAction(visible(path_text(path.stem)).replace("&", "&&"), menu)
        action.setToolTip(visible(path_text(path)))
        action.triggered.connect(lambda _, path=path: on_chosen(path))
        menu.addAction(action)
    menu.setEnabled(bool(paths))
