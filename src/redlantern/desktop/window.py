"""The main window: the question bar, the rooms under it, the status line, and every action with its menu place."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop import drawing, theme, welcome, workbench
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk import Desk
from redlantern.desktop.seal_room import SealRoom
from redlantern.desktop.shelf_room import ShelfRoom
from redlantern.desktop.status import StatusLine
from redlantern.desktop.workbench import Models, Opened
from redlantern.safety import seal

COLLECTION_ENDING = ".redlantern"


class Window(QMainWindow):
    """One collection in one window."""

    def __init__(self, models: Models | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Red Lantern")
        self.setWindowIcon(drawing.lamp_icon())
        self.resize(QSize(1280, 800))
        self._models = models or Models()
        self._opening: Task | None = None
        self._edited_standalone = ""
        state = seal.state()
        self.status = StatusLine(state)
        self.desk, self.seal_room = Desk(self.status), SealRoom(state)
        self.shelf_room = ShelfRoom(self.desk)
        self.question, self.ask_button = QLineEdit(), QPushButton("Ask")
        self._scope_label, self._collection_button = QLabel(""), QPushButton("No collection")
        self._rooms, self._room_buttons = QStackedWidget(), QButtonGroup(self)
        self._build()
        self._connect()
        self._build_menu()
        self._show_state()
        self.question.setFocus()

    # What can be done

    def open_collection(self, path: Path, *, creates: bool = False, then: Callable[[], None] | None = None) -> None:
        """Open a collection off the interface thread; `then` is called when it is open."""
        if self._opening is not None:
            return
        self.desk.close_collection()
        self._show_state()
        self.status.activity.setText(f"Opening {path.name} ...")
        task = self._opening = Task(workbench.open_collection(path, self._models, creates=creates))
        task.finished.connect(lambda opened: self._on_opened(opened, then))
        task.failed.connect(self._on_open_failed)
        task.start()

    def add_folder(self, folder: Path) -> None:
        """Read a folder into the open collection, or make a new one for it."""
        if self.desk.opened is not None:
            self.desk.add(folder)
        else:
            self._make_collection(folder)

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

    def focus_question(self) -> None:
        """Go to the question bar, all of it selected."""
        self.go_to(0)
        self.question.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.question.selectAll()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Stop everything and wait for it."""
        if self._opening is not None:
            self._opening.wait()
        self.desk.close_collection()
        self.seal_room.close_room()
        super().closeEvent(event)

    # How it is built

    def _build(self) -> None:
        header = QWidget()
        header.setObjectName("header")
        self._collection_button.setObjectName("collection")
        self._collection_button.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self._collection_button.setAccessibleName("Collection and menu")
        self.question.setObjectName("question")
        self.question.setFont(theme.voice(theme.SANS, scale=1.15))
        self.question.setPlaceholderText("Ask this collection ...")
        self.question.setAccessibleName("Question")
        self.ask_button.setObjectName("ask")
        self._scope_label.setObjectName("quiet")
        self._scope_label.setToolTip("The documents that a question draws on; tick and untick them on the shelf")
        row = QHBoxLayout(header)
        row.setContentsMargins(14, 9, 14, 9)
        row.setSpacing(10)
        row.addWidget(drawing.Lamp())
        row.addWidget(self._collection_button)
        row.addWidget(self.question, 1)
        row.addWidget(self._scope_label)
        row.addWidget(self.ask_button)
        rooms = QWidget()
        bar = QHBoxLayout(rooms)
        bar.setContentsMargins(16, 0, 16, 4)
        bar.setSpacing(18)
        for number, (name, room) in enumerate(
            (("Desk", self.desk), ("Shelf", self.shelf_room), ("Seal", self.seal_room))
        ):
            button = QPushButton(name)
            button.setObjectName("room")
            button.setCheckable(True)
            button.setChecked(number == 0)
            button.setAccessibleName(f"Room: {name}")
            self._room_buttons.addButton(button, number)
            self._rooms.addWidget(room)
            bar.addWidget(button)
        bar.addStretch(1)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(header)
        layout.addWidget(rooms)
        layout.addWidget(self._rooms, 1)
        layout.addWidget(self.status)
        self.setCentralWidget(whole)

    def _connect(self) -> None:
        self.question.returnPressed.connect(self.ask)
        self.question.textEdited.connect(self._on_question_edited)
        self.ask_button.clicked.connect(self._on_ask_clicked)
        self._room_buttons.idClicked.connect(self.go_to)
        self.desk.add_wanted.connect(self.choose_folder)
        self.desk.open_wanted.connect(self.choose_collection)
        self.desk.asking_changed.connect(self._on_asking_changed)
        self.desk.scope_changed.connect(self._show_scope)
        self.desk.question_wanted.connect(self._on_question_wanted)
        self.shelf_room.folder_wanted.connect(self.choose_folder)
        self.shelf_room.paths_wanted.connect(lambda paths: self.desk.add(*paths))

    def _build_menu(self) -> None:
        menu = QMenu(self._collection_button)
        actions: list[tuple[str, str, Callable[[], object]] | None] = [
            ("New collection from a folder ...", "Ctrl+N", self._choose_new),
            ("Open a collection ...", "Ctrl+O", self.choose_collection),
            None,
            ("Add a folder ...", "Ctrl+D", self.choose_folder),
            ("Update from its folders", "F5", self.desk.update_all),
            ("Stop reading", "Ctrl+.", self.desk.cancel_update),
            None,
            ("Go to the question", "Ctrl+L", self.focus_question),
            ("Stop writing", "Esc", self.desk.stop),
            ("Earlier sheet", "Alt+Left", lambda: self.desk.turn(-1)),
            ("Later sheet", "Alt+Right", lambda: self.desk.turn(1)),
            ("Row before", "Ctrl+Up", lambda: self.desk.view.step(-1)),
            ("Row after", "Ctrl+Down", lambda: self.desk.view.step(1)),
            None,
            ("Larger page", "Ctrl++", lambda: self.desk.facsimile.zoom(1)),
            ("Smaller page", "Ctrl+-", lambda: self.desk.facsimile.zoom(-1)),
            ("Page fitted to its column", "Ctrl+0", lambda: self.desk.facsimile.zoom(0)),
            None,
            ("Desk", "Ctrl+1", lambda: self.go_to(0)),
            ("Shelf", "Ctrl+2", lambda: self.go_to(1)),
            ("Seal", "Ctrl+3", lambda: self.go_to(2)),
            None,
            ("Close the window", "Ctrl+Q", self.close),
        ]
        for entry in actions:
            if entry is None:
                menu.addSeparator()
                continue
            name, keys_, slot = entry
            action = QAction(name, self)
            action.setShortcut(QKeySequence(keys_))
            action.triggered.connect(lambda _, slot=slot: slot())
            menu.addAction(action)
            self.addAction(action)
        self._collection_button.setMenu(menu)
        down = QShortcut(QKeySequence("Down"), self.question, lambda: self.desk.view.step(1))
        down.setContext(Qt.ShortcutContext.WidgetShortcut)

    # What happens

    def choose_folder(self) -> None:
        """Ask for a folder and read it."""
        folder = self._ask_for_folder()
        if folder is not None:
            self.add_folder(folder)

    def choose_collection(self) -> None:
        """Ask for a collection and open it."""
        chosen, _ = QFileDialog.getOpenFileName(
            self, "Open a collection", "", f"Collections (*{COLLECTION_ENDING});;All files (*)"
        )
        if chosen:
            self.open_collection(Path(chosen))

    def _choose_new(self) -> None:
        folder = self._ask_for_folder()
        if folder is not None:
            self._make_collection(folder)

    def _ask_for_folder(self) -> Path | None:
        if self.desk.is_updating:
            self.status.activity.setToolTip("Wait for the reading to end, or stop it first.")
            return None
        chosen = QFileDialog.getExistingDirectory(self, "Choose the folder to read")
        return Path(chosen) if chosen else None

    def _make_collection(self, folder: Path) -> None:
        """Ask where to keep a new collection, make it there, and read the folder into it."""
        proposed = str(Path.home() / f"{folder.name}{COLLECTION_ENDING}")
        title, kinds = "Where to keep the new collection", f"Collections (*{COLLECTION_ENDING})"
        chosen, _ = QFileDialog.getSaveFileName(self, title, proposed, kinds)
        if chosen:
            path = Path(chosen if chosen.endswith(COLLECTION_ENDING) else chosen + COLLECTION_ENDING)
            self.open_collection(path, creates=True, then=lambda: self.desk.add(folder))

    def _on_ask_clicked(self) -> None:
        if self.desk.is_asking:
            self.desk.stop()
        else:
            self.ask()

    def _on_asking_changed(self, is_asking: bool) -> None:
        self.ask_button.setText("Stop" if is_asking else "Ask")

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
        self.status.activity.setText("")
        self.desk.open(opened)
        collection = opened.engine.collection
        self.seal_room.set_places(str(collection.path), str(collection.file.holding))
        self._show_state()
        self.question.setFocus()
        if then is not None:
            # After this signal's other receivers have run.
            QTimer.singleShot(0, then)

    def _on_open_failed(self, reason: str) -> None:
        self._opening = None
        self.status.activity.setText("")
        self.desk.view.show_widget(welcome.problem("This collection could not be opened", reason))
        self._show_state()

    def _show_state(self) -> None:
        opened = self.desk.opened
        name = opened.engine.collection.name if opened is not None else "No collection"
        self._collection_button.setText(name if len(name) <= 26 else name[:25] + "…")
        self.setWindowTitle(f"{name} - Red Lantern" if opened is not None else "Red Lantern")
        for widget in (self.question, self.ask_button):
            widget.setEnabled(opened is not None)
        for button in (self.desk.shelf.add_button, self.desk.shelf.update_button):
            button.setEnabled(opened is not None and not self.desk.is_updating)
        self._show_scope()

    def _show_scope(self) -> None:
        n_readable, scope = len(self.desk.shelf.model.readable), self.desk.scope
        if not n_readable:
            self._scope_label.setText("")
        elif scope is None:
            self._scope_label.setText(f"All {n_readable}")
        else:
            self._scope_label.setText(f"{len(scope)} of {n_readable}")

    def go_to(self, room: int) -> None:
        """Go to a room by its number, from 0."""
        self._rooms.setCurrentIndex(room)
        button = self._room_buttons.button(room)
        if button is not None:
            button.setChecked(True)
        if self._rooms.widget(room) is self.shelf_room:
            self.shelf_room.enter()
