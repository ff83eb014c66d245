# SPDX-License-Identifier: GPL-3.0-or-later
import math
import random
from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.collection.word_counts import Terms, unpack_counts
from redlantern.fitted import BM25_B as B
from redlantern.fitted import BM25_K1 as K1
from redlantern.fitted import WORD_UNIT as UNIT
from redlantern.retrieval.lexical import LexicalIndex, pack_words
from redlantern.retrieval.spelling import mend
from redlantern.splitting.headings import Headings
from redlantern.text.abbreviations import definitions
from redlantern.text.dates import dates, dates_in_words
from redlantern.text.question import content_words, parse_question
from redlantern.text.stems import stem, stems


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
    assert parse_question("who is it").stems() == [stem("who"), stem("is"), stem("it")]


def word_index(*packed):
    """An index with each document as a part of its own, all of it alive."""
    parts = [unpack_counts(one) for one in packed]
    return LexicalIndex([(one, np.ones(one.n_passages, bool)) for one in parts])


def slow_bm25f(passages, question):
    """The formula as it is printed, passage by passage."""
    bags = []
    for heading, text in passages:
        *outer, innermost = heading.parts or ("",)
        bag = Counter()
        for words, weight in ((text, 2), (innermost, 4), (" ".join(outer), 1)):
            for term in stems(words):
                bag[term] += weight
        bags.append(bag)
    average = sum(sum(bag.values()) for bag in bags) / len(bags)
    scores = []
    for bag in bags:
        score = 0.0
        for term in dict.fromkeys(question):
            n_with = sum(term in other for other in bags)
            idf = math.log(1 + (len(bags) - n_with + 0.5) / (n_with + 0.5))
            tf = bag[term] / UNIT
            score += idf * tf * (K1 + 1) / (tf + K1 * (1 - B + B * sum(bag.values()) / average))
        scores.append(score)
    return scores


@pytest.mark.parametrize("seed", range(8))
def test_scores_equal_the_plain_formula(seed):
    chance = random.Random(seed)
    words = [f"word{number}" for number in range(12)]

    def passage():
        path = [" ".join(chance.choices(words, k=3)) for _ in range(chance.randint(0, 3))]
        return Headings(tuple(path)), " ".join(chance.choices(words, k=chance.randint(1, 40)))

    passages = [passage() for _ in range(chance.randint(1, 25))]
    question = stems(" ".join(chance.choices([*words, "unknown"], k=4)))
    cut = chance.randint(0, len(passages))
    index = word_index(pack_words(passages[:cut]), pack_words(passages[cut:]))
    np.testing.assert_allclose(index.scores(question), slow_bm25f(passages, question), rtol=1e-5)


def test_dead_passages_score_nothing_and_are_in_no_number():
    passages = [(Headings(), "bellows leather"), (Headings(), "leather"), (Headings(), "leather bench")]
    parts = unpack_counts(pack_words(passages))
    index = LexicalIndex([(parts, np.array([True, False, True]))])
    left = word_index(pack_words([passages[0], passages[2]]))
    np.testing.assert_allclose(index.scores(["leather"])[[0, 2]], left.scores(["leather"]), rtol=1e-6)
    assert index.scores(["leather"])[1] == 0


@given(
    st.lists(st.text("abcäß:€\U0001f3ae", min_size=1, max_size=4), unique=True, max_size=30),
    st.text("abcäß:€", max_size=3),
)
def test_packed_terms_are_found_as_in_a_list(terms, wanted):
    terms = sorted(terms)
    packed = Terms.of(terms)
    assert list(packed) == terms
    assert [packed[index] for index in range(len(packed))] == terms
    assert packed.find(wanted) == (terms.index(wanted) if wanted in terms else None)
    assert packed.holds_beginning(wanted) == any(term.startswith(wanted) for term in terms)


def test_compounds_are_found_however_they_are_joined():
    index = word_index(
        pack_words([(Headings(), "Send an e-mail."), (Headings(), "Set max_connections."), (Headings(), "Fund N416.")])
    )
    assert index.scores(parse_question("email").stems())[0] > 0
    assert index.scores(parse_question("What is max_connections?").stems()).argmax() == 1
    assert index.scores(parse_question("n416").stems()).argmax() == 2


def test_an_abbreviation_is_found_by_its_long_form_where_the_document_defines_it():
    defined = [(Headings(), "The Relative Humidity (RH) is read daily."), (Headings(), "RH was 74 % in the loft.")]
    index = word_index(pack_words(defined), pack_words([(Headings(), "RH of another document.")]))
    scores = index.scores(parse_question("relative humidity").stems())
    assert scores[0] > scores[1] > 0
    assert scores[2] == 0


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("the Relative Humidity (RH) in the loft", {"RH": "Relative Humidity"}),
        ("Accounts Payable (or A/P) refers to", {"A/P": "Accounts Payable"}),
        ("a PV (Physical Volume) is", {"PV": "Physical Volume"}),
        ("the Board of Trustees (the Board)", {}),
        ("a heating system (see) below", {}),
        ("humidity of some kind (TOU)", {}),
    ],
)
def test_definitions_of_abbreviations(text, expected):
    assert definitions([text]) == expected


def test_an_empty_index_scores_nothing():
    assert LexicalIndex([]).scores(["word"]).shape == (0,)
    assert word_index(pack_words([])).n_passages == 0


FORMS = Counter({"humidity": 9, "bellows": 7, "lawful": 3, "receipt": 2, "auditors": 1, "below": 4})


class Known:
    languages = ()
    """The words of a small collection."""

    forms = FORMS
    _stems = frozenset(map(stem, FORMS))

    def holds(self, term):
        return term in self._stems

    def holds_beginning(self, beginning):
        return any(one.startswith(beginning) for one in self._stems)


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
    assert mend(parse_question(question), Known(), lambda word: word != "audit") == expected


def test_a_word_that_the_tokenizer_knows_whole_is_left_alone():
    assert mend(parse_question("kettle and humidty"), Known(), lambda word: word == "humidty") == {
        "humidty": "humidity"
    }


def test_words_are_found_by_their_stem_in_the_documents_language():
    german = pack_words(
        [(Headings(), "Die Prüfungen der Bälge wurden verschoben."), (Headings(), "Der Vertrag wurde gekündigt.")], "de"
    )
    index = word_index(german, pack_words([(Headings(), "The bellows were examined.")], "en"))
    assert index.languages == ["de"]
    # "Prüfung" stands in no document in this form, and English stems do not join it to "Prüfungen".
    with_language = index.scores(parse_question("Wann war die Prüfung?").stems(index.languages))
    without = index.scores(parse_question("Wann war die Prüfung?").stems())
    assert with_language.argmax() == 0
    assert with_language[0] > without[0]
