# SPDX-License-Identifier: GPL-3.0-or-later
"""The parts that an index is put together from, each against the plain way."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from redlantern import fitted
from redlantern.models.embedding import from_int4
from redlantern.retrieval.columns import Column, DocumentRows
from redlantern.retrieval.index import Index
from redlantern.retrieval.ordering import highest
from redlantern.text.question import parse_question
from tests.conftest import SmallEmbedder


@given(st.integers(0, 30), st.integers(1, 5000), st.integers(1, 40), st.sampled_from([0.0, 0.5, 0.97]))
def test_the_highest_scores_are_among_those_that_are_given(seed, n_rows, n, share_of_zeros):
    chance = np.random.default_rng(seed)
    scores = chance.integers(0, 50, n_rows).astype(np.float32)
    scores[chance.random(n_rows) < share_of_zeros] = 0
    rows = highest(scores, n)
    wanted = np.sort(scores[scores > 0])[::-1][:n]
    assert np.sort(scores[rows])[::-1][: len(wanted)].tolist() == wanted.tolist()
    assert (scores[rows] > 0).all()


@given(st.lists(st.lists(st.integers(0, 9), max_size=6), max_size=5), st.integers(0, 9))
def test_a_column_in_parts_reads_like_one_array(parts, seed):
    arrays = [np.array(one, np.int16) for one in parts]
    whole = np.concatenate([np.zeros(0, np.int16), *arrays])
    column = Column(arrays)
    rows = np.random.default_rng(seed).permutation(len(whole))
    assert column[rows].tolist() == whole[rows].tolist()
    begin = 0
    for one in parts:
        if one:
            assert int(column.stretch(begin, begin + len(one)).sum()) == sum(one)
        begin += len(one)


def test_a_document_that_was_read_again_is_found_in_its_living_stretch_only():
    old = (np.array([7, 7, 8]), np.array([False, False, True]))
    new = (np.array([7, 7]), np.array([True, True]))
    places = DocumentRows([old, new])
    assert [places.of(one) for one in (6, 7, 8, 9)] == [(0, 0), (3, 5), (2, 3), (0, 0)]


def test_lines_read_in_parts_are_those_of_the_whole(engine):
    dimensions, identity = SmallEmbedder.dimensions, SmallEmbedder.identity
    for document in engine.collection.documents():
        n = sum(
            len(one[0]) // 8
            for one in engine.collection.file.rows(
                "SELECT lines FROM passages WHERE document_id = ?", document.document_id
            )
        )
        key = document.document_id
        [whole] = engine.collection.line_vectors({key: ([(0, n)], n)}, identity)[key]
        assert np.linalg.norm(from_int4(whole, dimensions), axis=1).round(3).tolist() == [1.0] * n
        parts = engine.collection.line_vectors({key: ([(one, one + 1) for one in range(n)], n)}, identity)[key]
        np.testing.assert_array_equal(np.concatenate(parts), whole)
        assert engine.collection.line_vectors({key: ([(0, 1)], n)}, "another model") == {}
        assert engine.collection.line_vectors({key: ([(0, 1)], n + 1)}, identity) == {}


def test_the_best_by_words_is_given_though_its_meaning_is_far(engine, monkeypatch):
    """A number in one row of a long table has no meaning to a vector."""
    index = Index(engine.collection, SmallEmbedder.dimensions, SmallEmbedder.identity)
    question = "relative humidity loft"
    words = index.word_scores(parse_question(question))
    best = int(index.passage_ids[int(words.argmax())])
    away = -index._meaning._parts[0].vectors[int(words.argmax())].astype(np.float32)
    away /= np.linalg.norm(away)
    monkeypatch.setattr(fitted, "COMPARED_BY_LINES", 1)
    found = index.search(parse_question(question), away, None, 5, word_weight=0.0).hits
    assert best in [one.passage_id for one in found]


def test_lines_that_were_fetched_first_are_let_go_first(engine, monkeypatch):
    index = Index(engine.collection, SmallEmbedder.dimensions, SmallEmbedder.identity)
    vector = engine.embedder.embed_question("humidity")
    before = [one.best_line for one in index.search(parse_question("humidity"), vector, None, 5).hits]
    monkeypatch.setattr("redlantern.retrieval.index._PASSAGES_HELD", 2)
    index._lines = {}
    assert [one.best_line for one in index.search(parse_question("humidity"), vector, None, 5).hits] == before
    assert len(index._lines) <= 2
