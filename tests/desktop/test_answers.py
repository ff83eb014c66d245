# SPDX-License-Identifier: GPL-3.0-or-later
"""A person who checks answers: a thread of five questions, words that no line bears out, documents that differ, the model alone."""

import re
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QLabel, QPushButton

from redlantern.desktop.desk.differing import SideRow
from redlantern.desktop.widgets.rows import ClaimRow, LineRow
from redlantern.models.protocols import LanguageModelError, Written
from tests.conftest import SmallLanguageModel
from tests.desktop.conftest import WAIT_MS, ask, settle

ANSWERED = "At what relative humidity in the loft shall work cease?"
WRONG = "Work shall cease when the relative humidity in the loft exceeds 70 per cent for more than 48 hours."
DIFFER = {
    "mason.md": "# Letter of the mason of 3 May 2026\n\nThe completion date of the tower shall be moved by 41 working days.\n",
    "parish.md": "# Letter of the parish of 9 May 2026\n\nThe parish accepts that the completion date of the tower is moved by "
    "18 working days.\n",
}


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def button(widget, name):
    return next(one for one in widget.findChildren(QPushButton) if one.accessibleName() == name and one.isVisible())


def writes(language_model, monkeypatch, *pieces):
    def write(system, user, **rest):
        for piece in pieces:
            yield Written(piece)
        yield Written("", 10, 0, 10)

    monkeypatch.setattr(language_model, "write", write)


def claims(window):
    return [row for row in window.desk.view.rows if isinstance(row, ClaimRow)]


@pytest.fixture
def documents(documents):
    for name, text in DIFFER.items():
        (documents / name).write_text(text, encoding="utf-8")
    return documents


def test_a_thread_of_questions_with_all_that_may_happen_on_the_way(filled, qtbot, language_model, monkeypatch):
    view = filled.desk.view
    ask(filled, qtbot, ANSWERED)
    assert "70 per cent" in words_of(claims(filled)[0])
    # A follow-up is completed from the thread, shown, and left alone on demand.
    ask(filled, qtbot, "And for how many hours?")
    assert "humidity" in view.sheet.standalone_question
    assert f"searched as: {view.sheet.standalone_question}" in words_of(view)
    qtbot.mouseClick(button(view, "without the thread"), Qt.MouseButton.LeftButton)
    settle(filled, qtbot)
    assert view.sheet.standalone_question == "And for how many hours?"
    # A completed question is edited in the question bar.
    filled.desk.turn(-1)
    settle(filled, qtbot)
    qtbot.mouseClick(button(view, "Edit the question as it was searched for"), Qt.MouseButton.LeftButton)
    assert "humidity" in filled.bar.question.text()
    ask(filled, qtbot, "When is the log handed to Mr. Hale?")
    assert view.sheet.standalone_question == view.sheet.question
    ask(filled, qtbot, "Which planets have rings?")
    assert view.sheet.refused
    with monkeypatch.context() as changed:
        writes(language_model, changed, f"{WRONG} [1]")
        ask(filled, qtbot, ANSWERED)
    [row] = claims(filled)
    assert "not supported: “48” is not in the cited words" in words_of(row)
    # Documents that differ; then a stop in mid-answer, after which the found lines are all there.
    ask(filled, qtbot, "By how many working days is the completion date of the tower moved?")
    qtbot.waitUntil(lambda: "THE DOCUMENTS DIFFER" in words_of(view), timeout=WAIT_MS)
    language_model.waits_after = 2
    ask(filled, qtbot, "When is the log handed to Mr. Hale?", waits=False)
    qtbot.waitUntil(lambda: "being written; Esc stops" in words_of(view), timeout=WAIT_MS)
    qtbot.keyClick(filled, Qt.Key.Key_Escape)
    settle(filled, qtbot)
    qtbot.waitUntil(lambda: "The writing was stopped." in words_of(view), timeout=WAIT_MS)
    assert isinstance(view.rows[0], LineRow)
    language_model.waits_after = None
    # A model that crashes while it writes, and another one in its place.
    language_model.fails_after = 3
    ask(filled, qtbot, ANSWERED)
    qtbot.waitUntil(lambda: "stopped unexpectedly and will be started again" in words_of(view), timeout=WAIT_MS)
    assert not claims(filled)
    other = SmallLanguageModel()
    filled.workspace.session.engine.use_language_model(other)
    assert language_model.is_closed
    ask(filled, qtbot, ANSWERED)
    assert claims(filled) and other.prompts
    assert len(filled.desk.sheets) == 10


