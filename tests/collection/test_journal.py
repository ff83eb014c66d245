# SPDX-License-Identifier: GPL-3.0-or-later
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from redlantern.answering.question.understanding import Question
from redlantern.collection.journal import Journal, as_json_lines
from redlantern.progress import Cancel


@pytest.fixture
def journal(make_engine):
    return make_engine().collection.journal


def test_what_is_done_is_noted_in_order(engine):
    for _ in engine.ask(Question("When is the deposit due?"), Cancel()):
        pass
    entries = engine.collection.journal.entries()
    assert [one.what for one in entries] == ["made", "added", "added", "asked"]
    assert entries[-1].words == "When is the deposit due?"
    assert [one.number for one in entries] == [1, 2, 3, 4]
    assert [one.what for one in engine.collection.journal.entries(newest=2)] == ["added", "asked"]
    assert list(engine.collection.journal.faults()) == []


def test_a_question_that_was_stopped_is_noted_too(engine):
    steps = engine.ask(Question("When is the deposit due?"), Cancel())
    next(steps)
    steps.close()
    assert engine.collection.journal.entries()[-1].what == "asked"


def test_words_of_questions_are_left_out_when_they_are_not_wanted(engine):
    journal = engine.collection.journal
    journal.keep_questions(False)
    for _ in engine.ask(Question("When is the deposit due?"), Cancel()):
        pass
    assert (journal.entries()[-1].what, journal.entries()[-1].words) == ("asked", "")


def test_words_are_erased_and_the_chain_still_holds(journal):
    journal.note("added", "/secret/place.pdf", about="a" * 64)
    journal.note("asked", "Who was it?")
    assert journal.erase_words({"a" * 64}) == 1
    assert [one.words for one in journal.entries()][-2:] == [None, "Who was it?"]
    assert list(journal.faults()) == []


def test_a_clock_that_was_set_back_is_shown_and_loses_nothing(make_engine):
    times = iter(["2037-11-02T10:00:00+00:00", "2037-11-01T09:00:00+00:00", "2037-11-01T09:00:01+00:00"])
    journal = Journal(make_engine().collection.file, clock=lambda: next(times))
    for _ in range(3):
        journal.note("opened")
    assert [one.clock_went_back for one in journal.entries()][-3:] == [False, True, False]
    assert list(journal.faults()) == []


@pytest.mark.parametrize(
    ("change", "fault"),
    [
        ("UPDATE journal SET words = 'other' WHERE id = 3", "The words of entry 3 of the journal were changed"),
        ("UPDATE journal SET at = '2020' WHERE id = 3", "Entry 3 of the journal does not follow from the one before"),
        (
            "UPDATE journal SET what = 'opened' WHERE id = 2",
            "Entry 2 of the journal does not follow from the one before",
        ),
        ("DELETE FROM journal WHERE id = 3", "Entry 3 of the journal is missing"),
        ("DELETE FROM journal WHERE id = 5", "The last entries of the journal are missing"),
    ],
)
def test_a_change_in_the_journal_is_found(journal, change, fault):
    for number in range(4):
        journal.note("added", f"paper {number}")
    with journal._file.writing() as connection:
        connection.execute(change)
    assert fault in list(journal.faults())


def test_the_export_holds_every_hash(journal):
    journal.note("added", "a “paper”")
    lines = [json.loads(line) for line in as_json_lines(journal.entries()).splitlines()]
    assert [one["hash"] for one in lines] == [one.hash for one in journal.entries()]
    assert lines[-1]["words"] == "a “paper”"


@settings(max_examples=25, deadline=None)
@given(words=st.lists(st.text(max_size=30), min_size=1, max_size=6))
def test_any_words_are_kept_as_they_are(tmp_path_factory, words):
    from redlantern.collection.store import Collection

    clean = [one.encode("utf-8", "ignore").decode() for one in words]
    collection = Collection.create(tmp_path_factory.mktemp("any") / "x.redlantern")
    for one in clean:
        collection.journal.note("exported", one)
    assert [one.words for one in collection.journal.entries()][1:] == clean
    assert list(collection.journal.faults()) == []
    collection.close()
