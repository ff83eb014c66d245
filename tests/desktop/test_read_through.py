# SPDX-License-Identifier: GPL-3.0-or-later
"""The room Read-through, driven as a person would: begin, look, judge, sample, statement, lists, go on, delete."""

import csv
import io

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from redlantern.application import briefs
from redlantern.application.read_through import COLUMNS
from redlantern.brief.writing.pdf import html_as_pdf
from redlantern.desktop.absence import IDLE, SLEEP
from redlantern.desktop.readthrough import outcomes
from redlantern.desktop.readthrough.dialogs import ListDialog, StatementDialog
from redlantern.desktop.readthrough.page_map import PageMap
from redlantern.desktop.readthrough.through_view import SAMPLE, TO_JUDGE
from tests.desktop.conftest import WAIT_MS, open_in

QUESTION = "every page that speaks of the hatch"


def settled(window, qtbot):
    qtbot.waitUntil(
        lambda: not window.workspace.is_busy and not window.read_through_room.judging.is_keeping, timeout=WAIT_MS
    )


@pytest.fixture
def room(filled, qtbot):
    """The room with a read-through done."""
    filled.go_to(2)
    settled(filled, qtbot)
    made = filled.read_through_room
    made.form.question.setText(QUESTION)
    qtbot.keyClick(made.form.question, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: made.view.through is not None and not made.view.through.covered.n_unread, timeout=WAIT_MS)
    qtbot.waitUntil(lambda: not made.view.is_running, timeout=WAIT_MS)
    settled(filled, qtbot)
    return made


@pytest.fixture
def shown(monkeypatch):
    """Dialogs as they were shown."""
    dialogs = []
    for name, kind in (("StatementDialog", StatementDialog), ("ListDialog", ListDialog)):
        quick = type(name, (kind,), {"exec": lambda self: dialogs.append(self)})
        monkeypatch.setattr(outcomes, name, quick)
    return dialogs


def places(view):
    return [(document.path, page.place[1]) for document, page in view.hits.pages.rows]


def test_the_form_says_what_each_way_costs_and_what_is_in_scope(filled, qtbot):
    filled.go_to(2)
    settled(filled, qtbot)
    form = filled.read_through_room.form
    assert form.scope.text().startswith("4 pages in 3 documents in scope")
    assert form._costs["lines"].text() == "about 1 s"
    # The stand-in model cannot read: the ways that need one say so and cannot be chosen.
    assert form._costs["all"].text() == "needs a language model that reads"
    assert not form.ways.button(1).isEnabled() and form.way == "lines"
    form.question.setText(" ? ")
    form.begin_button.click()
    settled(filled, qtbot)
    assert form.notice.text().startswith("Nothing is looked for yet")


def test_hits_come_with_their_words_and_the_page_beside(room, qtbot):
    view = room.view
    assert ("survey.pdf", 2) in places(view)
    at = places(view).index(("survey.pdf", 2))
    view.hits.setCurrentIndex(view.hits.pages.index(at))
    qtbot.waitUntil(lambda: view.facsimile.page is not None and view.facsimile.page.page_number == 2, timeout=WAIT_MS)
    start, end = view.facsimile.span
    assert "hatch" in view.facsimile.page.text[start:end].casefold()
    assert view.state.text().startswith("All 4 pages read")


def test_one_key_judges_and_is_kept_and_shown_on_the_map(room, filled, qtbot):
    view = room.view
    document, page = view.hits.current
    qtbot.keyClick(view.hits, Qt.Key.Key_A)
    settled(filled, qtbot)
    assert "accepted" in view.map.text()
    kept = filled.workspace.session.engine.collection.read_throughs.pages(view.through.key)
    assert [each.judged for each in kept if (each.document_key, each.page_number) == page.place] == ["accepted"]
    view.filter.setCurrentText("Accepted")
    assert places(view) == [(document.path, page.place[1])]
    qtbot.keyClick(view.hits, Qt.Key.Key_N)
    view.note.setText("see clause 9")
    qtbot.keyClick(view.note, Qt.Key.Key_Return)
    settled(filled, qtbot)
    kept = filled.workspace.session.engine.collection.read_throughs.pages(view.through.key)
    assert [(each.judged, each.note) for each in kept if each.note] == [("accepted", "see clause 9")]
    qtbot.keyClick(view.hits, Qt.Key.Key_O)
    settled(filled, qtbot)
    view.filter.setCurrentText(TO_JUDGE)
    view.show_rows()
    assert (document.path, page.place[1]) in places(view)


