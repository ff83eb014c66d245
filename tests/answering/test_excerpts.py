# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the passages is read: the best lines and the best of each passage, within the room there is."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.evidence.neighbours import with_neighbours
from redlantern.answering.writing.excerpts import FIRST_PASSAGES, choose_excerpts
from redlantern.answering.writing.prompt import NoRoomError
from redlantern.answering.writing.reading import room_for_excerpts, wants_to_answer
from redlantern.models.protocols import Pace
from redlantern.settings import Method
from tests.conftest import ReadingModel, stored_passage


def candidates(n_passages, n_lines, n_words=6):
    made = []
    for number in range(n_passages):
        lines = [f"Line {at} of passage {number} " + "word " * (n_words - 5) for at in range(n_lines)]
        passage = stored_passage(number, "Report › Part", [line.strip() for line in lines])
        made += [
            Candidate(passage, at, 1.0 - number / 10 - at / 100, 0.5, 0.5, True, np.ones(1, np.float32))
            for at in range(n_lines)
        ]
    return made


def chosen(lines, ranks, room, wanted=()):
    return choose_excerpts(
        lines, ranks, wanted, title=lambda _: "Report", count_tokens=lambda text: len(text.split()), room=room
    )


def test_each_of_the_first_passages_is_read_from_and_the_best_lines_of_all():
    lines = candidates(8, 6)
    excerpts = chosen(lines, {number: number for number in range(8)}, 100)
    read = {line.passage.passage_id for excerpt in excerpts for line in excerpt.lines}
    assert set(range(FIRST_PASSAGES)) <= read
    assert {0, 1} <= {line.line for line in excerpts[0].lines}


def test_lines_stand_in_the_documents_order_with_gaps_shown():
    lines = candidates(1, 4)
    [excerpt] = chosen([lines[3], lines[0], lines[1]], {}, 100)
    assert [line.line for line in excerpt.lines] == [0, 1, 3]
    assert excerpt.text == "Line 0 of passage 0 word Line 1 of passage 0 word … Line 3 of passage 0 word"
    assert excerpt.printed.startswith("# Report · Part\n")


def test_what_stands_about_the_best_line_of_the_first_passage_is_read_with_it():
    lines = candidates(3, 9)
    best = lines[4]
    excerpts = chosen([best, *lines[9:]], {number: number for number in range(3)}, 60)
    read = [line.line for excerpt in excerpts for line in excerpt.lines if line.passage.passage_id == 0]
    assert read == [1, 2, 3, 4, 5, 6, 7]
    # With little room, what follows before what stands before it.
    excerpts = chosen([best, *lines[9:]], {number: number for number in range(3)}, 16)
    assert [line.line for line in excerpts[0].lines] == [4, 5]


def test_what_a_line_reaches_over_and_the_heading_are_not_read_again():
    passage = stored_passage(
        1, "Report › Part", ["Part", "The fee is 40 euros.", "Unless it was waived.", "It is due."]
    )
    best = with_neighbours(Candidate(passage, 1, 1.0, 0.5, 0.5, True, np.ones(1, np.float32)))
    [excerpt] = chosen([best], {1: 0}, 100)
    assert " ".join(excerpt.text.split()) == "The fee is 40 euros. Unless it was waived. … It is due."


def test_the_rows_beside_a_row_are_not_read_with_it():
    passage = stored_passage(1, "Report › Part", ["Oak boards\t12", "Nails\t400", "Glue\t3"])
    row = Candidate(passage, 1, 1.0, 0.5, 0.5, True, np.ones(1, np.float32))
    [excerpt] = chosen([row], {1: 0}, 100)
    assert excerpt.lines == (row,)


def test_of_a_long_line_the_stretch_with_the_questions_words_is_read():
    words = [f"w{at}" for at in range(200)]
    words[150] = "humidity"
    passage = stored_passage(1, "Report", [" ".join(words)])
    line = Candidate(passage, 0, 1.0, 0.5, 0.5, True, np.ones(1, np.float32))
    [excerpt] = chosen([line], {1: 0}, 5, ["humid"])
    assert "humidity" in excerpt.text and excerpt.text.startswith("… ") and len(excerpt.text.split()) <= 62
    assert excerpt.lines == (line,)


@given(st.integers(1, 7), st.integers(1, 5), st.integers(1, 200), st.randoms(use_true_random=False))
def test_the_room_is_kept_and_no_line_is_read_twice(n_passages, n_lines, room, random):
    lines = candidates(n_passages, n_lines)
    random.shuffle(lines)
    excerpts = chosen(lines, {number: number for number in range(n_passages)}, room)
    read = [line for excerpt in excerpts for line in excerpt.lines]
    assert read and len({(line.passage.passage_id, line.line) for line in read}) == len(read)
    n_tokens = sum(len(f"{excerpt.head} {excerpt.text}".replace(" … ", " ").split()) for excerpt in excerpts)
    # The first line is read in any case.
    assert n_tokens <= room or len(read) == 1


def room(per_s, window=4096, question="How wet?", **settings):
    model = ReadingModel()
    model.pace, model.n_context = Pace(per_s, 10), window
    return room_for_excerpts(model, Method(context_tokens=4096, **settings), question)


def test_the_room_follows_the_pace_within_bounds():
    rooms = [room(per_s) for per_s in (0, 1, 46, 60, 1000)]
    assert rooms[1] < rooms[0] < rooms[2] < rooms[3] < rooms[4] == 500
    assert room(1000, prompt_tokens=160) == 160


def test_the_room_is_the_same_in_a_somewhat_slower_minute():
    assert room(43) == room(46) == room(50)


def test_the_room_is_within_the_models_window_or_there_is_none():
    assert 120 <= room(1000, window=512) < 200
    for window, question in ((300, "How wet?"), (2048, "wet " * 2000)):
        with pytest.raises(NoRoomError, match=f"context window of {window:,} tokens"):
            room(1000, window=window, question=question)


def test_yes_and_no_are_weighed_against_each_other():
    assert wants_to_answer({}) is None
    sure, unsure = wants_to_answer({"Yes": 0.9, "No": 0.1}), wants_to_answer({"Yes": 0.5, " no": 0.5})
    assert sure > unsure == 0
    assert wants_to_answer({"Yes": 0.5, "The": 0.4, "No": 0.1}) == wants_to_answer({"Yes": 0.5, " No": 0.1}) > 0
