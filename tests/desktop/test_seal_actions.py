# SPDX-License-Identifier: GPL-3.0-or-later
"""Locking, keys, plans, erasing and changed documents, in the real window."""

import gc
import json
import os

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLabel

from redlantern.collection.file import CollectionFile
from redlantern.collection.store import Collection
from redlantern.collection.upkeep import change_key
from redlantern.desktop.absence import IDLE, SLEEP, Absence
from redlantern.progress import Cancel, silent
from redlantern.reading.values import Page
from redlantern.retrieval.index import Index
from redlantern.safety.keys import Holding
from tests.desktop.conftest import WAIT_MS, answer_key_dialog, ask, click_in_box, close, open_in, settle

PASSPHRASE = "seven grey herons"


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def seal_room(window, qtbot):
    window.go_to(7)
    qtbot.waitUntil(lambda: window.seal_room.standing is not None and not window.workspace.is_busy, timeout=WAIT_MS)
    return window.seal_room


def said(window, qtbot, words):
    """Wait until the seal room says something that begins so."""
    qtbot.waitUntil(lambda: window.seal_room.notice.text().startswith(words), timeout=WAIT_MS)
    settle(window, qtbot)


def give_passphrase(window, qtbot):
    room = seal_room(window, qtbot)

    def choose(dialog):
        dialog.buttons[Holding.PASSPHRASE].click()
        dialog.choice.first.setText("short")
        assert not dialog.agree_button.isEnabled()
        dialog.choice.first.setText(PASSPHRASE)
        dialog.choice.second.setText(PASSPHRASE + "?")
        assert not dialog.agree_button.isEnabled()
        dialog.choice.second.setText(PASSPHRASE)

    answer_key_dialog(qtbot, choose)
    room.key_button.click()
    said(window, qtbot, "Encrypted anew.")


def type_passphrase(window, qtbot, words):
    page = window.door.lock_page
    qtbot.waitUntil(lambda: page.passphrase.isEnabled(), timeout=WAIT_MS)
    page.passphrase.clear()
    qtbot.keyClicks(page.passphrase, words)
    qtbot.keyClick(page.passphrase, Qt.Key.Key_Return)


def test_a_passphrase_is_set_and_asked_for_and_a_wrong_one_is_told(filled, qtbot):
    window, path = filled, filled.workspace.session.engine.collection.path
    give_passphrase(window, qtbot)
    assert seal_room(window, qtbot).standing.holding is Holding.PASSPHRASE
    window.door.open_collection(path)
    qtbot.waitUntil(lambda: window.door.is_locked, timeout=WAIT_MS)
    type_passphrase(window, qtbot, "six grey herons")
    qtbot.waitUntil(lambda: window.door.lock_page.problem.text() != "", timeout=WAIT_MS)
    assert window.door.lock_page.problem.text().startswith("This is not the passphrase.")
    type_passphrase(window, qtbot, PASSPHRASE)
    qtbot.waitUntil(lambda: not window.door.is_locked and window.workspace.session is not None, timeout=WAIT_MS)
    settle(window, qtbot)
    assert len(window.workspace.documents_in_scope.readable) == 3
    assert window.door.lock_page.passphrase.text() == ""
    assert window.workspace.session.idle_minutes == 15


