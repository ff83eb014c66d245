# SPDX-License-Identifier: GPL-3.0-or-later
"""Plans carried out, against a slow plain reading of the rows, and plans that cannot be."""

import random
from decimal import Decimal
from statistics import median

import pytest

from redlantern.reckoning.carrying_out import carry_out
from redlantern.reckoning.plan import Condition, Plan, PlanError, in_words
from tests.reckoning.made import HUMIDITY, INVOICE, table_of

KEY = (1, 1)


def run(rows, operation, column="", conditions=(), **more):
    plan = Plan((KEY,), operation, column, tuple(conditions), **more)
    return carry_out(plan, {KEY: table_of(rows)})


def printed(result):
    return [amount.printed for amount in result.amounts]


@pytest.mark.parametrize("seed", range(25))
def test_every_operation_agrees_with_a_plain_reading(seed):
    chance = random.Random(seed)
    numbers = [Decimal(chance.randint(-500, 90000)) / 100 for _ in range(chance.randint(1, 30))]
    places = [chance.choice(["north", "south", "yard"]) for _ in numbers]
    rows = [["Item", "Place", "Cost EUR"]]
    rows += [
        [f"part {index}", place, f"{number:.2f}"]
        for index, (place, number) in enumerate(zip(places, numbers, strict=True))
    ]
    low, high = sorted(chance.sample(range(-5, 900), 2))
    kept = [number for number, place in zip(numbers, places, strict=True) if place != "yard" and low <= number <= high]
    conditions = [Condition("Place", "is not", ("yard",)), Condition("Cost EUR", "between", (str(low), str(high)))]

    def figure(operation, column="Cost EUR"):
        amount = run(rows, operation, column, conditions).amount
        return amount.number if amount else None

    assert figure("count", "") == len(kept)
    assert figure("sum") == sum(kept, Decimal(0))
    assert figure("distinct") == len(set(kept))
    if kept:
        assert figure("largest") == max(kept)
        assert figure("smallest") == min(kept)
        assert figure("difference") == max(kept) - min(kept)
        assert figure("median") == median(kept)
        assert abs(figure("mean") - sum(kept) / len(kept)) <= Decimal("0.0005")
    assert figure("share", "") == round(Decimal(100) * len(kept) / len(numbers), 1)


def test_printed_sums_never_count_as_items():
    result = run(INVOICE, "sum", "Total EUR")
    assert printed(result) == ["27.406,00 EUR"]
    assert [left.reason for left in result.left_out] == ["net sum", "tax", "total"]
    assert printed(run(INVOICE, "sum", "Total EUR", of="total")) == ["32.887,20 EUR"]


def test_of_many_printed_sums_a_copy_counts_once_and_another_version_is_a_doubt():
    def total(*invoices):
        tables = {(number, 1): table_of(rows, document_id=number) for number, rows in enumerate(invoices, start=1)}
        return carry_out(Plan(tuple(tables), "sum", "Total EUR", of="total"), tables)

    other = [INVOICE[0], ["1", "Tarpaulin", "2", "100,00", "200,00"], ["", "Payable", "", "", "200,00"]]
    version = [*INVOICE[:3], ["3", "Ribs, oak", "6", "400,00", "2.400,00"], *INVOICE[4:]]
    assert printed(total(INVOICE, other)) == ["33.087,20 EUR"]
    copied = total(INVOICE, other, INVOICE)
    assert printed(copied) == ["33.087,20 EUR"]
    assert [left.reason for left in copied.left_out] == ["copy of another"]
    assert copied.doubts == ()
    assert total(INVOICE, version).doubts == (
        "Two of these tables have most rows in common: one may be another version of the other.",
    )


def test_units_and_currencies_are_never_added_to_one_another():
    result = run(INVOICE, "sum", "Quantity")
    assert sorted(printed(result)) == ["312 hours", "46 skins", "6"]
    assert result.amount is None
    assert result.doubts == ("Quantity has several units, which are not added to one another.",)
    prices = [["Item", "Price"], ["a", "5.00 EUR"], ["b", "7.00 USD"], ["c", "2.50 EUR"]]
    assert printed(run(prices, "sum", "Price")) == ["7.50 EUR", "7.00 USD"]


