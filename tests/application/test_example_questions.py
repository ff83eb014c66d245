# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions to begin with, from headings."""

from redlantern.application.example_questions import example_questions
from redlantern.progress import Cancel, silent


def filled(make_engine, folder):
    engine = make_engine("first.redlantern")
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    return engine


def test_each_is_about_a_heading_of_another_document(make_engine, folder):
    (folder / "regeln.md").write_text(
        "# Hausordnung\n\n## Ruhezeiten\n\nNach zehn Uhr abends ist es im Haus still, und niemand übt mehr an der Orgel.\n",
        encoding="utf-8",
    )
    asked = example_questions(filled(make_engine, folder))
    assert "What is said about humidity?" in asked
    assert "Was steht hier zu Ruhezeiten?" in asked
    assert len(set(asked)) == len(asked) <= 4


def test_no_more_than_are_wanted(make_engine, folder):
    assert len(example_questions(filled(make_engine, folder), 1)) == 1


def test_without_headings_there_are_none(make_engine, tmp_path):
    plain = tmp_path / "plain"
    plain.mkdir()
    (plain / "note.txt").write_text("the key was lost in march, and a new one was cut.\n", encoding="utf-8")
    assert example_questions(filled(make_engine, plain)) == ()
