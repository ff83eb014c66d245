# SPDX-License-Identifier: GPL-3.0-or-later
"""Which pages of a translation are right: those that cover what the English ones cover."""

import json

from bench.open_documents import HANDBOOK, QUESTIONS

from bench import translations


def test_a_longer_translation_has_the_same_place_on_later_pages():
    parts = {"a.html": [(0.0, 0.5), (0.5, 1.0)]}
    there = {"a.html": [(0.0, 0.3), (0.3, 0.6), (0.6, 1.0)]}
    assert translations._same(("a.html", 1), parts, there) == [("a.html", 1), ("a.html", 2)]
    # A third of the second page is in what the second English page covers.
    assert translations._same(("a.html", 2), parts, there) == [("a.html", 2), ("a.html", 3)]
    assert translations._same(("a.html", 1), parts, {}) == []


def test_a_page_that_hardly_touches_it_is_not_right():
    parts, there = {"a.html": [(0.0, 0.5), (0.5, 1.0)]}, {"a.html": [(0.0, 0.45), (0.45, 1.0)]}
    assert translations._same(("a.html", 1), parts, there) == [("a.html", 1)]


def test_forty_questions_are_there_in_each_language():
    translated = [
        json.loads(line) for line in (QUESTIONS / "handbook-translated.jsonl").read_text("utf-8").splitlines()
    ]
    english = {json.loads(line)["id"]: json.loads(line) for line in HANDBOOK.questions.read_text("utf-8").splitlines()}
    assert len(translated) == 40
    assert all(row["de"] and row["fr"] and row["es"] for row in translated)
    assert all(english[row["id"]]["right"] and not english[row["id"]]["history"] for row in translated)
