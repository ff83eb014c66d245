# SPDX-License-Identifier: GPL-3.0-or-later
"""The bounds that a question sets: "above 65 %", "between 3 March and 10 April 2026", "in March", "before 1.4.2026"."""

import calendar
import datetime as dt
import re
from collections.abc import Iterator
from dataclasses import dataclass

from redlantern.reckoning.dates import MONTHS, parse_date
from redlantern.reckoning.plan import Relation
from redlantern.text.languages import ASKED_IN


@dataclass(frozen=True)
class StatedBound:
    """A bound that rows have to keep, of no column yet: numbers as written, dates in ISO form; a month without a year is "3"."""

    relation: Relation
    values: tuple[str, ...]
    span: tuple[int, int]
    is_date: bool = False
    unit: str = ""


_NUMBER = (
    r"(?P<number>[-−]?\d[\d.,'\u00a0]*\d|\d)\s?"
    r"(?P<unit>%|°\s?C|[€$£]|EUR|GBP|USD|CHF|per cent|[^\W\d_]{1,12}(?:/[a-z]+)?)?"
)
_BOUND_WORDS: tuple[tuple[Relation, str], ...] = (
    ("at least", "at least|no less than|not less than|from|mindestens|au moins|al menos"),
    ("at most", "at most|no more than|not more than|up to|höchstens|maximal|au plus|como máximo"),
    (
        "above",
        "above|over|more than|exceed(?:s|ed|ing)?|greater than|higher than|larger than|über|mehr als|plus de|más de",
    ),
    ("is", "exactly|with|have|has|having|genau|mit|avec|con"),
    (
        "below",
        "below|under|less than|fewer than|lower than|smaller than|cheaper than|unter|weniger als|moins de|menos de",
    ),
)
_BOUNDS = [
    (relation, re.compile(rf"\b(?:{words})\s+(?:[€$£]\s?)?{_NUMBER}", re.IGNORECASE))
    for relation, words in _BOUND_WORDS
]
_BETWEEN = re.compile(
    rf"\bbetween\s+(?P<low>[\d.,]*\d)\s?(?:%|°\s?C|[€$£]|[A-Z]{{3}})?\s+and\s+{_NUMBER}", re.IGNORECASE
)
_FULL_MONTHS = {name for language in ASKED_IN for name in language.month_names.split()}
_MONTH = "|".join(sorted((name for name in MONTHS if len(name) > 3 or name in _FULL_MONTHS), key=len, reverse=True))
_DATE = (
    r"\d{4}-\d{2}-\d{2}|\d{1,2}[./]\d{1,2}[./]\d{4}|"
    rf"\d{{1,2}}(?:st|nd|rd|th|\.)? (?:of |de )?(?:{_MONTH})\.?(?:,? (?:de )?\d{{4}})?|"
    rf"(?:{_MONTH}) \d{{1,2}}(?:st|nd|rd|th)?(?:,? \d{{4}})?"
)
_DATE_WORDS: tuple[tuple[Relation, str], ...] = (
    ("below", "before|until|till|earlier than|vor(?: dem)?|avant(?: le)?|antes del?"),
    ("above", "after|later than|nach(?: dem)?|après(?: le)?|después del?"),
    ("at least", "since|from|starting|seit(?: dem)?|ab(?: dem)?|depuis(?: le)?|desde(?: el)?"),
    ("at most", "by|up to|bis(?: zum)?|jusqu['’]au|hasta(?: el)?"),
    ("is", "on|am|le|el"),
)
_DATE_BOUNDS = [
    (relation, re.compile(rf"\b(?:{words})\s+(?:the\s+)?(?P<date>{_DATE})(?!\w)", re.IGNORECASE))
    for relation, words in _DATE_WORDS
]
_DATE_RANGE = re.compile(
    rf"\b(?:between|from|zwischen|vom|entre|du)\s+(?:the |dem |le )?(?P<date>{_DATE})\s+"
    rf"(?:and|to|until|und|bis|et|au|y|al)\s+(?:the |dem |le )?(?P<end>{_DATE})",
    re.IGNORECASE,
)
_IN_MONTH = re.compile(
    rf"\b(?:in|of|during|for|im|en|de|d['’])\s*(?:the month of |early |late )?(?P<month>{_MONTH})"
    r"(?:\s+(?:de\s+)?(?P<year>\d{4}))?\b(?!\s+\d)",
    re.IGNORECASE,
)
_IN_YEAR = re.compile(r"\b(?:in|of|during|for|im jahr|en|année)\s+(?P<year>(?:19|20)\d\d)\b(?![-./]\d)", re.IGNORECASE)


def bounds_in(text: str) -> list[StatedBound]:
    """The bounds of a question; of those that share words the more exact one."""
    kept: list[StatedBound] = []
    for bound in _all(text):
        begin, end = bound.span
        if not any(other.span[0] < end and begin < other.span[1] for other in kept):
            kept.append(bound)
    return kept


def _all(text: str) -> Iterator[StatedBound]:
    """All that could be meant, the more exact ones first."""
    for match in _DATE_RANGE.finditer(text):
        first, last = _iso(match["date"], text), _iso(match["end"], text)
        if first and last:
            yield StatedBound("between", (first, last), match.span(), is_date=True)
    for relation, pattern in _DATE_BOUNDS:
        for match in pattern.finditer(text):
            moment = _iso(match["date"], text)
            if moment:
                yield StatedBound(relation, (moment,), match.span(), is_date=True)
    yield from map(_in_month, _IN_MONTH.finditer(text))
    for match in _IN_YEAR.finditer(text):
        days = f"{match['year']}-01-01", f"{match['year']}-12-31"
        yield StatedBound("between", days, match.span(), is_date=True)
    for match in _BETWEEN.finditer(text):
        yield StatedBound("between", (match["low"], match["number"]), match.span(), unit=_unit(match))
    for relation, pattern in _BOUNDS:
        for match in pattern.finditer(text):
            yield StatedBound(relation, (match["number"],), match.span(), unit=_unit(match))


def _in_month(match: re.Match[str]) -> StatedBound:
    month = MONTHS[match["month"].casefold()]
    if not match["year"]:
        return StatedBound("in month", (str(month),), match.span(), is_date=True)
    year = int(match["year"])
    last = calendar.monthrange(year, month)[1]
    days = dt.date(year, month, 1).isoformat(), dt.date(year, month, last).isoformat()
    return StatedBound("between", days, match.span(), is_date=True)


def _unit(match: re.Match[str]) -> str:
    return (match["unit"] or "").strip()


def _iso(written: str, text: str) -> str:
    """A date in ISO form; one without a year gets the year that the question names elsewhere, if it names one."""
    moment = parse_date(written)
    if moment is None and not re.search(r"\d{4}", written):
        years = re.findall(r"\b(?:19|20)\d\d\b", text)
        moment = parse_date(f"{written} {years[-1]}") if years else None
    return moment.isoformat() if moment else ""
