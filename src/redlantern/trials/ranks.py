# SPDX-License-Identifier: GPL-3.0-or-later
"""How high the right pages of a question stand."""

import math
from collections.abc import Hashable, Sequence
from collections.abc import Set as AnySet
from dataclasses import dataclass
from functools import partial

DEPTH = 10


@dataclass(frozen=True)
class RankFigures:
    """The figures of one question, each from 0 to 1.

    `recall_at_1`, `_5` and `_10`: whether a right page is among so many, or, where all are
    wanted, which share of those that could be; `reciprocal_rank` of the first right
    one (its mean is the MRR); `ndcg_at_10` with binary gains (Järvelin and Kekäläinen, 2002).
    """

    recall_at_1: float
    recall_at_5: float
    recall_at_10: float
    reciprocal_rank: float
    ndcg_at_10: float


def rank_figures(ranked: Sequence[Hashable], right: AnySet[Hashable], *, wants_all: bool = False) -> RankFigures:
    """Measure one ranking of passages by their pages, of which the first DEPTH count; a page that comes again gains nothing.

    Parameters
    ----------
    ranked : sequence of hashable
        The page of each passage, best first.
    right : set of hashable
        The right pages, at least one.
    wants_all : bool
        Whether the question wants all of them, and not any one.
    """
    first: dict[Hashable, int] = {}
    for rank, place in enumerate(ranked[:DEPTH], start=1):
        first.setdefault(place, rank)
    ranks = sorted(rank for place, rank in first.items() if place in right)
    recall = partial(_recall, ranks, len(right), wants_all)
    best = sum(map(_gain, range(1, min(len(right), DEPTH) + 1)))
    return RankFigures(recall(1), recall(5), recall(10), 1 / ranks[0] if ranks else 0.0, sum(map(_gain, ranks)) / best)


def _recall(ranks: Sequence[int], n_right: int, wants_all: bool, k: int) -> float:
    n_found = sum(rank <= k for rank in ranks)
    return n_found / min(k, n_right) if wants_all else float(n_found > 0)


def _gain(rank: int) -> float:
    return 1 / math.log2(1 + rank)