def test_words_that_no_line_bears_out_are_underlined(filled, qtbot, language_model, monkeypatch):
    writes(language_model, monkeypatch, f"{WRONG} [1]")
    ask(filled, qtbot, ANSWERED)
    [row] = claims(filled)
    marked = next(label for label in row.findChildren(QLabel) if "<span" in label.text())
    assert 'underline">48</span>' in marked.text()
    assert marked.text().count("<span") == 1


def test_weak_evidence_is_warned_of_above_the_lines(filled, qtbot):
    ask(filled, qtbot, ANSWERED)
    view = filled.desk.view
    view.show_sheet(replace(view.sheet, evidence_score=0.9))
    assert "The evidence is weak" not in words_of(view)
    view.show_sheet(replace(view.sheet, evidence_score=0.3))
    assert "The evidence is weak" in words_of(view)


def test_markup_in_a_claim_is_shown_as_text(filled, qtbot, language_model, monkeypatch):
    writes(language_model, monkeypatch, "The <b>loft</b> &amp; the 48 stand. [1]")
    ask(filled, qtbot, ANSWERED)
    [row] = claims(filled)
    marked = next(label for label in row.findChildren(QLabel) if "<span" in label.text())
    plain = re.sub(r"</?span[^>]*>", "", marked.text())
    assert "The &lt;b&gt;loft&lt;/b&gt; &amp;amp; the 48" in plain


def test_documents_that_differ_stand_side_by_side_and_open_their_pages(filled, qtbot):
    ask(filled, qtbot, "By how many working days is the completion date of the tower moved?")
    view, facsimile = filled.desk.view, filled.desk.facsimile
    sides = [row for row in view.rows if isinstance(row, SideRow)]
    assert {label.text() for row in sides for label in row.findChildren(QLabel)} >= {"41 days", "18 days", "3 May 2026"}
    assert "THE DOCUMENTS DIFFER" in words_of(view)
    for row in sides:
        qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda row=row: facsimile.span == (row.citation.start, row.citation.end), timeout=WAIT_MS)
        assert facsimile.document.document_id == row.citation.document_id


