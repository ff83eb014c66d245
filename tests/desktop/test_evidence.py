# SPDX-License-Identifier: GPL-3.0-or-later
"""A person who wants to know why a passage is there, why a page is not, and what may be asked."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog, QLabel

from redlantern.desktop.widgets.rows import EvidenceRow
from tests.desktop.conftest import WAIT_MS, ask, open_in, settle

ANSWERED = "At what relative humidity in the loft shall work cease?"


def evidence(window):
    return [row for row in window.desk.view.rows if isinstance(row, EvidenceRow)]


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def entries(menu):
    return {action.text(): action for action in menu.actions() if action.text()}


@pytest.fixture
def asked(filled, qtbot):
    ask(filled, qtbot, ANSWERED)
    return filled


def test_a_chosen_passage_says_why_it_is_there(asked, qtbot):
    first, second = evidence(asked)[:2]
    assert not first.more.isVisible()
    qtbot.mouseClick(first, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(first.more.isVisible, timeout=WAIT_MS)
    assert first.why_words.startswith("It has “relative”, “humidity”")
    assert first.why_words in words_of(first)
    assert first.why_words in first.accessibleName()
    qtbot.keyClick(first, Qt.Key.Key_Down)
    assert second.more.isVisible()
    assert not first.more.isVisible()


def test_a_passage_is_put_aside_for_the_thread_and_brought_back(asked, qtbot):
    best = evidence(asked)[0]
    qtbot.keyClick(best, Qt.Key.Key_Delete)
    settle(asked, qtbot)
    assert best.evidence.citation.text not in [row.evidence.citation.text for row in evidence(asked)]
    assert "1 passage put aside in this thread" in words_of(asked.desk.view)
    ask(asked, qtbot, "relative humidity")
    assert best.evidence.citation.text not in [row.evidence.citation.text for row in evidence(asked)]
    asked.desk.view.bring_back_wanted.emit()
    settle(asked, qtbot)
    assert best.evidence.citation.text in [row.evidence.citation.text for row in evidence(asked)]
    assert "put aside" not in words_of(asked.desk.view)


def test_a_pinned_passage_comes_first_until_it_is_let_go(asked, qtbot):
    last = evidence(asked)[-1].evidence
    qtbot.keyClick(evidence(asked)[-1], Qt.Key.Key_P)
    settle(asked, qtbot)
    first = evidence(asked)[0]
    assert (first.evidence.citation.text, first.evidence.is_pinned) == (last.citation.text, True)
    ask(asked, qtbot, "slates on the south slope")
    assert evidence(asked)[0].evidence.citation.text == last.citation.text
    asked.desk.view.pin_wanted.emit(evidence(asked)[0].evidence)
    settle(asked, qtbot)
    assert not any(row.evidence.is_pinned for row in evidence(asked))


def test_what_was_put_aside_in_one_collection_is_not_in_the_next(asked, qtbot, tmp_path):
    best = evidence(asked)[0].evidence.citation.text
    qtbot.keyClick(evidence(asked)[0], Qt.Key.Key_Delete)
    settle(asked, qtbot)
    open_in(asked, qtbot, tmp_path / "shown.redlantern")
    ask(asked, qtbot, ANSWERED)
    assert evidence(asked)[0].evidence.citation.text == best
    assert "put aside" not in words_of(asked.desk.view)


def test_a_page_that_was_not_found_says_what_held_it_back(asked, qtbot):
    survey = next(one for one in asked.workspace.session.documents if one.path == "survey.pdf")
    asked.desk.pages.show_page(survey.document_id, 1)
    settle(asked, qtbot)
    asked.desk.view.why_not_wanted.emit()
    qtbot.waitUntil(lambda: "by its meaning" in words_of(asked.desk.view), timeout=WAIT_MS)
    assert f"{survey.call_mark} page 1. Its best passage stands " in words_of(asked.desk.view)
    asked.workspace.documents_in_scope.set_in_scope([survey], False)
    asked.desk.view.why_not_wanted.emit()
    qtbot.waitUntil(lambda: "not in the scope of the question" in words_of(asked.desk.view), timeout=WAIT_MS)


def test_a_mended_word_can_be_searched_as_it_was_typed(filled, qtbot):
    ask(filled, qtbot, "What is the relative humidty?")
    assert filled.desk.view.sheet.mended == {"humidty": "humidity"}
    filled.desk.view.as_typed_wanted.emit(filled.desk.view.sheet.standalone_question)
    settle(filled, qtbot)
    assert filled.desk.view.sheet.mended == {}


def test_phrases_in_quotation_marks_are_looked_up(filled, qtbot):
    ask(filled, qtbot, '"hatch"')
    sheet = filled.desk.view.sheet
    assert sheet.places == "2 places on 1 page of 1 document"
    assert "2 PLACES ON 1 PAGE OF 1 DOCUMENT" in words_of(filled.desk.view)
    assert [one.citation.text for one in sheet.found_lines] == [
        "The hatch is closed by a single hook.",
        "A new hatch would cost 2.150,00 EUR.",
    ]
    assert evidence(filled) == []


def test_a_scope_is_chosen_named_kept_and_forgotten(filled, qtbot, monkeypatch, tmp_path):
    scopes, model = filled.scopes, filled.workspace.documents_in_scope
    scopes.fill()
    assert not entries(scopes)["Keep this scope as ..."].isEnabled()
    folders = next(action.menu() for action in scopes.actions() if action.text() == "Only one folder")
    entries(folders)["letters   1"].trigger()
    assert len(model.scope()) == 1
    assert filled.bar.scope_button.text() == "1 of 3"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: (" the letters ", True))
    scopes.fill()
    entries(scopes)["Keep this scope as ..."].trigger()
    qtbot.waitUntil(lambda: not filled.workspace.is_busy, timeout=WAIT_MS)
    model.set_all_in_scope(True)
    open_in(filled, qtbot, tmp_path / "shown.redlantern")
    scopes = filled.scopes
    scopes.fill()
    entries(scopes)["the letters   1"].trigger()
    assert len(filled.workspace.documents_in_scope.scope()) == 1
    scopes.forget("the letters")
    scopes.fill()
    assert "the letters   1" not in entries(scopes)


def test_of_many_documents_those_that_speak_to_the_question_come_first(asked, qtbot):
    shelf = asked.desk.shelf
    assert not shelf.best_first.isVisible()

    def marks():
        return [shelf.model.index(row).data().split()[0] for row in range(shelf.model.rowCount())]

    by_path = marks()
    ask(asked, qtbot, "slates on the south slope")
    assert marks() == by_path
    shelf.best_first.setChecked(True)
    survey = next(one.call_mark for one in asked.workspace.session.documents if one.path == "survey.pdf")
    assert marks()[0] == survey != by_path[0]
    ask(asked, qtbot, ANSWERED)
    assert marks()[0] == by_path[0]
    shelf.best_first.setChecked(False)
    assert marks() == by_path


def test_the_shelf_shows_only_what_is_looked_for_and_takes_that_into_scope(asked, qtbot):
    shelf, model = asked.desk.shelf, asked.workspace.documents_in_scope
    n_documents = model.n_documents
    shelf.filter.setText("letters KEY")
    assert [document.path for document in model._shown] == ["letters/key.txt"]
    qtbot.mouseClick(shelf.none_button, Qt.MouseButton.LeftButton)
    assert len(asked.workspace.scope) == len(model.readable) - 1
    shelf.filter.setText("nowhere at all")
    assert model.rowCount() == 0 and shelf._count.text().startswith(f"SHELF  {len(model.readable)} documents")
    shelf.filter.clear()
    assert model.rowCount() == n_documents
    qtbot.mouseClick(shelf.all_button, Qt.MouseButton.LeftButton)
    assert asked.workspace.scope is None


def test_only_the_open_document_or_all_but_it(asked, qtbot):
    settle(asked, qtbot)
    shown = asked.desk.facsimile.document
    asked.scopes.fill()
    entries(asked.scopes)[f"Only {shown.call_mark}, whose page is open"].trigger()
    assert asked.workspace.scope == {shown.document_id}
    entries(asked.scopes)["All documents"].trigger()
    entries(asked.scopes)[f"All but {shown.call_mark}"].trigger()
    assert shown.document_id not in asked.workspace.scope
    assert len(asked.workspace.scope) == 2
