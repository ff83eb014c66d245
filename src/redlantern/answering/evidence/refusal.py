"""Is it answered at all? A calibrated score of the evidence, and the words for saying no."""

import math
from collections.abc import Sequence

from redlantern.answering.evidence.lines import EvidenceFeatures
from redlantern.answering.sheet import listed

# Logistic regression, fitted by bench/fit_refusal.py on bench/tuning; in the order of EvidenceFeatures.row().
WEIGHTS = (2.52, 3.59, 1.72, 2.07, 1.66)
INTERCEPT = -5.84


def evidence_score(features: EvidenceFeatures) -> float:
    """The chance, from 0 to 1, that documents with such evidence answer the question."""
    total = INTERCEPT + sum(weight * value for weight, value in zip(WEIGHTS, features.row(), strict=True))
    return 1 / (1 + math.exp(-max(-60.0, min(60.0, total))))


def refusal_words(missing_words: Sequence[str]) -> str:
    """Say that the documents do not answer, and which of the question's words none of them has."""
    said = "The documents in scope do not answer this."
    if not missing_words:
        return f"{said} The nearest passages are listed below."
    verb = "does not appear" if len(missing_words) == 1 else "do not appear"
    return f"{said} {listed(missing_words)} {verb} in any of them. The nearest passages are listed below."


NOTHING_IN_SCOPE = "No document is in scope, so there is nothing to search. Tick at least one on the shelf."
