# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether what a table prints agrees with itself."""

import random
from decimal import Decimal

import pytest

from redlantern.reckoning.checks import NO_GAPS, check_table
from tests.reckoning.made import HUMIDITY, INVOICE, made_invoice, table_of


def changed(row, column, text):
    rows = [list(cells) for cells in INVOICE]
    rows[row][column] = text
    return table_of(rows)


def words(table):
    return [mismatch.words for mismatch in check_table(table).mismatches]


def test_an_invoice_that_agrees_says_what_was_checked():
    check = check_table(table_of(INVOICE))
    assert check.mismatches == ()
    assert check.checked == (
        ("Quantity times Unit price EUR against Total EUR", 3),
        ("net sum against the rows above it", 1),
        ("net sum and tax against the total", 1),
    )


def test_a_row_that_does_not_multiply_out_is_named_with_its_figures():
    assert words(changed(2, 4, "5.482,00")) == [
        "Sheepskin: 46 skins × 118,00 is 5.428,00, printed 5.482,00",
        "Net: the 3 rows above come to 27.460,00, printed 27.406,00",
    ]


def test_a_net_sum_and_a_total_that_do_not_agree():
    assert words(changed(4, 4, "27.400,00")) == [
        "Net: the 3 rows above come to 27.406,00, printed 27.400,00",
        "Payable: net sum and tax come to 32.881,20, printed 32.887,20",
    ]
    assert words(changed(6, 4, "32.887,00")) == ["Payable: net sum and tax come to 32.887,20, printed 32.887,00"]
    assert [mismatch.row.role for mismatch in check_table(changed(6, 4, "32.887,00")).of_sums] == ["total"]
    assert check_table(changed(2, 4, "5.482,00")).of_sums[0].row.role == "net"


def test_a_table_without_sums_has_nothing_to_check():
    check = check_table(table_of(HUMIDITY))
    assert (check.checked, check.mismatches) == ((), ())


@pytest.mark.parametrize("seed", range(30))
def test_one_wrong_figure_in_a_made_up_invoice_is_always_found(seed):
    chance = random.Random(seed)
    rows, _ = made_invoice(chance, ".")
    assert words(table_of(rows)) == []
    row = chance.randrange(1, len(rows) - 3)
    amount = Decimal(rows[row][4].replace(",", "")) + chance.randint(1, 500)
    rows[row][4] = f"{amount:,.2f}"
    assert any(mismatch.row.cells[0].text == rows[row][0] for mismatch in check_table(table_of(rows)).mismatches)


def days(*numbers, month=3):
    return [["Date", "RH"], *([f"{day:02d}.{month:02d}.2026", f"{50 + day} %"] for day in numbers)]


def test_a_day_that_is_missing_from_a_log_is_named():
    check = check_table(table_of(days(*range(1, 8), *range(9, 16))))
    assert check.checked == ((NO_GAPS, 1),)
    [gap] = check.mismatches
    assert gap.words == "after 07.03.2026 the next row is of 09.03.2026: 08.03.2026 is missing"
    assert gap.row.cells[0].text == "09.03.2026"


def test_weekends_are_no_gaps_in_a_log_of_working_days():
    working = [day for day in range(2, 28) if (day - 2) % 7 < 5]
    check = check_table(table_of(days(*working)))
    assert check.checked == ((NO_GAPS, 1),) and check.mismatches == ()


@pytest.mark.parametrize("numbers", [(1, 2, 3, 4), (1, 4, 8, 11, 15, 17, 20, 22, 25, 28, 30), tuple(range(20, 1, -1))])
def test_dates_that_do_not_follow_on_one_another_are_no_log(numbers):
    assert check_table(table_of(days(*numbers))).checked == ()
