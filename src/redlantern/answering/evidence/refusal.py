# SPDX-License-Identifier: GPL-3.0-or-later
"""Is it answered at all? A calibrated score of the evidence, and of the evidence and a model's reading together."""

import math

from redlantern.answering.evidence.lines import EvidenceFeatures
from redlantern.fitted import READING_INTERCEPT, READING_WEIGHTS, REFUSAL_INTERCEPT, REFUSAL_WEIGHTS


def evidence_score(features: EvidenceFeatures) -> float:
    """The chance, from 0 to 1, that documents with such evidence answer the question."""
    total = REFUSAL_INTERCEPT + sum(
        weight * value for weight, value in zip(REFUSAL_WEIGHTS, features.row(), strict=True)
    )
    return _logistic(total)


def reading_chance(score: float, wants_to_answer: float | None) -> float:
    """The chance that the documents answer, by the evidence score and a model's log-odds of Yes; the score where there are none."""
    if wants_to_answer is None:
        return score
    bounded = min(1 - 1e-4, max(1e-4, score))
    evidence, reading = READING_WEIGHTS
    return _logistic(READING_INTERCEPT + evidence * math.log(bounded / (1 - bounded)) + reading * wants_to_answer)


def _logistic(total: float) -> float:
    return 1 / (1 + math.exp(-max(-60.0, min(60.0, total))))
