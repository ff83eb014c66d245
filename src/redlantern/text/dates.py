# SPDX-License-Identifier: GPL-3.0-or-later
"""Full dates of a text, however they are written, in one spelling."""

import re

from redlantern.text.languages import ENGLISH

MONTH_NAMES = ENGLISH.months.split("|")
_MONTHS = {name: number for number, full in enumerate(MONTH_NAMES, start=1) for name in (full, full[:3])}
_YEAR = re.compile(r"\d{4}")
_NUMERIC_DATE = re.compile(r"\b(\d{1,2})[./](\d{1,2})[./](\d{4})\b|\b(\d{4})-(\d{2})-(\d{2})\b")
_WRITTEN_DATE = re.compile(
    rf"\b(\d{{1,2}})(?:st|nd|rd|th)?\s+(?:of\s+)?({'|'.join(_MONTHS)})\.?,?\s+(\d{{4}})\b|"
    rf"\b({'|'.join(_MONTHS)})\.?\s+(\d{{1,2}})(?:st|nd|rd|th)?,?\s+(\d{{4}})\b",
    re.IGNORECASE,
)


def dates(text: str) -> list[str]:
    """Give the full dates of a text as `date:2026-03-17`, however they are written; day before month in 3.4.2026."""
    found: list[tuple[str, int, int]] = []
    if not _YEAR.search(text):
        return []
    for day, month, year, iso_year, iso_month, iso_day in _NUMERIC_DATE.findall(text):
        found.append((year or iso_year, int(month or iso_month), int(day or iso_day)))
    for day, month, year, other_month, other_day, other_year in _WRITTEN_DATE.findall(text):
        found.append((year or other_year, _MONTHS[(month or other_month).lower()], int(day or other_day)))
    return [f"date:{year}-{month:02d}-{day:02d}" for year, month, day in found if month <= 12 and 1 <= day <= 31]


def dates_in_words(text: str) -> str:
    """Write numeric dates out (17.03.2026 as 17 March 2026), as the embedding model knows them best."""

    def written(match: re.Match[str]) -> str:
        day, month, year, iso_year, iso_month, iso_day = match.groups()
        number = int(month or iso_month)
        if not 1 <= number <= len(MONTH_NAMES):
            return match.group()
        return f"{int(day or iso_day)} {MONTH_NAMES[number - 1].capitalize()} {year or iso_year}"

    return _NUMERIC_DATE.sub(written, text)
