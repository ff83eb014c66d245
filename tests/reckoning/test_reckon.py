# SPDX-License-Identifier: GPL-3.0-or-later
"""From a question to its figure, over a few tables of different kinds."""

from dataclasses import replace

import pytest

from redlantern.answering.reckoned import reckoning_of
from redlantern.reckoning import wording
from redlantern.reckoning.reckon import reckon
from redlantern.text.question import parse_question
from tests.reckoning.made import HUMIDITY, INVOICE, candidate

OTHER_INVOICE = [
    ["Pos.", "Description", "Quantity", "Unit price EUR", "Total EUR"],
    ["1", "Emergency call", "1", "680,00", "680,00"],
    ["2", "Tarpaulin", "2", "189,90", "379,80"],
    ["", "Net", "", "", "1.059,80"],
    ["", "Value added tax 20 %", "", "", "211,96"],
    ["", "Payable", "", "", "1.271,76"],
]
HOURS = [
    ["Name", "Day", "Hours", "Site"],
    ["Adler", "02.03.2026", "7.5", "hall"],
    ["Oyelaran", "02.03.2026", "8", "mill"],
    ["Adler", "03.03.2026", "9", "mill"],
    ["Adler", "04.03.2026", "4", "hall"],
    ["Oyelaran", "04.03.2026", "8.5", "hall"],
    ["Wiek", "05.03.2026", "3", "hall"],
]
PAID = [
    ["Invoice", "Amount EUR", "Paid on"],
    ["A-1", "120.00", "02.03.2026"],
    ["A-2", "80.00", ""],
    ["A-3", "450.00", "09.04.2026"],
    ["A-4", "75.50", ""],
]
KEYS = [["Key", "Holder"], ["1", "Fenn"], ["2", "Stroud"], ["3", "Petrie"], ["4", "Renn"]]
STOPS = [
    ["Division", "Stop", "Pipes"],
    ["Great", "Twelfth", "58"],
    ["Great", "Trumpet", "58"],
    ["Great", "Mixture", "174"],
    ["Pedal", "Bourdon", "30"],
    ["Pedal", "Trombone", "30"],
    ["Great", "Fifteenth", "58"],
]
CANDIDATES = [
    candidate(HUMIDITY, "humidity log loft", document_id=1, place=0),
    candidate(INVOICE, "invoice 2026-037", document_id=2, place=1),
    candidate(OTHER_INVOICE, "invoice 5521", document_id=3, place=2),
    candidate(HOURS, "timesheet", document_id=4, place=3),
    candidate(PAID, "ledger of payments", document_id=5, place=4),
    candidate(KEYS, "keys of the yard", document_id=6, place=5),
    candidate(STOPS, "stop list of the organ", document_id=7, place=6),
]


def asked(text):
    return reckon(parse_question(text), CANDIDATES)


@pytest.mark.parametrize(
    ("question", "answer"),
    [
        (
            "Which item on invoice 2026-037 is the most expensive?",
            "Workers, gluing: 19.188,00 EUR (Total EUR, largest of 3 rows). By Unit price EUR it is Ribs, poplar: 465,00 EUR.",
        ),
        ("How many line items does invoice 5521 have?", "2 rows."),
        ("What was the highest humidity in the loft in March?", "78 %: 04.03.2026 (RH, largest of 3 rows)."),
        ("On which day was it wettest in the loft?", "02.04.2026: 79 % (RH, largest of 5 rows)."),
        ("What is the total of all invoices?", "34.158,96 EUR in all: the printed sums of 2 documents added up."),
        ("What is the net total of invoice 5521?", "1.059,80 EUR, as printed."),
        ("How much value added tax is on invoice 5521?", "211,96 EUR, as printed."),
        ("How many skins were charged in invoice 2026-037?", "46 skins in all (Quantity, 1 row added up)."),
        (
            "How many days lay between the stopping and the resuming of the gluing?",
            "29 days: from 03.03.2026 to 01.04.2026 (Date).",
        ),
        ("Who worked the most hours?", "Adler: 20.5 hours (Hours, 3 rows)."),
        ("Who worked the fewest hours?", "Wiek: 3 hours (Hours, 1 row)."),
        ("How many hours did Oyelaran work in total?", "16.5 hours in all (Hours, 2 rows added up)."),
        ("How many hours were worked at the mill?", "17 hours in all (Hours, 2 rows added up)."),
        ("Hours per site in the timesheet in total", "hall: 23 hours; mill: 17 hours."),
        ("Which invoices of the ledger are unpaid?", "2 rows: A-2 and A-4."),
        ("Which payments were above 100 EUR?", "2 rows: A-1 and A-3."),
        ("What is the average humidity in the log?", "68 % (mean of RH over 5 rows)."),
        ("How many different people read the humidity log?", "2 different values of Read by: J. Wiek and P. Orr."),
        ("What was the temperature in the loft on 3 March 2026?", "Temperature: 9.5 °C (03.03.2026)."),
        ("How high was the humidity on 3 March 2026?", "RH: 71 % (03.03.2026)."),
        ("How many keys are there?", "4 rows."),
        ("Which division has the most stops?", "Great: 4 rows."),
        ("Which stop has the most pipes?", "Mixture: 174 (Pipes, largest of 6 rows)."),
        ("What share of the stops is of the Pedal?", "33.3 %: 2 rows of 6."),
        ("What percentage is the third instalment?", None),
        ("Wie hoch ist die Gesamtsumme der Rechnung 5521?", None),
        ("How many parts does the organ have?", None),
        ("Who is the hall manager?", None),
        ("Why was the gluing stopped?", None),
    ],
)  # fmt: skip
def test_a_question_and_its_figure(question, answer):
    found = asked(question)
    assert (wording.sentence(found) if found is not None else None) == answer
    assert found is None or found.is_sure


