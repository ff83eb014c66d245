# SPDX-License-Identifier: GPL-3.0-or-later
"""The main window: the question bar, the rooms under it, the status line."""

from pathlib import Path

from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QApplication, QButtonGroup, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from redlantern.application.opening import Models
from redlantern.application.upkeep import read_failures
from redlantern.collection.values import Citation
from redlantern.desktop import menu
from redlantern.desktop.between_rooms import BetweenRooms
from redlantern.desktop.brief.room import BriefRoom
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.desk.scopes import Scopes
from redlantern.desktop.door import Door
from redlantern.desktop.file_import import FileImport
from redlantern.desktop.models.room import ModelsRoom
from redlantern.desktop.notifications import Notifications, SessionBus
from redlantern.desktop.other_collections import OtherCollections
from redlantern.desktop.question_bar import QuestionBar
from redlantern.desktop.readthrough.room import ReadThroughRoom
from redlantern.desktop.rooms import ROOMS
from redlantern.desktop.scratch_guard import ScratchGuard
from redlantern.desktop.seal.actions import SealActions
from redlantern.desktop.seal.room import SealRoom
from redlantern.desktop.shelf.room import ShelfRoom
from redlantern.desktop.sidebyside.room import SideBySideRoom
from redlantern.desktop.single_instance import bring_forward
from redlantern.desktop.trials.room import TrialsRoom
from redlantern.desktop.widgets import drawing
from redlantern.desktop.widgets.header import room_bar
from redlantern.desktop.widgets.status import StatusLine
from redlantern.desktop.window_preferences import WindowPreferences
from redlantern.desktop.workspace import Workspace
from redlantern.safety import loopback, seal
from redlantern.safety.names import path_text, visible
from redlantern.translation import tr

_SCRATCH = tr("Scratch, goes when closed")
_EMPTY_QUESTION = tr("The question is empty. Type what you want to know.")


