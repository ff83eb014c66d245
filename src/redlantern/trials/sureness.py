# SPDX-License-Identifier: GPL-3.0-or-later
"""How sure a mean over questions is, and whether one way beats another on the same questions."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from redlantern.text.listing import counted
from redlantern.translation import tr

_DRAWS = 10_000
_EXACT_MOST = 14
"""With so many questions that differ, all signs are tried; with more, as many at random as there are draws."""
_SEED = 20_261
_LEVEL = 0.95
_CHANCE_BELOW = 0.05
_TIED = 1e-12
Values = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Interval:
    """A mean, and between what its true value lies at 95 %."""

    mean: float
    low: float
    high: float


def mean_interval(values: Sequence[float], *, level: float = _LEVEL, seed: int = _SEED) -> Interval:
    """The mean of at least one value with its interval: percentiles of the bootstrap (Efron, 1979), the same each time."""
    found = np.asarray(values, float)
    chance = np.random.default_rng(seed)
    means = found[chance.integers(0, len(found), (_DRAWS, len(found)))].mean(axis=1)
    low, high = np.quantile(means, [(1 - level) / 2, (1 + level) / 2])
    return Interval(float(found.mean()), float(low), float(high))


@dataclass(frozen=True)
class PairedComparison:
    """Two ways on the same questions: how much more the second one's mean is, with its interval, and how likely chance alone.

    `p` is that of a two-sided paired randomisation test; `wins` and `losses` count the questions on which the second way
    is better and worse.
    """

    n: int
    first: float
    second: float
    difference: Interval
    p: float
    wins: int
    losses: int

    @property
    def may_be_chance(self) -> bool:
        """Whether so large a difference comes by chance alone once in twenty times or oftener."""
        return self.p >= _CHANCE_BELOW


def compare(first: Sequence[float], second: Sequence[float], *, seed: int = _SEED) -> PairedComparison:
    """Compare two ways question by question; both have a value for each question, in the same order.

    The test exchanges the two values of a question at random: were the ways the same, that would change nothing
    (Fisher, 1935; for retrieval: Smucker, Allan and Carterette, 2007).
    """
    before, after = np.asarray(first, float), np.asarray(second, float)
    differences = after - before
    return PairedComparison(
        len(differences), float(before.mean()), float(after.mean()), mean_interval(differences.tolist(), seed=seed),
        _paired_p(differences, seed), int((differences > _TIED).sum()), int((differences < -_TIED).sum()),
    )  # fmt: skip


def _paired_p(differences: Values, seed: int) -> float:
    differing = differences[np.abs(differences) > _TIED]
    if not len(differing):
        return 1.0
    observed = abs(differing.sum()) - _TIED
    if len(differing) <= _EXACT_MOST:
        bits = np.arange(2 ** len(differing))[:, None] >> np.arange(len(differing)) & 1
        return float(np.mean(np.abs((1 - 2 * bits) @ differing) >= observed))
    signs = np.random.default_rng(seed).choice([-1.0, 1.0], (_DRAWS, len(differing)))
    # What was observed is one of the possible outcomes, so that p is never 0.
    return float((1 + np.sum(np.abs(signs @ differing) >= observed)) / (1 + _DRAWS))


def in_words(found: PairedComparison, first: str, second: str, what: str) -> str:
    """What to conclude, for a person who knows no statistics; `what` the better way does ("finds a right page")."""
    asked = counted(found.n, "question")
    if not found.wins and not found.losses:
        return tr("“{first}” and “{second}” come out the same on each of {asked}.").format(
            first=first, second=second, asked=asked
        )
    if abs(found.difference.mean) <= _TIED:
        return tr("“{first}” and “{second}” are even over {asked}: each is better on some.").format(
            first=first, second=second, asked=asked
        )
    better, worse = (second, first) if found.difference.mean > 0 else (first, second)
    n_for, n_against = (found.wins, found.losses) if better == second else (found.losses, found.wins)
    against = (
        tr(", and “{worse}” for {other}").format(worse=worse, other=counted(n_against, "other")) if n_against else ""
    )
    said = tr("“{better}” {what} for {n_for} of {asked} where “{worse}” does not{against}").format(
        better=better, what=what, n_for=n_for, asked=asked, worse=worse, against=against
    )
    if found.may_be_chance:
        return tr("{said}. So few questions differ that this may be chance (p = {p:.2f}): do not choose by it.").format(
            said=said, p=found.p
        )
    return tr("{said}. That is hardly chance (p = {p:.3f}).").format(said=said, p=max(found.p, 0.001))
