# SPDX-License-Identifier: GPL-3.0-or-later
"""What has a collection's file alone, in the real window: questions wait, it can be stopped, and locking comes after it."""

import os
import threading

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QApplication, QLabel, QMessageBox, QToolTip

from redlantern.application.opening import NewKey
from redlantern.application.upkeep import change_key
from redlantern.collection import copying
from redlantern.desktop import bridge
from redlantern.desktop.absence import IDLE
from redlantern.desktop.question_bar import QUESTION_HINT
from redlantern.desktop.rooms import ROOMS
from redlantern.progress import Cancel, silent
from redlantern.safety.keys import Holding
from tests.desktop.conftest import WAIT_MS, ask, click_in_box, open_in, settle, when_shown

WORDS = "Everything is being encrypted anew."


@pytest.fixture
def slow_export(monkeypatch):
    """Copying a collection waits until it may go on, or is stopped."""
    begun, may_go_on = threading.Event(), threading.Event()
    real = copying.export

    def export(file, beside, key, salt, report, cancel):
        begun.set()
        while not may_go_on.wait(0.02):
            cancel.check()
        real(file, beside, key, salt, report, cancel)

    monkeypatch.setattr(copying, "export", export)
    yield begun, may_go_on
    may_go_on.set()


def begin(window, qtbot, begun):
    told = []
    collection = window.workspace.session.engine.collection
    window.workspace.upkeep.begin(
        lambda task: change_key(collection, NewKey(Holding.FILE), report=task.report, cancel=task.cancel),
        WORDS,
        finished=told.append,
        failed=told.append,
    )
    qtbot.waitUntil(begun.is_set, timeout=WAIT_MS)
    return told


def test_while_the_key_is_changed_questions_wait_and_the_window_says_why(filled, qtbot, slow_export):
    begun, may_go_on = slow_export
    salt = filled.workspace.session.engine.collection.file.salt
    told = begin(filled, qtbot, begun)
    assert not filled.bar.question.isEnabled() and not filled.bar.ask_button.isEnabled()
    assert filled.bar.question.placeholderText() == f"{WORDS} Questions wait until that is done."
    assert filled.status.cancel_button.isVisible() and not filled.status.hold_button.isVisible()
    assert not filled.desk.shelf.add_button.isEnabled() and not filled.workspace.updates.can_begin
    filled.desk.ask("What is the deposit?")
    assert not filled.workspace.is_asking
    may_go_on.set()
    qtbot.waitUntil(lambda: told == [[]], timeout=WAIT_MS)
    assert filled.bar.question.isEnabled() and filled.bar.question.placeholderText() == QUESTION_HINT
    assert filled.workspace.session.engine.collection.file.salt != salt
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    assert filled.desk.view.sheet.found_lines


def test_it_can_be_stopped_from_the_status_line_and_all_is_as_it_was(filled, qtbot, slow_export):
    begun, _ = slow_export
    salt = filled.workspace.session.engine.collection.file.salt
    told = begin(filled, qtbot, begun)
    qtbot.mouseClick(filled.status.cancel_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: told == ["Stopped. The collection is as it was."], timeout=WAIT_MS)
    assert filled.workspace.session.engine.collection.file.salt == salt
    assert filled.bar.question.isEnabled()
    settle(filled, qtbot)


@pytest.mark.parametrize("reason", ["", IDLE])
def test_locking_meanwhile_comes_after_it(filled, qtbot, slow_export, reason):
    """By hand it is broken off; where nobody is here it is let come to its end."""
    begun, may_go_on = slow_export
    collection = filled.workspace.session.engine.collection
    salt = collection.file.salt
    begin(filled, qtbot, begun)
    filled.door.lock(reason)
    assert not filled.door.is_locked
    if reason == IDLE:
        may_go_on.set()
    qtbot.waitUntil(lambda: filled.door.is_locked, timeout=WAIT_MS)
    assert (collection.path.read_bytes()[:16] != salt) == (reason == IDLE)
    may_go_on.set()
    filled.door.lock_page.unlock_button.click()
    qtbot.waitUntil(lambda: filled.workspace.session is not None and not filled.workspace.is_busy, timeout=WAIT_MS)
    again = filled.workspace.session.engine.collection
    assert [one.what for one in again.journal.entries() if one.what == "locked"] == ["locked"]
    assert list(again.journal.faults()) == []


ODD = ["<b>bold<b> &amp; <img src=x>.txt", "invoice\u202excod.txt", "two\nlines.txt"]


