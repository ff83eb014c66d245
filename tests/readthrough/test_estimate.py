# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sample says of what was missed: intervals that hold, samples that nobody chooses; and learning from judgements."""

import random

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from redlantern.readthrough.estimate import estimate, exact_interval, sample
from redlantern.readthrough.learning import learn
from redlantern.readthrough.values import PageRead


def silent(number, judged=""):
    return PageRead(("key", number), "silent", 0.01, judged=judged)


@given(st.integers(0, 80), st.integers(1, 80))
def test_the_interval_is_that_of_the_reference_implementation(n_hits, n_drawn):
    n_hits = min(n_hits, n_drawn)
    expected = binomtest(n_hits, n_drawn).proportion_ci(0.95, "exact")
    assert np.allclose(exact_interval(n_hits, n_drawn), (expected.low, expected.high))


def test_the_interval_holds_the_truth_at_its_level():
    held = 0
    for seed in range(400):
        chance = random.Random(seed)
        n_silent, n_missed = 300, chance.randrange(0, 40)
        missed = set(chance.sample(range(n_silent), n_missed))
        pages = [silent(number) for number in range(n_silent)]
        drawn = sample(pages, str(seed))
        judged = [silent(place[1], "accepted" if place[1] in missed else "rejected") for place in drawn]
        found = estimate([*judged, *(page for page in pages if page.place not in drawn)], drawn)
        held += found.n_missed_low <= n_missed <= found.n_missed_high
    assert held >= 0.95 * 400


def test_a_sample_is_the_same_again_and_another_for_other_pages_or_another_beginning():
    pages = [silent(number) for number in range(200)]
    drawn = sample(pages, "2026-11-29T10:00:00.000+00:00")
    assert drawn == sample(list(reversed(pages)), "2026-11-29T10:00:00.000+00:00")
    assert len(set(drawn)) == 60
    assert drawn != sample(pages[1:], "2026-11-29T10:00:00.000+00:00") != sample(pages, "2026-11-29T10:00:00.001+00:00")
    assert sample([PageRead(("key", 1), "hit", 1.0)], "x") == []


def test_a_sample_of_all_silent_pages_leaves_nothing_to_guess():
    pages = [silent(number, "rejected") for number in range(8)]
    found = estimate(pages, sample(pages, "x"))
    assert (found.n_judged, found.n_missed, found.n_missed_high) == (8, 0, 0)
    assert estimate(pages, []).n_judged == 0


def page(number, is_right, judged="", state="doubtful"):
    chance = random.Random(number)
    # Features that say little by themselves; what is right shows in the pages' directions.
    return PageRead(("key", number), state, 0.2, features=(chance.random(), chance.random()), judged=judged)


def vectors(right):
    chance = np.random.default_rng(3)
    base, other = chance.normal(size=(2, 32))
    made = {}
    for number, is_right in enumerate(right):
        row = (base if is_right else other) + 0.7 * chance.normal(size=32)
        made["key", number] = (row / np.linalg.norm(row)).astype(np.float32)
    return made


def test_judgements_order_what_is_open_and_say_how_well_they_agree():
    chance = random.Random(1)
    right = [chance.random() < 0.3 for _ in range(120)]
    judged = {number: "accepted" if right[number] else "rejected" for number in range(20)}
    pages = [page(number, right[number], judged.get(number, "")) for number in range(120)]
    found = learn(pages, vectors(right))
    assert found is not None and len(found.order) == 100
    n_right = sum(right[20:])
    first = [right[place[1]] for place, _ in found.order[:n_right]]
    assert sum(first) >= 0.9 * n_right
    assert found.n_judged == 20 and found.n_agreeing >= 16 and found.is_worth_following
    assert [chance for _, chance in found.order] == sorted((chance for _, chance in found.order), reverse=True)


def test_too_few_judgements_teach_nothing():
    pages = [page(0, True, "accepted"), page(1, True, "accepted"), page(2, False, "rejected"), page(3, False)]
    assert learn(pages, {}) is None
    assert learn([*pages, page(4, False, "rejected")], {}) is not None
