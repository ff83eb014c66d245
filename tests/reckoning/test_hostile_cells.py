# SPDX-License-Identifier: GPL-3.0-or-later
"""Cells that no honest document has: whatever a reader gives, every step of reckoning comes to its end."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from redlantern.reading.values import Block, Page
from redlantern.reckoning import wording
from redlantern.reckoning.candidates import TableCandidate
from redlantern.reckoning.cells import printed_tables
from redlantern.reckoning.checks import check_table
from redlantern.reckoning.reckon import reckon
from redlantern.reckoning.tables import typed_table
from redlantern.reckoning.written import as_csv, as_workbook
from redlantern.text.question import parse_question

QUESTIONS = [
    "What is the total of the quote?", "Which item is the dearest?", "How many items are there in May 2026?",
    "What is the average price above 5 EUR?", "How many days between a and b?", "What share of the items is a?",
]  # fmt: skip
HOSTILE = [
    "²", "¹²³", "9" * 5000, "-" + "9" * 400 + ",99", "0" * 5000, "٣٤", "1e999999", "NaN", "Infinity", "99.99.9999", "31.02.2026",
    "25:61", "9999 h", "=cmd()", "\x00\x01\x0b", "\ud800", "\u202e12,50 EUR", "(((((", "€", "%", "-", "1.2.3.4,5,6", "Total",
]  # fmt: skip
cells = st.one_of(st.sampled_from(HOSTILE), st.text(max_size=12), st.sampled_from(["12,50 EUR", "3 May 2026", "a", ""]))


def page_of(rows):
    """A page as it would come from a reader that was taken over: nothing of it was cleaned."""
    text = "\n".join("\t".join(cell.replace("\t", " ").replace("\n", " ") for cell in row) for row in rows)
    return Page(1, text, (Block("table", 0, len(text)),))


def go_through(rows):
    for printed in printed_tables([page_of(rows)]):
        table = typed_table(printed, 1, 1)
        wording.read_as(table)
        wording.checked([check_table(table)])
        for question in QUESTIONS:
            found = reckon(parse_question(question), [TableCandidate(table, frozenset({"quot"}), 0)])
            if found is not None:
                assert wording.sentence(found)
        assert as_csv(table)
        assert as_workbook(table)


@pytest.mark.parametrize("cell", HOSTILE, ids=lambda cell: ascii(cell)[:20])
def test_a_hostile_cell_anywhere_in_a_table_ends_nothing(cell):
    go_through(
        [
            ["Item", "Price EUR", "Day"],
            ["a", cell, "3 May 2026"],
            [cell, "12,50", cell],
            ["b", "3,00", "4 May 2026"],
            ["Total", cell, ""],
        ]
    )
    go_through([[cell, cell], ["a", "1"], ["b", "2"]])
    go_through([[cell] * 3] * 4)


@settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(st.lists(st.lists(cells, min_size=1, max_size=4), min_size=1, max_size=6))
def test_no_table_ends_anything(rows):
    go_through(rows)
