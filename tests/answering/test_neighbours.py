# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines that would mislead alone bring the neighbour along that they must be read with."""

import numpy as np
import pytest

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.evidence.neighbours import joined_with_neighbours, with_neighbours
from redlantern.answering.question.understanding import Question
from redlantern.answering.writing.grammars import every_line_grammar
from redlantern.progress import Cancel, silent
from tests.conftest import SmallLanguageModel, stored_passage

RULE = "Work shall cease in rain."


def candidate(lines, at, score=1.0):
    passage = stored_passage(1, "", lines, start=100)
    return Candidate(passage, at, score, 0.9, 0.9, True, np.ones(1, np.float32))


@pytest.mark.parametrize(
    ("lines", "at", "expected"),
    [
        ([RULE, "This does not apply under a roof.", "Lunch is at noon."], 0, [0, 1]),
        ([RULE, "Unless the Trust agrees, nobody may go on.", "Lunch is at noon."], 0, [0, 1]),
        ([RULE, "However, the yard may be swept.", "Lunch is at noon."], 0, [0, 1]),
        (["The limit is 70 per cent.", "It may be raised by the Trust."], 1, [0, 1]),
        (["The Trust may stop the work.", "In that case it pays for the scaffold."], 1, [0, 1]),
        ([RULE, "Lunch is at noon.", "It lasts an hour."], 0, [0]),
        (["The sides agree as follows:", "The fence is moved by a metre."], 0, [0, 1]),
        (["Lunch is at noon.", RULE], 1, [1]),
        (["It rains.", RULE], 0, [0]),
        (["Rain\tstop", "However\tgo on"], 0, [0]),
        ([RULE + " word" * 90, "Unless it is warm."], 0, [0]),
    ],
)
def test_which_neighbours_come_along(lines, at, expected):
    found = with_neighbours(candidate(lines, at))
    assert found.text == "\n".join(lines[number] for number in expected)
    assert found.span == (found.passage.lines[expected[0]][0], found.passage.lines[expected[-1]][1])


def test_a_line_that_a_better_one_reaches_over_is_not_shown_again():
    lines = [RULE, "Unless the Trust agrees, nobody may go on."]
    found = joined_with_neighbours([candidate(lines, 0), candidate(lines, 1, 0.9)])
    assert [one.text for one in found] == ["\n".join(lines)]


def test_what_limits_a_line_is_said_with_it():
    lines = ["Work shall stop in rain, or snow.", "Unless the Trust agrees, in writing."]
    one = with_neighbours(candidate(lines, 0))
    grammar = every_line_grammar([one.text], [one.least_said])
    assert "?" not in grammar
    # Within one line, too: no stretch ends before the last word that takes away.
    assert ")?" not in every_line_grammar(["Work goes on every day, rain or shine, unless it is cold."])


def test_the_line_that_was_found_is_said_with_the_one_before_it():
    one = with_neighbours(candidate(["The limit of the loft is 70 per cent.", "It may be raised by the Trust."], 1))
    assert one.least_said == 9
    assert 'from0x8 ::= "cent." (" " from0x9)\n' not in every_line_grammar([one.text])
    assert 'from0x7 ::= "per" (" " from0x8)\n' in every_line_grammar([one.text], [one.least_said])
    assert 'from0x8 ::= "cent." (" " from0x9)' in every_line_grammar([one.text], [one.least_said])


def test_an_answer_is_found_and_cited_with_its_exception(make_engine, tmp_path):
    (tmp_path / "rules").mkdir()
    (tmp_path / "rules" / "rules.md").write_text(
        "# Rules of the yard\n\nThe gate of the yard is locked at six in the evening. This does not apply on market days.\n"
    )
    engine = make_engine(language_model=SmallLanguageModel())
    engine.collection.claim_writing()
    engine.update([tmp_path / "rules"], report=silent, cancel=Cancel())
    *_, done = engine.ask(Question("What is locked at six in the evening, the gate of the yard?"), Cancel())
    expected = "The gate of the yard is locked at six in the evening. This does not apply on market days."
    assert done.sheet.found_lines[0].citation.text == expected
    assert done.sheet.claims[0].citations[0].text == expected
    assert done.sheet.claims[0].support == "supported"
