# SPDX-License-Identifier: GPL-3.0-or-later
"""Two ways on the same questions: figures over those that say something, wins and losses, and what is concluded."""

from redlantern.trials.comparing import conclusion, differences, lane_figures, losses, versus
from redlantern.trials.ranks import RankFigures
from redlantern.trials.values import Arrangement, Lane, Marked, RightPage, TrialQuestion, TrialRun

RIGHT = (RightPage("a.md", 1),)
QUESTIONS = tuple(TrialQuestion(str(number), f"Question {number}?", right=RIGHT) for number in range(40))
ABSENT = TrialQuestion("x", "Who paints?", is_absent=True)


def marked(rank=None, *, cited=None, said=None, refused=False):
    ranks = None if rank is None else RankFigures(rank == 1, rank <= 5, rank <= 10, 1 / rank, 1.0)
    return Marked(refused, ranks=ranks, is_cited=cited, is_said=said)


def test_a_figure_is_over_the_questions_that_it_says_something_of():
    answers = {("1", "0"): marked(1, cited=True), ("1", "x"): marked(refused=True), ("1", "1"): marked(3, cited=False)}
    found = {each.figure.name: each for each in lane_figures((*QUESTIONS, ABSENT), answers, "1")}
    assert found["right page first"].n == 2 and found["right page first"].interval.mean == 0.5
    assert found["refused where the documents are silent"].interval.mean == 1.0
    assert found["answered where the documents answer"].n == 2
    assert found["expected words said"].interval is None
    assert all(
        each.interval.low <= each.interval.mean <= each.interval.high for each in found.values() if each.interval
    )


def test_only_questions_that_both_have_answered_are_compared():
    answers = {("1", "0"): marked(1), ("2", "0"): marked(2), ("1", "1"): marked(1)}
    found = {each.figure.name: each.compared for each in versus(QUESTIONS, answers, "1", "2")}
    assert (found["right page first"].n, found["right page first"].losses) == (1, 1)
    assert "expected words said" not in found


def test_four_more_of_forty_may_be_chance_and_is_said_so():
    answers = {
        (lane, str(number)): marked(1, cited=lane == "2" and number < 4) for lane in "12" for number in range(40)
    }
    [cited] = [each for each in versus(QUESTIONS, answers, "1", "2") if each.figure.name == "right page cited"]
    assert conclusion(cited, "A", "B") == (
        "“B” cites the right page for 4 of 40 questions where “A” does not. So few questions differ that this may be chance "
        "(p = 0.12): do not choose by it."
    )
    gained = differences(QUESTIONS, answers, "1", "2")
    assert [each.is_gain for each in gained] == [True] * 4


def test_what_was_lost_against_the_mark_is_named():
    lane = Lane("1", Arrangement("own"))
    before = TrialRun("set", "trial", QUESTIONS[:3], (lane,))
    now = TrialRun("set", "trial", QUESTIONS[1:4], (Lane("7", Arrangement("own")),))
    old = {("1", str(number)): marked(1, cited=True) for number in range(3)}
    new = {("7", str(number)): marked(1, cited=number != 2) for number in range(1, 4)}
    lost = losses(now, before, new, old, now.lanes[0], lane)
    assert [each.question.question_id for each in lost] == ["2"]
