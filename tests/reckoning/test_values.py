# SPDX-License-Identifier: GPL-3.0-or-later
"""Cells as typed values: numbers, dates and units in every locale against babel, and worked examples."""

import datetime as dt
from decimal import Decimal

import pytest
from babel.dates import format_date
from babel.numbers import format_currency, format_decimal, format_percent
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reckoning.dates import parse_date, parse_time
from redlantern.reckoning.values import (
    Convention,
    Value,
    in_kind,
    parse_value,
    shown_duration,
    shown_number,
    unit_of_name,
)

LOCALES = {
    "en_GB": ".",
    "en_US": ".",
    "de_DE": ",",
    "de_CH": ".",
    "fr_FR": ",",
    "es_ES": ",",
    "it_IT": ",",
    "nl_NL": ",",
}
AMOUNTS = st.decimals(min_value=Decimal("0.01"), max_value=Decimal("9999999"), places=2)
DAYS = st.dates(min_value=dt.date(1971, 1, 1), max_value=dt.date(2069, 12, 31))


def convention(locale):
    return Convention(LOCALES[locale], day_first=locale != "en_US")


@given(amount=AMOUNTS, locale=st.sampled_from([*LOCALES]))
def test_a_number_is_read_as_its_locale_writes_it(amount, locale):
    value = parse_value(format_decimal(amount, "#,##0.00", locale=locale), convention(locale))
    assert (value.kind, value.number) == ("decimal", amount)


@given(amount=AMOUNTS, locale=st.sampled_from([*LOCALES]), currency=st.sampled_from(["EUR", "GBP", "USD"]))
def test_money_is_read_with_its_currency_before_or_after(amount, locale, currency):
    value = parse_value(format_currency(amount, currency, locale=locale), convention(locale))
    # "US$" and "$US" name the dollar by a sign that is not its own: then it is no sum, never another one.
    is_foreign_dollar = currency == "USD" and value.kind not in ("money", "quantity")
    assert is_foreign_dollar or (value.number, value.unit) == (amount, currency)


@given(share=st.integers(min_value=0, max_value=999), locale=st.sampled_from([*LOCALES]))
def test_a_percentage_is_read_as_its_locale_writes_it(share, locale):
    written = format_percent(Decimal(share) / 1000, "#,##0.0 %", locale=locale)
    assert parse_value(written, convention(locale)) == Value("percentage", Decimal(share) / 10, "%")


@given(day=DAYS, locale=st.sampled_from([*LOCALES]), form=st.sampled_from(["short", "medium", "long", "full"]))
def test_a_date_is_read_as_its_locale_writes_it(day, locale, form):
    written = format_date(day, form, locale=locale)
    assert parse_date(written, day_first=locale != "en_US") == day, written


@given(number=st.decimals(min_value=-999999, max_value=999999, places=3), mark=st.sampled_from([".", ","]))
def test_a_number_that_is_shown_is_read_back(number, mark):
    assert parse_value(shown_number(number, mark, 3), Convention(mark)).number == number


@pytest.mark.parametrize(
    ("text", "mark", "value"),
    [
        ("1.299,00", ",", Value("decimal", Decimal("1299.00"))),
        ("1,299.00", ",", Value("decimal", Decimal("1299.00"))),
        ("1.299", ",", Value("whole", Decimal(1299))),
        ("1.299", ".", Value("decimal", Decimal("1.299"))),
        ("(20,50)", ",", Value("decimal", Decimal("-20.50"))),
        ("− 3 °C", ".", Value("quantity", Decimal(-3), "°C")),
        ("0,35 m3", ",", Value("quantity", Decimal("0.35"), "m³")),
        ("14 h", ",", Value("duration", Decimal(50400), "hours")),
        ("2 h 30 min", ".", Value("duration", Decimal(9000), "hours")),
        ("46 skins", ".", Value("quantity", Decimal(46), "skins")),
        ("09:03:11", ".", Value("time", Decimal(32591))),
        ("I-001", ".", Value("identifier")),
        ("007", ".", Value("identifier")),
        ("P. Halloran", ".", Value("text")),
        ("–", ".", Value("empty")),
        ("n/a", ".", Value("empty")),
    ],
)
def test_worked_examples(text, mark, value):
    assert parse_value(text, Convention(mark)) == value


def test_a_date_in_figures_goes_by_the_convention_unless_only_one_reading_is_a_date():
    assert parse_date("3/4/2026") == dt.date(2026, 4, 3)
    assert parse_date("3/4/2026", day_first=False) == dt.date(2026, 3, 4)
    assert parse_date("3/31/2026") == dt.date(2026, 3, 31)
    assert parse_date("31.02.2026") is None
    assert parse_date("March 2026") == dt.date(2026, 3, 1)


def test_a_time_with_a_point_is_a_number_unless_it_says_that_it_is_a_time():
    assert parse_time("11.50") is None
    assert parse_time("11.50 Uhr") == 42600
    assert parse_time("11:50 pm") == 85800


def test_a_bare_number_is_read_as_what_its_column_holds():
    assert in_kind(Value("decimal", Decimal("7.5")), "duration", "hours") == Value("duration", Decimal(27000), "hours")
    assert in_kind(Value("whole", Decimal(5)), "money", "EUR") == Value("money", Decimal(5), "EUR")
    assert in_kind(Value("text"), "money", "EUR") == Value("text")
    assert shown_duration(Decimal(27000), "hours") == "7.5 hours"


@pytest.mark.parametrize(
    ("name", "kind", "unit"),
    [
        ("Total EUR", "money", "EUR"), ("Amount (€)", "money", "EUR"), ("RH %", "percentage", "%"), ("Weight kg", "quantity", "kg"),
        ("Temp. °C", "quantity", "°C"), ("Gust, km/h", "quantity", "km/h"), ("Days", "duration", "days"), ("Remark", "empty", ""),
    ],
)  # fmt: skip
def test_a_columns_name_tells_the_unit(name, kind, unit):
    assert unit_of_name(name) == (kind, unit)
