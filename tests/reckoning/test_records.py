# SPDX-License-Identifier: GPL-3.0-or-later
"""Forms and lists of records in prose as tables: what is a label, where a record ends, what is no form."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reading.setting import Piece, set_pages
from redlantern.reading.values import Block, Page, Run
from redlantern.reckoning.records import printed_records
from redlantern.reckoning.tables import typed_table


def records_of(*paragraphs, kind="paragraph"):
    pages = set_pages([Piece("heading", "Offer 7", 1), *(Piece(kind, text) for text in paragraphs)])
    return [typed_table(printed, 1, number) for number, printed in enumerate(printed_records(pages), start=1)]


def cells_of(table):
    return [[cell.text for cell in row.cells] for row in table.rows]


def test_lines_with_the_same_labels_are_the_rows_of_a_table():
    [table] = records_of(
        "Our items:", "Item: oak boards, Price: 1.200,00 EUR", "Item: glue, Price: 18,50 EUR, Delivery: 3 May 2026"
    )
    assert table.names == ("Item", "Price", "Delivery") and not table.is_form
    assert [(column.kind, column.unit) for column in table.columns[:2]] == [("text", ""), ("money", "EUR")]
    assert cells_of(table) == [["oak boards", "1.200,00 EUR", ""], ["glue", "18,50 EUR", "3 May 2026"]]
    assert table.rows[0].values[1].number == 1200


def test_lines_of_one_label_each_make_records_up_to_where_the_first_comes_again():
    [table] = records_of("Item: oak", "Price: 12 EUR", "Item: glue", "Price: 3 EUR", "Item: nails", "Price: 4 EUR")
    assert cells_of(table) == [["oak", "12 EUR"], ["glue", "3 EUR"], ["nails", "4 EUR"]]


def test_labelled_values_that_stand_alone_are_the_one_row_of_a_form():
    [form] = records_of(
        "To: Oriel Trust, Saddler's Row 4. Date: 30 June 2026. Due: 14 July 2026.",
        "Some prose that says nothing by labels.",
        "Our tax number: GB 123; Due: never",
    )
    assert form.is_form and form.names == ("To", "Date", "Due", "Our tax number")
    assert cells_of(form) == [["Oriel Trust, Saddler's Row 4", "30 June 2026", "14 July 2026", "GB 123"]]
    assert form.columns[2].kind == "date"


def test_a_total_in_a_form_is_no_sum_over_rows():
    [form] = records_of("Invoice: 12", "Total: 500,00 EUR")
    assert [row.role for row in form.rows] == ["item"]


@pytest.mark.parametrize(
    "text",
    [
        "he said: come in", "At 10:30 the bell rang", "https://example.org: a page", "Nothing of the kind.",
        "This is a sentence that is far too long for a label: and so it is prose",
    ],
)  # fmt: skip
def test_prose_with_a_colon_is_no_form(text):
    assert records_of(text) == []


def test_a_heading_is_no_label_and_a_long_document_no_form():
    assert records_of("Part A: What is insured", kind="heading") == []
    many = set_pages([Piece("paragraph", "word " * 300) for _ in range(40)] + [Piece("paragraph", "Note: see above")])
    assert len(many) > 12 and list(printed_records(many)) == []


def test_printed_lines_that_were_read_as_one_paragraph_are_looked_at_one_by_one():
    lines = ["Item: chain, Price: 295.97 EUR", "Item: plate, Price: 818.96 EUR", "Item: bolts, Price: 372.14 EUR"]
    text = " ".join(lines)
    starts = [text.index(line) for line in lines]
    runs = [
        Run(start, start + len(line), 10.0 * at, 10.0 * at + 8, tuple(map(float, range(len(line) + 1))))
        for at, (start, line) in enumerate(zip(starts, lines, strict=True))
    ]
    page = Page(1, text, (Block("paragraph", 0, len(text)),), runs, 595, 842)
    [table] = [typed_table(printed, 1, 1) for printed in printed_records([page])]
    assert [row.cells[0].text for row in table.rows] == ["chain", "plate", "bolts"]


@given(st.lists(st.text(max_size=60), max_size=12))
def test_every_cell_stands_where_its_offsets_say(texts):
    pages = set_pages([Piece("paragraph", text) for text in texts if text.strip()])
    by_number = {page.page_number: page for page in pages}
    for printed in printed_records(pages):
        assert len({len(row) for row in printed.rows}) == 1
        for row in printed.rows:
            for cell in row:
                assert by_number[cell.page_number].text[cell.start : cell.end] == cell.text
