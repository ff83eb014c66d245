# SPDX-License-Identifier: GPL-3.0-or-later
"""Follow-ups: which questions lean on the thread, and what they are completed with."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering.question.follow_up import leans_on_earlier, standalone_question
from redlantern.retrieval.rerank import question_words
from redlantern.text.question import parse_question
from tests.conftest import SmallEmbedder

FOG = "How often did fog stop the ferry in January?"


@pytest.mark.parametrize(
    ("question", "history", "expected"),
    [
        ("And for the Pedal?", ["What is the wind pressure of the Great?"], "And for the Pedal (wind pressure Great)?"),
        ("Who owns it?", ["What happens to the blower of 1961?"], "Who owns it (blower 1961)?"),
        ("What is the deposit?", ["Who is the chair?"], "What is the deposit?"),
        ("Who is the chair?", [], "Who is the chair?"),
        ("Is there a lift?", ["Who is the chair?"], "Is there a lift?"),
        ("When did the Trust sign its lease?", ["Who is the chair?"], "When did the Trust sign its lease?"),
        ("and why?", ["Who lost the key?", "When was that?"], "and why (lost key)?"),
        ("How do I archive it?", ["What is the write-ahead log?"], "How do I archive it (write-ahead log)?"),
        # What stood in its place gives way to the new thing.
        ("And in March?", [FOG], "How often did fog stop the ferry in March?"),
        ("What about on wages?", ["How much was spent on fuel?"], "How much was spent on wages?"),
        ("And in March?", ["How much was spent on fuel?"], "And in March (spent fuel)?"),
        ("And in March, and for which of the two?", [FOG], "And in March, and for which of the two (fog stop ferry January)?"),
        ("Und wann wird sie gezahlt?", ["Wie hoch ist die Kaution?"], "Und wann wird sie gezahlt (Kaution)?"),
        ("Hat der Verein seine Miete gezahlt?", ["Wie hoch ist die Kaution?"], "Hat der Verein seine Miete gezahlt?"),
        ("Et pourquoi?", ["Quand le dépôt est-il dû?"], "Et pourquoi (dépôt dû)?"),
        ("And in March?", ["What in the report of the harbour master is said of fog?"], "And in March (report harbour master fog)?"),
    ],
)  # fmt: skip
def test_follow_ups_are_completed_from_the_thread(question, history, expected):
    assert standalone_question(parse_question(question), history) == expected


@pytest.mark.parametrize(
    ("question", "leans"),
    [
        ("What new job was she offered?", True),
        ("Which yard built it?", True),
        ("For how long?", True),
        ("With what notice?", True),
        ("Does the hall have one?", True),
        ("How long does the server wait before it looks for one?", True),
        ("Is the old key like the new one?", False),
        ("Does the caretaker bring his dog?", False),
        ("Has Mr. Corvin lost his key?", False),
        ("In which year was the hall built?", False),
        ("How far did the ramp drop?", False),
    ],
)
def test_a_question_leans_on_the_thread_or_stands(question, leans):
    assert leans_on_earlier(parse_question(question)) is leans


def test_he_or_she_is_the_one_whose_name_answered():
    asked = ["Who is the mate?"]
    lines = ["The mate of the ferry: see below.", "The mate, Freya Lund, had been on duty for 15 hours."]
    assert (
        standalone_question(parse_question("What was she offered?"), asked, lines)
        == "What was she offered (mate Freya Lund)?"
    )
    assert standalone_question(parse_question("What did it cost?"), asked, lines) == "What did it cost (mate)?"
    # Only of a question for a name, and of the last one.
    assert (
        standalone_question(parse_question("When does he come?"), ["When is the deposit due?"], lines)
        == "When does he come (deposit due)?"
    )
    assert "Lund" not in standalone_question(parse_question("Why was she?"), [*asked, "Where was she?"], lines)
    assert "Lund" not in standalone_question(parse_question("Who is the master?"), asked, lines)


@given(st.text(max_size=80), st.lists(st.text(max_size=80), max_size=3), st.lists(st.text(max_size=80), max_size=2))
def test_a_standalone_question_has_no_words_from_elsewhere(question, history, cited):
    made = standalone_question(parse_question(question), history, cited)
    known = " ".join([question, *history, *cited]).casefold()
    assert all(word.strip("()?!. ").casefold() in known for word in made.split())
    assert isinstance(leans_on_earlier(parse_question(question)), bool)


def test_a_name_answers_in_other_languages_too():
    lines = ["Die Schlüssel verwahrt Herr Johann Corvin."]
    asked = ["Wer verwahrt die Schlüssel?"]
    assert standalone_question(parse_question("Seit wann hat er sie?"), asked, lines).endswith("Johann Corvin)?")


def test_words_taken_from_the_thread_count_half():
    assert parse_question("And why (lost key)?").aside == 8
    assert parse_question("And why?").aside == len("And why?")
    assert parse_question("(lost key)?").aside == len("(lost key)?")
    words = question_words(parse_question("What was offered (mate Lund)?"), SmallEmbedder(), lambda term: 2.0)
    assert (words.idfs[0], words.idfs[-1]) == (2.0, 1.0)
