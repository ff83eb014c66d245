# SPDX-License-Identifier: GPL-3.0-or-later
"""How much was missed: a random sample of the silent pages, judged by a person, and what follows from it."""

import hashlib
import random
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from scipy.stats import beta

from redlantern.readthrough.values import PageRead, Place

SAMPLE_PAGES = 60
LEVEL = 0.95


@dataclass(frozen=True)
class Estimate:
    """What a judged sample says of the silent pages.

    `share`, `low` and `high` are the share of them that are hits after all, with its
    interval; `n_missed_low` and `n_missed_high` the same in pages.
    """

    n_silent: int
    n_judged: int
    n_missed: int
    share: float
    low: float
    high: float

    @property
    def n_missed_low(self) -> int:
        """At least so many silent pages are hits: those that the sample itself showed."""
        return max(self.n_missed, int(self.low * self.n_silent))

    @property
    def n_missed_high(self) -> int:
        """At most so many are, as far as the interval holds."""
        if self.n_judged == self.n_silent:
            return self.n_missed
        return min(self.n_silent, self.n_missed + self.n_silent - self.n_judged, int(self.high * self.n_silent) + 1)


def exact_interval(n_hits: int, n_drawn: int, level: float = LEVEL) -> tuple[float, float]:
    """The exact binomial interval of a share (Clopper and Pearson, 1934); from 0 to 1 where nothing was drawn."""
    if not n_drawn:
        return 0.0, 1.0
    rest = (1 - level) / 2
    low = 0.0 if n_hits == 0 else float(beta.ppf(rest, n_hits, n_drawn - n_hits + 1))
    high = 1.0 if n_hits == n_drawn else float(beta.ppf(1 - rest, n_hits + 1, n_drawn - n_hits))
    return low, high


def sample(pages: Iterable[PageRead], seed: str, n_drawn: int = SAMPLE_PAGES) -> list[Place]:
    """Draw silent pages at random, the same ones for the same seed and the same silent pages, in the order of drawing."""
    silent = sorted(page.place for page in pages if page.state == "silent")
    # By the pages themselves as well: nobody can choose a seed that spares some.
    digest = hashlib.sha256(repr((seed, silent)).encode()).digest()
    return random.Random(digest).sample(silent, min(n_drawn, len(silent)))


def estimate(pages: Sequence[PageRead], drawn: Sequence[Place]) -> Estimate:
    """What the judged ones of a sample say; the interval is that of the binomial, which is the wider one for few pages."""
    by_place = {page.place: page for page in pages}
    judged = [by_place[place].judged for place in drawn if place in by_place and by_place[place].judged]
    n_missed = judged.count("accepted")
    low, high = exact_interval(n_missed, len(judged))
    n_silent = sum(page.state == "silent" for page in pages)
    return Estimate(n_silent, len(judged), n_missed, n_missed / len(judged) if judged else 0.0, low, high)
