# SPDX-License-Identifier: GPL-3.0-or-later
"""The shelf room, driven as a user does: list, report, look first, pause, take out and undo, read again, drop."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog

from redlantern.desktop.shelf.documents_table import how_read, kind_name, tick_of
from redlantern.desktop.widgets.status import StatusLine
from redlantern.progress import Progress
from redlantern.safety import seal
from tests.conftest import write_pdf
from tests.desktop.conftest import WAIT_MS, open_in, settle
from tests.reading import makers
from tests.reading.test_hostile import locked_pdf


def room_of(window):
    window.go_to(1)
    return window.shelf_room


def choose(window, qtbot, word):
    """Choose the document whose path holds a word, and wait for its report."""
    room = room_of(window)
    document = next(one for one in room.model.documents if word in one.path)
    room.table.choose(document.document_id)
    settle(window, qtbot)
    return document


def cells(room, row):
    model = room.table.model()
    return [model.index(row, column).data() for column in range(model.columnCount())]


def test_the_list_says_what_was_read_and_how(filled, qtbot, documents):
    room = room_of(filled)
    settle(filled, qtbot)
    assert cells(room, 0)[:5] == ["CON", "Contract for the restoration", "Markdown", "1", "2"]
    assert cells(room, 2)[2:8] == ["PDF", "2", "2", "English", "text", "read"]
    assert room._count.text() == "3 documents, 4 pages"


def test_the_list_is_filtered_and_sorted(filled, qtbot):
    room = room_of(filled)
    qtbot.keyClicks(room.filter, "pdf engl")
    assert [one.path for one in room.table.shown()] == ["survey.pdf"]
    assert room._count.text() == "1 of 3 shown, 2 pages"
    room.filter.clear()
    room.table.sortByColumn(3, Qt.SortOrder.DescendingOrder)
    assert room.table.shown()[0].path == "survey.pdf"


def test_a_click_on_the_box_and_space_change_the_scope_of_the_desk(filled, qtbot):
    room = room_of(filled)
    index = room.table.model().index(0, 0)
    place = tick_of(room.table.visualRect(index)).center()
    qtbot.mouseClick(room.table.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert len(filled.workspace.scope) == 2
    room.table.selectAll()
    qtbot.keyClick(room.table, Qt.Key.Key_Space)
    # Not all of the chosen were in scope, so all are taken in first.
    assert filled.workspace.scope is None
    qtbot.keyClick(room.table, Qt.Key.Key_Space)
    assert filled.workspace.scope == frozenset()


def test_the_report_shows_the_page_as_printed_and_as_read(filled, qtbot):
    choose(filled, qtbot, "survey")
    report = filled.shelf_room.report
    qtbot.waitUntil(lambda: not report.printed.picture.isNull(), timeout=WAIT_MS)
    assert [row.block.kind for row in report.text.rows] == ["paragraph", "paragraph"]
    assert [tokens for _, _, tokens, _ in report.text.passages] and report._place.text().startswith("page 1 of 2")
    report.turn(1)
    settle(filled, qtbot)
    assert "hatch" in report.page.text
    report.turn(1)
    settle(filled, qtbot)
    assert report.page.page_number == 2


def test_the_report_stays_on_its_page_while_other_documents_are_read(filled, qtbot, documents):
    choose(filled, qtbot, "survey")
    report = filled.shelf_room.report
    report.turn(1)
    settle(filled, qtbot)
    rows = report.text.rows
    (documents / "minutes.md").write_text("# Minutes\n\nThe hatch was looked at.\n")
    filled.workspace.updates.add(documents / "minutes.md")
    qtbot.waitUntil(lambda: len(filled.shelf_room.model.documents) == 4, timeout=WAIT_MS)
    settle(filled, qtbot)
    assert report.page.page_number == 2 and report.text.rows is rows


def test_the_report_follows_the_row_however_quickly_it_is_changed(filled, qtbot):
    first = choose(filled, qtbot, "survey")
    other = next(document for document in filled.shelf_room.model.documents if document != first)
    filled.shelf_room.table.choose(other.document_id)
    filled.shelf_room.table.choose(first.document_id)
    settle(filled, qtbot)
    assert filled.shelf_room.report.document == first


def test_pointing_at_a_block_marks_it_on_both_sides(filled, qtbot):
    choose(filled, qtbot, "survey")
    report = filled.shelf_room.report
    report.text.rows[1].pointed.emit(1)
    [box] = report.printed.boxes
    assert 135 < box.top < 155
    # It stays marked when the report gets another width.
    filled.resize(filled.width() - 60, filled.height())
    settle(filled, qtbot)
    assert report.printed.boxes == [box]
    report.light(-1)
    assert report.printed.boxes == []
    # And back: the mouse on the printed line lights the block.
    report.printed.pointed.emit(box.left + 3, (box.top + box.bottom) / 2)
    assert [row.number for row in report.text.rows if "border-left: 3px solid #" in row.styleSheet()] == [1]


def test_a_table_is_shown_as_one_with_the_values_it_was_read_as(filled, qtbot):
    choose(filled, qtbot, "contract")
    from PyQt6.QtWidgets import QLabel

    table = next(row for row in filled.shelf_room.report.text.rows if row.block.kind == "table")
    hints = {label.text(): label.toolTip() for label in table.findChildren(QLabel)}
    assert hints["31.250,50 EUR"] == "read as 31250.50 EUR"
    assert hints["Deposit"] == ""


def test_taking_out_forgets_the_document_for_updates_too_and_can_be_undone(filled, qtbot):
    room = room_of(filled)
    document = choose(filled, qtbot, "survey")
    qtbot.keyClick(room.table, Qt.Key.Key_Delete)
    settle(filled, qtbot)
    assert "survey.pdf" not in [one.path for one in room.model.documents]
    assert document.file_path.exists() and room.removal.isVisible()
    filled.workspace.updates.read_again({})
    qtbot.waitUntil(lambda: not filled.workspace.is_updating and not filled.workspace.is_busy, timeout=WAIT_MS)
    assert len(room.model.documents) == 2
    room.removal.undo_button.click()
    qtbot.waitUntil(lambda: len(room.model.documents) == 3 and not filled.workspace.is_updating, timeout=WAIT_MS)
    assert not room.removal.isVisible()
    settle(filled, qtbot)


def test_a_locked_file_is_read_with_its_password(window, qtbot, tmp_path, monkeypatch):
    folder = tmp_path / "locked"
    folder.mkdir()
    (folder / "locked.pdf").write_bytes(locked_pdf())
    open_in(window, qtbot, tmp_path / "a.redlantern", creates=True)
    window.workspace.updates.add(folder)
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    document = choose(window, qtbot, "locked")
    room = window.shelf_room
    assert "A password is needed" in room.report._warning.text()
    assert kind_name(document) == "PDF"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("wrong", True))
    room.row_actions.again_button.click()
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    assert "password does not open it" in room.model.documents[0].reason
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("sesame", True))
    room.table.selectRow(0)
    room.row_actions.again_button.click()
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    assert not room.model.documents[0].is_refused
    # It is kept nowhere: not in the collection either.
    assert b"sesame" not in (tmp_path / "a.redlantern").read_bytes()


def test_what_changed_or_went_away_on_disk_is_told(filled, qtbot, documents):
    (documents / "survey.pdf").unlink()
    (documents / "contract.md").write_text("# Another contract\n\nNew words.")
    room = room_of(filled)
    settle(filled, qtbot)
    states = {one.path: room.model.state(one) for one in room.model.documents}
    assert states["survey.pdf"] == "missing"
    assert states["contract.md"] == "changed on disk"


def test_attachments_stand_under_their_message_and_open_from_it(window, qtbot, tmp_path):
    folder = tmp_path / "mail"
    folder.mkdir()
    (folder / "key.eml").write_bytes(makers.message())
    open_in(window, qtbot, tmp_path / "a.redlantern", creates=True)
    window.workspace.updates.add(folder)
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    room = room_of(window)
    assert [cells(room, row)[1] for row in range(3)] == ["The key of the yard", "↳ keys", "↳ .._tool.bin"]
    choose(window, qtbot, "keys.csv")
    assert "Schlüssel" in room.report.page.text
    assert room.model.documents[2].is_refused


def test_a_look_keeps_nothing_and_shows_what_settings_change(window, qtbot, tmp_path, documents):
    open_in(window, qtbot, tmp_path / "a.redlantern", creates=True)
    room = room_of(window)
    (documents / "broken.pdf").write_bytes(b"%PDF-1.4 cut")
    room.look_first.look_at([documents])
    qtbot.waitUntil(lambda: room.preview.preview is not None and not window.workspace.is_busy, timeout=WAIT_MS)
    assert "Read for a look: 4 files, 1 refused" in room.preview._title.text()
    before = room.preview._counts.text()
    room.preview.by_record.setChecked(True)
    room.preview.tokens.setValue(40)
    settle(window, qtbot)
    assert room.preview._counts.text() != before
    assert room.preview.add_button.text() == "Add with the changed settings"
    assert window.workspace.session.engine.collection.documents() == []
    room.preview.add_button.click()
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    table = next(one for one in room.model.documents if one.path == "contract.md")
    passages = window.workspace.session.engine.collection.page_passages(table.document_id, 1)
    # Each row of the table is one passage.
    assert sum("Stage | Sum | Due" in heading for *_, heading in passages) == 2


def test_a_look_can_be_ended_while_it_reads(window, qtbot, tmp_path, documents):
    open_in(window, qtbot, tmp_path / "a.redlantern", creates=True)
    room = room_of(window)
    room.look_first.look_at([documents])
    room.preview.close_button.click()
    settle(window, qtbot)
    assert room.preview.preview is None
    assert room._stack.currentWidget() is room._empty


@pytest.fixture
def reading(window, qtbot, tmp_path):
    """The window while it reads thirty files, some of them done."""
    folder = tmp_path / "many"
    folder.mkdir()
    for number in range(30):
        write_pdf(folder / f"{number}.pdf", [[(72, 72, f"Paper number {number} about the hatch.")]])
    open_in(window, qtbot, tmp_path / "a.redlantern", creates=True)
    window.workspace.updates.add(folder)
    qtbot.waitUntil(lambda: len(window.workspace.documents_in_scope.readable) > 2, timeout=WAIT_MS)
    return window


def test_reading_can_be_paused_and_goes_on(reading, qtbot):
    reading.status.hold_button.click()
    assert reading.status.hold_button.text() == "Resume"
    collection = reading.workspace.session.engine.collection
    counts = []

    def is_still():
        # Held when it comes to it: no document in thirty looks.
        counts.append(len(collection.documents()))
        return len(counts) >= 30 and len(set(counts[-30:])) == 1

    qtbot.waitUntil(is_still, timeout=WAIT_MS)
    assert counts[-1] < 30
    reading.status.hold_button.click()
    qtbot.waitUntil(lambda: not reading.workspace.is_updating and not reading.workspace.is_busy, timeout=WAIT_MS)
    assert len(reading.workspace.documents_in_scope.readable) == 30


def test_a_paused_reading_can_be_cancelled(reading, qtbot):
    reading.status.hold_button.click()
    reading.status.cancel_button.click()
    qtbot.waitUntil(lambda: not reading.workspace.is_updating and not reading.workspace.is_busy, timeout=WAIT_MS)
    assert 2 < len(reading.workspace.documents_in_scope.readable) < 30


def test_progress_names_documents_pages_and_the_time_left(dressed, qtbot):
    status = StatusLine(seal.state())
    qtbot.addWidget(status)
    status.begin("Looking ...")
    status._began -= 10
    status.show_progress(Progress("Reading and indexing", 5, 15, "documents", "41 pages, 246 a minute · contract.pdf"))
    assert status.activity.text() == (
        "Reading and indexing: 5 of 15 documents, about 20 s left · 41 pages, 246 a minute · contract.pdf"
    )


def test_how_a_document_was_read_is_said_in_words(filled):
    from dataclasses import replace

    [document, *_] = filled.workspace.session.documents
    assert how_read(document) == "text"
    assert how_read(replace(document, n_recognised=1, confidence=0.91)) == "recognised, 91% sure"
    assert how_read(replace(document, n_pages=4, n_recognised=1, confidence=0.9)) == "1 p. recognised, 90% sure"
    assert how_read(replace(document, is_refused=True)) == ""


def test_the_empty_room_says_what_to_do(window, qtbot, tmp_path):
    room = room_of(window)
    assert room._stack.currentWidget() is room._empty
    open_in(window, qtbot, tmp_path / "a.redlantern", creates=True)
    from PyQt6.QtWidgets import QPushButton

    assert [one.text() for one in room._empty.findChildren(QPushButton)][-3:] == [
        "Add a folder ...",
        "Add files ...",
        "Look first ...",
    ]


def test_the_report_can_take_most_of_the_room(filled, qtbot):
    choose(filled, qtbot, "survey")
    room = filled.shelf_room
    before = room.splitter.sizes()[1]
    qtbot.keyClick(room.table, Qt.Key.Key_Return)
    assert room.splitter.sizes()[1] > before
    qtbot.keyClick(room.table, Qt.Key.Key_Return)
    assert room.splitter.sizes()[1] < room.height() * 6 // 10
