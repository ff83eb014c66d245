# SPDX-License-Identifier: GPL-3.0-or-later
"""How a document is cut into sections, and which of their lines say what they are about."""

import numpy as np

from redlantern.answering.evidence.centrality import central_lines, is_left_out, sections_of, whole_mean
from tests.conftest import stored_passage

LINES = {
    "The roof was covered in Welsh slate in 1954.": [1, 0.1, 0],
    "Forty slates have slipped on the south slope of the roof.": [1, 0.2, 0],
    "The valley of the roof leaks beside the chimney.": [1, 0.3, 0],
    "The slates of the roof are brittle along the eaves.": [1, 0.1, 0.1],
    "Lunch was served to the roofers at noon.": [0, 0, 1],
    "The ridge of the roof was pointed by the mason in May.": [1, 0, 0.1],
}


def vectors(lines):
    rows = np.array([LINES.get(line, [0, 1, 0]) for line in lines], np.float32)
    return rows / np.linalg.norm(rows, axis=1, keepdims=True)


def test_sections_follow_the_first_headings_and_short_ones_join_the_one_before():
    many = list(LINES)
    passages = [
        stored_passage(1, "Survey › The roof", many), stored_passage(2, "Survey › The roof › Slates", many),
        stored_passage(3, "Survey › Fee", ["The fee is small."]), stored_passage(4, "Survey › The stair", many),
    ]  # fmt: skip
    found = sections_of(passages, [vectors([one.line_text(at) for at in range(len(one.lines))]) for one in passages])
    assert [(one.title, len(one.passages)) for one in found] == [("The roof", 3), ("The stair", 1)]
    assert sum(len(one.vectors) for one in found) == sum(len(one.lines) for one in passages)


def test_the_line_that_is_about_something_else_comes_last_and_none_is_said_twice():
    lines = [*LINES, next(iter(LINES))]
    [section] = sections_of([stored_passage(1, "Survey › The roof", lines)], [vectors(lines)])
    chosen = central_lines([section], whole_mean([section]), 7)
    texts = [one.line.text for one in chosen]
    assert len(texts) == len(set(texts)) == 6
    assert texts[0] == "The roof was covered in Welsh slate in 1954."
    assert texts[-1] == "Lunch was served to the roofers at noon."
    assert [one.line.text for one in central_lines([section], whole_mean([section]), 2)] == texts[:2]


def test_headings_short_lines_and_formal_words_say_nothing_by_themselves():
    lines = [
        "The roof of the hall and its slates",
        "Too short.",
        "Dear Mrs. Vasey, and all members of the Trust,",
        *LINES,
    ]
    one = stored_passage(1, "Survey › The roof of the hall and its slates", lines)
    assert [is_left_out(one, at) for at in range(4)] == [True, True, True, False]


def test_what_stands_before_the_first_long_section_goes_with_it():
    many = list(LINES)
    passages = [
        stored_passage(1, "Survey", ["Made for the Trust in May."]),
        stored_passage(2, "Survey › The roof", many),
    ]
    [section] = sections_of(passages, [vectors(["Made for the Trust in May."]), vectors(many)])
    assert (section.title, len(section.passages)) == ("The roof", 2)
    assert sections_of([], []) == []