def test_locking_drops_everything_from_memory_and_screen(filled, qtbot):
    window = filled
    ask(window, qtbot, "At what humidity must work cease?")
    settle(window, qtbot)
    collection = window.workspace.session.engine.collection
    key = collection.file._key
    assert any(key)
    del collection
    qtbot.keyClick(window, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert window.door.is_locked

    def alive():
        gc.collect()
        found = [one for one in gc.get_objects() if isinstance(one, CollectionFile | Index | Page)]
        # The fixture itself holds a file that it has closed.
        return [one for one in found if not isinstance(one, CollectionFile) or any(one._key)]

    # The old rooms are deleted by the loop.
    qtbot.waitUntil(lambda: alive() == [], timeout=WAIT_MS)
    assert not any(key)
    shown = words_of(window) + window.windowTitle() + window.bar.collection_button.text() + window.bar.question.text()
    for words in ("humidity", "Contract", "CON", "shown", "survey"):
        assert words not in shown
    assert not window.bar.question.isEnabled()
    window.door.lock_page.unlock_button.click()
    qtbot.waitUntil(lambda: not window.door.is_locked and window.workspace.session is not None, timeout=WAIT_MS)
    settle(window, qtbot)
    assert window.desk.view.sheet.question == "At what humidity must work cease?"
    entries = [one.what for one in window.workspace.session.engine.collection.journal.entries()]
    assert entries[-2:] == ["locked", "opened"]


def test_nobody_there_and_sleep_are_noticed(window, qtbot):
    now, slept, told = [0.0], [0.0], []
    absence = Absence(window, clock=lambda: now[0], asleep=lambda: slept[0])
    absence.noticed.connect(told.append)
    absence.idle_minutes = 5
    now[0] = 299
    absence.look()
    qtbot.mouseClick(window, Qt.MouseButton.LeftButton)
    now[0] = 500
    absence.look()
    assert told == []
    now[0] = 601
    absence.look()
    assert told == [IDLE]
    slept[0] = 60
    absence.look()
    absence.look()
    absence.on_sleep(True)
    absence.on_sleep(False)
    assert told == [IDLE, SLEEP, SLEEP]
    absence.idle_minutes = 0
    now[0] = 10_000
    absence.look()
    assert len(told) == 3
    absence._timer.stop()


def test_the_window_locks_when_nobody_is_there(filled, qtbot):
    filled.door.absence.noticed.emit(SLEEP)
    assert filled.door.is_locked
    assert "The machine went to sleep." in words_of(filled.door.lock_page)


def test_a_plan_is_shown_first_and_then_carried_out(filled, qtbot, documents):
    (documents / "new.txt").write_text("The blower stands in the passage under the stairs.")
    (documents / "contract.md").write_text("# Contract\n\nWork shall cease above 65 per cent.")
    (documents / "survey.pdf").unlink()
    qtbot.keyClick(filled, Qt.Key.Key_F5)
    pane = filled.shelf_room.update_pane
    qtbot.waitUntil(lambda: pane.isVisible() and pane.plan is not None, timeout=WAIT_MS)
    groups = [pane.tree.topLevelItem(row).text(0) for row in range(pane.tree.topLevelItemCount())]
    assert groups == [
        "New   1", "Changed: read again, in place of what was read before   1", "Gone from the folders: taken out   1",
        "Followed: looked at by every update   1",
    ]  # fmt: skip
    assert len(filled.workspace.session.documents) == 3
    assert "Nothing has been changed yet. 1 file is as when they were read." in words_of(
        pane
    ) or "1 file is" in words_of(pane)
    pane.agree_button.click()
    qtbot.waitUntil(lambda: not filled.workspace.is_updating and not filled.workspace.is_busy, timeout=WAIT_MS)
    assert sorted(one.path for one in filled.workspace.session.documents) == [
        "contract.md",
        "letters/key.txt",
        "new.txt",
    ]
    qtbot.keyClick(filled, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: pane.isVisible() and not pane.plan.has_work, timeout=WAIT_MS)
    assert "Everything is up to date" in words_of(pane)
    followed = pane.tree.topLevelItem(pane.tree.topLevelItemCount() - 1)
    assert (followed.text(0), followed.child(0).text(0)) == ("Followed: looked at by every update   1", "documents")
    assert not pane.unfollow_button.isEnabled()
    pane.tree.setCurrentItem(followed.child(0))
    pane.unfollow_button.click()
    qtbot.waitUntil(lambda: pane.plan.looked_at == [] and not filled.workspace.is_busy, timeout=WAIT_MS)
    assert len(filled.workspace.session.documents) == 3
    qtbot.keyClick(filled, Qt.Key.Key_Escape)
    assert not pane.isVisible()


def test_a_watched_folder_tells_and_acts_only_when_told_to(filled, qtbot, documents, monkeypatch):
    from redlantern.indexing import watch

    monkeypatch.setattr(watch.FolderWatch.__init__, "__kwdefaults__", {"quiet_s": 0.05})
    filled.workspace.updates.watch("tell")
    qtbot.waitUntil(
        lambda: filled.workspace.updates._watch is not None and not filled.workspace.is_busy, timeout=WAIT_MS
    )
    (documents / "one.txt").write_text("The blower stands in the passage.")
    qtbot.waitUntil(lambda: filled.desk.shelf.update_button.text() == "Update (1)", timeout=WAIT_MS)
    settle(filled, qtbot)
    assert len(filled.workspace.session.documents) == 3
    filled.workspace.updates.watch("update")
    qtbot.waitUntil(
        lambda: filled.workspace.updates._watch is not None and not filled.workspace.is_busy, timeout=WAIT_MS
    )
    (documents / "two.txt").write_text("The pump stands in the yard.")
    qtbot.waitUntil(lambda: len(filled.workspace.session.documents) == 5, timeout=WAIT_MS)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating and not filled.workspace.is_busy, timeout=WAIT_MS)
    assert filled.workspace.session.engine.collection.facts.get("watching") == "update"


