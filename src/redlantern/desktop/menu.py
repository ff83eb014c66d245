"""Every action of the window with its name, its shortcut and its place in the menu."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QPushButton

from redlantern.safety.names import path_text, visible

if TYPE_CHECKING:
    from redlantern.desktop.window import Window

_MOST_KNOWN = 8


def build_menu(window: "Window", button: QPushButton) -> QMenu:
    """Give the window its actions and the button its menu; gives the part that lists known collections."""
    menu = QMenu(button)
    # Asked for by name each time: locking puts new rooms in place of the old.
    entries: list[tuple[str, str, Callable[[], object]] | None] = [
        ("New collection from a folder ...", "Ctrl+N", window.choose_new),
        ("Open a collection ...", "Ctrl+O", window.choose_collection),
        ("Ask another collection with it ...", "Ctrl+Shift+O", lambda: window.other_collections.choose()),
        ("Ask it alone again", "Ctrl+Shift+1", lambda: window.other_collections.ask_alone()),
        ("Lock", "Ctrl+Shift+L", window.lock),
        None,
        ("Add a folder ...", "Ctrl+D", window.choose_folder),
        ("Update ...", "F5", window.plan_update),
        ("Stop what is being done", "Ctrl+.", window.status.cancel_wanted.emit),
        None,
        ("Go to the question", "Ctrl+L", window.focus_question),
        ("Stop writing, or close what is shown", "Esc", window.escape),
        ("Earlier sheet", "Alt+Left", lambda: window.desk.turn(-1)),
        ("Later sheet", "Alt+Right", lambda: window.desk.turn(1)),
        ("Ask again and compare", "Ctrl+Shift+R", lambda: window.desk.ask_again()),
        ("Summarise the document at the right", "Ctrl+M", lambda: window.desk.summarise_shown()),
        ("Summarise what is in scope", "Ctrl+Shift+M", lambda: window.desk.ask("Summarise these documents")),
        ("Row before", "Ctrl+Up", lambda: window.desk.view.step(-1)),
        ("Row after", "Ctrl+Down", lambda: window.desk.view.step(1)),
        None,
        ("Larger page", "Ctrl++", lambda: window.desk.facsimile.zoom(1)),
        ("Smaller page", "Ctrl+-", lambda: window.desk.facsimile.zoom(-1)),
        ("Page fitted to its column", "Ctrl+0", lambda: window.desk.facsimile.zoom(0)),
        None,
        ("Desk", "Ctrl+1", lambda: window.go_to(0)),
        ("Shelf", "Ctrl+2", lambda: window.go_to(1)),
        ("Trials", "Ctrl+3", lambda: window.go_to(2)),
        ("Models", "Ctrl+4", lambda: window.go_to(3)),
        ("Seal", "Ctrl+5", lambda: window.go_to(4)),
        None,
        ("Copy what is known of failures", "Ctrl+Shift+F", window.copy_failures),
        ("Close the window", "Ctrl+Q", window.close),
    ]
    known = QMenu("Collections of this login", menu)
    for number, entry in enumerate(entries):
        if entry is None:
            menu.addSeparator()
            continue
        name, keys, slot = entry
        action = QAction(name, window)
        action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _, slot=slot: slot())
        menu.addAction(action)
        window.addAction(action)
        if number == 1:
            menu.addMenu(known)
    button.setMenu(menu)
    return known


def show_known(menu: QMenu, paths: list[Path], on_chosen: Callable[[Path], None]) -> None:
    """List the collections that were opened before."""
    menu.clear()
    for path in paths[:_MOST_KNOWN]:
        action = QAction(visible(path_text(path.stem)).replace("&", "&&"), menu)
        action.setToolTip(visible(path_text(path)))
        action.triggered.connect(lambda _, path=path: on_chosen(path))
        menu.addAction(action)
    menu.setEnabled(bool(paths))
