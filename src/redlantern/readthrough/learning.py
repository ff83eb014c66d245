# SPDX-License-Identifier: GPL-3.0-or-later
"""Learns from what a person accepted and rejected in one read-through, and orders what is still open by it.

A logistic regression (Cox, 1958) with a quadratic penalty, on the page's features
and on how near it comes to the accepted and to the rejected pages; what it knew
before stays its prior: with few judgements the order is nearly the one before.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from redlantern import fitted
from redlantern.models.embedding import Vectors
from redlantern.readthrough.values import PageRead, Place

LEAST_EACH = 2
"""Fewer accepted or rejected pages than this teach nothing."""
_PENALTY = 1.0
_LOO_MOST = 60
_WORTH = 0.6
Rows = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Learned:
    """The open pages in their new order, the likeliest hit first, each with its chance; and how sure that is.

    Of `n_judged` judged pages `n_agreeing` would have been told rightly by the others.
    """

    order: tuple[tuple[Place, float], ...]
    n_judged: int
    n_agreeing: int

    @property
    def is_worth_following(self) -> bool:
        """Whether judgements tell one another better than a coin would."""
        return self.n_agreeing >= _WORTH * self.n_judged


def in_turn(pages: Sequence[PageRead], learned: "Learned | None") -> list[PageRead]:
    """Open pages in the order in which they are best judged.

    Those nearest to the border of hit and silent come first: a person's word to them teaches most, and both kinds
    come by. Once judgements tell one another, the likeliest hits come first.
    """
    if learned is not None and learned.is_worth_following:
        ranks = {place: rank for rank, (place, _) in enumerate(learned.order)}
        return sorted(pages, key=lambda page: (ranks.get(page.place, len(ranks)), page.place))
    return sorted(pages, key=lambda page: (abs(page.certainty - fitted.PAGE_HIT), page.place))


def learn(pages: Sequence[PageRead], vectors: Mapping[Place, Vectors]) -> Learned | None:
    """Order the open pages by what was judged; None while too little was.

    Parameters
    ----------
    pages : sequence of PageRead
    vectors : mapping of places to float32 arrays of shape (dim,)
        The mean direction of each page's lines; pages without one are near to nothing.
    """
    judged = [page for page in pages if page.judged and page.features]
    answers = np.array([page.judged == "accepted" for page in judged], float)
    if min(answers.sum(), len(answers) - answers.sum()) < LEAST_EACH:
        return None
    waiting = [page for page in pages if page.is_open]
    chances = _chances(judged, answers, waiting, vectors)
    order = sorted(zip(waiting, chances, strict=True), key=lambda pair: (-pair[1], pair[0].place))
    n_agreeing = 0
    tested = range(min(len(judged), _LOO_MOST))
    for left_out in tested:
        rest = [page for at, page in enumerate(judged) if at != left_out]
        [chance] = _chances(rest, np.delete(answers, left_out), [judged[left_out]], vectors)
        n_agreeing += bool((chance >= 0.5) == bool(answers[left_out]))
    return Learned(tuple((page.place, round(float(chance), 4)) for page, chance in order), len(tested), n_agreeing)


def _chances(
    judged: Sequence[PageRead], answers: Rows, asked: Sequence[PageRead], vectors: Mapping[Place, Vectors]
) -> Rows:
    """The chance of each asked page."""
    rows = np.array([_row(page, judged, vectors) for page in (*judged, *asked)]).reshape(len(judged) + len(asked), -1)
    taught = rows[: len(judged)]
    middle, spread = taught.mean(axis=0), taught.std(axis=0)
    rows = (rows - middle) / np.where(spread < 1e-6, 1.0, spread)
    weights = _fitted(rows[: len(judged)], answers)
    return np.asarray(1 / (1 + np.exp(-np.clip(rows[len(judged) :] @ weights[1:] + weights[0], -30, 30))))


def _row(page: PageRead, judged: Sequence[PageRead], vectors: Mapping[Place, Vectors]) -> list[float]:
    """Its features, the log-odds it had, and its nearness to the nearest accepted and rejected pages but itself."""
    bounded = min(0.999, max(0.001, page.certainty))
    near = {"accepted": 0.0, "rejected": 0.0}
    mine = vectors.get(page.place)
    if mine is not None:
        for other in judged:
            if other.place != page.place and other.place in vectors:
                near[other.judged] = max(near[other.judged], float(mine @ vectors[other.place]))
    return [*page.features, float(np.log(bounded / (1 - bounded))), near["accepted"], near["rejected"]]


def _fitted(rows: Rows, answers: Rows) -> Rows:
    """Weights of shape (1 + n_features,), the intercept first and without a penalty."""
    with_one = np.hstack([np.ones((len(rows), 1)), rows])

    def loss(weights: Rows) -> tuple[float, Rows]:
        total = with_one @ weights
        chance = 1 / (1 + np.exp(-np.clip(total, -30, 30)))
        value = float(np.sum(np.logaddexp(0, total) - answers * total) + _PENALTY / 2 * np.sum(weights[1:] ** 2))
        slope = with_one.T @ (chance - answers)
        slope[1:] += _PENALTY * weights[1:]
        return value, slope

    return np.asarray(minimize(loss, np.zeros(with_one.shape[1]), jac=True, method="L-BFGS-B").x)