def test_a_sheet_says_that_its_document_changed_and_shows_the_difference(filled, qtbot, documents):
    ask(filled, qtbot, "At what relative humidity shall work cease?")
    assert "changed since" not in words_of(filled.desk.view)
    text = (documents / "contract.md").read_text()
    (documents / "contract.md").write_text(text.replace("70 per cent", "65 per cent"))
    filled.workspace.updates.add(documents)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating and not filled.workspace.is_busy, timeout=WAIT_MS)
    # As if the window had been closed and opened again.
    path = filled.workspace.session.engine.collection.path
    open_in(filled, qtbot, path)
    qtbot.waitUntil(lambda: "was changed since" in words_of(filled.desk.view), timeout=WAIT_MS)
    assert "CON (Contract for the restoration) was changed since. The words below are as they stood on" in words_of(
        filled.desk.view
    )
    assert "70 per cent" in words_of(filled.desk.view)
    # The page is shown as it is now, and nothing is marked that is not what was cited.
    facsimile = filled.desk.facsimile
    qtbot.waitUntil(lambda: facsimile.page is not None and "65 per cent" in facsimile.page.text, timeout=WAIT_MS)
    assert facsimile.span is None
    qtbot.keyClick(filled, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(filled, qtbot)
    qtbot.waitUntil(lambda: "COMPARED WITH THE SHEET OF" in words_of(filled.desk.view), timeout=WAIT_MS)
    shown = words_of(filled.desk.view)
    assert shown.index("then") < shown.index("70 per cent") < shown.index("65 per cent")
    assert len(filled.desk.sheets) == 2


def test_documents_are_erased_after_a_yes_with_what_sheets_cite(filled, qtbot):
    ask(filled, qtbot, "At what relative humidity shall work cease?")
    room = filled.shelf_room
    filled.go_to(1)
    contract = next(one for one in room.model.documents if one.path == "contract.md")
    room.table.choose(contract.document_id)
    settle(filled, qtbot)
    click_in_box(qtbot, "Leave them")
    room.row_actions.erase_button.click()
    assert len(room.model.documents) == 3
    click_in_box(qtbot, "Erase")
    room.row_actions.erase_button.click()
    qtbot.waitUntil(lambda: len(room.model.documents) == 2 and not filled.workspace.is_busy, timeout=WAIT_MS)
    told = room.removal.words.text()
    assert told.startswith(
        "Erased: 1 document, with what was cited from them in 1 sheet. Looked through the file: nothing of it"
    )
    filled.go_to(0)
    assert "A document was erased" in words_of(filled.desk.view)
    assert "70 per cent" not in words_of(filled.desk.view)


def test_a_second_window_may_ask_but_not_change(filled, qtbot, dressed, language_model):
    from redlantern.application.opening import Models
    from redlantern.desktop.window import Window
    from tests.conftest import SmallEmbedder, SmallLanguageModel

    second = Window(Models(SmallEmbedder, SmallLanguageModel))
    second.show()
    try:
        open_in(second, qtbot, filled.workspace.session.engine.collection.path)
        assert f"Open for questions only: it is open in another window or command (process {os.getpid()})." in words_of(
            second.status
        )
        assert not second.desk.shelf.add_button.isEnabled()
        ask(second, qtbot, "At what relative humidity shall work cease?")
        assert second.desk.view.sheet.found_lines
        # What would pull the file away from under the other is refused.
        filled.seal_room.key_button.click()
    finally:
        close(second, qtbot)


def test_a_backup_a_new_name_a_check_and_the_journal(filled, qtbot, tmp_path, monkeypatch):
    room = seal_room(filled, qtbot)
    targets = iter(["copy", "renamed", "journal.jsonl"])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / next(targets)), ""))
    answer_key_dialog(
        qtbot, lambda dialog: (dialog.choice.first.setText(PASSPHRASE), dialog.choice.second.setText(PASSPHRASE))
    )
    room.backup_button.click()
    said(filled, qtbot, f"{tmp_path / 'copy.redlantern'} holds everything")
    copy = Collection.open(tmp_path / "copy.redlantern", PASSPHRASE)
    assert len(copy.documents()) == 3
    copy.close()
    room.move_button.click()
    said(filled, qtbot, "The collection is now")
    assert filled.bar.collection_button.text() == "renamed"
    assert (tmp_path / "renamed.redlantern").exists() and not (tmp_path / "shown.redlantern").exists()
    room.check_button.click()
    said(filled, qtbot, "The collection is whole")
    room.export_button.click()
    said(filled, qtbot, "8 entries written")
    kinds = [json.loads(line)["what"] for line in (tmp_path / "journal.jsonl").read_text().splitlines()]
    assert kinds == ["made", "added", "added", "added", "opened", "backed up", "moved", "exported"]
    room.plain_button.click()
    qtbot.waitUntil(lambda: "None. " in room._plain.text(), timeout=WAIT_MS)
    room.questions_box.click()
    qtbot.waitUntil(lambda: not filled.workspace.session.engine.collection.journal.keeps_questions, timeout=WAIT_MS)
    settle(filled, qtbot)


