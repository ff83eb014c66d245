# SPDX-License-Identifier: GPL-3.0-or-later
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.models.embedding import to_int8
from redlantern.retrieval import dense as meaning
from redlantern.retrieval.dense import DenseIndex, sign_bits


def clustered(seed, n, dimensions=384):
    """Vectors in bundles, as texts on few subjects have."""
    chance = np.random.default_rng(seed)
    middles = chance.normal(size=(max(1, n // 40), dimensions))
    vectors = middles[chance.integers(len(middles), size=n)] + 0.7 * chance.normal(size=(n, dimensions))
    return (vectors / np.linalg.norm(vectors, axis=1, keepdims=True)).astype(np.float32)


def index_of(vectors, cuts=()):
    parts = np.split(to_int8(vectors), list(cuts))
    return DenseIndex(parts)


@given(st.integers(0, 50), st.integers(1, 60), st.lists(st.integers(0, 60), max_size=3), st.integers(1, 100))
def test_exact_cosines_equal_plain_ones_in_any_parts_and_scope(seed, n, cuts, share):
    vectors = clustered(seed, n, 64)
    index = index_of(vectors, sorted(min(one, n) for one in cuts))
    in_scope = np.random.default_rng(seed).random(n) < share / 100
    rows, scores = index.scores(vectors[0], in_scope)
    assert rows.tolist() == np.flatnonzero(in_scope).tolist()
    np.testing.assert_allclose(scores, (vectors @ vectors[0])[in_scope], atol=0.02)


@pytest.fixture
def two_stages(monkeypatch):
    """The scan of sign bits, for collections small enough to test."""
    monkeypatch.setattr(meaning, "EXACT_UP_TO", 500)
    monkeypatch.setattr(meaning, "KEPT_BY_SIGNS", 200)


@pytest.mark.parametrize("seed", range(5))
def test_the_scan_of_sign_bits_loses_little_and_scores_exactly(two_stages, seed):
    vectors = clustered(seed, 4000)
    index = index_of(vectors, (1000, 1001, 3000))
    question = clustered(seed, 4000)[7] + 0.02
    question /= np.linalg.norm(question)
    exact = vectors @ question
    rows, scores = index.scores(question, np.ones(4000, bool))
    assert 200 <= len(rows) < 1000
    np.testing.assert_allclose(scores, exact[rows], atol=0.02)
    best = set(np.argsort(-exact)[:10].tolist())
    assert len(best & set(rows.tolist())) >= 9


def test_a_scope_filters_inside_the_scan(two_stages):
    vectors = clustered(1, 3000)
    in_scope = np.zeros(3000, bool)
    in_scope[1200:2000] = True
    rows, _ = index_of(vectors, (1500,)).scores(vectors[0], in_scope)
    assert len(rows) >= 200
    assert in_scope[rows].all()


def test_an_index_lends_its_sign_bits_to_the_next(two_stages):
    vectors = to_int8(clustered(2, 1000))
    before = DenseIndex([vectors])
    after = DenseIndex([vectors, vectors[:5].copy()], before)
    assert after._parts[0].signs is before._parts[0].signs


def test_sign_bits_hold_any_number_of_dimensions():
    vectors = np.array([[1] * 70, [-1] * 70], np.int8)
    assert sign_bits(vectors).shape == (2, 2)
    assert np.bitwise_count(sign_bits(vectors)).sum(axis=0).tolist() == [70, 0]


def test_no_vectors_at_all():
    rows, scores = DenseIndex([]).scores(np.ones(384, np.float32), np.zeros(0, bool))
    assert len(rows) == len(scores) == 0
