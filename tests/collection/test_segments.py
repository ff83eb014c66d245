# SPDX-License-Identifier: GPL-3.0-or-later
"""Segments give what the documents' own arrays give, whatever is added, changed and taken out."""

import random
from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from redlantern import fitted
from redlantern.application.documents import plan_update
from redlantern.collection import segments, upkeep, vectors
from redlantern.collection.check import find_faults
from redlantern.collection.segments import Segment, merge, without_dead
from redlantern.collection.word_counts import count_words, pack_counts, unpack_counts
from redlantern.models.embedding import from_int4, to_int4
from redlantern.progress import Cancel, silent
from redlantern.retrieval.index import Index
from redlantern.retrieval.lexical import LexicalIndex
from redlantern.text.question import parse_question
from tests.conftest import SmallEmbedder

WORDS = ["blower", "loft", "pump", "yard", "pipe", "key", "valve", "organ"]
BAGS = st.lists(st.lists(st.sampled_from(WORDS), max_size=8), max_size=5)


def plain(words):
    """The counts as a set of (passage, stem, how often)."""
    found = set()
    for at, term in enumerate(words.terms):
        span = slice(int(words.indptr[at]), int(words.indptr[at + 1]))
        found |= {(int(row), term, int(n)) for row, n in zip(words.rows[span], words.counts[span], strict=True)}
    return found


def counted(bags, shift=0):
    return {(row + shift, word, bag.count(word)) for row, bag in enumerate(bags) for word in bag}


def segment(bags, first_id=0):
    n = len(bags)
    ids = np.arange(first_id, first_id + n)
    vectors = np.full((n, 4), 3, np.int8)
    words = count_words(list(map(Counter, bags)), {word: 1 for bag in bags for word in bag})
    return Segment(ids, ids * 0 + first_id, np.ones(n, np.int32), np.ones(n, np.int32), vectors, words)


@given(BAGS)
def test_packing_keeps_every_count(bags):
    words = unpack_counts(pack_counts(count_words(list(map(Counter, bags)), {"a": 2})))
    assert plain(words) == counted(bags)
    assert words.lengths.tolist() == [len(bag) for bag in bags]
    assert words.forms == {"a": 2}


@settings(deadline=None)
@given(st.lists(BAGS, min_size=1, max_size=4), st.randoms())
def test_merging_and_leaving_out_agree_with_counting_anew(many, chance):
    merged = merge([segment(bags, number * 10) for number, bags in enumerate(many)], 4)
    together = [bag for bags in many for bag in bags]
    assert plain(merged.words) == counted(together)
    is_alive = np.array([chance.random() < 0.6 for _ in together], bool)
    left = without_dead(merged, is_alive)
    assert plain(left.words) == counted([bag for bag, keeps in zip(together, is_alive, strict=True) if keeps])
    assert left.passage_ids.tolist() == merged.passage_ids[is_alive].tolist()
    question = chance.choices(WORDS, k=3)
    with_dead = LexicalIndex([(merged.words, is_alive)])
    without = LexicalIndex([(left.words, np.ones(len(left.passage_ids), bool))])
    np.testing.assert_allclose(with_dead.scores(question)[is_alive], without.scores(question), rtol=1e-5)
    assert not with_dead.scores(question)[~is_alive].any()


def test_lines_in_half_a_byte_keep_their_direction():
    vectors = np.random.default_rng(3).normal(size=(200, 384)).astype(np.float32)
    vectors /= np.linalg.norm(vectors, axis=1, keepdims=True)
    again = from_int4(to_int4(vectors), 384)
    assert (again * vectors).sum(axis=1).min() > 0.98
    assert to_int4(np.zeros((0, 8), np.float32)).shape == (0, 4)


def answers(engine):
    index = Index(engine.collection, SmallEmbedder.dimensions, SmallEmbedder.identity)
    found = []
    for question in ("blower in the loft", "the pump 3", "yard key 17", "valve"):
        vector = engine.embedder.embed_question(question)
        hits = index.search(parse_question(question), vector, None, 100).hits
        found.append({index.documents[one.document_id].path: (one.words, one.meaning, one.best_line) for one in hits})
    return found


@pytest.mark.parametrize("seed", range(3))
def test_changes_in_any_order_give_what_a_collection_made_anew_gives(make_engine, tmp_path, monkeypatch, seed):
    """Each step reads a few files; several engines, so it takes some seconds."""
    monkeypatch.setattr(vectors, "MERGED_FROM", 6)
    monkeypatch.setattr(segments, "MOST_PASSAGES", 10)
    monkeypatch.setattr(vectors, "MOST_PASSAGES", 10)
    chance, place = random.Random(seed), tmp_path / "papers"
    place.mkdir()
    engine = make_engine()
    engine.collection.claim_writing()
    for step in range(5):
        for _ in range(5):
            path = place / f"paper{chance.randrange(14)}.txt"
            if path.exists() and chance.random() < 0.4:
                path.unlink()
            else:
                path.write_text(
                    f"Paper {path.stem} {step}. " + " ".join(chance.choices(WORDS, k=9)) + f" {chance.random()}."
                )
        (place / "always.txt").write_text("The blower stands in the loft.")
        engine.update([place], report=silent, cancel=Cancel())
        assert find_faults(engine.collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel()) == []
        if step == 3:
            upkeep.erase_documents(engine.collection, [engine.collection.documents()[0]])
            engine.collection.let_in([str(one) for one in place.iterdir()])
            engine.update([place], report=silent, cancel=Cancel())
    assert engine.collection.segments.places()
    fresh = make_engine(f"fresh{seed}.redlantern")
    fresh.collection.claim_writing()
    fresh.update([place], report=silent, cancel=Cancel())
    for mine, theirs in zip(answers(engine), answers(fresh), strict=True):
        assert mine.keys() == theirs.keys()
        np.testing.assert_allclose([mine[path] for path in mine], [theirs[path] for path in mine], atol=1e-4)


def test_only_the_best_are_compared_line_by_line(engine, monkeypatch):
    whole = Index(engine.collection, SmallEmbedder.dimensions, SmallEmbedder.identity)
    monkeypatch.setattr(fitted, "COMPARED_BY_LINES", 1)
    question = "At what relative humidity shall work cease?"
    vector = engine.embedder.embed_question(question)
    few = whole.search(parse_question(question), vector, None, 1).hits
    monkeypatch.undo()
    assert len(few) == 1
    assert few[0].passage_id == whole.search(parse_question(question), vector, None, 3).hits[0].passage_id


def test_vectors_of_another_model_are_never_compared(engine):
    question = "At what relative humidity shall work cease?"
    vector = engine.embedder.embed_question(question)
    other = Index(engine.collection, SmallEmbedder.dimensions, "another model 2")
    hits = other.search(parse_question(question), vector, None, 3).hits
    assert hits and all(one.meaning == 0 and not one.line_scores.any() for one in hits)
    assert hits[0].words > 0
    engine.embedder.identity = "small stand-in 2"
    plan, seconds = plan_update(engine, Cancel())
    assert (len(plan.to_remake), plan.to_read) == (2, [])
    assert seconds > 0
    assert engine.carry_out(plan, report=silent, cancel=Cancel()).remade == 2
    assert plan_update(engine, Cancel())[0].to_remake == []
    again = Index(engine.collection, SmallEmbedder.dimensions, "small stand-in 2").search(
        parse_question(question), vector, None, 3
    )
    assert again.hits[0].meaning > 0.3