def test_what_the_tables_do_not_know_is_named_as_a_doubt():
    found = asked("How many hours did Adler work at the mill in the timesheet with the dragon?")
    assert found.doubts == ("Nothing in the table was found for “dragon”.",)


def test_rows_that_only_speak_of_what_is_counted_are_a_doubt():
    works = [
        ["Step", "Occasion"],
        ["a", "Delivery of bellows to the loft"],
        ["b", "Voicing"],
        ["c", "Tuning of all stops"],
    ]
    found = reckon(
        parse_question("How many bellows does the organ have?"), [candidate(works, "contract for the organ")]
    )
    assert found.doubts == ("No row is called “bellows”: the rows in which it stands were counted.",)


def test_a_printed_sum_is_checked_against_its_rows():
    assert (
        wording.check_words(asked("What is the net total of invoice 5521?")) == "Checked: the rows come to the net sum."
    )
    assert wording.check_words(asked("What is the total of invoice 5521?")) == (
        "Checked: the rows come to the net sum; net sum and tax come to the total."
    )
    wrong = [list(row) for row in OTHER_INVOICE]
    wrong[3][4] = "1.059,00"
    found = reckon(parse_question("What is the net total of invoice 5521?"), [candidate(wrong, "invoice 5521")])
    assert wording.check_words(found) == (
        "It does not agree with the rows: Net: the 2 rows above come to 1.059,80, printed 1.059,00."
    )
    right = asked("What is the net total of invoice 5521?")
    parts = [
        reckoning_of(each, lambda document_id: "Invoice", lambda document_id, cell: None) for each in (right, found)
    ]
    assert [part.is_borne_out for part in parts] == [True, False]


def test_two_tables_that_fit_as_well_are_a_doubt():
    both = [
        candidate(HOURS, "timesheet", document_id=1),
        candidate([*HOURS, ["Adler", "06.03.2026", "30", "hall"]], "timesheet", document_id=2),
    ]
    found = reckon(parse_question("How many hours did Adler work in total in the timesheet?"), both)
    assert found.doubts == ("Another table fits the question as well: the one with Name, Day, Hours.",)


def test_of_a_printed_sum_that_nothing_can_be_checked_against_nothing_is_said():
    plain = [
        ["Item", "Days", "Price"],
        ["Straps", "", "10.00"],
        ["Hatch", "", "75.00"],
        ["Discount", "", "5.00"],
        ["Total", "", "80.00"],
    ]
    found = reckon(parse_question("What is the total of the quote?"), [candidate(plain, "quote")])
    assert found is not None
    assert wording.check_words(found) == ""


def test_a_cell_with_figures_that_is_none_is_named_as_a_doubt():
    rows = [
        ["Item", "Price EUR"],
        ["oak", "12,50"],
        ["elm", "1O,00"],
        ["ash", "20,00"],
        ["yew", "free"],
        ["fir", "4,00"],
        ["bay", "1,00"],
        ["box", "2,00"],
    ]
    found = reckon(parse_question("What do the prices of the list add up to?"), [candidate(rows, "price list")])
    assert wording.sentence(found) == "39,50 EUR in all (Price EUR, 5 rows added up)."
    assert found.doubts == ("“1O,00” could not be read as a figure, and is left out.",)
    assert [left.reason for left in found.result.left_out] == ["“1O,00” is no figure", "“free” is no figure"]


def test_a_figure_of_a_scan_says_how_sure_its_recognition_is():
    scanned = replace(CANDIDATES[0], table=replace(CANDIDATES[0].table, sureness=0.93))
    found = reckon(parse_question("What was the highest RH in the humidity log?"), [scanned])
    words = wording.check_words(found)
    assert words == "Read by text recognition, 93% sure of itself: compare the digits with the page."
