# SPDX-License-Identifier: GPL-3.0-or-later
"""One cell as a typed value: a number with its unit, a date, a time, an identifier or words; exact, never a float."""

import datetime as dt
import re
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from redlantern.reading.numbers import Mark, Number, parse_number
from redlantern.reckoning.dates import parse_date, parse_time
from redlantern.text.quantities import units_in

ValueKind = Literal[
    "empty", "text", "identifier", "whole", "decimal", "money", "percentage", "date", "time", "duration", "quantity"
]
NUMERIC: frozenset[ValueKind] = frozenset({"whole", "decimal", "money", "percentage", "duration", "quantity"})
"""Kinds that can be added up."""
ORDERED: frozenset[ValueKind] = NUMERIC | {"date", "time"}
"""Kinds that can be compared."""

CURRENCIES = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY"}
_ISO_CURRENCIES = frozenset("EUR USD GBP CHF JPY SEK NOK DKK PLN CZK HUF AUD CAD NZD CNY INR".split())
_SWAPPED = str.maketrans(",.", ".,")
_LONGEST_CHARS = 40
"""A longer cell is no figure: that bounds what is reckoned with, so that sums of millions of rows stay exact."""
_RAISED = str.maketrans("23", "²³")
_EMPTY = frozenset({"", "-", "–", "—", "n/a", "n.a.", "./.", "..."})
_SECONDS = {"seconds": 1, "minutes": 60, "hours": 3600, "days": 86400, "weeks": 604800}
_CLOCK_DURATION = re.compile(
    r"^(\d{1,4})\s?h(?:ours?|rs?|\.)?\s?(\d{1,2})\s?(?:m(?:in)?)?\.?$|^(\d{1,4}):([0-5]\d)\s?h$", re.IGNORECASE
)
_CODE = re.compile(r"^(?=.*\d)(?=.*[A-Za-zÀ-þ/_-])[\w./-]{2,24}$")
_IN_MARKS = ("-", "/", "_")
_PLAIN = re.compile(r"^[-−]?(?:0|[1-9]\d{0,14})(?:[.,]\d{1,6})?$")
_LEADING_ZERO = re.compile(r"^0\d+$")


@dataclass(frozen=True)
class Convention:
    """How a column writes its numbers and dates: the decimal mark, and whether the day comes before the month."""

    mark: Mark = "."
    day_first: bool = True


@dataclass(frozen=True, slots=True)
class Value:
    """What a cell holds.

    `number` is what is added up and compared: the number itself, the days of a date since the year 1, the seconds of a time or
    of a duration; None for words. `unit` is the ISO 4217 code of money, "%" of a percentage, the unit of a quantity; of a
    duration the unit it is written in.
    """

    kind: ValueKind
    number: Decimal | None = None
    unit: str = ""

    @property
    def date(self) -> dt.date | None:
        """The date, if it is one."""
        return dt.date.fromordinal(int(self.number)) if self.kind == "date" and self.number is not None else None


EMPTY = Value("empty")
TEXT = Value("text")


def parse_value(text: str, convention: Convention) -> Value:
    """Read a cell; TEXT for what is neither number, date, time, duration nor identifier."""
    text = text.strip()
    if text.casefold() in _EMPTY:
        return EMPTY
    if len(text) > _LONGEST_CHARS or not any(letter.isdigit() for letter in text):
        return TEXT
    if _PLAIN.match(text):
        # A number and nothing else, as most cells are.
        number = parse_number(text, convention.mark)
        return _typed(number) if number is not None else TEXT
    moment = parse_date(text, day_first=convention.day_first)
    if moment is not None:
        return Value("date", Decimal(moment.toordinal()))
    seconds = parse_time(text)
    if seconds is not None:
        return Value("time", Decimal(seconds))
    worked = _CLOCK_DURATION.match(text)
    if worked:
        hours, minutes = (int(worked[1]), int(worked[2])) if worked[1] else (int(worked[3]), int(worked[4]))
        return Value("duration", Decimal(hours * 3600 + minutes * 60), "hours")
    if _LEADING_ZERO.match(text):
        return Value("identifier")
    number = parse_number(text, convention.mark)
    # "VAT 20 %" is a label, "EUR 20" an amount, "3628-K" a mark.
    is_label = number is not None and text[0].isalpha() and number.unit not in _ISO_CURRENCIES
    if number is not None and not is_label and number.unit[:1] not in _IN_MARKS:
        return _typed(number)
    return Value("identifier") if _CODE.match(text) else TEXT


