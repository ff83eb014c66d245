# SPDX-License-Identifier: GPL-3.0-or-later
"""What asks for a summary or a draft, and what only sounds like it."""

from types import SimpleNamespace

import pytest

from redlantern.answering.question.requests import SummaryWish, draft_wish, summary_wish
from redlantern.answering.sheet import Draft

DOCUMENTS = [
    SimpleNamespace(document_id=1, title="Condition survey of the organ loft", call_mark="SUR", is_refused=False),
    SimpleNamespace(document_id=2, title="Invoice 2026-014", call_mark="INV", is_refused=False),
    SimpleNamespace(document_id=3, title="Invoice 5521", call_mark="INV5521", is_refused=False),
    SimpleNamespace(document_id=4, title="Broken", call_mark="BRO", is_refused=True),
]


@pytest.mark.parametrize(
    ("text", "scope", "shown", "ids", "length"),
    [
        ("Summarise the condition survey", None, None, {1}, "medium"),
        ("Please give me a short summary of the invoices.", None, None, {2, 3}, "short"),
        ("Summarize INV5521 in detail", None, None, {3}, "long"),
        ("What is this document about?", None, 2, {2}, "medium"),
        ("what's this about", {3}, None, {3}, "medium"),
        ("Sum up these documents briefly", {1, 3, 4}, None, {1, 3}, "short"),
        ("Can you summarise everything?", None, None, {1, 2, 3}, "medium"),
        ("Summarise the survey", {2}, None, None, None),
        ("What is this document about?", None, None, None, None),
        ("What is clause 7 about?", None, 1, None, None),
        ("What does the survey say about the roof?", None, 1, None, None),
        ("Who wrote the summary of the survey?", None, 1, None, None),
    ],
)
def test_what_asks_for_a_summary(text, scope, shown, ids, length):
    expected = SummaryWish(frozenset(ids), length) if ids else None
    assert summary_wish(text, DOCUMENTS, scope, shown) == expected


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("Draft a letter to the Builder about the deposit.", Draft("letter", "the Builder", "the deposit")),
        ("please write me a short note on the leak", Draft("note", "", "the leak")),
        ("Make a checklist of the repairs", Draft("list", "", "the repairs")),
        (
            "Compose an e-mail to Mr. Renn: why the works are late",
            Draft("letter", "Mr. Renn", "why the works are late"),
        ),
        ("Draft a letter", None),
        ("Which letter is about the deposit?", None),
        ("Who wrote the letter about the leak?", None),
    ],
)
def test_what_asks_for_a_draft(text, expected):
    assert draft_wish(text) == expected


def test_the_head_of_a_draft_is_of_the_users_words():
    assert Draft("letter", "the Builder", "the deposit").head == "To the Builder\nAbout the deposit"
    assert Draft("note", "", "the leak").head == "About the leak"
