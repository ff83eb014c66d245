"""Fits what decides about lines and refusals, on the tuning questions only.

Run as `python -m bench.fit_refusal`; prints how high the right line stands for
several weights of the line score, and the weights for
redlantern/answering/refusal.py with how they do when each question in turn is
kept out of the fit.
"""

import json
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from bench.collections import opened
from redlantern.answering import found
from redlantern.retrieval.finding import find
from redlantern.retrieval.spelling import mend

TUNING = Path(__file__).parent / "tuning"
# Little data: a ridge, and no weight may turn against its meaning.
_RIDGE = 0.005


@dataclass
class Tuned:
    """The tuning questions: features of shape (n, 3), whether each is answered (n,), and the candidate lines of those
    that are, with the words by which the right one is known.
    """

    rows: npt.NDArray[np.float64]
    answered: npt.NDArray[np.float64]
    questions: list[str]
    lines: list[tuple[found.Asked, list[found.Candidate], list[str]]]


def features() -> Tuned:
    """Ask every tuning question."""
    rows, answered, questions, lines_of = [], [], [], []
    with tempfile.TemporaryDirectory() as folder, opened(Path(folder), TUNING / "documents") as engine:
        index = engine.index
        for row in map(json.loads, (TUNING / "questions.jsonl").read_text().splitlines()):
            question = row["q"]
            for word, form in mend(question, index.words, engine.embedder.splits_word).items():
                question = question.replace(word, form)
            finding = find(index, engine.collection, engine.embedder, question, None, engine.method)
            asked = found.take_apart(finding.words)
            members = [one for joined in finding.ranked for one in joined.members]
            hits, passages = [one.hit for one in members], [one.passage for one in members]
            lines = found.rank_lines(asked, hits, passages, engine.embedder)
            measured = found.features_of(asked, lines)
            rows.append(measured.row())
            if row["a"]:
                lines_of.append((asked, [one for one in lines if one.is_compared], row["x"]))
            answered.append(float(row["a"]))
            questions.append(question)
    return Tuned(np.array(rows), np.array(answered), questions, lines_of)


def right_line_rank(tuned: Tuned, cosine: float, coverage: float, echo: float, kind: float) -> tuple[float, int]:
    """Mean reciprocal rank of the right line under these weights, and how often it comes first."""
    ranks = []
    for asked, lines, words in tuned.lines:
        weights = asked.weights / asked.weights.sum()
        scores = [
            cosine * one.cosine + coverage * one.coverage + echo * float(one.nearness @ weights) + kind * one.has_kind
            for one in lines
        ]
        order = np.argsort(-np.array(scores), kind="stable")
        right = [rank for rank, index in enumerate(order, 1) if any(word in lines[index].text for word in words)]
        ranks.append(1 / right[0] if right else 0.0)
    return float(np.mean(ranks)), sum(rank == 1 for rank in ranks)


def fit(rows: npt.NDArray[np.float64], answered: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Logistic regression with a ridge: weights, then the intercept. Both outcomes weigh alike."""
    balance = np.where(answered > 0, 0.5 / answered.sum(), 0.5 / (1 - answered).sum())

    def loss(weights: npt.NDArray[np.float64]) -> float:
        margins = np.where(answered > 0, 1, -1) * (rows @ weights[:-1] + weights[-1])
        return float((balance * np.logaddexp(0, -margins)).sum() + _RIDGE * (weights[:-1] ** 2).sum() / len(weights))

    bounds = [(0, None)] * rows.shape[1] + [(None, None)]
    found_weights: npt.NDArray[np.float64] = minimize(
        loss, np.zeros(rows.shape[1] + 1), bounds=bounds, method="L-BFGS-B"
    ).x
    return found_weights


def main() -> None:
    """Fit, and print."""
    tuned = features()
    rows, answered, questions = tuned.rows, tuned.answered, tuned.questions
    for weights in ((1, 0.5, 2, 0.25), (1, 0.5, 0, 0.25), (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (1, 0.5, 3, 0.25)):
        mrr, n_first = right_line_rank(tuned, *weights)
        print(f"lines by cosine, coverage, echo, kind {weights}: MRR {mrr:.3f}, first {n_first} of {len(tuned.lines)}")
    chances = np.empty(len(rows))
    for kept_out in range(len(rows)):
        others = np.arange(len(rows)) != kept_out
        fitted = fit(rows[others], answered[others])
        chances[kept_out] = 1 / (1 + np.exp(-(rows[kept_out] @ fitted[:-1] + fitted[-1])))
    for chance, is_answered, question, row in sorted(zip(chances, answered, questions, rows.tolist(), strict=True)):
        print(f"{chance:.2f} {'answered' if is_answered else '-':8} {[round(value, 2) for value in row]} {question}")
    for threshold in (0.2, 0.25, 0.3, 0.35, 0.4, 0.45, 0.5):
        wrong = ((chances < threshold) & (answered > 0)).sum()
        right = ((chances < threshold) & (answered == 0)).sum()
        print(
            f"threshold {threshold}: refuses {right} of {int((1 - answered).sum())} rightly, {wrong} of {int(answered.sum())} wrongly"
        )
    fitted = fit(rows, answered)
    print("WEIGHTS =", tuple(round(float(one), 2) for one in fitted[:-1]))
    print("INTERCEPT =", round(float(fitted[-1]), 2))


if __name__ == "__main__":
    main()
