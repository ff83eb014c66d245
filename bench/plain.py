# SPDX-License-Identifier: GPL-3.0-or-later
"""References to measure against, as plain as they can be written: BM25, cosine over float32, reciprocal ranks."""

import math
from collections import Counter
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from redlantern.text.stems import STOP_WORDS, stem
from redlantern.text.tokens import tokens

Scores = npt.NDArray[np.float32]
_K1, _B, _RANK_CONSTANT = 1.2, 0.75, 60


class PlainWords:
    """BM25 over the stems of whole texts: a dictionary of postings, and nothing else."""

    def __init__(self, texts: Sequence[str]) -> None:
        self._postings: dict[str, list[tuple[int, int]]] = {}
        lengths = []
        for row, text in enumerate(texts):
            counted = Counter(map(stem, tokens(text)))
            lengths.append(counted.total())
            for term, n in counted.items():
                self._postings.setdefault(term, []).append((row, n))
        self._lengths = lengths
        self._average = sum(lengths) / max(len(lengths), 1)

    def scores(self, question: str) -> Scores:
        """Score every text: shape (n_texts,)."""
        n_texts = len(self._lengths)
        found = np.zeros(n_texts, np.float32)
        for term in dict.fromkeys(stem(one) for one in tokens(question) if one not in STOP_WORDS):
            postings = self._postings.get(term, [])
            idf = math.log(1 + (n_texts - len(postings) + 0.5) / (len(postings) + 0.5))
            for row, n in postings:
                norm = _K1 * (1 - _B + _B * self._lengths[row] / self._average)
                found[row] += idf * n * (_K1 + 1) / (n + norm)
        return found


def plain_fusion(lists: Sequence[Scores]) -> Scores:
    """Fuse scores by reciprocal ranks, k = 60 (Cormack, Clarke and Buettcher, 2009); zero and below is not ranked."""
    fused = np.zeros(len(lists[0]), np.float32)
    for scores in lists:
        for rank, row in enumerate(np.argsort(-scores, kind="stable").tolist(), start=1):
            if scores[row] <= 0:
                break
            fused[row] += 1 / (_RANK_CONSTANT + rank)
    return fused
