# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures equal plain reference implementations; intervals cover at their level, and the paired test holds its own."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import permutation_test
from sklearn.metrics import label_ranking_average_precision_score, ndcg_score

from redlantern.trials.ranks import rank_figures
from redlantern.trials.sureness import compare, in_words, mean_interval


@given(st.permutations(range(12)), st.frozensets(st.integers(0, 11), min_size=1, max_size=12))
def test_figures_equal_those_of_a_well_kept_library(ranked, right):
    found = rank_figures(ranked, right)
    gains = np.array([[float(place in right) for place in ranked]])
    scores = np.array([[float(len(ranked) - rank) for rank in range(len(ranked))]])
    assert found.ndcg_at_10 == pytest.approx(ndcg_score(gains, scores, k=10))
    first = np.where(
        np.cumsum(gains) == 1, gains, 0.0
    )  # the first right one alone: its precision is the reciprocal rank
    expected = label_ranking_average_precision_score(first, scores) if first[0, :10].any() else 0.0
    assert found.reciprocal_rank == pytest.approx(expected)


@given(
    st.lists(st.integers(0, 15), max_size=14), st.frozensets(st.integers(0, 15), min_size=1, max_size=6), st.booleans()
)
def test_figures_equal_a_plain_reference(ranked, right, wants_all):
    found = rank_figures(ranked, right, wants_all=wants_all)
    seen, gains = set(), []
    for place in ranked[:10]:
        gains.append(1.0 if place in right and place not in seen else 0.0)
        seen.add(place)
    gains += [0.0] * (10 - len(gains))
    for k, recall in ((1, found.recall_at_1), (5, found.recall_at_5), (10, found.recall_at_10)):
        n_found = sum(gains[:k])
        assert recall == (n_found / min(k, len(right)) if wants_all else float(n_found > 0))
    first = next((at for at, gain in enumerate(gains, start=1) if gain), None)
    assert found.reciprocal_rank == (1 / first if first else 0.0)
    discounts = 1 / np.log2(np.arange(2, 12))
    ideal = np.sum(discounts[: min(10, len(right))])
    assert found.ndcg_at_10 == pytest.approx(float(np.dot(gains, discounts) / ideal))


def test_an_interval_covers_the_truth_at_about_its_level():
    chance = np.random.default_rng(3)
    covered = 0
    for _ in range(300):
        found = mean_interval(chance.beta(2, 1, size=50).tolist())
        covered += found.low <= 2 / 3 <= found.high
    assert 0.91 <= covered / 300 <= 0.99
    assert mean_interval([0.5]) == mean_interval([0.5])
    again = mean_interval([0.0, 1.0, 1.0])
    assert again.low <= again.mean <= again.high


def test_the_paired_test_holds_its_level_and_sees_what_is_there():
    chance = np.random.default_rng(5)
    n_told = sum(
        not compare(first.tolist(), second.tolist()).may_be_chance
        for first, second in ((chance.random(25), chance.random(25)) for _ in range(300))
    )
    assert n_told <= 0.09 * 300
    better = compare([0.0] * 30 + [1.0] * 10, [1.0] * 15 + [0.0] * 15 + [1.0] * 10)
    assert not better.may_be_chance and (better.wins, better.losses) == (15, 0)
    assert better.difference.low > 0


@pytest.mark.parametrize("n", [6, 12])
def test_p_is_that_of_the_reference_where_all_signs_can_be_tried(n):
    chance = np.random.default_rng(n)
    first, second = chance.random(n), chance.random(n) + 0.2

    def statistic(one, other, axis):
        return np.mean(one - other, axis=axis)

    expected = permutation_test((second, first), statistic, permutation_type="samples", n_resamples=np.inf)
    assert compare(first.tolist(), second.tolist()).p == pytest.approx(expected.pvalue, abs=1e-9)
    signs = np.array(list(itertools.product([1, -1], repeat=n)))
    plain = np.mean(np.abs(signs @ (second - first)) >= abs(np.sum(second - first)) - 1e-9)
    assert compare(first.tolist(), second.tolist()).p == pytest.approx(float(plain))


def test_many_questions_are_tried_at_random_near_the_exact_value():
    differences = [1.0] * 12 + [-1.0] * 5 + [0.0] * 20
    found = compare([0.0] * 37, differences)
    exact = np.mean([abs(sum(signs)) >= 7 for signs in itertools.product([1, -1], repeat=17)])
    assert found.p == pytest.approx(float(exact), abs=0.01)


def test_the_conclusion_is_said_in_plain_words():
    same = compare([1.0, 0.0], [1.0, 0.0])
    assert same.p == 1.0
    assert in_words(same, "A", "B", "finds the page") == "“A” and “B” come out the same on each of 2 questions."
    even = compare([1.0, 0.0], [0.0, 1.0])
    assert in_words(even, "A", "B", "finds") == "“A” and “B” are even over 2 questions: each is better on some."
    few = compare([0.0] * 40, [1.0] * 4 + [0.0] * 36)
    assert in_words(few, "A", "B", "finds the page") == (
        "“B” finds the page for 4 of 40 questions where “A” does not. So few questions differ that this may be chance "
        "(p = 0.12): do not choose by it."
    )
    many = compare([1.0] * 12 + [0.0] * 28, [0.0] * 39 + [1.0])
    said = in_words(many, "A", "B", "finds the page")
    assert said.startswith("“A” finds the page for 12 of 40 questions where “B” does not, and “B” for 1 other")
    assert "hardly chance (p = 0.003)" in said
