"""The main window: the question bar, the rooms under it, the status line, and how collections are opened and locked."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFileDialog,
    QLineEdit,
    QMainWindow,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.opening import Models, NewKey
from redlantern.collection.values import Citation
from redlantern.desktop import menu, welcome, workbench
from redlantern.desktop.absence import IDLE, Absence
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.desk.scopes import Scopes
from redlantern.desktop.lock_page import LockPage
from redlantern.desktop.models.room import ModelsRoom
from redlantern.desktop.other_collections import OtherCollections
from redlantern.desktop.seal import work as seal_work
from redlantern.desktop.seal.actions import COLLECTION_ENDING, COLLECTIONS, SealActions
from redlantern.desktop.seal.room import SealRoom
from redlantern.desktop.shelf.room import ShelfRoom
from redlantern.desktop.trials.room import TrialsRoom
from redlantern.desktop.widgets import drawing
from redlantern.desktop.widgets.header import QUESTION_HINT, question_row, room_bar
from redlantern.desktop.widgets.key_dialog import ask_for_key
from redlantern.desktop.widgets.status import StatusLine
from redlantern.desktop.workbench import Opened
from redlantern.safety import loopback, seal
from redlantern.safety.keys import Holding, PassphraseNeededError, WrongPassphraseError
from redlantern.safety.names import path_text, visible

_BY_HAND = "by hand"
_LOCKED_WORDS = "Its key, its index and every open page have been dropped from memory."


class Window(QMainWindow):
    """One collection in one window."""

    def __init__(self, models: Models | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Red Lantern")
        self.setWindowIcon(drawing.lamp_icon())
        self.resize(QSize(1280, 800))
        self._models = models or Models()
        self._opening: Task | None = None
        self._tasks: list[Task] = []
        self._is_closed = False
        self._edited_standalone = ""
        self._locked: tuple[Path, Holding] | None = None
        self._then: Callable[[], None] | None = None
        self._lock_reason = ""
        link = loopback.link()
        self.status = StatusLine(seal.state(), link.server.address if link is not None else "")
        self.question, self.ask_button = QLineEdit(), QPushButton("Ask")
        self.scope_button, self._collection_button = QPushButton(""), QPushButton("No collection")
        self._rooms, self._room_buttons = QStackedWidget(), QButtonGroup(self)
        self._stack, self.lock_page = QStackedWidget(), LockPage()
        self._absence = Absence(self)
        self._make_rooms()
        self._build()
        self._connect()
        self._known_menu = menu.build_menu(self, self._collection_button)
        down = QShortcut(QKeySequence("Down"), self.question, lambda: self.desk.view.step(1))
        down.setContext(Qt.ShortcutContext.WidgetShortcut)
        self._show_state()
        self.question.setFocus()
        self._list_known()

    # What can be done

    @property
    def is_locked(self) -> bool:
        """Whether a collection waits to be unlocked."""
        return self._stack.currentWidget() is self.lock_page

    def open_collection(
        self,
        path: Path,
        *,
        creates: bool = False,
        key: NewKey | None = None,
        passphrase: str | None = None,
        then: Callable[[], None] | None = None,
    ) -> None:
        """Open a collection off the interface thread, or make it; `then` is called when it is open."""
        if self._opening is not None:
            return
        self.desk.close_collection()
        self._show_state()
        self.status.activity.setText(
            "Opening ..." if self.is_locked else f"Opening {visible(path_text(path.name))} ..."
        )
        new_key = key or (NewKey() if creates else None)
        task = self._opening = Task(
            workbench.open_collection(path, self._models, new_key=new_key, passphrase=passphrase)
        )
        task.finished.connect(lambda opened: self._on_opened(opened, then))
        task.failed.connect(lambda reason: self._on_open_failed(path, reason, task, then))
        task.start()

    def lock(self, reason: str = "") -> None:
        """Close the collection, drop everything of it from memory, and ask for the way back in."""
        opened = self.desk.opened
        if opened is None or self._opening is not None:
            return
        if self.desk.upkeep.is_running:
            # It has the file alone. Nobody being here is no reason to break it off; it is locked when it has ended.
            self._lock_reason = reason or _BY_HAND
            if reason != IDLE:
                self.desk.upkeep.cancel()
            return
        self._lock_reason = ""
        collection = opened.engine.collection
        self._locked = (collection.path, collection.holding)
        del opened, collection
        self.desk.close_collection(reason or _BY_HAND)
        self._replace_rooms()
        self.question.clear()
        self._edited_standalone = ""
        self.status.show_speed("")
        self.status.finish("")
        self.lock_page.forget()
        self.lock_page.show_locked(
            "Locked", f"{reason} {_LOCKED_WORDS}".strip(), asks=self._locked[1] is Holding.PASSPHRASE
        )
        self._stack.setCurrentWidget(self.lock_page)
        self._show_state()
        self.lock_page.set_busy(False)

    def add_folder(self, folder: Path) -> None:
        """Read a folder into the open collection, or make a new one for it."""
        if self.desk.opened is not None:
            self.desk.add(folder)
        else:
            self._make_collection(folder)

    def plan_update(self) -> None:
        """Show what an update would do."""
        if self.desk.updates.can_begin:
            self.go_to(1)
            self.desk.updates.plan()

    def ask(self) -> None:
        """Ask what stands in the question bar."""
        text = self.question.text().strip()
        if self.desk.opened is None:
            return
        if not text:
            self.status.activity.setText("The question is empty. Type what you want to know.")
            return
        self.status.activity.setText("")
        self.go_to(0)
        standalone, self._edited_standalone = self._edited_standalone, ""
        self.desk.ask(text, standalone=text if standalone else "")

    def escape(self) -> None:
        """Close the plan of an update if one is shown; else stop the writing."""
        if not self.shelf_room.close_plan():
            self.models_room.stop()
            self.desk.stop()

    def copy_failures(self) -> None:
        """Put the log of failures on the clipboard, to be reported: it holds no word of a document."""
        self._run(workbench.read_failures, self._on_failures)

    def focus_question(self) -> None:
        """Go to the question bar, all of it selected."""
        self.go_to(0)
        self.question.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.question.selectAll()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Stop everything and wait for it."""
        self._is_closed = True
        for task in (*self._tasks, *([self._opening] if self._opening is not None else [])):
            task.wait()
        self.desk.close_collection()
        self.seal_room.close_room()
        super().closeEvent(event)

    # How it is built

    def _make_rooms(self) -> None:
        self.desk = Desk(self.status)
        self.shelf_room, self.seal_room = ShelfRoom(self.desk), SealRoom(seal.state(), self.desk)
        self.seal_actions = SealActions(self, self.desk, self.seal_room)
        self.other_collections = OtherCollections(self, self.desk)
        self.scopes = Scopes(self.desk, self.scope_button)
        self.trials_room, self.models_room = TrialsRoom(self.desk), ModelsRoom(self.desk, self._models)
        for room in self._all_rooms():
            self._rooms.addWidget(room)

    def _all_rooms(self) -> tuple[QWidget, ...]:
        return (self.desk, self.shelf_room, self.trials_room, self.models_room, self.seal_room)

    def _replace_rooms(self) -> None:
        """Put empty rooms in place of the old ones: no widget of theirs may keep a word of the collection."""
        old = self._all_rooms()
        self.seal_room.close_room()
        for helper in (self.seal_actions, self.other_collections, self.scopes):
            helper.deleteLater()
        self._make_rooms()
        self._connect_rooms()
        for room in old:
            self._rooms.removeWidget(room)
            room.deleteLater()
        self.go_to(0)

    def _build(self) -> None:
        header = question_row(self._collection_button, self.question, self.scope_button, self.ask_button)
        rooms = self._room_bar = room_bar(("Desk", "Shelf", "Trials", "Models", "Seal"), self._room_buttons)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(header)
        layout.addWidget(rooms)
        for page in (self._rooms, self.lock_page):
            self._stack.addWidget(page)
        layout.addWidget(self._stack, 1)
        layout.addWidget(self.status)
        self.setCentralWidget(whole)

    def _connect(self) -> None:
        self.question.returnPressed.connect(self.ask)
        self.question.textEdited.connect(self._on_question_edited)
        self.ask_button.clicked.connect(self._on_ask_clicked)
        self._room_buttons.idClicked.connect(self.go_to)
        self.lock_page.unlock_wanted.connect(self._on_unlock_wanted)
        self.lock_page.other_wanted.connect(self.choose_collection)
        self._absence.noticed.connect(self._on_absence)
        self._connect_rooms()

    def _connect_rooms(self) -> None:
        self.desk.add_wanted.connect(self.choose_folder)
        self.desk.update_wanted.connect(self.plan_update)
        self.desk.open_wanted.connect(self.choose_collection)
        self.desk.asking_changed.connect(self._on_asking_changed)
        self.desk.scope_changed.connect(self._show_scope)
        self.desk.question_wanted.connect(self._on_question_wanted)
        self.desk.upkeep.changed.connect(self._on_upkeep)
        self.shelf_room.folder_wanted.connect(self.choose_folder)
        self.shelf_room.update_wanted.connect(self.plan_update)
        self.shelf_room.paths_wanted.connect(lambda paths: self.desk.add(*paths))
        self.seal_room.lock_wanted.connect(self.lock)
        self.seal_room.idle_changed.connect(self._on_idle_changed)
        self.trials_room.page_wanted.connect(self._on_page_wanted)
        self.other_collections.told.connect(self._on_other_collections)
        self.seal_actions.moved.connect(self._on_moved)
        self.seal_actions.closing_wanted.connect(self._on_closing_wanted)

    # What happens

    def choose_folder(self) -> None:
        """Ask for a folder and read it."""
        folder = self._ask_for_folder()
        if folder is not None:
            self.add_folder(folder)

    def choose_collection(self) -> None:
        """Ask for a collection and open it."""
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a collection", "", f"{COLLECTIONS};;All files (*)")
        if chosen:
            self._open_other(Path(chosen))

    def choose_new(self) -> None:
        """Ask for a folder, for a place and for what is to open it, and make a collection of it."""
        folder = self._ask_for_folder()
        if folder is not None:
            self._make_collection(folder)

    def _open_other(self, path: Path) -> None:
        if self.is_locked:
            self._leave_lock()
        self.open_collection(path)

    def _ask_for_folder(self) -> Path | None:
        if self.desk.is_updating:
            self.status.activity.setToolTip("Wait for the reading to end, or stop it first.")
            return None
        chosen = QFileDialog.getExistingDirectory(self, "Choose the folder to read")
        return Path(chosen) if chosen else None

    def _make_collection(self, folder: Path) -> None:
        """Ask where to keep a new collection and what opens it, make it there, and read the folder into it."""
        proposed = str(Path.home() / f"{folder.name}{COLLECTION_ENDING}")
        chosen, _ = QFileDialog.getSaveFileName(self, "Where to keep the new collection", proposed, COLLECTIONS)
        if not chosen:
            return
        path = Path(chosen if chosen.endswith(COLLECTION_ENDING) else chosen + COLLECTION_ENDING)
        # A secret store may take a moment to answer, or to ask its owner.
        self._run(seal_work.has_secret_store, lambda has_store: self._make_with_key(path, folder, has_store))

    def _make_with_key(self, path: Path, folder: Path, has_store: bool) -> None:
        key = ask_for_key(self, "What opens this collection?", "Make the collection", has_secret_store=has_store)
        if key is not None:
            self.open_collection(path, creates=True, key=key, then=lambda: self.desk.add(folder))

    def _on_ask_clicked(self) -> None:
        if self.desk.is_asking:
            self.desk.stop()
        else:
            self.ask()

    def _on_asking_changed(self, is_asking: bool) -> None:
        self.ask_button.setText("Stop" if is_asking else "Ask")

    def _on_upkeep(self, words: str) -> None:
        """Something has the collection's file alone, or has ended: questions wait until then."""
        self.question.setPlaceholderText(f"{words} Questions wait until that is done." if words else QUESTION_HINT)
        self._show_state()
        if not words and self._lock_reason:
            reason, self._lock_reason = self._lock_reason, ""
            # After those have run who are told how it ended.
            QTimer.singleShot(0, lambda: self.lock("" if reason == _BY_HAND else reason))

    def _on_question_edited(self, text: str) -> None:
        if not text:
            self._edited_standalone = ""

    def _on_question_wanted(self, text: str) -> None:
        """Put words into the bar that stand alone: they are asked as they are, without the thread."""
        self.question.setText(text)
        self._edited_standalone = text
        self.question.setFocus()

    def _on_opened(self, opened: Opened, then: Callable[[], None] | None) -> None:
        self._opening = None
        if self._is_closed:
            opened.engine.close()
            return
        self.status.activity.setText(opened.only_reading or opened.notice)
        self.status.activity.setToolTip(opened.notice)
        self._leave_lock()
        self._absence.idle_minutes = opened.idle_minutes
        self.desk.open(opened)
        self._list_known()
        self._show_state()
        self.question.setFocus()
        if then is not None:
            # After this signal's other receivers have run.
            QTimer.singleShot(0, then)

    def _on_open_failed(self, path: Path, reason: str, task: Task, then: Callable[[], None] | None) -> None:
        self._opening = None
        self.status.activity.setText("")
        if isinstance(task.failure, PassphraseNeededError):
            self._locked, self._then = (path, Holding.PASSPHRASE), then
            self.lock_page.forget()
            self._stack.setCurrentWidget(self.lock_page)
            self.lock_page.show_locked(path.stem, "This collection is opened by a passphrase.", asks=True)
        elif isinstance(task.failure, WrongPassphraseError) or self.is_locked:
            self.lock_page.show_problem(reason)
        else:
            self.desk.view.show_widget(welcome.problem("This collection could not be opened", reason))
        self._show_state()

    def _on_unlock_wanted(self, passphrase: str) -> None:
        if self._locked is not None:
            path, holding = self._locked
            asked = passphrase if holding is Holding.PASSPHRASE else None
            self.open_collection(path, passphrase=asked, then=self._then)

    def _leave_lock(self) -> None:
        self._locked, self._then = None, None
        self.lock_page.forget()
        self._stack.setCurrentWidget(self._rooms)

    def _on_absence(self, reason: str) -> None:
        # Reading goes on without a person; its end is a new beginning for the clock.
        if not self.desk.is_updating or reason != IDLE:
            self.lock(reason)

    def _on_idle_changed(self, minutes: int) -> None:
        self._absence.idle_minutes = minutes
        if self.desk.opened is not None:
            self.desk.opened.idle_minutes = minutes
            self.desk.run(workbench.put_fact(self.desk.opened.engine, "idle minutes", str(minutes)))

    def _on_moved(self) -> None:
        self._list_known()
        self._show_state()
        if self.desk.opened is not None:
            work = workbench.load_documents(self.desk.opened.engine)
            self.desk.run(work, finished=lambda found: self.desk.show_documents(*found))

    def _on_failures(self, text: str) -> None:
        clipboard = QApplication.clipboard()
        if text and clipboard is not None:
            clipboard.setText(text)
        self.status.finish(
            "What is known of failures is on the clipboard." if text else "No failure was ever written down."
        )

    def _on_other_collections(self, words: str) -> None:
        self.status.activity.setText(words)
        self._show_scope()

    def _on_closing_wanted(self, then: Callable[[], None]) -> None:
        """Close the collection, which is about to be erased, and leave nothing of it on screen."""
        self.desk.close_collection()
        self.desk.show_documents([])
        self.desk.facsimile.clear()
        self.desk.show_welcome()
        self._show_state()
        then()

    def _on_page_wanted(self, citation: Citation) -> None:
        """Open a tried passage's page on the desk."""
        self.go_to(0)
        self.desk.show_page(citation.document_id, citation.page_number, (citation.start, citation.end), citation.text)

    def _list_known(self) -> None:
        self._run(workbench.list_known, lambda paths: menu.show_known(self._known_menu, paths, self._open_other))

    def _run(self, work: Callable[[Task], Any], done: Callable[[Any], None]) -> None:
        """Do something that no collection is needed for."""
        task = Task(work)
        self._tasks = [one for one in (*self._tasks, task) if not one.has_ended]
        task.finished.connect(done)
        task.start()

    def _show_state(self) -> None:
        opened = self.desk.opened
        name = "Locked" if self.is_locked else "No collection"
        if opened is not None and not self.is_locked:
            name = visible(path_text(opened.engine.collection.name))
        self._collection_button.setText(name if len(name) <= 26 else name[:25] + "…")
        self.setWindowTitle(f"{name} - Red Lantern" if opened is not None else "Red Lantern")
        for widget in (self.question, self.ask_button):
            widget.setEnabled(opened is not None and not self.desk.upkeep.is_running)
        self._room_bar.setVisible(not self.is_locked)
        self.desk.allow_updates(not self.desk.is_updating)
        self._show_scope()

    def _show_scope(self) -> None:
        n_readable, scope = len(self.desk.shelf.model.readable), self.desk.scope
        if not n_readable:
            self.scope_button.setText("")
        elif scope is None:
            self.scope_button.setText(f"All {n_readable}")
        else:
            self.scope_button.setText(f"{len(scope)} of {n_readable}")

    def go_to(self, room: int) -> None:
        """Go to a room by its number, from 0."""
        self._rooms.setCurrentIndex(room)
        button = self._room_buttons.button(room)
        if button is not None:
            button.setChecked(True)
        shown = self._rooms.widget(room)
        if shown is self.shelf_room:
            self.shelf_room.enter()
        elif shown is self.trials_room:
            self.trials_room.enter()
        elif shown is self.models_room:
            self.models_room.enter()
        elif shown is self.seal_room:
            self.seal_room.enter()
