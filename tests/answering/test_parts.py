# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions of several questions are taken apart; all others are left whole."""

import pytest

from redlantern.answering.question.parts import parts_of
from redlantern.text.question import parse_question


def parts(text):
    return [part.text for part in parts_of(parse_question(text))]


@pytest.mark.parametrize(
    ("question", "expected"),
    [
        ("Who is the surveyor, and when did she come?", ["Who is the surveyor?", "When did she come (surveyor)?"]),
        (
            "What does the deposit come to? When is it due?",
            ["What does the deposit come to?", "When is it due (deposit come)?"],
        ),
        (
            "When was the key lost and by whom was it found?",
            ["When was the key lost?", "By whom was it found (key lost)?"],
        ),
    ],
)
def test_several_questions_are_taken_apart_and_what_points_back_is_completed(question, expected):
    assert parts(question) == expected


@pytest.mark.parametrize(
    "question",
    [
        "When and where was it signed?",
        "What is the difference between the first and the second offer?",
        "Who signed the contract and the letter?",
        "What does the contract say about damp and how?",
        "Find out what the builder claims",
        "What? And why?",
    ],
)
def test_one_question_stays_whole(question):
    assert parts(question) == [question]
