# SPDX-License-Identifier: GPL-3.0-or-later
"""The room Side by side: one question in several ways, what differs, and what each step of finding does with it."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog

from redlantern.answering.sheet import AnsweredSheet, Claim, FoundLine
from redlantern.collection.values import Citation
from redlantern.desktop.sidebyside import room as side_room
from redlantern.desktop.widgets.sheet_columns import ONLY_HERE, OTHERWISE, SheetColumns
from redlantern.desktop.widgets.way_settings import NO_WAY, Chosen, SettingsDialog
from redlantern.settings import Method
from redlantern.trials.contrasts import contrasts
from tests.conftest import ReadingModel
from tests.desktop.conftest import WAIT_MS, ask, settle

WET = "At what relative humidity shall work cease?"


@pytest.fixture
def language_model():
    model = ReadingModel()
    model.writes = ["Work shall cease above 70 per cent. [1]"]
    return model


@pytest.fixture
def room(filled, qtbot):
    filled.go_to(3)
    qtbot.waitUntil(lambda: not filled.workspace.is_busy, timeout=WAIT_MS)
    return filled.side_by_side_room


def cite(text, page=1):
    return Citation(1, "A", "The log", "a.md", page, 0, len(text), text, ())


def sheet(lines=(), claims=()):
    found = tuple(FoundLine(cite(text), 1.0) for text in lines)
    made = tuple(Claim(text, "supported", (cite(text),)) for text in claims)
    return AnsweredSheet("q", "q", found_lines=found, claims=made)


def words(widget):
    return [label.text() for label in widget.findChildren(object) if hasattr(label, "text") and callable(label.text)]


def test_a_question_is_answered_in_two_ways_and_its_rows_open_their_pages(filled, room, qtbot):
    assert [choice.combo.currentText() for choice in room.choices] == ["Found lines", "As it is", NO_WAY]
    room.question.setText(WET)
    qtbot.keyClick(room.question, Qt.Key.Key_Return)
    assert not room.begin_button.isEnabled() and room.stop_button.isVisibleTo(room)
    qtbot.waitUntil(lambda: room._task is None and len(room.sheets) == 2, timeout=WAIT_MS)
    assert all(is_done for _, is_done in room.sheets.values())
    lines, written = (room.sheets[number][0] for number in (0, 1))
    assert not lines.claims and written.claims[0].text == "Work shall cease above 70 per cent."
    # Nothing is kept of it: neither a sheet nor an entry in the journal.
    collection = filled.workspace.session.engine.collection
    assert collection.kept_sheets.all() == []
    assert [entry for entry in collection.journal.entries() if entry.what == "asked"] == []
    first = room.columns.columns[0]
    assert first.accessibleName() == "Answered by: Found lines"
    qtbot.mouseClick(first.rows[0], Qt.MouseButton.LeftButton)
    assert filled.rooms.currentWidget() is filled.desk
    qtbot.waitUntil(lambda: filled.desk.facsimile.document is not None, timeout=WAIT_MS)
    assert filled.desk.facsimile.document.path == "contract.md"


def test_what_the_model_was_given_is_shown(filled, room, qtbot, monkeypatch):
    shown = []
    monkeypatch.setattr(
        side_room, "GivenDialog", lambda sheet, parent: type("D", (), {"exec": lambda self: shown.append(sheet)})()
    )
    room.question.setText(WET)
    room.begin()
    qtbot.waitUntil(lambda: room._task is None and len(room.sheets) == 2, timeout=WAIT_MS)
    room.columns.given_wanted.emit(room.sheets[1][0])
    assert [prompt.purpose for prompt in shown[0].given] == ["judge", "write"]


def test_it_is_stopped_with_what_was_found_standing(filled, room, qtbot, language_model):
    language_model.waits_after = 1
    room.question.setText(WET)
    room.begin()
    qtbot.waitUntil(lambda: 1 in room.sheets, timeout=WAIT_MS)
    filled.escape()
    qtbot.waitUntil(lambda: room._task is None, timeout=WAIT_MS)
    assert room.notice.text() == "Stopped. What was answered stands."
    assert room.sheets[0][1] and not room.sheets[1][1]
    language_model.waits_after = None


def test_an_empty_question_is_told_and_the_desks_question_is_taken_over(filled, room, qtbot):
    room.question.clear()
    room.begin()
    assert room.notice.text() == "The question is empty. Type what you want to find."
    filled.go_to(0)
    ask(filled, qtbot, WET)
    qtbot.keyClick(filled, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    assert filled.rooms.currentWidget() is room and room.question.text() == WET


def test_a_way_with_other_settings_is_named_by_them(filled, room, qtbot, monkeypatch):
    def choose(dialog):
        box, spin = dialog.boxes["reranked"]
        box.setChecked(True)
        spin.setValue(0)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(SettingsDialog, "exec", choose)
    room.choices[0].settings_button.click()
    assert room.choices[0].way.arrangement.settings == {"reranked": 0}
    assert room.choices[0].way.arrangement.name == "Found lines (passages compared word by word 0)"
    assert room.choices[0].settings_button.text() == "Settings: 1 differs"
    given = Chosen({"word_weight": 2.5}, has_thread=False, pattern="letters/*")
    assert SettingsDialog(Method(), given, room).chosen() == given
    room.choices[0].set_differing(Chosen(pattern="survey.pdf"))
    room.question.setText(WET)
    room.begin()
    qtbot.waitUntil(lambda: room._task is None and len(room.sheets) == 2, timeout=WAIT_MS)
    assert {passage.citation.path for passage in room.sheets[0][0].passages} == {"survey.pdf"}


def test_what_only_one_way_has_is_marked_and_what_speaks_against_another(dressed, qtbot):
    one, other = sheet(["dry", "wet"], ["It is 70 per cent wet."]), sheet(["dry"], ["It is 75 per cent wet."])
    columns = SheetColumns()
    qtbot.addWidget(columns)
    columns.show_sheets([("A", one, ""), ("B", other, "")])
    first, second = map(words, columns.columns)
    assert ONLY_HERE in first and ONLY_HERE not in second
    assert OTHERWISE in first and OTHERWISE in second
    [alone] = contrasts([one])
    assert alone.lines == alone.claims == alone.against == frozenset()
    same = contrasts([one, one])
    assert same[0] == same[1] == alone


def test_the_steps_of_finding_stand_side_by_side(filled, room, qtbot):
    room.question.setText(WET)
    room.views.button(1).click()
    steps = room.steps
    qtbot.waitUntil(lambda: steps.tried is not None and not filled.workspace.is_busy, timeout=WAIT_MS)
    assert room.begin_button.text() == "Rank" and not room._choice_row.isVisibleTo(room)
    assert [title for title, _ in steps.tried.columns] == ["By words", "By meaning", "Both together", "Looked at again"]
    assert all(len(rows) for rows in steps.rows)
    assert [row.passage.passage_id for row in steps.rows[3]] == [each.passage_id for each in steps.tried.columns[3][1]]
    chosen = steps.rows[3][0]
    qtbot.mouseClick(chosen, Qt.MouseButton.LeftButton)
    lit = [row for rows in steps.rows for row in rows if row._is_chosen]
    assert {row.passage.passage_id for row in lit} == {chosen.passage.passage_id}
    with_it = [
        each for _, passages in steps.tried.columns for each in passages if each.passage_id == chosen.passage.passage_id
    ]
    assert len(lit) == len(with_it) >= 2
    qtbot.keyClick(chosen, Qt.Key.Key_Return)
    assert filled.rooms.currentWidget() is filled.desk
    qtbot.waitUntil(lambda: filled.desk.facsimile.span == chosen.passage.span, timeout=WAIT_MS)
    settle(filled, qtbot)
