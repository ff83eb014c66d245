# SPDX-License-Identifier: GPL-3.0-or-later
"""Two or more ways on the same questions: figures with their intervals, wins and losses, and what to conclude."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from redlantern.translation import marked, tr
from redlantern.trials.ranks import RankFigures
from redlantern.trials.sureness import Interval, PairedComparison, compare, in_words, mean_interval
from redlantern.trials.values import Lane, Marked, TrialQuestion, TrialRun

Value = Callable[[TrialQuestion, Marked], float | None]


@dataclass(frozen=True)
class Figure:
    """A figure by which ways are compared: its name, what a way does that has more of it, and its value for one answer.

    `value` gives None where the figure says nothing of the question; more is better.
    """

    name: str
    does: str
    value: Value


def _rank(take: Callable[[RankFigures], float]) -> Value:
    return lambda question, marked: take(marked.ranks) if marked.ranks is not None else None


def _flag(value: bool | None) -> float | None:
    return None if value is None else float(value)


def _right_refusal(question: TrialQuestion, marked: Marked) -> float | None:
    return float(marked.is_refused) if question.is_absent else None


def _not_wrongly_refused(question: TrialQuestion, marked: Marked) -> float | None:
    return None if question.is_absent or question.expects_nothing else float(not marked.is_refused)


def _supported(question: TrialQuestion, marked: Marked) -> float | None:
    return marked.n_supported / marked.n_claims if marked.n_claims else None


FIGURES = (
    Figure(marked("right page first"), marked("puts the right page first"), _rank(lambda ranks: ranks.recall_at_1)),
    Figure(marked("right page among five"), marked("has the right page among the first five"), _rank(lambda ranks: ranks.recall_at_5)),
    Figure(marked("right page among ten"), marked("has the right page among the first ten"), _rank(lambda ranks: ranks.recall_at_10)),
    Figure(marked("rank of the right page (MRR)"), marked("puts the right page higher"), _rank(lambda ranks: ranks.reciprocal_rank)),
    Figure(marked("order of the pages (nDCG@10)"), marked("puts the right pages higher"), _rank(lambda ranks: ranks.ndcg_at_10)),
    Figure(marked("expected words said"), marked("says the expected words"), lambda question, marked: _flag(marked.is_said)),
    Figure(marked("right page cited"), marked("cites the right page"), lambda question, marked: _flag(marked.is_cited)),
    Figure(marked("refused where the documents are silent"), marked("refuses where the documents are silent"), _right_refusal),
    Figure(marked("answered where the documents answer"), marked("answers where the documents do"), _not_wrongly_refused),
    Figure(marked("claims supported"), marked("has more of its claims supported"), _supported),
)  # fmt: skip
"""In the order they are shown; the first that two ways differ in is not better than another."""
MAIN = ("expected words said", "right page cited", "right page among five", "refused where the documents are silent")
"""Those that are concluded from, each by itself."""


@dataclass(frozen=True)
class LaneFigure:
    """A figure of one way: over how many questions, and its mean with the interval; None where it says nothing of any."""

    figure: Figure
    n: int
    interval: Interval | None


@dataclass(frozen=True)
class Difference:
    """A figure on which a question came out better or worse with the second of two ways."""

    question: TrialQuestion
    figure: Figure
    first: float
    second: float

    @property
    def is_gain(self) -> bool:
        """Whether the second way is better."""
        return self.second > self.first


@dataclass(frozen=True)
class Versus:
    """Two ways by one figure, on the questions that both have answered."""

    figure: Figure
    compared: PairedComparison


Answers = Mapping[tuple[str, str], Marked]
"""By lane and question."""


def lane_figures(questions: Sequence[TrialQuestion], answers: Answers, lane_id: str) -> list[LaneFigure]:
    """Every figure of one way over the questions that it has answered so far."""
    found = []
    for figure in FIGURES:
        values = [
            value for question in questions
            if (marked := answers.get((lane_id, question.question_id))) is not None
            and (value := figure.value(question, marked)) is not None
        ]  # fmt: skip
        found.append(LaneFigure(figure, len(values), mean_interval(values) if values else None))
    return found


def seconds_of(answers: Answers, lane_id: str) -> tuple[float, float] | None:
    """The median and the 95th percentile of the seconds that a way took for a question; None without an answer."""
    spent = [marked.total_s for (lane, _), marked in answers.items() if lane == lane_id and not marked.problem]
    if not spent:
        return None
    median, most = np.quantile(spent, [0.5, 0.95])
    return float(median), float(most)


def versus(questions: Sequence[TrialQuestion], answers: Answers, first: str, second: str) -> list[Versus]:
    """Compare two lanes by every figure that says something of a question that both have answered."""
    found = []
    for figure in FIGURES:
        pairs = _pairs(questions, answers, first, second, figure)
        if pairs:
            before, after = zip(*((a, b) for _, a, b in pairs), strict=True)
            found.append(Versus(figure, compare(before, after)))
    return found


def differences(questions: Sequence[TrialQuestion], answers: Answers, first: str, second: str) -> list[Difference]:
    """Every main figure on which a question came out otherwise with the second way: what was lost first."""
    found = [
        Difference(question, figure, before, after)
        for figure in FIGURES
        if figure.name in MAIN
        for question, before, after in _pairs(questions, answers, first, second, figure)
        if before != after
    ]
    return sorted(found, key=lambda each: each.is_gain)


def conclusion(found: Versus, first: str, second: str) -> str:
    """What to conclude from one figure, for a person who knows no statistics."""
    return in_words(found.compared, first, second, tr(found.figure.does))


def overall(found: Sequence[Versus], first: str, second: str) -> str:
    """What all main figures come to: which way is better, if any is beyond chance."""
    sure = [each.compared for each in found if each.figure.name in MAIN and not each.compared.may_be_chance]
    better = {second if each.difference.mean > 0 else first for each in sure}
    if not better:
        return tr(
            "Nothing here speaks clearly for “{first}” or for “{second}”: keep the quicker one, or ask more questions."
        ).format(first=first, second=second)
    if len(better) > 1:
        return tr(
            "“{first}” and “{second}” are each better at something: see below, and choose by what matters to you."
        ).format(first=first, second=second)
    return tr("“{better}” is better, beyond chance.").format(better=better.pop())


def losses(
    run: TrialRun, mark_run: TrialRun, answers: Answers, before: Answers, lane: Lane, mark_lane: Lane
) -> list[Difference]:
    """What a later run lost against the one that was set as the mark, on the questions that both have."""
    renamed = {
        ("mark", question_id): marked
        for (lane_id, question_id), marked in before.items()
        if lane_id == mark_lane.lane_id
    }
    now = {
        ("now", question_id): marked for (lane_id, question_id), marked in answers.items() if lane_id == lane.lane_id
    }
    shared = {question.question_id for question in mark_run.questions}
    questions = [question for question in run.questions if question.question_id in shared]
    return [each for each in differences(questions, renamed | now, "mark", "now") if not each.is_gain]


def _pairs(
    questions: Sequence[TrialQuestion], answers: Answers, first: str, second: str, figure: Figure
) -> list[tuple[TrialQuestion, float, float]]:
    found = []
    for question in questions:
        before, after = answers.get((first, question.question_id)), answers.get((second, question.question_id))
        if before is None or after is None:
            continue
        values = figure.value(question, before), figure.value(question, after)
        if values[0] is not None and values[1] is not None:
            found.append((question, values[0], values[1]))
    return found