def test_a_collection_is_erased_after_a_yes(filled, qtbot):
    path = filled.workspace.session.engine.collection.path
    room = seal_room(filled, qtbot)
    click_in_box(qtbot, "Leave it")
    room.erase_button.click()
    assert path.exists()
    click_in_box(qtbot, "Erase")
    room.erase_button.click()
    qtbot.waitUntil(lambda: not path.exists() and not filled.workspace.is_busy, timeout=WAIT_MS)
    assert filled.workspace.session is None
    assert "survey" not in words_of(filled.desk)


def test_everything_is_erased_only_after_the_word_was_typed(filled, qtbot, monkeypatch):
    path = filled.workspace.session.engine.collection.path
    room = seal_room(filled, qtbot)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("yes", True))
    room.erase_all_button.click()
    said(filled, qtbot, "Nothing was erased.")
    assert path.exists()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("erase", True))
    room.erase_all_button.click()
    said(filled, qtbot, "Everything is erased.")
    assert not path.exists()


def test_a_model_server_is_chosen_for_the_next_start(window, qtbot, monkeypatch):
    from redlantern.safety.loopback import choose_server, chosen_server

    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("10.0.0.1:80", True))
    window.go_to(7)
    window.seal_room.server_button.click()
    said(window, qtbot, "“10.0.0.1:80” is not an address")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("127.0.0.1:8080", True))
    window.seal_room.server_button.click()
    said(window, qtbot, "Close and start Red Lantern again")
    assert chosen_server().address == "127.0.0.1:8080"
    assert "will be used when Red Lantern is started again" in window.seal_room._server.text()
    choose_server(None)


@pytest.mark.parametrize("room", [0, 1, 2])
def test_every_control_of_the_rooms_has_a_name(filled, qtbot, room):
    from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QSpinBox

    filled.go_to(room)
    settle(filled, qtbot)
    for widget in filled.findChildren((QAbstractButton, QComboBox, QLineEdit, QSpinBox)):
        if widget.isVisible() and not widget.objectName().startswith("qt_"):
            assert widget.accessibleName() or getattr(widget, "text", str)(), widget


def test_another_collection_is_asked_too_and_cannot_be_changed_here(filled, qtbot, make_engine, tmp_path, monkeypatch):
    place = tmp_path / "others"
    place.mkdir()
    (place / "blower.txt").write_text("The blower stands in the passage under the north stairs of the hall.")
    other = make_engine("other.redlantern")
    other.collection.claim_writing()
    other.update([place], report=silent, cancel=Cancel())
    change_key(other.collection, Holding.PASSPHRASE, PASSPHRASE)
    other.collection.close()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "other.redlantern"), ""))
    typed = iter([("six", True), (PASSPHRASE, True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: next(typed))
    filled.other_collections.choose()
    qtbot.waitUntil(lambda: "Asked together with other." in filled.status.activity.text(), timeout=WAIT_MS)
    assert filled.bar.scope_button.text() == "All 4"
    ask(filled, qtbot, "Where does the blower stand in the passage of the hall?")
    assert any("north stairs" in one.citation.text for one in filled.desk.view.sheet.passages)
    filled.go_to(1)
    room = filled.shelf_room
    foreign = next(one for one in room.model.documents if one.beside)
    room.table.choose(foreign.document_id)
    settle(filled, qtbot)
    assert not room.row_actions.remove_button.isEnabled() and not room.row_actions.erase_button.isEnabled()
    filled.other_collections.ask_alone()
    qtbot.waitUntil(lambda: filled.bar.scope_button.text() == "All 3", timeout=WAIT_MS)
    settle(filled, qtbot)
