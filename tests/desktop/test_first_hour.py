# SPDX-License-Identifier: GPL-3.0-or-later
"""The first hour: the first page, what a folder holds before it is read, dropping and pasting, examples, scratch collections."""

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import QApplication, QFileDialog, QLabel, QMessageBox, QPushButton

from redlantern.collection.store import Collection
from redlantern.desktop.file_import import paths_in
from redlantern.desktop.widgets.import_dialog import ImportDialog
from redlantern.desktop.widgets.new_place import KeepDialog
from redlantern.safety.keys import Holding
from redlantern.safety.places import data_directory
from tests.desktop.conftest import WAIT_MS, ask, close, open_in, settle, when_shown

PASSPHRASE = "seven grey herons"


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def agree_when_looked_over(qtbot, choose=lambda dialog: None):
    """Agree to the next dialog about what arrives, once it has looked."""

    def act(dialog):
        qtbot.waitUntil(lambda: dialog.survey is not None, timeout=WAIT_MS)
        choose(dialog)
        assert dialog.agree_button.isEnabled()
        dialog.agree_button.click()

    when_shown(qtbot, ImportDialog, act)


def dropped(window, *paths):
    """As the window system tells it: first that something is held over the window, then that it was let go."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(window, QDragEnterEvent(QPointF(9, 9).toPoint(), copy, data, left, none))
    QApplication.sendEvent(window, QDropEvent(QPointF(9, 9), copy, data, left, none))


def read_to_the_end(window, qtbot, n_documents):
    qtbot.waitUntil(
        lambda: len(window.workspace.documents_in_scope.readable) == n_documents and not window.workspace.is_updating,
        timeout=WAIT_MS,
    )
    settle(window, qtbot)


def in_file(place):
    def choose(dialog):
        dialog.new_place.field.setText(str(place))
        dialog.new_place.choice.buttons[Holding.FILE].click()

    return choose


def scratch(dialog):
    dialog.new_place.choice.scratch_button.click()


def scratch_files():
    return [path for path in (data_directory() / "scratch").rglob("*") if path.is_file()]


@pytest.fixture(autouse=True)
def at_home(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("HOME", str(tmp_path))


def test_the_first_page_says_what_to_do_and_has_the_room_to_itself(window):
    said = words_of(window)
    assert "1   Choose a folder" in said and "2   It is read on this machine" in said and "3   Ask, and check" in said
    assert not window.desk.shelf.isVisible() and not window.desk.facsimile.isVisible()
    assert window.desk.start_pages.first_page.demo_button.isVisible()


def test_a_new_collection_is_made_from_a_chosen_folder(window, qtbot, documents, tmp_path, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(documents))
    (documents / "old.doc").write_bytes(b"\xd0\xcf\x11\xe0more")
    shown = []

    def choose(dialog):
        shown.append(words_of(dialog))
        assert not dialog.agree_button.isEnabled(), "a passphrase is wanted first"
        in_file(tmp_path / "made")(dialog)

    agree_when_looked_over(qtbot, choose)
    [first] = [one for one in window.findChildren(QPushButton) if one.objectName() == "first" and one.isVisible()]
    qtbot.mouseClick(first, Qt.MouseButton.LeftButton)
    read_to_the_end(window, qtbot, 3)
    assert (tmp_path / "made.redlantern").is_file()
    assert "3 files" in shown[0] and "1 × an Office file of the old kind" in shown[0]
    # Choosing nothing leaves everything as it was.
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: "")
    window.file_import.choose_new()
    assert window.workspace.session is not None


def test_a_name_that_is_taken_is_said_before_anything_is_made(window, qtbot, documents, tmp_path):
    (tmp_path / "taken.redlantern").write_text("something else")

    def act(dialog):
        qtbot.waitUntil(lambda: dialog.survey is not None, timeout=WAIT_MS)
        in_file(tmp_path / "taken")(dialog)
        assert not dialog.agree_button.isEnabled()
        assert "There is a file of this name already" in words_of(dialog)
        dialog.reject()

    when_shown(qtbot, ImportDialog, act)
    window.file_import.take([documents])
    assert window.workspace.session is None


def test_a_few_files_that_are_dropped_are_read_at_once_and_a_folder_is_looked_over_first(filled, qtbot, tmp_path):
    (tmp_path / "more").mkdir()
    for number in range(3):
        (tmp_path / "more" / f"{number}.txt").write_text(f"Note {number} says that the yard was swept.")
    dropped(filled, tmp_path / "more" / "0.txt")
    read_to_the_end(filled, qtbot, 4)
    agree_when_looked_over(qtbot)
    dropped(filled, tmp_path / "more")
    read_to_the_end(filled, qtbot, 6)


def test_a_collection_that_is_dropped_is_opened(window, qtbot, tmp_path):
    Collection.create(tmp_path / "other.redlantern").close()
    dropped(window, tmp_path / "other.redlantern")
    qtbot.waitUntil(lambda: window.workspace.session is not None and not window.workspace.is_busy, timeout=WAIT_MS)


def test_files_are_pasted_into_the_question_as_files(filled, qtbot, tmp_path):
    (tmp_path / "note.txt").write_text("The yard was swept on Monday.")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "note.txt"))])
    QApplication.clipboard().setMimeData(data)
    filled.bar.question.setFocus()
    qtbot.keySequence(filled.bar.question, QKeySequence(QKeySequence.StandardKey.Paste))
    read_to_the_end(filled, qtbot, 4)
    assert filled.bar.question.text() == ""
    QApplication.clipboard().setText("what is due?")
    qtbot.keySequence(filled.bar.question, QKeySequence(QKeySequence.StandardKey.Paste))
    assert filled.bar.question.text() == "what is due?", "words stay words"


def test_a_list_of_paths_is_one_of_files_and_any_other_text_is_none(tmp_path):
    (tmp_path / "a.txt").write_text("words")
    data = QMimeData()
    data.setText(f"{tmp_path}\n{tmp_path / 'a.txt'}\n")
    assert paths_in(data) == [tmp_path, tmp_path / "a.txt"]
    for text in ("", "a.txt", f"{tmp_path}\nand more", f"{tmp_path / 'gone.txt'}"):
        data.setText(text)
        assert paths_in(data) == []


def test_examples_are_made_of_the_documents_headings_and_asked_by_a_click(filled, qtbot):
    page = filled.desk.start_pages
    qtbot.waitUntil(
        lambda: any("humidity" in button.text() for button in page.findChildren(QPushButton)), timeout=WAIT_MS
    )
    [button] = [one for one in page.findChildren(QPushButton) if "humidity" in one.text()]
    button.click()
    settle(filled, qtbot)
    assert filled.desk.sheets[-1].question == "What is said about humidity?"
    assert filled.desk.shelf.isVisible() and filled.desk.facsimile.isVisible()


def test_a_scratch_collection_goes_when_it_is_closed(window, qtbot, documents):
    agree_when_looked_over(qtbot, scratch)
    window.file_import.take([documents])
    read_to_the_end(window, qtbot, 3)
    assert "Scratch" in window.windowTitle() and scratch_files()
    assert not window.seal_room.move_button.isEnabled() or window.seal_room.standing is None
    window.go_to(7)
    qtbot.waitUntil(lambda: window.seal_room.standing is not None, timeout=WAIT_MS)
    assert not window.seal_room.move_button.isEnabled() and not window.seal_room.key_button.isEnabled()
    window.door.lock("The machine went to sleep.")
    assert window.workspace.session is not None, "nobody could open it again"
    window.door.lock()
    qtbot.waitUntil(lambda: not scratch_files(), timeout=WAIT_MS)
    assert window.workspace.session is None and not window.door.is_locked
    assert window.desk.start_pages.first_page.isVisible()


def test_erasing_it_in_the_seal_room_says_that_it_is_gone(window, qtbot, documents):
    agree_when_looked_over(qtbot, scratch)
    window.file_import.take([documents])
    read_to_the_end(window, qtbot, 3)
    press(qtbot, "Erase")
    window.seal_actions.erase_collection()
    qtbot.waitUntil(lambda: not scratch_files() and not window.workspace.is_busy, timeout=WAIT_MS)
    qtbot.waitUntil(lambda: "is erased" in window.seal_room.notice.text(), timeout=WAIT_MS)


def with_scratch_sheet(window, qtbot, documents):
    agree_when_looked_over(qtbot, scratch)
    window.file_import.take([documents])
    read_to_the_end(window, qtbot, 3)
    ask(window, qtbot, "At what relative humidity in the loft shall work cease?")


def press(qtbot, words):
    def act(box):
        next(button for button in box.buttons() if button.text() == words).click()

    when_shown(qtbot, QMessageBox, act)


def test_a_scratch_collection_with_sheets_is_not_lost_by_closing_the_window(window, qtbot, documents):
    with_scratch_sheet(window, qtbot, documents)
    press(qtbot, "Stay")
    window.close()
    assert window.isVisible() and window.workspace.session is not None and scratch_files()
    press(qtbot, "Erase and go on")
    close(window, qtbot)
    assert not scratch_files()


def test_a_scratch_collection_can_be_kept_instead(window, qtbot, documents, tmp_path):
    with_scratch_sheet(window, qtbot, documents)
    target = tmp_path / "kept.redlantern"

    def act(dialog):
        dialog.new_place.field.setText(str(target))
        dialog.new_place.choice.first.setText(PASSPHRASE)
        dialog.new_place.choice.second.setText(PASSPHRASE)
        dialog.agree_button.click()

    press(qtbot, "Keep it ...")
    when_shown(qtbot, KeepDialog, act)
    window.close()
    qtbot.waitUntil(
        lambda: (
            window.workspace.session is not None
            and window.workspace.session.engine.collection.path == target
            and not window.workspace.is_busy
        ),
        timeout=WAIT_MS,
    )
    qtbot.waitUntil(lambda: not scratch_files(), timeout=WAIT_MS)
    assert [sheet.question for sheet in window.desk.sheets] == [
        "At what relative humidity in the loft shall work cease?"
    ]
    kept = Collection.open(target, PASSPHRASE)
    assert len(kept.documents()) == 3
    kept.close()


def test_the_demo_is_one_click_away(window, qtbot, monkeypatch):
    """The reading of its documents has tests of its own."""
    opened = []
    monkeypatch.setattr(window.door, "open_collection", lambda path, **words: opened.append((path, words["creates"])))
    window.desk.start_pages.first_page.demo_button.click()
    [(path, creates)] = opened
    assert path.name == "Oriel Hall file.redlantern" and creates


def test_collections_that_were_open_are_listed_on_the_first_page(window, qtbot, tmp_path):
    open_in(window, qtbot, tmp_path / "A & B.redlantern", creates=True)
    close_it = window.desk.start_pages.first_page
    window._on_known([tmp_path / "A & B.redlantern"])
    names = [one.text() for one in close_it.findChildren(QPushButton) if one.objectName() == "known"]
    assert "A && B" in names
