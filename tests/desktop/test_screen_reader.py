# SPDX-License-Identifier: GPL-3.0-or-later
"""What a screen reader is told: the real program on a real screen, through its accessibility interface and its keyboard.

These take some seconds each: they start the whole program, a window manager and the bus of a desktop.
"""

import contextlib
import sys
import time

import pytest

from redlantern.application.briefs import read_citations
from redlantern.desktop.rooms import ROOMS, room_number
from tests.desktop.real_screen import RealScreen, Tree, needs, until

pytestmark = pytest.mark.real_models
# What a screen reader knows how to speak of.
ROLES = {
    "application", "button menu", "cell", "check box", "column header", "combo box", "dialog", "filler", "frame", "grip", "image",
    "label", "layered pane", "list", "list item", "panel", "progress bar", "push button", "radio button", "row header", "scroll bar",
    "scroll pane", "separator", "spin box", "splitter", "table", "table cell", "text", "tree", "tree item", "tree table",
}  # fmt: skip
PRESSED = {"push button": "Press", "radio button": "Toggle", "check box": "Toggle", "button menu": "ShowMenu"}
QUESTION = "At what relative humidity in the loft shall work cease?"


@pytest.fixture
def screen(tmp_path_factory):
    needs("Xvfb", "openbox", "dbus-daemon")
    screen = RealScreen(tmp_path_factory.mktemp("s"))
    yield screen
    screen.close()


@pytest.fixture
def tree(screen, tmp_path):
    tree = Tree(screen)
    (tmp_path / "home").mkdir()
    screen.environment["HOME"] = str(tmp_path / "home")
    yield tree
    tree.close()


def opened(screen, tree, *words):
    """The window of the program, once it is the active one and its question bar takes words."""
    screen.start(sys.executable, "-m", "redlantern", "open", *words)
    window = until(tree.windows)[0]
    until(lambda: focused(window))
    return window


def focused(window):
    """What has the focus: of a list the list, for its current row is told as focused wherever the focus is."""
    held = [each for each in window.walk() if each.has("focused")]
    return next((each for each in held if each.role not in ("list item", "tree item", "cell")), None)


def read_in(tmp_path, screen, documents):
    """A collection of the documents."""
    path = tmp_path / "told.redlantern"
    screen.asked(sys.executable, "-m", "redlantern", "index", str(path), str(documents))
    return path


def ask(tree, window):
    """Ask by keyboard, and wait for the found lines; what a model would write is not waited for."""
    tree.press("Ctrl+L")
    tree.typed(QUESTION)
    tree.press("Return")
    until(lambda: [each for each in window.walk() if each.name.startswith("Found line, ")])
    if window.first("push button", "Ask") is None:
        tree.press("Esc")
    until(lambda: window.first("push button", "Ask"))


def check(part, place):
    """Everything that takes the focus has a name, everything a known role, and every control that can be used can be pressed."""
    told = part.walk()
    faults = []
    for each in told:
        role = each.role
        if role not in ROLES:
            faults.append((role, each.name))
        if each.has("focusable") and not (each.name or each.description):
            faults.append((role, "without a name"))
        if role in PRESSED and each.has("enabled") and PRESSED[role] not in each.actions:
            faults.append((role, each.name, each.actions))
    assert faults == [], place
    return told


def place_of(told, role, name):
    return next(at for at, each in enumerate(told) if each.role == role and each.name.startswith(name))


def test_every_room_is_told_with_names_roles_order_and_actions(screen, tree, tmp_path, documents):
    window = opened(screen, tree, str(read_in(tmp_path, screen, documents)))
    assert window.name == "told - Red Lantern"
    until(lambda: window.first("list", "Documents on the shelf"))
    ask(tree, window)
    for room in ROOMS:
        button = window.first("radio button", f"Room: {room.name}")
        # As a screen reader chooses one of several: without a click.
        button.do("Toggle")
        until(lambda button=button: button.has("checked"))
        time.sleep(0.3)
        told = check(window, room.name)
        # From the top to the bottom: question, rooms, the room, the line of what is being done.
        order = [
            place_of(told, "text", "Question"), place_of(told, "radio button", "Room: Desk"),
            place_of(told, "radio button", "Room: Seal"), place_of(told, "label", "memory"),
        ]  # fmt: skip
        assert order == sorted(order) and order[3] - order[2] > 10, room.name