class Window(QMainWindow):
    """One collection in one window."""

    desk: Desk
    shelf_room: ShelfRoom
    read_through_room: ReadThroughRoom
    side_by_side_room: SideBySideRoom
    trials_room: TrialsRoom
    brief_room: BriefRoom
    models_room: ModelsRoom
    seal_room: SealRoom

    def __init__(self, models: Models | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Red Lantern")
        self.setWindowIcon(drawing.lamp_icon())
        self.window_preferences = WindowPreferences(self)
        self._models = models or Models()
        self.is_closed = self._is_closing = False
        link = loopback.link()
        self.status = StatusLine(seal.state(), link.server.address if link is not None else "")
        self.bar, self.door = QuestionBar(), Door(self, self._models, self.status)
        self.file_import, self._known = FileImport(self, self.door), list[Path]()
        self.scratch_guard = ScratchGuard(self, self.door, lambda: bool(self.desk.sheets))
        self.file_import.watch(self, self.bar.question)
        self.rooms, self._room_buttons, self._stack = QStackedWidget(), QButtonGroup(self), QStackedWidget()
        self._make_rooms()
        self._build()
        self._connect()
        self._menu = menu.build_menu(self, self, self.bar.collection_button, self.window_preferences.preferences.keys)
        self._show_state()
        self.bar.question.setFocus()
        self.door.list_known()

    @property
    def workspace(self) -> Workspace:
        """What the rooms work with; another one after each locking."""
        return self.door.workspace

    # What can be done

    def go_to(self, number: int) -> None:
        """Go to a room by its number, from 0."""
        self.rooms.setCurrentIndex(number)
        button = self._room_buttons.button(number)
        if button is not None:
            button.setChecked(True)
        self._made[number].enter()

    def ask(self) -> None:
        """Ask what stands in the question bar."""
        self.bar.ask()

    def plan_update(self) -> None:
        """Show what an update would do."""
        if self.workspace.updates.can_begin:
            self.go_to(1)
            self.workspace.updates.plan()

    def escape(self) -> None:
        """Close the plan of an update if one is shown; else stop the writing."""
        if not self.shelf_room.close_plan():
            self.models_room.stop()
            self.side_by_side_room.stop()
            self.desk.stop()

    def choose_preferences(self) -> None:
        """Let look and keys be chosen."""
        self.window_preferences.choose(self._menu.actions)

    def copy_failures(self) -> None:
        """Put the log of failures on the clipboard, to be reported: it holds no word of a document."""

        def put(text: str) -> None:
            clipboard = QApplication.clipboard()
            if text and clipboard is not None:
                clipboard.setText(text)
            self.status.finish(
                tr("What is known of failures is on the clipboard.")
                if text
                else tr("No failure was ever written down.")
            )

        self.door.run(lambda _: read_failures(), put)

    def focus_question(self) -> None:
        """Go to the question bar, all of it selected."""
        self.go_to(0)
        self.bar.focus()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Stop everything first: the window goes when all of it has ended, and answers until then."""
        if self.is_closed or event is None:
            return
        event.ignore()
        if not self._is_closing:
            self.scratch_guard.before(self.close_at_once)

    def close_at_once(self) -> None:
        """Close without a question."""

        def close_now() -> None:
            self.seal_room.close_room()
            self.notifications.let_sleep()
            self.window_preferences.keep_place()
            self.is_closed = True
            self.close()

        if not self._is_closing:
            self._is_closing = True
            self.status.activity.setText(tr("Closing ..."))
            self.bar.setEnabled(False)
            self._stack.setEnabled(False)
            self.door.shut(close_now)

    # How it is built

    def _make_rooms(self) -> None:
        made = self._made = [room.make(self.workspace, self._models) for room in ROOMS]
        self.desk, self.shelf_room, self.read_through_room, self.side_by_side_room, *rest = made  # type: ignore[assignment]
        self.trials_room, self.brief_room, self.models_room, self.seal_room = rest  # type: ignore[assignment]
        self.between_rooms = BetweenRooms(
            self.workspace, self.go_to, self.desk, read_through=self.read_through_room,
            side_by_side=self.side_by_side_room, trials=self.trials_room, current=lambda: self._made[self.rooms.currentIndex()],
        )  # fmt: skip
        self.seal_actions = SealActions(self, self.workspace, self.seal_room)
        self.other_collections = OtherCollections(self, self.workspace)
        self.notifications = Notifications(
            self, self.workspace, lambda: self.window_preferences.preferences, SessionBus()
        )
        self.scopes = Scopes(self.workspace, self.bar.scope_button)
        for room in made:
            self.rooms.addWidget(room)

    def _replace_rooms(self) -> None:
        """Put empty rooms in place of the old ones: no widget of theirs may keep a word of the collection."""
        old = self._made
        self.seal_room.close_room()
        self.notifications.let_sleep()
        for helper in (self.seal_actions, self.other_collections, self.scopes, self.notifications):
            helper.deleteLater()
        self._make_rooms()
        self._connect_rooms()
        for room in old:
            self.rooms.removeWidget(room)
            room.deleteLater()
        self.go_to(0)
        self.bar.forget()

    def _build(self) -> None:
        rooms = self._room_bar = room_bar([tr(room.name) for room in ROOMS], self._room_buttons)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.bar)
        layout.addWidget(rooms)
        for page in (self.rooms, self.door.lock_page):
            self._stack.addWidget(page)
        layout.addWidget(self._stack, 1)
        layout.addWidget(self.status)
        self.setCentralWidget(whole)

    def _connect(self) -> None:
        self.bar.asked.connect(self._on_asked)
        self.bar.paused.connect(self.desk.read_ahead)
        self.bar.stop_wanted.connect(lambda: self.desk.stop())
        self.bar.step_wanted.connect(lambda by: self.desk.view.step(by))
        self.bar.emptied.connect(lambda: self.status.activity.setText(_EMPTY_QUESTION))
        # Not clicked: a screen reader chooses without a click.
        self._room_buttons.idToggled.connect(
            lambda number, chosen: self.go_to(number) if chosen and number != self.rooms.currentIndex() else None
        )
        self.door.opened.connect(self._on_opened)
        self.door.locked.connect(self._replace_rooms)
        self.door.failed.connect(
            lambda reason: self.desk.start_pages.show_problem(tr("This collection could not be opened"), reason)
        )
        self.door.changed.connect(self._show_state)
        self.door.single_instance.raise_wanted.connect(lambda: bring_forward(self))
        self.door.known.connect(self._on_known)
        self.file_import.demo_read.connect(lambda questions: self.trials_room.begin_first(questions))
        self._connect_rooms()

    def _connect_rooms(self) -> None:
        workspace = self.workspace
        workspace.asking_changed.connect(self.bar.show_asking)
        workspace.documents_in_scope.scope_changed.connect(self._show_scope)
        workspace.upkeep.changed.connect(self._on_upkeep)
        workspace.updating_changed.connect(self._show_state)
        self.desk.add_wanted.connect(self.file_import.choose_folder)
        self.desk.update_wanted.connect(self.plan_update)
        first_page = self.desk.start_pages.first_page
        first_page.new_wanted.connect(self.file_import.choose_new)
        first_page.open_wanted.connect(self.door.choose_collection)
        first_page.demo_wanted.connect(self.file_import.open_demo)
        first_page.known_wanted.connect(self.door.open_other)
        first_page.show_known(self._known)
        self.desk.question_wanted.connect(self.bar.put)
        self.shelf_room.folder_wanted.connect(self.file_import.choose_folder)
        self.shelf_room.update_wanted.connect(self.plan_update)
        for room in (self.side_by_side_room, self.trials_room):
            room.page_wanted.connect(self._on_page_wanted)
        self.seal_room.lock_wanted.connect(self.door.lock)
        self.seal_room.idle_changed.connect(self.door.set_idle_minutes)
        self.other_collections.told.connect(self.status.activity.setText)
        self.seal_actions.moved.connect(self._on_moved)
        self.seal_actions.closing_wanted.connect(self._on_closing_wanted)

    # What happens

    def _on_asked(self, text: str, stands_alone: bool) -> None:
        if self.workspace.session is not None:
            self.status.activity.setText("")
            self.go_to(0)
            self.desk.ask(text, standalone=text if stands_alone else "")

    def _on_opened(self) -> None:
        self.desk.open()
        self._show_state()
        self.bar.question.setFocus()

    def _on_known(self, paths: list[Path]) -> None:
        self._known = paths
        menu.show_known(self._menu.known, paths, self.door.open_other)
        self.desk.start_pages.first_page.show_known(paths)

    def _on_upkeep(self, words: str) -> None:
        """Something has the collection's file alone, or has ended: questions wait until then."""
        self.bar.show_waiting(words)
        self._show_state()
        if not words:
            self.door.lock_if_waiting()

    def _on_moved(self) -> None:
        """The collection lies elsewhere, or is mended or gone."""
        self.door.list_known()
        self._show_state()
        self.workspace.refresh_documents()

    def _on_closing_wanted(self, then: object) -> None:
        """Close the collection, which is about to be erased, and leave nothing of it on screen."""
        assert callable(then)
        self.desk.pages.clear()
        self.desk.forget()
        self.door.close_to_erase(then)

    def _on_page_wanted(self, citation: Citation) -> None:
        """Open a tried passage's page on the desk."""
        self.go_to(0)
        self.desk.pages.show_citation(citation)

    def _show_state(self) -> None:
        session, is_locked = self.workspace.session, self.door.is_locked
        name = tr("Locked") if is_locked else tr("No collection")
        if session is not None and not is_locked:
            name = _SCRATCH if session.is_scratch else visible(path_text(session.engine.collection.name))
        self.setWindowTitle(tr("{name} - Red Lantern").format(name=name) if session is not None else "Red Lantern")
        may_ask = session is not None and not self.workspace.upkeep.is_running
        self.bar.show_collection(name, may_ask=may_ask)
        self._stack.setCurrentWidget(self.door.lock_page if is_locked else self.rooms)
        self._room_bar.setVisible(not is_locked)
        self.desk.shelf.allow_updates(self.workspace.updates.can_begin)
        self._show_scope()

    def _show_scope(self) -> None:
        self.bar.show_scope(len(self.workspace.documents_in_scope.readable), self.workspace.scope)
