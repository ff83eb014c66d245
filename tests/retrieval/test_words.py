import math
import random
from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.collection.segments import unpack_counts
from redlantern.retrieval.analysis import content_words, dates, dates_in_words, stem, stems
from redlantern.retrieval.index import RANK_CONSTANT, _ranks, fuse, searched_stems
from redlantern.retrieval.spelling import mend
from redlantern.retrieval.words import K1, B, WordIndex, pack_words


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("leathering", "leathered"),
        ("1.299,50", "1,299.50"),
        ("1.950.000", "1950000"),
        ("third", "3"),
        ("Builder's", "builder"),
    ],
)
def test_forms_of_one_word_share_a_stem(one, other):
    assert stems(one)[:1] == stems(other)[:1]


def test_dates_are_alike_however_written():
    spellings = ("17.03.2026", "2026-03-17", "17 March 2026", "March 17th, 2026", "17/3/2026")
    assert {tuple(dates(f"on {one} at noon")) for one in spellings} == {("date:2026-03-17",)}
    assert dates("45.45.2026 and 1.299") == []
    assert dates_in_words("read on 17.03.2026") == "read on 17 March 2026"


def test_content_words_leave_out_what_only_asks():
    assert content_words("What does clause 9.8 say about the leather?") == ["clause", "9.8", "leather"]


def test_a_question_of_small_words_alone_is_searched_by_them():
    assert searched_stems("who is it") == [stem("who"), stem("is"), stem("it")]


def word_index(*packed):
    """An index with each document as a part of its own, all of it alive."""
    parts = [unpack_counts(one) for one in packed]
    return WordIndex([(one, np.ones(one.n_passages, bool)) for one in parts])


def slow_bm25(texts, question):
    """The formula as it is printed, passage by passage."""
    bags = [Counter(stems(text)) for text in texts]
    average = sum(sum(bag.values()) for bag in bags) / len(bags)
    scores = []
    for bag in bags:
        score = 0.0
        for term in dict.fromkeys(question):
            n_with = sum(term in other for other in bags)
            idf = math.log(1 + (len(bags) - n_with + 0.5) / (n_with + 0.5))
            tf = bag[term]
            score += idf * tf * (K1 + 1) / (tf + K1 * (1 - B + B * sum(bag.values()) / average))
        scores.append(score)
    return scores


@pytest.mark.parametrize("seed", range(8))
def test_scores_equal_the_plain_formula(seed):
    chance = random.Random(seed)
    words = [f"word{number}" for number in range(12)]
    texts = [" ".join(chance.choices(words, k=chance.randint(1, 40))) for _ in range(chance.randint(1, 25))]
    question = stems(" ".join(chance.choices([*words, "unknown"], k=4)))
    cut = chance.randint(0, len(texts))
    index = word_index(pack_words(texts[:cut]), pack_words(texts[cut:]))
    np.testing.assert_allclose(index.scores(question), slow_bm25(texts, question), rtol=1e-5)


def test_an_empty_index_scores_nothing():
    assert WordIndex([]).scores(["word"]).shape == (0,)
    assert word_index(pack_words([])).n_passages == 0


def test_fusion_adds_reciprocal_ranks_and_ties_are_alike():
    scores = np.array([3.0, 1.0, 3.0, 0.0], np.float32)
    ranks = _ranks(scores, scores > 0)
    assert ranks.tolist() == [1, 2, 1, math.inf]
    fused = fuse([ranks, np.array([2.0, 1.0, math.inf, math.inf])])
    assert fused[0] == pytest.approx(1 / (RANK_CONSTANT + 1) + 1 / (RANK_CONSTANT + 2))
    assert fused[3] == 0


@given(st.lists(st.integers(0, 1000), min_size=1, max_size=40), st.integers(0, 5))
def test_ranks_do_not_depend_on_the_order_on_disk(values, seed):
    scores = np.array(values, np.float32)
    order = np.random.default_rng(seed).permutation(len(scores))
    everything = np.ones(len(scores), bool)
    np.testing.assert_array_equal(_ranks(scores, everything)[order], _ranks(scores[order], everything))


FORMS = Counter({"humidity": 9, "bellows": 7, "lawful": 3, "receipt": 2, "auditors": 1, "below": 4})
VOCABULARY = {stem(form): index for index, form in enumerate(FORMS)}


@pytest.mark.parametrize(
    ("question", "expected"),
    [
        ("What was the humidty?", {"humidty": "humidity"}),
        ("the reciept", {"reciept": "receipt"}),
        ("belows", {"belows": "bellows"}),
        ("Was it unlawful?", {}),  # never to its opposite
        ("Who audited it?", {}),  # another form of a known word
        ("xyzzyqwert", {}),  # near to nothing
        ("in 1961", {}),
    ],
)
def test_misspelt_words_are_mended_with_care(question, expected):
    assert mend(question, FORMS, VOCABULARY, lambda word: True) == expected


def test_a_word_that_the_tokenizer_knows_whole_is_left_alone():
    assert mend("kettle and humidty", FORMS, VOCABULARY, lambda word: word == "humidty") == {"humidty": "humidity"}


def test_words_are_found_by_their_stem_in_the_documents_language():
    german = pack_words(["Die Prüfungen der Bälge wurden verschoben.", "Der Vertrag wurde gekündigt."], "de")
    index = word_index(german, pack_words(["The bellows were examined."], "en"))
    assert index.languages == ["de"]
    # "Prüfung" stands in no document in this form, and English stems do not join it to "Prüfungen".
    with_language = index.scores(searched_stems("Wann war die Prüfung?", index.languages))
    without = index.scores(searched_stems("Wann war die Prüfung?"))
    assert with_language.argmax() == 0
    assert with_language[0] > without[0]