def test_every_dialog_is_told_and_closed_by_a_key(screen, tree, tmp_path, documents):
    window = opened(screen, tree, str(read_in(tmp_path, screen, documents)))
    until(lambda: window.first("list", "Documents on the shelf"))
    ask(tree, window)
    for keys in ("F1", "Ctrl+Comma", "Ctrl+Shift+H", "Ctrl+Shift+B", "Ctrl+Y", "Ctrl+Shift+A"):
        # The window manager gives the keyboard back when it comes to it; the list of sheets waits for the last one.
        until(lambda: focused(window))
        dialog = until(lambda keys=keys: pressed(tree, keys))
        assert dialog.name
        until(lambda dialog=dialog: focused(dialog))
        check(dialog, dialog.name)
        tree.press("Esc")
        until(lambda: len(tree.windows()) == 1)
    until(lambda: focused(window))


def pressed(tree, keys):
    """The dialog that keys open, if they open one within a second."""
    tree.press(keys)
    with contextlib.suppress(AssertionError):
        return until(lambda: [each for each in tree.windows() if each.role != "frame"], wait_s=1)[0]


def test_every_kind_of_dialog_is_told(screen, tree, tmp_path):
    """Those that only stand in the midst of some work are shown by a program of their own, with something in each."""
    showing = screen.start(sys.executable, "-m", "tests.desktop.every_dialog", str(tmp_path), stdin=True)
    assert showing.stdout.readline() == "ready\n"
    for _ in range(40):
        showing.stdin.write("\n")
        showing.stdin.flush()
        kind = showing.stdout.readline().strip()
        if not kind:
            break
        dialog = until(lambda: [each for each in tree.windows() if not each.name.startswith("Parent")])[0]
        told = check(dialog, kind)
        assert dialog.name and any(each.role == "push button" or each.role == "text" for each in told), kind
    assert not kind


def tab_to(tree, window, role, name):
    passed = []
    for _ in range(60):
        at = focused(window)
        passed.append(at and (at.role, at.name[:30]))
        if at is not None and at.role == role and at.name.startswith(name):
            return at
        tree.press("Tab")
        time.sleep(0.05)
    raise AssertionError(f"Tab does not come to {name}: {passed[-24:]}")


def in_file_dialog(tree, path):
    """Type a path where the dialog of files has its focus, and agree."""
    dialog = until(lambda: [each for each in tree.windows() if each.role != "frame"])[0]
    until(lambda: focused(dialog))
    tree.typed(str(path))
    tree.press("Return")


def test_a_whole_task_by_the_keyboard_of_a_real_screen(screen, tree, tmp_path, documents):
    """Choose a folder, ask, open the citation, gather it, export: by keys alone, told by the tree alone."""
    window = opened(screen, tree)
    tree.press("Ctrl+N")
    in_file_dialog(tree, documents)
    dialog = until(lambda: [each for each in tree.windows() if each.name.startswith("A new collection")])[0]
    for field in ("Passphrase", "The same again"):
        tab_to(tree, dialog, "text", field)
        tree.typed("several words of the loft")
    until(lambda: dialog.first("push button", "Read them").has("enabled"))
    tab_to(tree, dialog, "push button", "Read them")
    tree.press("Space")
    until(lambda: (shelf := window.first("list", "Documents on the shelf")) and len(shelf.children) == 3)
    until(lambda: window.first("push button", "Cancel what is being done") is None)

    ask(tree, window)
    assert "70" in tab_to(tree, window, "panel", "Found line, ").name
    page = until(lambda: window.first("text", "Page as read"))
    assert "relative humidity" in page.text

    tree.press("Ctrl+G")
    until(lambda: [each for each in window.walk() if each.name.startswith("Gathered into")])
    tree.press(f"Ctrl+{room_number('Brief') + 1}")
    until(
        lambda: (
            (entries := [each for each in window.walk() if each.name.startswith("Entries of the brief")])
            and entries[0].children
        )
    )
    tab_to(tree, window, "push button", "Save as ...")
    tree.press("Space")
    in_file_dialog(tree, tmp_path / "brief.docx")
    until((tmp_path / "brief.docx").exists)
    until(lambda: [each for each in window.walk() if each.name.startswith("Saved as")])
    assert read_citations(tmp_path / "brief.docx").citations
