# SPDX-License-Identifier: GPL-3.0-or-later
"""Who does what, and which number belongs to what: joined otherwise than in the cited words."""

import pytest

from redlantern.answering.checking.roles import doubts_about_roles
from redlantern.text.quantities import plain


def doubts(claim, cited):
    return [doubt for doubt in doubts_about_roles(plain(claim), plain(cited)) if doubt is not None]


@pytest.mark.parametrize(
    ("claim", "cited", "absent"),
    [
        # A number of another: paired with another date, said of another.
        ("On 3 May it was 70 per cent.", "On 3 May it was 60 per cent, on 4 May it was 70 per cent.", "70"),
        ("Eve paid 30 euros.", "Adam paid 30 euros and Eve paid 50 euros.", "30"),
        # Another doer, another one it was done to.
        ("Mr. Orr paid Ms. Lund for the boat.", "Ms. Lund paid Mr. Orr for the boat.", "Orr"),
        ("The clerk paid Ms. Lund.", "Ms. Lund paid the clerk.", "Lund"),
        # The attribute of another thing.
        ("The grey car stood.", "The blue car stood by the grey van.", "grey"),
    ],
)
def test_what_belongs_to_another_is_doubted_and_named(claim, cited, absent):
    found = doubts(claim, cited)
    assert found
    assert any(absent in doubt.absent or absent in doubt.words for doubt in found)


@pytest.mark.parametrize(
    "sentence",
    [
        "Adam paid 30 euros and Eve paid 50 euros.",
        "On 3 May it was 60 per cent, on 4 May it was 70 per cent.",
        "Ms. Lund paid Mr. Orr for the boat.",
        "The blue car stood by the grey van.",
        "The letter was written by the clerk to the Trust on 3 May.",
    ],
)
def test_a_sentence_is_not_doubted_by_itself(sentence):
    assert doubts(sentence, sentence) == []


@pytest.mark.parametrize(
    ("claim", "cited"),
    [
        ("Mr. Orr was paid by Ms. Lund.", "Ms. Lund paid Mr. Orr."),
        ("Orr and Lund signed.", "Lund and Orr signed."),
        ("The Builder shall stop work.", "9.8 The Builder shall stop work in the Loft."),
        ("On 4 May it was 70 per cent.", "On 3 May it was 60 per cent, on 4 May it was 70 per cent."),
    ],
)
def test_the_same_in_another_order_is_not_doubted(claim, cited):
    assert doubts(claim, cited) == []


def test_two_things_that_are_done_are_one_clause():
    cited = (
        "The Tenant shall end all sanding and varnishing in the hall when the temperature falls below 5 degrees for more "
        "than a day."
    )
    # "and" between them begins nobody else's clause.
    assert doubts("Sanding shall end when the temperature falls below 5 degrees for more than a day.", cited) == []
