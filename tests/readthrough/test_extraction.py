# SPDX-License-Identifier: GPL-3.0-or-later
"""Values from pages: dates and periods, sums, names of persons, duties; each with the place of its very words."""

import pytest

from redlantern.reading.values import Block, Page
from redlantern.readthrough.extraction import items_of
from redlantern.readthrough.lines import chance_by_lines, state_of, subject_of, unreadable_because
from redlantern.readthrough.values import Example, PageWish, wish_from


def page(text):
    blocks, at = [], 0
    for paragraph in text.split("\n"):
        blocks.append(Block("paragraph", at, at + len(paragraph)))
        at += len(paragraph) + 1
    return Page(1, text, tuple(blocks))


def values(kind, text, **words):
    made = page(text)
    items = items_of(kind, made, **words)
    for item in items:
        assert made.text[item.start : item.end].strip()
        assert made.text[item.start : item.end] in item.line or kind == "duties"
    return [item.value for item in items]


def test_dates_come_in_one_spelling_with_periods_as_they_are_written():
    text = "Signed on 3 March 2026, due 09.06.2026 or within fourteen days of receipt.\nNotice of three months after 2026-12-01."
    assert values("dates", text) == [
        "2026-03-03",
        "2026-06-09",
        "within fourteen days",
        "2026-12-01",
        "three months after",
    ]
    assert values("dates", "On 31 February 2026 and 45.13.2026 nothing was due.") == []


@pytest.mark.parametrize(
    ("written", "value"),
    [
        ("12.400,00 EUR", "12400.00 EUR"), ("EUR 31,250.50", "31250.50 EUR"), ("€ 340", "340.00 EUR"), ("£1,200", "1200.00 GBP"),
        ("340 euros", "340.00 EUR"), ("56.160 EUR", "56160.00 EUR"), ("$ 4.50", "4.50 USD"),
    ],
)  # fmt: skip
def test_sums_are_read_whatever_their_marks(written, value):
    assert values("sums", f"The key costs {written} in all.") == [value]


def test_what_is_no_sum_is_none():
    assert values("sums", "Clause 9.4 of 12 March 2026 speaks of 70 per cent and 41 days.") == []


def test_persons_are_names_not_headings_places_or_cells():
    text = (
        "Mr. Tobias Renn told Ingrid Vasey of Oriel Hall on 12 March 2026.\nLogger\tPlace\tLowest\n"
        "Dr. Ruth Amsel wrote to the Wharfside Mutual in Saddler's Row."
    )
    assert values("persons", text) == ["Mr. Tobias Renn", "Ingrid Vasey", "Dr. Ruth Amsel"]


def test_duties_name_who_bears_them_and_can_be_limited_to_one():
    text = (
        "2.1 The Builder shall keep a daily log.\nThe Trust must pay within ten days.\nThe Builder may not sublet.\n"
        "It would have to be seen.\nNobody said a word."
    )
    items = items_of("duties", page(text))
    assert [item.bearer for item in items] == ["The Builder", "The Trust", "The Builder"]
    assert items[0].value == "The Builder shall keep a daily log."
    limited = items_of("duties", page(text), about="all obligations of the Builder".replace("all obligations of ", ""))
    assert [item.value for item in limited] == ["The Builder shall keep a daily log.", "The Builder may not sublet."]


@pytest.mark.parametrize(
    ("question", "subject"),
    [
        ("every page that names Hamish Croll", "Hamish Croll"),
        ("all clauses that touch on liability", "liability"),
        ("Which pages say something about the roof?", "the roof"),
        ("Find every letter that mentions the yard key", "the yard key"),
        ("list all places where the loft was wet", "the loft was wet"),
        ("Who pays for delay?", "Who pays for delay"),
        ("every page", "every page"),
    ],
)
def test_what_is_looked_for_is_told_from_the_words_that_every_page_is_meant(question, subject):
    assert subject_of(question) == subject


def test_pages_that_gave_nothing_are_unreadable_and_say_why():
    assert unreadable_because(page("Words")) == ""
    poor = Page(1, "W0rd5", (Block("paragraph", 0, 5),), origin="recognised", confidence=0.31)
    assert "31% certain" in unreadable_because(poor)
    none = Page(1, "", (), origin="none", warnings=("The picture could not be read.",))
    assert unreadable_because(none) == "The picture could not be read."
    blank = Page(1, "", (), origin="none")
    assert unreadable_because(blank) == ""


def test_more_of_anything_never_makes_a_page_less_certain():
    low = chance_by_lines([0.0] * 12)
    assert state_of(low) == "silent"
    for at in range(12):
        features = [0.0] * 12
        features[at] = 1.0
        assert chance_by_lines(features) >= low
    assert state_of(chance_by_lines([1.0] * 12)) == "hit"


def test_a_wish_is_kept_and_read_back():
    wish = PageWish("every page", "what counts", (Example("words", False, "key/"),), ("/a", "/b"), "read")
    assert wish_from(wish.as_values()) == wish