@pytest.fixture
def odd(window, qtbot, folder, make_engine, tmp_path):
    """The window on a collection with odd names, one of them refused."""
    for number, name in enumerate(ODD):
        (folder / name).write_text(f"The blower number {number} stands in the passage under the stairs.")
    (folder / os.fsdecode(b"caf\xe9.pdf")).write_bytes(b"%PDF-1.7\nnothing")
    engine = make_engine("odd.redlantern")
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    engine.collection.close()
    open_in(window, qtbot, tmp_path / "odd.redlantern")
    return window


def test_names_are_shown_as_they_are_and_never_as_markup(odd, qtbot):
    ask(odd, qtbot, "Where does the blower stand?")
    rooms = range(len(ROOMS))
    for room in rooms:
        odd.go_to(room)
        settle(odd, qtbot)
        for label in odd.findChildren(QLabel):
            if label.isVisible() and "<" in label.text() and label.textFormat() != Qt.TextFormat.RichText:
                assert label.textFormat() == Qt.TextFormat.PlainText, label.text()
    shown = [
        odd.shelf_room.table.model().data(odd.shelf_room.table.model().index(row, column))
        for row in range(odd.shelf_room.table.model().rowCount())
        for column in range(odd.shelf_room.table.model().columnCount())
    ]
    tips = [
        str(odd.shelf_room.table.model().data(odd.shelf_room.table.model().index(row, 1), Qt.ItemDataRole.ToolTipRole))
        for row in range(odd.shelf_room.table.model().rowCount())
    ]
    text = " ".join(str(one) for one in (*shown, *tips))
    assert "\u202e" not in text and "‹202E›" in text and "caf‹E9›" in text


def test_a_tip_and_a_message_show_markup_as_text(odd, qtbot):
    QToolTip.showText(QPoint(10, 10), "<b>bold</b>", odd)
    [tip] = [one for one in QApplication.topLevelWidgets() if one.inherits("QTipLabel")]
    assert tip.textFormat() == Qt.TextFormat.PlainText
    QToolTip.hideText()
    formats = []

    def look(box):
        formats.extend(label.textFormat() for label in box.findChildren(QLabel) if "<b>" in label.text())
        box.reject()

    when_shown(qtbot, QMessageBox, look)
    box = QMessageBox(odd)
    box.setText("<b>bold</b>")
    box.setInformativeText("<b>more</b>")
    box.exec()
    assert formats == [Qt.TextFormat.PlainText] * 2


def test_opening_outside_asks_first_and_never_opens_a_refused_file(odd, qtbot, monkeypatch):
    opened = []
    monkeypatch.setattr(QDesktopServices, "openUrl", lambda url: opened.append(url.toLocalFile()))
    odd.go_to(1)
    settle(odd, qtbot)
    room = odd.shelf_room
    refused = next(one for one in room.model.documents if one.is_refused)
    room.table.choose(refused.document_id)
    settle(odd, qtbot)
    room.row_actions.open_outside()
    assert opened == []
    contract = next(one for one in room.model.documents if one.path == "contract.md")
    room.table.choose(contract.document_id)
    settle(odd, qtbot)
    click_in_box(qtbot, "Leave it")
    room.row_actions.open_outside()
    assert opened == []
    click_in_box(qtbot, "Open")
    room.row_actions.open_outside()
    assert opened == [str(contract.file_path)]


def test_what_is_known_of_failures_can_be_copied(window, qtbot):
    clipboard = QApplication.clipboard()
    clipboard.setText("before")
    window.copy_failures()
    qtbot.waitUntil(lambda: window.status.activity.text() == "No failure was ever written down.", timeout=WAIT_MS)
    assert clipboard.text() == "before"

    def broken(task):
        raise ValueError("words of a document")

    told = []
    window.workspace.run(broken, failed=told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=WAIT_MS)
    assert "Something went wrong in redlantern (ValueError). Nothing was lost" in told[0] and "failures.log" in told[0]
    window.copy_failures()
    qtbot.waitUntil(lambda: "builtins.ValueError" in clipboard.text(), timeout=WAIT_MS)
    assert "words of a document" not in clipboard.text()
    settle(window, qtbot)


def test_no_task_outlives_what_it_was_started_for(filled, qtbot):
    """A task that nobody holds may be collected in any thread; one that is held for ever holds what it found."""
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    filled.door.lock()
    qtbot.waitUntil(lambda: not bridge._started(), timeout=WAIT_MS)