def test_durations_are_added_whatever_unit_they_are_written_in():
    work = [["Who", "Time"], ["Orr", "2 h"], ["Wiek", "90 min"], ["Orr", "1 h 15 min"]]
    assert printed(run(work, "sum", "Time")) == ["4.75 hours"]


def test_dates_are_compared_and_their_difference_is_in_days():
    conditions = [Condition("Remark", "contains one of", ("gluing stopped", "resumed"))]
    assert printed(run(HUMIDITY, "difference", "Date", conditions)) == ["29 days"]
    march = [Condition("Date", "in month", ("3",))]
    assert printed(run(HUMIDITY, "largest", "RH", march)) == ["78 %"]
    late = [Condition("Date", "at least", ("2026-04-01",))]
    assert printed(run(HUMIDITY, "count", "", late)) == ["2"]


def test_the_largest_are_all_that_are_as_large():
    rows = [["Part", "kg"], ["a", "5"], ["b", "9"], ["c", "9"], ["d", "7"]]
    assert [row.row.cells[0].text for row in run(rows, "largest", "kg").cells] == ["b", "c"]
    assert [row.row.cells[0].text for row in run(rows, "largest", "kg", n=3).cells] == ["b", "c", "d"]
    assert [row.row.cells[0].text for row in run(rows, "smallest", "kg", n=9).cells] == ["a", "d", "b", "c"]


def test_groups_come_the_largest_first():
    groups = run(HUMIDITY, "count", by="Read by").groups
    assert [(group.label, group.amount.printed) for group in groups] == [("P. Orr", "3"), ("J. Wiek", "2")]


def test_a_cell_that_is_no_figure_is_left_out_and_said():
    rows = [["Item", "Cost EUR"], ["a", "5,00"], ["b", "see letter"], ["c", "7,00"], ["d", "8,00"], ["e", ""]]
    result = run(rows, "sum", "Cost EUR")
    assert printed(result) == ["20,00 EUR"]
    assert [left.reason for left in result.left_out] == ["“see letter” is no figure", "empty cell"]


def test_nothing_that_fits_gives_a_count_of_none_and_no_largest():
    nobody = [Condition("Read by", "contains", ("Nobody",))]
    assert printed(run(HUMIDITY, "count", "", nobody)) == ["0"]
    assert printed(run(HUMIDITY, "largest", "RH", nobody)) == []


@pytest.mark.parametrize(
    ("operation", "column", "conditions", "words"),
    [
        ("sum", "Weight", (), "The table has no column “Weight”."),
        ("sum", "Remark", (), "The column “Remark” holds no numbers that could be added up."),
        ("largest", "Read by", (), "The column “Read by” holds no numbers or dates."),
        ("sum", "", (), "For “sum” a column is needed."),
        ("count", "", (Condition("RH", "above", ("wet",)),), "“wet” cannot be compared with the column “RH”."),
        ("count", "", (Condition("RH", "above", ("5 kg",)),), "“5 kg” cannot be compared with the column “RH”."),
        ("count", "", (Condition("Remark", "above", ("5",)),), "The column “Remark” holds words, which cannot be compared."),
        ("count", "", (Condition("RH", "between", ("5",)),), "The condition on “RH” lacks a value."),
        ("count", "", (Condition("Date", "in month", ("13",)),), "“13” is no month that could be looked for in the column “Date”."),
    ],
)  # fmt: skip
def test_a_plan_that_names_what_is_not_there_is_not_carried_out(operation, column, conditions, words):
    with pytest.raises(PlanError) as failure:
        run(HUMIDITY, operation, column, conditions)
    assert str(failure.value) == words


def test_a_plan_in_plain_words():
    plan = Plan((KEY,), "largest", "RH", (Condition("Date", "in month", ("3",)), Condition("RH", "above", ("60",))))
    assert in_words(plan, ["the log"]) == "Find the largest RH in the log, where Date is in March and RH above 60"


def test_many_rows_are_exact():
    rows = [["Item", "Cost EUR"]] + [[f"i{n}", "0.10"] for n in range(3000)]
    assert printed(run(rows, "sum", "Cost EUR")) == ["300.00 EUR"]