def test_the_model_alone_is_headed_as_unsupported(filled, qtbot, language_model, monkeypatch):
    ask(filled, qtbot, ANSWERED)
    writes(language_model, monkeypatch, "Humidity is", " water in the air.")
    part = filled.desk.view.model_alone
    qtbot.mouseClick(part.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Humidity is water in the air." in words_of(part), timeout=WAIT_MS)
    assert "THE MODEL ALONE, WITHOUT DOCUMENTS" in words_of(part)
    assert "No document supports any of this." in words_of(part)
    settle(filled, qtbot)
    # What is cited stays as it was.
    assert any(isinstance(row, LineRow) for row in filled.desk.view.rows)
    assert claims(filled)


def test_the_model_alone_is_stopped_and_may_fail(filled, qtbot, language_model, monkeypatch):
    ask(filled, qtbot, "Which planets have rings?")
    part = filled.desk.view.model_alone
    language_model.waits_after = 2
    qtbot.mouseClick(part.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Which planets" in words_of(part), timeout=WAIT_MS)
    qtbot.keyClick(filled, Qt.Key.Key_Escape)
    assert not filled.desk.model_alone.is_running
    assert "(stopped)" in words_of(part)
    settle(filled, qtbot)

    def fails(system, user, **rest):
        raise LanguageModelError("stopped unexpectedly and will be started again")
        yield

    monkeypatch.setattr(language_model, "write", fails)
    qtbot.mouseClick(part.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "stopped unexpectedly" in words_of(part), timeout=WAIT_MS)
    settle(filled, qtbot)
    assert part.button.isVisible()


BELLS = "The bells of the tower were last rung on Easter Sunday for a quarter of an hour."
REPORT = f"# Report on the tower\n\n## The bells\n\n{BELLS}\n" + "".join(
    f"Bell number {number} weighs {number}40 kilograms and hangs in a frame of oak.\n" for number in range(1, 6)
)
REPORT += "\n## The stair\n\n" + "".join(
    f"Step number {number} of the stair is worn by {number} centimetres on its left side.\n" for number in range(1, 7)
)


@pytest.fixture
def tower(documents, filled, qtbot):
    (documents / "tower.md").write_text(REPORT, encoding="utf-8")
    filled.workspace.updates.add(documents)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating and not filled.workspace.is_busy, timeout=WAIT_MS)
    return filled


def test_a_summary_is_written_section_by_section_and_can_be_stopped(tower, qtbot, language_model, monkeypatch):
    view = tower.desk.view
    gates = []

    def write(system, user, *, cancel, **rest):
        gates.append(user)
        while len(gates) > 1 and not cancel.is_set:
            cancel._event.wait(0.01)
        cancel.check()
        yield Written(f"{user.splitlines()[0].removeprefix('[1] ')} [1]")
        yield Written("", 10, 0, 10)

    monkeypatch.setattr(language_model, "write", write)
    ask(tower, qtbot, "Summarise the report on the tower", waits=False)
    qtbot.waitUntil(lambda: "1 of 2 sections written" in words_of(view), timeout=WAIT_MS)
    assert "THE WHOLE, IN THE DOCUMENTS' OWN WORDS" in words_of(view)
    qtbot.waitUntil(lambda: not view.is_building, timeout=WAIT_MS)
    assert len(claims(tower)) == 1
    # The other section still has its lines, word for word, and each opens its page.
    lines = [row for row in view.rows if isinstance(row, LineRow) and row.citation.path == "tower.md"]
    qtbot.mouseClick(lines[-1], Qt.MouseButton.LeftButton)
    facsimile = tower.desk.facsimile
    qtbot.waitUntil(lambda: facsimile.span == (lines[-1].citation.start, lines[-1].citation.end), timeout=WAIT_MS)
    qtbot.keyClick(tower, Qt.Key.Key_Escape)
    settle(tower, qtbot)
    assert "sections written" not in words_of(view)
    assert view.sheet.sections[0].claims
    tower.desk.turn(-1)
    tower.desk.turn(1)
    settle(tower, qtbot)
    assert len(claims(tower)) == 1


def test_the_document_at_the_right_is_summarised_by_its_menu_entry(tower, qtbot):
    ask(tower, qtbot, "When were the bells of the tower last rung?")
    qtbot.waitUntil(lambda: tower.workspace.shown_document is not None, timeout=WAIT_MS)
    next(one for one in tower.actions() if one.text() == "Summarise the document at the right").trigger()
    settle(tower, qtbot)
    assert [part.title for part in tower.desk.view.sheet.sections] == ["The bells", "The stair"]
    # What a layout takes in is visible one turn later.
    qtbot.waitUntil(lambda: "WRITTEN SUMMARY" in words_of(tower.desk.view), timeout=WAIT_MS)


def test_what_is_the_models_own_in_a_draft_stands_apart_and_is_copied_as_such(
    tower, qtbot, language_model, monkeypatch
):
    monkeypatch.setattr(language_model, "can_read", True)
    writes(language_model, monkeypatch, "I hope that you are well. [-] ", f"{BELLS} [1]")
    ask(tower, qtbot, "Draft a letter to the verger about when the bells of the tower were last rung")
    view = tower.desk.view
    qtbot.waitUntil(lambda: "DRAFT OF A LETTER" in words_of(view), timeout=WAIT_MS)
    assert "To the verger\nAbout when the bells of the tower were last rung" in words_of(view)
    assert "not from the documents: the model's own words, from no document" in words_of(view)
    assert [row.citation.path for row in claims(tower)] == ["tower.md"]
    qtbot.mouseClick(button(view, "Copy"), Qt.MouseButton.LeftButton)
    copied = QGuiApplication.clipboard().text()
    assert "I hope that you are well. [not from the documents]" in copied
    assert f"{BELLS} [{claims(tower)[0].citation.mark}]" in copied


def test_without_a_page_there_is_nothing_to_summarise_and_it_says_so(filled):
    next(one for one in filled.actions() if one.text() == "Summarise the document at the right").trigger()
    assert filled.status.activity.text() == ("Open a page first: the document at the right is the one that is meant.")
    assert filled.desk.sheets == []
