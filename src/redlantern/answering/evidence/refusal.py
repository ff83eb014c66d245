"""Is it answered at all? A calibrated score of the evidence."""

import math

from redlantern.answering.evidence.lines import EvidenceFeatures
from redlantern.fitted import REFUSAL_INTERCEPT, REFUSAL_WEIGHTS


def evidence_score(features: EvidenceFeatures) -> float:
    """The chance, from 0 to 1, that documents with such evidence answer the question."""
    total = REFUSAL_INTERCEPT + sum(
        weight * value for weight, value in zip(REFUSAL_WEIGHTS, features.row(), strict=True)
    )
    return 1 / (1 + math.exp(-max(-60.0, min(60.0, total))))