def test_a_sample_of_the_silent_pages_says_how_much_may_be_missed(room, filled, qtbot, shown):
    view = room.view
    view.filter.setCurrentText(SAMPLE)
    n_silent = view.through.covered.by_state["silent"]
    assert len(view.hits.pages.rows) == n_silent > 0
    assert "Drawn at random" in view.about.text()
    for _ in range(n_silent):
        qtbot.keyClick(view.hits, Qt.Key.Key_R)
        settled(filled, qtbot)
    assert f"{n_silent} of {n_silent} judged, 0 of them hits after all" in view.about.text()
    view.statement_button.click()
    settled(filled, qtbot)
    [dialog] = shown
    said = dialog.text.toPlainText()
    assert "Complete: every page in scope was read." in said
    assert "drawn at random" in said and "exact binomial interval" in said
    assert html_as_pdf(dialog.statement.as_html()).startswith(b"%PDF")


def test_the_statement_is_saved_whole(room, filled, qtbot, shown, tmp_path, monkeypatch):
    target = tmp_path / "said.txt"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    room.view.statement_button.click()
    settled(filled, qtbot)
    shown[0]._save("txt")
    settled(filled, qtbot)
    assert QUESTION in target.read_text() and str(target) in shown[0].said.text()
    assert target.stat().st_mode & 0o777 == 0o600


def test_the_map_is_walked_by_keys_and_said_in_words(room, qtbot):
    view = room.view
    page_map: PageMap = view.map
    text = page_map.text()
    assert text.count("page ") == 4 and "hit" in text
    chosen = []
    page_map.page_chosen.connect(chosen.append)
    page_map.go_to(None)
    first = page_map.current
    qtbot.keyClick(page_map, Qt.Key.Key_Right)
    assert page_map.current != first
    qtbot.keyClick(page_map, Qt.Key.Key_Left)
    qtbot.keyClick(page_map, Qt.Key.Key_Down)
    qtbot.keyClick(page_map, Qt.Key.Key_Return)
    assert chosen == [page_map.current]
    assert page_map.accessibleName().startswith("Map of all pages; ") and page_map.accessibleDescription() == text
    assert view.hits.current[1].place == chosen[0]
    silent = next(page.place for page in view.through.covered.pages if page.state == "silent")
    page_map.page_chosen.emit(silent)
    assert view.about.text().startswith("The line nearest to what is looked for is “")
    area = page_map.area_of(first)
    qtbot.mouseClick(page_map, Qt.MouseButton.LeftButton, pos=area.center())
    assert chosen[-1] == first


def test_an_example_compares_the_other_pages_anew(room, filled, qtbot):
    view = room.view
    key = view.through.key
    [more] = [button for button in view.example_buttons if button.text() == "More like this"]
    more.click()
    qtbot.waitUntil(lambda: bool(view.through.wish.examples) and not view.through.covered.n_unread, timeout=WAIT_MS)
    qtbot.waitUntil(lambda: not view.is_running, timeout=WAIT_MS)
    assert view.through.key == key and view.through.wish.examples[0].is_hit


