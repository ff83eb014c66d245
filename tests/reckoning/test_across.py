# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions about many documents together: offers that include something, people at every meeting, sums of all invoices."""

import pytest

from redlantern.reading.setting import Piece, set_pages, table_piece
from redlantern.reckoning import wording
from redlantern.reckoning.candidates import TableCandidate
from redlantern.reckoning.carrying_out import entries
from redlantern.reckoning.cells import printed_tables
from redlantern.reckoning.reckon import reckon
from redlantern.reckoning.records import printed_records
from redlantern.reckoning.tables import Table, typed_table
from redlantern.text.question import parse_question
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

OFFERS = {
    "Offer Adler": [["Item", "Price EUR"], ["scaffolding", "900,00"], ["slates", "120,00"]],
    "Offer Brandt": [["Item", "Price EUR"], ["slates", "110,00"], ["gutters", "80,00"]],
    "Offer Corvin": [["Item", "Price EUR"], ["scaffolding, two sides", "1.400,00"], ["gutters", "95,00"]],
}
MEETINGS = {
    "Minutes of the first meeting": ["Present: Mr. Renn (Trust), Ms. Petrie and Dr. Lind.", "Next meeting: 3 May 2026"],
    "Minutes of the second meeting": ["Present: Ms. Petrie, Mr. Corvin, Dr. Lind.", "Next meeting: 9 June 2026"],
}
BILLS = {
    f"Invoice {number}": [
        ["Item", "Total EUR"], [f"work {number}", f"{amount},00"], ["Net", f"{amount},00"],
        ["VAT 20 %", f"{amount // 5},00"], ["Payable", f"{amount + amount // 5},00"],
    ]
    for number, amount in ((11, 100), (12, 500), (13, 300))
}  # fmt: skip


def candidates_of(by_title):
    found = []
    for document_id, (title, content) in enumerate(by_title.items(), start=1):
        is_table = isinstance(content[0], list)
        pieces = [table_piece(content)] if is_table else [Piece("paragraph", text) for text in content]
        pages = set_pages(pieces)
        tables = [
            typed_table(printed, document_id, number, "en", title=title)
            for number, printed in enumerate([*printed_tables(pages), *printed_records(pages)], start=1)
        ] or [Table(document_id, 0, "", (), (), title=title)]
        about = frozenset(stem(token) for token in tokens(title))
        found += [TableCandidate(table, about, document_id - 1) for table in tables]
    return found


def asked(question, by_title):
    return reckon(parse_question(question), candidates_of(by_title))


@pytest.mark.parametrize("question", ["Which offers include scaffolding?", "How many offers include scaffolding?"])
def test_documents_are_listed_that_have_what_is_asked_for(question):
    found = asked(question, OFFERS)
    assert wording.sentence(found) == "2 documents: Offer Adler and Offer Corvin."
    assert found.is_sure and found.plan.operation == "documents" and len(found.plan.tables) == 3


def test_a_document_of_the_kind_without_a_table_is_named_as_a_doubt():
    found = asked("Which offers include scaffolding?", OFFERS | {"Offer Dunn": ["We offer nothing this year."]})
    assert found.result.amount.number == 2
    assert found.doubts == ("Nothing of the kind was found in Offer Dunn.",)


def test_one_document_that_the_question_names_is_asked_alone():
    found = asked("How many items does the offer of Brandt have?", OFFERS)
    assert len(found.plan.tables) == 1 and found.result.amount.number == 2


def test_who_was_at_every_meeting():
    found = asked("Who was present at every meeting?", MEETINGS)
    assert wording.sentence(found) == "Ms. Petrie and Dr. Lind: in all 2 (Present)."
    assert found.is_sure


def test_nobody_at_every_meeting_is_said():
    third = {"Minutes of the third meeting": ["Present: Mrs. Vasey.", "Next meeting: 1 July 2026"]}
    found = asked("Who was present at every meeting?", MEETINGS | third)
    assert wording.sentence(found) == "Nobody and nothing stands under Present in all 3 documents."


def test_forms_are_compared_by_what_they_say_of_themselves():
    found = asked("Which meetings did Mr. Corvin attend?", MEETINGS)
    assert wording.sentence(found) == "1 document: Minutes of the second meeting."


@pytest.mark.parametrize(
    ("question", "answer"),
    [
        ("What is the total of all invoices?", "1.080,00 EUR in all: the printed sums of 3 documents added up."),
        ("Which invoice has the highest total?", "Invoice 12: 600,00 EUR (Total EUR, largest of 3 rows)."),
        ("Which invoices come to more than 200 EUR?", "2 documents: Invoice 12 and Invoice 13."),
        ("What is the average total of all invoices?", "360,00 EUR (mean of Total EUR over 3 rows)."),
    ],
)
def test_printed_sums_of_many_documents(question, answer):
    found = asked(question, BILLS)
    assert wording.sentence(found) == answer
    assert found.is_sure


def test_an_invoice_that_is_there_twice_counts_once():
    found = asked("What is the total of all invoices?", BILLS | {"Invoice 13 copy": BILLS["Invoice 13"]})
    assert found.result.amount.number == 1080
    assert [left.reason for left in found.result.left_out] == ["copy of another"]


def test_the_names_in_a_cell():
    assert entries("Mr. Renn (Trust, chair), Ms. Petrie; Dr. Lind and\nMr. Fenn.") == [
        "Mr. Renn", "Ms. Petrie", "Dr. Lind", "Mr. Fenn",
    ]  # fmt: skip
