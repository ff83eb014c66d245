# SPDX-License-Identifier: GPL-3.0-or-later
"""Texts cut into clauses, and the clauses that a claim is from."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering.checking.clauses import as_written, clauses_of, matched, steps, words_and_values


@pytest.mark.parametrize(
    ("text", "clauses"),
    [
        ("The roof leaks.", ["The roof leaks."]),
        ("The roof leaks, and the walls are dry.", ["The roof leaks", "the walls are dry."]),
        ("Eve paid 30 euros; Adam paid 50.", ["Eve paid 30 euros", "Adam paid 50."]),
        # A name of two people is one doer.
        ("Mr. Orr and Ms. Lund paid the clerk.", ["Mr. Orr and Ms. Lund paid the clerk."]),
        # A number that is put behind what it is said of.
        ("The segment, typically 16 MB, is kept.", ["The segment, typically 16 MB", "is kept."]),
        ("All sanding and varnishing ends.", ["All sanding and varnishing ends."]),
        ("", []),
    ],
)
def test_clauses_end_where_another_thing_is_said(text, clauses):
    assert [clause.strip(" ,;") for clause in clauses_of(text)] == clauses


def test_a_claim_is_from_the_clauses_that_have_its_words():
    clauses = ["The roof was mended in May", "the walls were painted in June by the caretaker", "the gate stayed open"]
    assert matched("The caretaker painted the walls.", clauses, 2) == [clauses[1]]
    assert matched("The roof was mended and the walls were painted.", clauses, 2) == clauses[:2]
    assert matched("Planets have rings.", clauses, 2) == []


def test_words_are_stems_and_numbers_stand_behind_without_their_units():
    assert words_and_values("The fees were 40 euros.") == ["fee", "40"]


def test_each_step_goes_from_word_to_word_with_what_is_between():
    assert steps("The grey car stood by the van.") == [
        ("grey", "car", ()),
        ("car", "stand", ()),
        ("stand", "van", ("by", "the")),
    ]


def test_a_stem_is_given_as_it_was_written():
    assert as_written("fee", "All Fees are due.") == "Fees"
    assert as_written("fee", "Nothing of that.") == "fee"


@given(st.text("abc ,;.and AB", max_size=60))
def test_clauses_lose_no_word(text):
    kept = " ".join(clauses_of(text)).replace(",", " ").replace(";", " ").split()
    assert [word for word in kept if word not in text] == []
