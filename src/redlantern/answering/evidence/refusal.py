# SPDX-License-Identifier: GPL-3.0-or-later
"""Is it answered at all? A calibrated score of the evidence, of the evidence and a model's reading together, and of both and what
became of the answer that was written.
"""

import math
from collections.abc import Sequence

from redlantern.answering.checking.phrasing import content
from redlantern.answering.evidence.lines import EvidenceFeatures
from redlantern.answering.sheet import Claim
from redlantern.fitted import (
    READING_INTERCEPT,
    READING_WEIGHTS,
    REFUSAL_INTERCEPT,
    REFUSAL_WEIGHTS,
    WRITTEN_INTERCEPT,
    WRITTEN_WEIGHTS,
)

_PARTLY = 0.5
_LEAST_CHANCE = 1e-4


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
    evidence, reading = READING_WEIGHTS
    return _logistic(READING_INTERCEPT + evidence * _log_odds(score) + reading * wants_to_answer)


def strength(claims: Sequence[Claim]) -> float:
    """How far what a model wrote stands in the documents, from 0 to 1: its best sentence, borne out or, counting half, in part."""
    return max(map(_strength_of, claims), default=0.0)


def _strength_of(claim: Claim) -> float:
    if claim.support == "supported":
        return 1.0
    words = set(content(claim.text))
    absent = {word for said in claim.absent for word in content(said)}
    return _PARTLY * len(words - absent) / max(1, len(words)) if claim.support == "partly supported" else 0.0


def written_chance(chance: float, strong: float) -> float:
    """The chance that the documents answer, by what it was before anything was written, and the strength of what was."""
    before, written = WRITTEN_WEIGHTS
    return _logistic(WRITTEN_INTERCEPT + before * _log_odds(chance) + written * strong)


def _log_odds(chance: float) -> float:
    bounded = min(1 - _LEAST_CHANCE, max(_LEAST_CHANCE, chance))
    return math.log(bounded / (1 - bounded))


def _logistic(total: float) -> float:
    return 1 / (1 + math.exp(-max(-60.0, min(60.0, total))))
