# SPDX-License-Identifier: GPL-3.0-or-later
"""Opposites, strength and conditions of sentences."""

import pytest

from redlantern.answering.checking.phrasing import base_form, content, left_out, opposite_in, too_strong


@pytest.mark.parametrize(
    ("form", "base"),
    [("paid", "pay"), ("paying", "pay"), ("wrote", "write"), ("bellows", "bellow"), ("stood", "stand")],
)
def test_irregular_forms_have_the_stem_of_their_word(form, base):
    assert base_form(form) == base_form(base)


def test_content_leaves_out_small_words_titles_and_numbers():
    assert content("Mr. Orr did not pay the 40 euros.") == ["orr", "pay", "euros"]


@pytest.mark.parametrize(
    ("claim", "cited", "pair"),
    [
        ("The gate was open.", "The gate was closed.", ("open", "closed")),
        ("The employee pays.", "The employer pays.", ("employee", "employer")),
        ("The gate was open.", "The gate was open, the door closed.", None),
        ("The gate was green.", "The gate was closed.", None),
    ],
)
def test_a_word_whose_opposite_is_cited_is_found(claim, cited, pair):
    assert opposite_in(claim, cited) == pair


@pytest.mark.parametrize(
    ("claim", "cited", "word"),
    [
        ("The Builder must pay.", "The Builder may pay.", "must"),
        ("The Builder must pay.", "The Builder shall pay.", ""),
        ("All rooms are dry.", "Some rooms are dry.", "all"),
        ("He never came.", "He seldom came.", "never"),
        ("The rooms are dry.", "The rooms are dry.", ""),
    ],
)
def test_what_is_stronger_than_the_cited_words_is_named(claim, cited, word):
    assert too_strong(claim, cited) == word


@pytest.mark.parametrize(
    ("claim", "cited", "word"),
    [
        ("The fee is due.", "The fee may be due.", "may"),
        ("The fee may be due.", "The fee may be due.", ""),
        ("The fee is due.", "The fee is due unless it was waived.", "unless"),
        # A condition of what the claim does not speak of binds it not.
        ("It was waived.", "The fee is due unless it was waived.", ""),
        ("He was there.", "She said he was there.", "said"),
    ],
)
def test_a_doubt_or_condition_that_a_claim_drops_is_named(claim, cited, word):
    assert left_out(claim, cited) == word
