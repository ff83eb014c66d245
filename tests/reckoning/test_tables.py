# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables as data: headers, kinds of columns, what each row is, and tables that go on over pages."""

import random
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reading.material import Material
from redlantern.reading.read import read_material
from redlantern.reading.setting import set_pages, table_piece
from redlantern.reckoning.cells import block_rows, printed_tables
from redlantern.reckoning.roles import label_role
from redlantern.reckoning.tables import typed_table
from redlantern.reckoning.wording import read_as
from tests.conftest import write_pdf
from tests.reckoning.made import HUMIDITY, INVOICE, made_invoice, pages_of, table_of, tables_of


def kinds(table):
    return [(column.name, column.kind, column.unit) for column in table.columns]


def test_the_columns_of_an_invoice():
    assert kinds(table_of(INVOICE)) == [
        ("Pos.", "identifier", ""), ("Description", "text", ""), ("Quantity", "quantity", ""), ("Unit price EUR", "money", "EUR"),
        ("Total EUR", "money", "EUR"),
    ]  # fmt: skip
    assert [row.role for row in table_of(INVOICE).rows] == ["item", "item", "item", "net", "tax", "total"]


def test_the_columns_of_a_log():
    assert [(column.kind, column.unit) for column in table_of(HUMIDITY).columns] == [
        ("date", ""), ("percentage", "%"), ("quantity", "°C"), ("text", ""), ("text", ""),
    ]  # fmt: skip


@pytest.mark.parametrize("seed", range(40))
@pytest.mark.parametrize("mark", [".", ","])
def test_the_totals_of_a_made_up_invoice_are_always_recognised(seed, mark):
    rows, net = made_invoice(random.Random(seed), mark)
    table = table_of(rows, language="de" if mark == "," else "en")
    roles = [row.role for row in table.rows]
    assert roles[-3] in ("net", "subtotal")
    assert roles[-2:] == ["tax", "total"]
    assert set(roles[:-3]) == {"item"}
    assert sum(row.values[4].number for row in table.items) == net


@pytest.mark.parametrize(
    ("label", "role"),
    [
        ("Total", "total"), ("Grand total EUR", "total"), ("Subtotal", "subtotal"), ("Total VAT", "tax"), ("Net total", "net"),
        ("Total incl. VAT", "total"), ("Amount due", "total"), ("Carried forward", "carried"), ("Übertrag", "carried"),
        ("Zwischensumme", "subtotal"), ("Gesamtbetrag", "total"), ("zzgl. MwSt. 19 %", "tax"), ("Total TTC", "total"),
        ("Base imponible", "net"), ("IVA 21 %", "tax"), ("Discount 3 %", "discount"), ("Total station, hire", None),
        ("Net curtains", None), ("Taxi", None), ("Payable to bearer, form", None),
    ],
)  # fmt: skip
def test_a_label_tells_what_a_row_is_only_as_a_whole(label, role):
    assert label_role(label) == role


def test_a_header_of_two_rows_is_joined_and_a_group_heading_is_none():
    table = table_of(
        [["", "Readings", "Readings"], ["Day", "Loft", "Hall"], ["Ground floor", "", ""], ["1 May 2026", "50 %", "51 %"],
         ["2 May 2026", "52 %", "53 %"], ["3 May 2026", "54 %", "50 %"]]
    )  # fmt: skip
    assert table.names == ("Day", "Readings Loft", "Readings Hall")
    assert [row.role for row in table.rows] == ["group", "item", "item", "item"]
    assert table.items[0].group == "Ground floor"


def test_years_may_name_columns():
    table = table_of([["Region", "2024", "2025"], ["North", "1,204", "1,310"], ["South", "980", "1,011"]])
    assert table.names == ("Region", "2024", "2025")
    assert [row.values[2].number for row in table.items] == [1310, 1011]


def test_a_decimal_mark_that_nothing_tells_leaves_the_column_open():
    assert not table_of([["Item", "Length"], ["a", "1.299"], ["b", "2.310"]], language="en").columns[1].is_open
    assert table_of([["Item", "Length"], ["a", "1.299"], ["b", "2.310"]], language="").columns[1].is_open
    told = table_of([["Item", "Length", "Width"], ["a", "1.299", "1,50"], ["b", "2.310", "2,75"]], language="")
    assert [row.values[1].number for row in told.items] == [1299, 2310]
    assert not told.columns[1].is_open


def test_a_table_that_goes_on_over_pages_is_one_with_its_header_once():
    rows = [["Day", "Count"]] + [[f"{day:02d}.05.2026", str(day)] for day in range(1, 29)] * 20
    pages = pages_of("A log", rows)
    assert len(pages) > 3
    [table] = tables_of("A log", rows)
    assert len(table.items) == 28 * 20
    assert {row.cells[0].page_number for row in table.items} == set(range(1, len(pages) + 1))


def test_two_tables_under_two_headings_stay_two():
    assert [table.caption for table in tables_of("Loft", HUMIDITY, "Costs", INVOICE)] == ["Loft", "Costs"]


def test_every_cell_stands_where_it_says():
    pages = {page.page_number: page for page in pages_of("Loft", HUMIDITY, "Costs", INVOICE)}
    for printed in printed_tables(pages.values()):
        for row in printed.rows:
            for cell in row:
                assert pages[cell.page_number].text[cell.start : cell.end] == cell.text


def test_a_table_of_a_pdf_has_cells_with_boxes_and_numbers(tmp_path):
    path = tmp_path / "table.pdf"
    rows = [("Stage", "Sum EUR"), ("Deposit", "12.400,00"), ("Bellows", "31.250,50")]
    cells = [(x, 100 + 20 * y, cell) for y, row in enumerate(rows) for x, cell in zip((72, 240), row, strict=True)]
    write_pdf(path, [cells])
    [page] = read_material(Material(path.name, data=path.read_bytes())).pages
    [printed] = printed_tables([page])
    table = typed_table(printed, 1, 1)
    assert table.names == ("Stage", "Sum EUR")
    assert [row.values[1].number for row in table.items] == [Decimal("12400.00"), Decimal("31250.50")]
    cell = table.items[1].cells[1]
    [box] = page.boxes(cell.start, cell.end)
    assert (round(box.left), 125 < box.top < 145) == (240, True)


words = st.text(st.characters(categories=("L", "N", "P"), max_codepoint=0x2FF), max_size=12)


@given(st.lists(st.lists(words, min_size=1, max_size=6), min_size=1, max_size=40))
def test_cells_of_any_table_stand_where_their_offsets_say_and_it_can_be_typed(rows):
    pages = set_pages([table_piece(rows)])
    for page in pages:
        for block in page.blocks:
            cells = block_rows(page, block)
            assert len({len(row) for row in cells}) == 1
            assert all(page.text[cell.start : cell.end] == cell.text for row in cells for cell in row)
    for printed in printed_tables(pages):
        table = typed_table(printed, 1, 1)
        assert len(table.rows) + len(table.headers) == len(printed.rows)


def test_what_a_table_was_taken_for_is_said_in_words():
    assert read_as(table_of(INVOICE)) == (
        "Read as Pos.: identifier; Description: words; Quantity: quantity, decimals with a comma; Unit price EUR: money in EUR, "
        "decimals with a comma; "
        "Total EUR: money in EUR, decimals with a comma. No items: Net (net sum), Value added tax 20 % (tax), Payable (total)."
    )
