# SPDX-License-Identifier: GPL-3.0-or-later
"""Dates and times of day as they stand in a cell, in the languages that questions are asked in."""

import datetime as dt
import re

from redlantern.text.languages import ASKED_IN

_PIVOT = 70
"""Years in two figures from here on are of the last century."""
_LEAST_LETTERS = 3


def _month_numbers() -> dict[str, int]:
    numbers: dict[str, int] = {}
    for language in ASKED_IN:
        for number, name in enumerate(language.month_names.split(), start=1):
            # "jui" alone would be June and July, "mar" March in five languages: a stretch that two months share is none.
            for length in range(_LEAST_LETTERS, len(name) + 1):
                shortened = name[:length]
                numbers[shortened] = number if numbers.get(shortened, number) == number else 0
    # Written in full a name means itself, also where another begins alike ("mars", "mei").
    for language in ASKED_IN:
        numbers |= {name: number for number, name in enumerate(language.month_names.split(), start=1)}
    return {name: number for name, number in numbers.items() if number} | {"sept": 9, "jänner": 1, "mrz": 3, "mrt": 3}


MONTHS = _month_numbers()
"""From the name of a month in any of these languages, or its beginning of three letters and more, to its number."""

_WEEKDAY = r"(?:[^\W\d_]{2,12}[.,]*\s+)?"
_ISO = re.compile(r"^(\d{4})-(\d{1,2})-(\d{1,2})(?:[T ]\d{1,2}:\d{2}(?::\d{2})?(?:\.\d+)?Z?)?$")
_NUMERIC = re.compile(
    rf"^{_WEEKDAY}(\d{{1,2}})([./-])\s?(\d{{1,2}})\2\s?(\d{{4}}|\d{{2}})(?:,?\s+\d{{1,2}}:\d{{2}}(?::\d{{2}})?)?$"
)
_DAY_FIRST = re.compile(
    rf"^{_WEEKDAY}(\d{{1,2}})(?:st|nd|rd|th|er|º|\.)?[\s-]+(?:of\s+|de\s+)?([^\W\d_]{{3,12}})\.?,?[\s-]+(?:de\s+)?(\d{{4}}|\d{{2}})$"
)
_MONTH_FIRST = re.compile(rf"^{_WEEKDAY}([^\W\d_]{{3,12}})\.?\s+(\d{{1,2}})(?:st|nd|rd|th)?,?\s+(\d{{4}})$")
_MONTH_ALONE = re.compile(r"^([^\W\d_]{3,12})\.?\s+(?:de\s+)?(\d{4})$")
_TIME = re.compile(r"^(\d{1,2})[:.](\d{2})(?::(\d{2}))?\s*(am|pm|a\.m\.|p\.m\.|uhr|h)?$", re.IGNORECASE)


def parse_date(text: str, *, day_first: bool = True) -> dt.date | None:
    """Read a cell that holds one date, perhaps with its weekday or a time; None for anything else.

    `day_first` decides where the figures leave it open (3/4/2026); with points the day always comes first. A month with its
    year alone is its first day.
    """
    text = text.strip()
    if not text or not any(letter.isdigit() for letter in text):
        return None
    iso = _ISO.match(text)
    if iso:
        return _date(iso[1], int(iso[2]), iso[3])
    numeric = _NUMERIC.match(text)
    if numeric:
        first, sign, second, year = numeric.groups()
        is_day_first = day_first or sign == "."
        day, month = (first, int(second)) if is_day_first else (second, int(first))
        return _date(year, month, day) or _date(year, int(day), str(month))
    lowered = text.casefold()
    for pattern, order in ((_DAY_FIRST, (1, 2, 3)), (_MONTH_FIRST, (2, 1, 3))):
        written = pattern.match(lowered)
        if written and written[order[1]] in MONTHS:
            return _date(written[order[2]], MONTHS[written[order[1]]], written[order[0]])
    alone = _MONTH_ALONE.match(lowered)
    return _date(alone[2], MONTHS[alone[1]], "1") if alone and alone[1] in MONTHS else None


def proves_month_first(text: str) -> bool | None:
    """Whether a date in figures can only have the month first (3/31/2026); None where it leaves it open."""
    numeric = _NUMERIC.match(text.strip())
    if not numeric or numeric[2] == ".":
        return None
    first, second = int(numeric[1]), int(numeric[3])
    if first > 12 >= second:
        return False
    return True if second > 12 >= first else None


def parse_time(text: str) -> int | None:
    """Read a cell that holds a time of day, as seconds from midnight; None for anything else."""
    match = _TIME.match(text.strip())
    if match is None or ("." in text and not match[4] and ":" not in text):
        return None  # "11.50" is a number unless it says that it is a time
    hours, minutes, seconds = int(match[1]), int(match[2]), int(match[3] or 0)
    half = (match[4] or "").casefold().replace(".", "")
    if half in ("am", "pm"):
        if not 1 <= hours <= 12:
            return None
        hours = hours % 12 + 12 * (half == "pm")
    return hours * 3600 + minutes * 60 + seconds if hours < 24 and minutes < 60 and seconds < 60 else None


def _date(year: str, month: int, day: str) -> dt.date | None:
    number = int(year)
    if len(year) == 2:
        number += 1900 if number >= _PIVOT else 2000
    try:
        return dt.date(number, month, int(day))
    except ValueError:
        return None
