# SPDX-License-Identifier: GPL-3.0-or-later
"""Fits what decides about lines and refusals, on the tuning questions only.

Run as `python -m bench.fit_refusal`; prints how high the right line stands for
several weights of the line score, and the weights for
redlantern/answering/refusal.py with how they do when each question in turn is
kept out of the fit.
"""

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from bench.asking import rows
from bench.collections import opened
from bench.open_documents import CHOSEN_ON
from redlantern.answering.evidence import lines as found
from redlantern.answering.question.follow_up import standalone_question
from redlantern.fitted import WEAK_EVIDENCE
from redlantern.retrieval.hybrid import find
from redlantern.retrieval.spelling import mend, mended_question
from redlantern.safety import seal
from redlantern.settings import Method
from redlantern.text.question import parse_question

TUNING = Path(__file__).parent / "tuning"
# Little data: a ridge, and no weight may turn against its meaning.
_RIDGE = 0.005


@dataclass
class Tuned:
    """Tuning questions: features of shape (n, n_features), whether each is answered (n,), and the candidate lines of those
    that are, with the words by which the right one is known, where these are noted.
    """

    rows: npt.NDArray[np.float64]
    answered: npt.NDArray[np.float64]
    questions: list[str]
    lines: list[tuple[found.Asked, list[found.Candidate], list[str]]]


def tuning_sets() -> dict[str, Tuned]:
    """Ask every tuning question: of the letters and reports in bench/tuning, and of the manual that is there if it was fetched."""
    sets = {"letters and reports": _ask(TUNING / "documents", rows(TUNING / "questions.jsonl"))}
    if CHOSEN_ON.documents.exists():
        manual = [
            {"q": standalone_question(parse_question(one["question"]), one["history"]), "a": bool(one["right"])}
            for one in rows(CHOSEN_ON.questions) + rows(TUNING / "database-unanswered.jsonl")
        ]
        sets["manual"] = _ask(CHOSEN_ON.documents, manual)
    return sets


def kept_in(documents: Path, folder: str) -> Path:
    """Where a collection of these documents lies: the manual's is kept from one run to the next, others in a folder."""
    return CHOSEN_ON.kept_index() if documents == CHOSEN_ON.documents else Path(folder)


def _ask(documents: Path, asked_of_them: list[dict[str, Any]]) -> Tuned:
    features, answered, questions, lines_of = [], [], [], []
    with tempfile.TemporaryDirectory() as folder, opened(kept_in(documents, folder), documents) as engine:
        index = engine.current_index()
        for row in asked_of_them:
            typed = parse_question(row["q"])
            question = mended_question(typed, mend(typed, index.words, engine.embedder.splits_word))
            finding = find(index, engine.collection, engine.embedder, question, None, engine.method)
            asked = found.take_apart(finding.words, index.words.languages)
            members = [one for joined in finding.ranked for one in joined.members]
            hits, passages = [one.hit for one in members], [one.passage for one in members]
            lines = found.rank_lines(asked, hits, passages, engine.embedder)
            features.append(found.features_of(asked, lines).row())
            if row.get("x"):
                lines_of.append((asked, [one for one in lines if one.is_compared], row["x"]))
            answered.append(float(row["a"]))
            questions.append(question.text)
    return Tuned(np.array(features), np.array(answered), questions, lines_of)


def right_line_rank(tuned: Tuned, cosine: float, coverage: float, max_sim: float, kind: float) -> tuple[float, int]:
    """Mean reciprocal rank of the right line under these weights, and how often it comes first."""
    ranks = []
    for asked, lines, words in tuned.lines:
        weights = asked.weights / asked.weights.sum()
        scores = [
            cosine * one.cosine
            + coverage * one.coverage
            + max_sim * float(one.nearness @ weights)
            + kind * one.has_kind
            for one in lines
        ]
        order = np.argsort(-np.array(scores), kind="stable")
        right = [rank for rank, index in enumerate(order, 1) if any(word in lines[index].text for word in words)]
        ranks.append(1 / right[0] if right else 0.0)
    return float(np.mean(ranks)), sum(rank == 1 for rank in ranks)


def fit(features: npt.NDArray[np.float64], answered: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Logistic regression with a ridge: weights, then the intercept. Both outcomes weigh alike."""
    balance = np.where(answered > 0, 0.5 / answered.sum(), 0.5 / (1 - answered).sum())

    def loss(weights: npt.NDArray[np.float64]) -> float:
        margins = np.where(answered > 0, 1, -1) * (features @ weights[:-1] + weights[-1])
        return float((balance * np.logaddexp(0, -margins)).sum() + _RIDGE * (weights[:-1] ** 2).sum() / len(weights))

    bounds = [(0, None)] * features.shape[1] + [(None, None)]
    found_weights: npt.NDArray[np.float64] = minimize(
        loss, np.zeros(features.shape[1] + 1), bounds=bounds, method="L-BFGS-B"
    ).x
    return found_weights


def main() -> None:
    """Fit, and print."""
    seal.put_on()
    sets = tuning_sets()
    tuned = sets["letters and reports"]
    for weights in ((1, 0.5, 2, 0.25), (1, 0.5, 0, 0.25), (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (1, 0.5, 3, 0.25)):
        mrr, n_first = right_line_rank(tuned, *weights)
        print(
            f"lines by cosine, coverage, max_sim, kind {weights}: MRR {mrr:.3f}, first {n_first} of {len(tuned.lines)}"
        )
    features = np.concatenate([one.rows for one in sets.values()])
    answered = np.concatenate([one.answered for one in sets.values()])
    chances = kept_out_chances(features, answered)
    at = 0
    for name, one in sets.items():
        own, at = chances[at : at + len(one.answered)], at + len(one.answered)
        print(f"\n{name}, each question kept out of the fit:")
        for chance, is_answered, question, row in sorted(
            zip(own, one.answered, one.questions, one.rows.tolist(), strict=True)
        ):
            print(
                f"{chance:.2f} {'answered' if is_answered else '-':8} {[round(value, 2) for value in row]} {question}"
            )
        for threshold in (0.2, 0.25, 0.3, 0.35, 0.4, 0.45, 0.5):
            wrong = ((own < threshold) & (one.answered > 0)).sum()
            right = ((own < threshold) & (one.answered == 0)).sum()
            n_answered = int(one.answered.sum())
            print(
                f"threshold {threshold}: refuses {right} of {len(own) - n_answered} rightly, {wrong} of {n_answered} wrongly"
            )
    weak = (chances >= Method().answer_threshold) & (chances < WEAK_EVIDENCE)
    print(
        f"weak evidence: {(weak & (answered == 0)).sum()} of {weak.sum()} have no answer, {(weak & (answered > 0)).sum()} have"
    )
    fitted = fit(features, answered)
    print("WEIGHTS =", tuple(round(float(one), 2) for one in fitted[:-1]))
    print("INTERCEPT =", round(float(fitted[-1]), 2))


def kept_out_chances(features: npt.NDArray[np.float64], answered: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """For each question the chance that it is answered, by a fit on all others: shape (n,)."""
    chances = np.empty(len(features))
    for kept_out in range(len(features)):
        others = np.arange(len(features)) != kept_out
        fitted = fit(features[others], answered[others])
        chances[kept_out] = 1 / (1 + np.exp(-(features[kept_out] @ fitted[:-1] + fitted[-1])))
    return chances


if __name__ == "__main__":
    main()
