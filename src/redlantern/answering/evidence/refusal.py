"""Is it answered at all? A calibrated score of the evidence."""

import math

from redlantern.answering.evidence.lines import EvidenceFeatures

# Logistic regression, fitted by bench/fit_refusal.py on bench/tuning; in the order of EvidenceFeatures.row().
WEIGHTS = (2.52, 3.59, 1.72, 2.07, 1.66)
INTERCEPT = -5.84


def evidence_score(features: EvidenceFeatures) -> float:
    """The chance, from 0 to 1, that documents with such evidence answer the question."""
    total = INTERCEPT + sum(weight * value for weight, value in zip(WEIGHTS, features.row(), strict=True))
    return 1 / (1 + math.exp(-max(-60.0, min(60.0, total))))
