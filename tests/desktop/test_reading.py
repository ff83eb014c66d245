# SPDX-License-Identifier: GPL-3.0-or-later
"""A person who asks a model that reads: the found lines at once, the answer in its own place above them, nothing that moves."""

import threading

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QPushButton

from redlantern.answering import asking
from redlantern.answering.writing import second_search
from redlantern.application import models as models_work
from redlantern.desktop.widgets.rows import ClaimRow, LineRow
from redlantern.models.register import CLOSE_READER, LIGHT_READER
from tests.conftest import ReadingModel
from tests.desktop.conftest import WAIT_MS, ask, settle

HUMIDITY = "At what relative humidity in the loft shall work cease?"
TRUE = "Work shall cease when the relative humidity in the loft exceeds 70 per cent for more than 24 hours."


@pytest.fixture
def language_model():
    return ReadingModel()


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def first_line_at(view):
    row = next(row for row in view.rows if isinstance(row, LineRow))
    return row.mapTo(view, row.rect().topLeft()).y()


def held_after_the_verdict(window, qtbot, language_model):
    view = window.desk.view
    language_model.writes = [TRUE]
    language_model.waits_after = 0
    ask(window, qtbot, HUMIDITY, waits=False)
    qtbot.waitUntil(lambda: "the documents answer; writing" in words_of(view), timeout=WAIT_MS)
    return view


def test_the_answer_comes_above_the_lines_and_nothing_moves(filled, qtbot, language_model):
    view = held_after_the_verdict(filled, qtbot, language_model)
    qtbot.waitUntil(lambda: not view.is_building, timeout=WAIT_MS)
    before = first_line_at(view)
    assert isinstance(view.rows[0], LineRow)
    language_model.waits_after = None
    settle(filled, qtbot)
    qtbot.waitUntil(lambda: isinstance(view.rows[0], ClaimRow), timeout=WAIT_MS)
    assert first_line_at(view) == before
    # The page shows what the answer stands on.
    assert view.chosen is view.rows[0]


def test_a_line_that_the_reader_chose_meanwhile_stays_chosen(filled, qtbot, language_model):
    view = held_after_the_verdict(filled, qtbot, language_model)
    view.choose(1)
    chosen = view.chosen
    language_model.waits_after = None
    settle(filled, qtbot)
    assert view.chosen is chosen and any(isinstance(row, ClaimRow) for row in view.rows)


def test_a_refusal_stands_in_the_answers_place_over_what_the_nearest_lines_say(filled, qtbot, language_model):
    view = filled.desk.view
    language_model.says_yes = {HUMIDITY: 0.001}
    ask(filled, qtbot, HUMIDITY)
    qtbot.waitUntil(lambda: "The documents in scope do not answer this." in words_of(view), timeout=WAIT_MS)
    assert "WHAT THE NEAREST LINES SAY" in words_of(view) and "FOUND LINES" not in words_of(view)
    assert "NEAREST PASSAGES" in words_of(view) and "EVIDENCE" not in words_of(view)
    assert isinstance(view.rows[0], LineRow)
    # The same when the sheet is opened again.
    ask(filled, qtbot, "When is the log handed to Mr. Hale?")
    filled.desk.turn(-1)
    settle(filled, qtbot)
    assert "The documents in scope do not answer this." in words_of(view)
    assert "WHAT THE NEAREST LINES SAY" in words_of(view)


def test_the_models_words_that_were_searched_with_as_well_stand_under_the_answer(
    filled, qtbot, language_model, monkeypatch
):
    monkeypatch.setattr(second_search, "SEARCHED_AGAIN", 1.1)
    monkeypatch.setattr(asking, "SEARCHED_AGAIN_FROM", 0)
    language_model.writes = ["damp; rafters", TRUE]
    ask(filled, qtbot, HUMIDITY)
    view = filled.desk.view
    qtbot.waitUntil(lambda: isinstance(view.rows[0], ClaimRow), timeout=WAIT_MS)
    assert "the model's were searched with, too: damp; rafters." in words_of(view)
    language_model.says_yes = {HUMIDITY: 0.001}
    ask(filled, qtbot, HUMIDITY)
    qtbot.waitUntil(lambda: filled.desk.view.sheet.refused, timeout=WAIT_MS)
    assert "searched with, too" in words_of(view)


def test_a_part_that_is_not_answered_is_named(filled, qtbot, language_model):
    view = filled.desk.view
    language_model.says_yes = {"captain": 0.001}
    language_model.writes = [TRUE]
    ask(filled, qtbot, f"{HUMIDITY[:-1]}, and who is the captain of the ferry?")
    qtbot.waitUntil(lambda: "WRITTEN ANSWER, IN PART" in words_of(view), timeout=WAIT_MS)
    assert "The documents do not say: “Who is the captain of the ferry?”" in words_of(view)


def test_what_the_light_reader_answered_is_read_more_closely_on_demand(filled, qtbot, language_model, monkeypatch):
    view, engine = filled.desk.view, filled.workspace.session.engine
    close = ReadingModel()
    close.writes, close.name = [TRUE], "close stand-in"
    engine.reader_beside.make = lambda word: close if word == "close" else None
    monkeypatch.setattr(models_work, "reader_of", lambda word: CLOSE_READER)
    language_model.name = LIGHT_READER.name
    language_model.says_yes = {HUMIDITY: 0.001}
    ask(filled, qtbot, HUMIDITY)
    assert view.sheet.refused
    again = next(one for one in view.findChildren(QPushButton) if one.text() == "Read it more closely")
    qtbot.mouseClick(again, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.sheet is not None and bool(view.sheet.claims), timeout=WAIT_MS)
    settle(filled, qtbot)
    assert view.sheet.models["language"] == "close stand-in"
    assert not [
        one for one in view.findChildren(QPushButton) if one.text() == "Read it more closely" and one.isVisible()
    ]
    # For that question alone.
    ask(filled, qtbot, HUMIDITY)
    assert view.sheet.models["language"] == LIGHT_READER.name


def test_what_is_typed_is_read_ahead_and_dropped_when_it_is_asked(filled, qtbot, language_model):
    bar = filled.bar
    read = threading.Event()
    judged = ReadingModel.first_words

    def first_words(system, user, cancel):
        language_model.first_words = lambda *words: judged(language_model, *words)
        read.set()
        while not cancel.is_set:
            cancel._event.wait(0.01)
        cancel.check()

    language_model.first_words = first_words
    bar.question.setFocus()
    qtbot.keyClicks(bar.question, HUMIDITY)
    qtbot.waitUntil(read.is_set, timeout=WAIT_MS)
    # Nothing is shown or kept of it, and it does not hold the question up.
    assert filled.desk.view.sheet is None and filled.desk.sheets == []
    qtbot.keyClick(bar.question, Qt.Key.Key_Return)
    settle(filled, qtbot)
    assert language_model.judged == [HUMIDITY]
    assert len(filled.desk.sheets) == 1


def test_a_word_or_two_are_not_read_ahead(filled, qtbot, language_model):
    qtbot.keyClicks(filled.bar.question, "the log")
    qtbot.wait(900)
    assert language_model.judged == []
