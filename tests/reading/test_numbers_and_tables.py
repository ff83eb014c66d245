# SPDX-License-Identifier: GPL-3.0-or-later
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reading.material import Material
from redlantern.reading.numbers import mark_of, parse_number, proved_mark, usual_mark
from redlantern.reading.read import read_material
from redlantern.reading.setting import FULL_PAGE_CHARS, Piece, set_pages


@pytest.mark.parametrize(
    ("text", "mark", "value", "unit"),
    [
        ("1.299,50", ".", "1299.50", ""),
        ("1 299,50", ".", "1299.50", ""),
        ("1,299.50", ",", "1299.50", ""),
        ("1'200.50 CHF", ",", "1200.50", "CHF"),
        ("1.299", ",", "1299", ""),
        ("1.299", ".", "1.299", ""),
        ("0,500", ".", "0.500", ""),
        ("€ 20", ",", "20", "EUR"),
        ("(1.200,00 €)", ",", "-1200.00", "EUR"),
        ("−3 °C", ",", "-3", "°C"),
        ("74 %", ".", "74", "%"),
        ("12.5 kg/m", ".", "12.5", "kg/m"),
        ("145.950,00 EUR", ".", "145950.00", "EUR"),
    ],
)
def test_numbers_are_read_with_their_locale_and_unit(text, mark, value, unit):
    number = parse_number(text, mark)
    assert (number.value, number.unit) == (Decimal(value), unit)


@pytest.mark.parametrize("text", ["3 March 2026", "2026-03-03", "(3)", "Page 3", "clause 9.8", "", "12:30", "1.2.3"])
def test_what_is_no_number_is_left_alone(text):
    assert parse_number(text, ".") is None


@given(st.decimals(0, 9_999_999, places=2), st.sampled_from([".", ","]), st.booleans())
def test_a_printed_number_comes_back(value, mark, is_grouped):
    printed = f"{value:,.2f}" if is_grouped else f"{value:.2f}"
    if mark == ",":
        printed = printed.translate(str.maketrans(",.", ".,"))
    number = parse_number(printed, "," if mark == "." else ".")
    # Two digits after the mark prove it, whatever else is expected.
    assert number.value == value
    assert mark_of(printed) == mark


def test_a_column_decides_what_one_cell_leaves_open():
    assert proved_mark(["1.299", "12,50", "7"]) == ","
    assert proved_mark(["1.299", "12.50"]) == "."
    assert proved_mark(["1.299", "word"]) is None
    assert (usual_mark("de"), usual_mark("en"), usual_mark("")) == (",", ".", ".")


blocks = st.lists(
    st.tuples(st.sampled_from(["heading", "paragraph", "table", "note"]), st.integers(1, 9000)), max_size=12
)


@given(blocks)
def test_set_pages_lose_nothing_and_never_overflow(sizes):
    pieces = []
    for number, (kind, n_chars) in enumerate(sizes):
        words = (f"word{number} " * (n_chars // 6 + 1)).strip()
        pieces.append(Piece(kind, words.replace(" ", "\n") if kind == "table" else words))
    pages = set_pages(pieces)
    assert [page.page_number for page in pages] == list(range(1, len(pages) + 1))
    assert all(len(page.text) <= 2 * FULL_PAGE_CHARS + 200 for page in pages)
    shown = " ".join(" ".join(page.text.split()) for page in pages)
    for number, (kind, _) in enumerate(sizes):
        wanted = pieces[number].text.split().count(f"word{number}")
        # The first row of a table stands again on each of its pages.
        found = shown.split().count(f"word{number}")
        assert found == wanted if kind != "table" else found >= wanted


def test_characters_without_a_meaning_are_told():
    read = read_material(Material("a.txt", data="The sum is \ufffd\ufffd EUR, said the man in the hall.".encode()))
    assert read.pages[0].warnings == (
        "This page has 2 characters that stand for nothing known: compare it with the print.",
    )