def test_lists_are_filtered_sorted_saved_and_lead_to_the_page(room, filled, qtbot, shown, tmp_path, monkeypatch):
    room._go_back()
    settled(filled, qtbot)
    room.form.lists["sums"].click()
    settled(filled, qtbot)
    [dialog] = shown
    assert {row.item.value for row in dialog.listed()} >= {"340.00 EUR", "2150.00 EUR", "12400.00 EUR"}
    dialog.filter.setText("hatch")
    assert [row.item.value for row in dialog.listed()] == ["2150.00 EUR"]
    target = tmp_path / "sums.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    dialog.saving.emit("csv", dialog.listed())
    settled(filled, qtbot)
    rows = list(csv.reader(io.StringIO(target.read_text(encoding="utf-8-sig"))))
    assert [row[0] for row in rows] == ["value", "2150.00 EUR"]
    dialog.filter.setText("")
    dialog.table.selectRow(0)
    dialog.gather_button.click()
    settled(filled, qtbot)
    [entry] = briefs.briefs(filled.workspace.session.engine)[0].entries
    first = dialog.listed()[0]
    assert (entry.kind, entry.rows) == ("list", (COLUMNS, first.row)) and entry.text.endswith(": 1 value")
    assert entry.quotes[0].document_key == first.document.key and dialog.said.text().startswith("1 value gathered into")
    dialog.filter.setText("hatch")
    dialog.page_wanted.emit(dialog.listed()[0])
    qtbot.waitUntil(
        lambda: room.view.facsimile.page is not None and room.view.facsimile.page.page_number == 2, timeout=WAIT_MS
    )


def test_it_is_there_after_closing_and_can_be_deleted(room, filled, qtbot, tmp_path, monkeypatch):
    qtbot.keyClick(room.view.hits, Qt.Key.Key_A)
    settled(filled, qtbot)
    key = room.view.through.key
    filled.door.lock()
    open_in(filled, qtbot, tmp_path / "shown.redlantern")
    again = filled.read_through_room
    filled.go_to(2)
    settled(filled, qtbot)
    again.open(key)
    qtbot.waitUntil(lambda: again.view.through is not None, timeout=WAIT_MS)
    assert "accepted" in again.view.map.text()
    settled(filled, qtbot)
    again._go_back()
    settled(filled, qtbot)
    monkeypatch.setattr(QMessageBox, "exec", lambda self: None)
    monkeypatch.setattr(
        QMessageBox, "clickedButton", lambda self: next(each for each in self.buttons() if each.text() == "Delete it")
    )
    again._on_delete(key)
    settled(filled, qtbot)
    assert filled.workspace.session.engine.collection.read_throughs.all() == []


def test_the_question_of_the_desk_is_put_to_every_page(filled, qtbot):
    filled.workspace.shown_question = "Who has the key?"
    filled.between_rooms.read_through()
    settled(filled, qtbot)
    assert filled.read_through_room.form.question.text() == "Who has the key?"


def test_a_page_of_a_list_is_shown_without_a_read_through(filled, qtbot, shown):
    filled.go_to(2)
    settled(filled, qtbot)
    room = filled.read_through_room
    room.form.lists["duties"].click()
    settled(filled, qtbot)
    [dialog] = shown
    assert "The Builder" in {row.item.bearer for row in dialog.listed()}
    dialog.page_wanted.emit(dialog.listed()[0])
    qtbot.waitUntil(lambda: room.view.facsimile.page is not None, timeout=WAIT_MS)
    buttons = (room.view.go_on_button, room.view.pause_button, room.view.stop_button, room.view.more_button)
    assert not any(button.isVisible() for button in buttons) and not room.view.statement_button.isEnabled()
    room.view.back_button.click()
    settled(filled, qtbot)
    assert room.form.isVisible()


def test_a_room_without_a_collection_does_nothing(window, qtbot):
    window.go_to(2)
    room = window.read_through_room
    assert not room.form.begin_button.isEnabled() and not room.form.question.isEnabled()
    room.begin(QUESTION, "", "lines")
    assert room.view.through is None


def test_nobody_being_there_does_not_end_it_but_the_machine_going_to_sleep_does(filled, qtbot):
    filled.workspace.is_reading_through = True
    filled.door._on_absence(IDLE)
    assert not filled.door.is_locked
    filled.door._on_absence(SLEEP)
    qtbot.waitUntil(lambda: filled.door.is_locked, timeout=WAIT_MS)