def in_kind(value: Value, kind: ValueKind, unit: str) -> Value:
    """A bare number read as what its column holds: money in the column's currency, a quantity in its unit, a duration."""
    if value.kind not in ("whole", "decimal") or kind not in ("money", "percentage", "quantity", "duration"):
        return value
    assert value.number is not None
    if kind == "duration":
        return Value("duration", value.number * _SECONDS[unit], unit) if unit in _SECONDS else value
    return Value(kind, value.number, unit)


def unit_of_name(name: str) -> tuple[ValueKind, str]:
    """What a column's name says of its numbers, such as "Weight kg", "Amount (EUR)", "RH %"; ("empty", "") for nothing."""
    for word in re.findall(r"[A-Z]{3}\b|[€$£¥]", name):
        code = CURRENCIES.get(word, word)
        if code in _ISO_CURRENCIES:
            return "money", code
    if "%" in name:
        return "percentage", "%"
    if re.search(r"°\s?[CF]\b", name):
        return "quantity", "°C" if "C" in name[name.index("°") :] else "°F"
    speed = re.search(r"\b[a-z]{1,3}/[a-z]{1,3}\b", name)
    if speed:
        return "quantity", speed.group()
    units = units_in(name)
    if not units:
        return "empty", ""
    return ("duration" if units[-1] in _SECONDS else "quantity"), units[-1]


def shown_duration(seconds: Decimal, unit: str) -> str:
    """A duration in the unit it is written in, without trailing zeros."""
    return f"{shown_number(seconds / _SECONDS.get(unit, 1), '.', 0, grouped=False)} {unit or 'seconds'}"


def shown_value(value: Value) -> str:
    """A value with a number as a program would write it: a decimal point, no grouping, its unit."""
    if value.number is None:
        return ""
    return (
        shown_duration(value.number, value.unit) if value.kind == "duration" else f"{value.number} {value.unit}".strip()
    )


def shown_number(number: Decimal, mark: Mark, n_decimals: int = 0, *, grouped: bool = True) -> str:
    """A number as the documents print it: with this decimal mark, and at least so many decimals; more only where it has them."""
    has = max(0, -int(number.normalize().as_tuple().exponent)) if number else 0  # type: ignore[arg-type]
    written = f"{number:,.{max(n_decimals, has)}f}" if grouped else f"{number:.{max(n_decimals, has)}f}"
    return written if mark == "." else written.translate(_SWAPPED)


def _typed(number: Number) -> Value:
    unit = number.unit.strip()
    code = CURRENCIES.get(unit, unit.upper())
    if code in _ISO_CURRENCIES:
        return Value("money", number.value, code)
    if unit in ("%", "per cent", "percent"):
        return Value("percentage", number.value, "%")
    known = units_in(unit.translate(_RAISED) if unit[-1:] in "23" else unit)
    if known and known[-1] in _ISO_CURRENCIES:
        return Value("money", number.value, known[-1])
    if known and known[-1] in _SECONDS:
        return Value("duration", number.value * _SECONDS[known[-1]], known[-1])
    if unit:
        return Value("quantity", number.value, known[-1] if known else unit)
    return Value(
        "whole" if number.value == number.value.to_integral_value() and "." not in str(number.value) else "decimal",
        number.value,
    )
