# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables of values from pages: all dates and deadlines, all sums, all persons, all duties, each with its words and place.

Made by rules, not by a language model: what stands in the table stands on the page.
Rules miss what is written in ways that they do not know, which docs/read-through.md says.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal, get_args

from redlantern.reading.values import Page
from redlantern.readthrough.lines import subject_of
from redlantern.reckoning.dates import parse_date
from redlantern.reckoning.values import Convention, parse_value
from redlantern.splitting.lines import lines_of
from redlantern.text.languages import ENGLISH
from redlantern.text.question import parse_question
from redlantern.text.stems import stems
from redlantern.translation import marked

Extract = Literal["dates", "sums", "persons", "duties"]
EXTRACTS: tuple[Extract, ...] = get_args(Extract)
TITLES: dict[Extract, str] = {
    "dates": marked("Dates and deadlines"),
    "sums": marked("Sums of money"),
    "persons": marked("Persons"),
    "duties": marked("Duties"),
}
_MONTHS = f"{ENGLISH.months}|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec"
_UNITS = r"(?:working |calendar |business |full )?(?:days?|weeks?|months?|years?|hours?)"
_NUMBER = (
    r"(?:\d+|one|two|three|four|five|six|seven|eight|nine|ten|twelve|fourteen|fifteen|twenty|twenty-one|twenty-eight|"
    r"thirty|sixty|ninety)"
)
_DATE = re.compile(
    rf"\b\d{{4}}-\d{{2}}-\d{{2}}\b|\b\d{{1,2}}[./]\d{{1,2}}[./]\d{{4}}\b|"
    rf"\b\d{{1,2}}(?:st|nd|rd|th)?\.?\s+(?:of\s+)?(?:{_MONTHS})\.?,?\s+\d{{4}}\b|\b(?:{_MONTHS})\.?\s+\d{{1,2}}(?:st|nd|rd|th)?,?\s+\d{{4}}\b",
    re.IGNORECASE,
)
_PERIOD = re.compile(
    rf"\b(?:within|not later than|no later than|at the latest|at least|not less than|for (?:up to|at least)|after)\s+"
    rf"(?:a period of\s+)?{_NUMBER}(?:\s*\(\d+\))?\s+{_UNITS}(?:'|’)?(?:\s+(?:notice|of|after|before|from)\b)?|"
    rf"\b{_NUMBER}(?:\s*\(\d+\))?\s+{_UNITS}(?:'|’)?\s+(?:notice|after|before|from)\b",
    re.IGNORECASE,
)
_MONEY = r"€|£|\$|EUR|GBP|USD|CHF|euros?|pounds?|dollars?|francs?"
_FIGURE = r"\d{1,3}(?:[.,'’\u00a0]\d{3})+(?:[.,]\d{1,2})?|\d+(?:[.,]\d{1,2})?"
_SUM = re.compile(
    rf"(?:(?:€|£|\$|\b(?:EUR|GBP|USD|CHF))\s?(?:{_FIGURE}))|(?<![\d.,])(?:{_FIGURE})\s?(?:{_MONEY})(?!\w)",
    re.IGNORECASE,
)
_SIGN = re.compile(_MONEY, re.IGNORECASE)
_CURRENCIES = {
    "€": "EUR", "eur": "EUR", "euro": "EUR", "euros": "EUR", "£": "GBP", "gbp": "GBP", "pound": "GBP", "pounds": "GBP",
    "$": "USD", "usd": "USD", "dollar": "USD", "dollars": "USD", "chf": "CHF", "franc": "CHF", "francs": "CHF",
}  # fmt: skip
_GAP = r"[^\S\t]+"
"""Between the words of a name, not between two cells of a table."""
_NAME = r"[A-ZÀ-Þ](?:[\w’'-]*[a-zß-ÿ][\w’'-]*|\.)"
_TITLED = re.compile(
    rf"\b(?:Mr|Mrs|Ms|Miss|Dr|Prof|Professor|Sir|Dame|Judge|Herr|Frau|Señora?|Madame|Monsieur)\.?{_GAP}(?:{_NAME}{_GAP}){{0,2}}{_NAME}"
)
_NO_NAME = r"(?:The|A|An|In|On|At|For|If|This|That|All|No|Dear|Yours|By|To|From|Of|And|Or|Each|Any)"
_FULL_NAME = re.compile(rf"(?<![\w.])(?!{_NO_NAME}\b){_NAME}(?:{_GAP}{_NAME}){{1,2}}(?!\w)")
_NO_PERSON = re.compile(
    r"^(?:trust|halls?|works?|row|streets?|road|lane|square|mill|house|yard|bridge|street|insurance|mutual|bank|ltd|limited|inc|llc|"
    r"gmbh|ag|plc|company|co|surveys?|university|institute|office|court|church|school|hospital|county|city|clause|section|schedule|"
    r"article|chapter|table|figure|appendix|part|invoice|letter|report|contract|agreement|page|item|north|south|east|west|upper|"
    r"lower|new|old)$",
    re.IGNORECASE,
)
_TITLE = re.compile(r"^(?:Mr|Mrs|Ms|Miss|Dr|Prof|Professor|Sir|Dame|Judge|Herr|Frau|Señora?|Madame|Monsieur)\.?\s+")
_DUTY = re.compile(
    r"(?<!would )\b(?:shall|must|is to|are to|is obliged to|are obliged to|undertakes? to|agrees? to|is required to|are required to|"
    r"has to|have to|may not|is responsible for|are responsible for)\b(?!\s+be\s+(?:deemed|construed|understood)\b)",
    re.IGNORECASE,
)
_CLAUSE_NUMBER = re.compile(r"^\W*(?:\d+(?:\.\d+)*\.?|\([a-z]\)|[a-z]\))\s+")
_LONGEST_BEARER = 8


@dataclass(frozen=True)
class Item:
    """One value: as it is shown, what it is ordered by, and the place of its words and of the line they stand in."""

    value: str
    order: str
    start: int
    end: int
    line: str
    bearer: str = ""


def items_of(kind: Extract, page: Page, *, language: str = "", about: str = "") -> list[Item]:
    """The values of a kind on a page, in order.

    `about` limits them: of duties to those whose bearer has these words, of all others
    to lines that do; empty for all.
    """
    wanted = set(parse_question(subject_of(about)).stems()) if about else set()
    found = []
    for line in lines_of(page, language):
        text = page.text[line.start : line.end]
        for item in _OF_KIND[kind](text):
            limited = item.bearer if kind == "duties" else text
            if wanted and not wanted <= set(stems(limited)):
                continue
            found.append(
                Item(item.value, item.order, line.start + item.start, line.start + item.end, text, item.bearer)
            )
    return found


def _dates(line: str) -> Iterator[Item]:
    for match in _DATE.finditer(line):
        day = parse_date(match.group())
        if day is not None:
            yield Item(day.isoformat(), day.isoformat(), *match.span(), line)
    for match in _PERIOD.finditer(line):
        words = " ".join(match.group().split()).removesuffix(" of")
        yield Item(words, f"~{words.casefold()}", *match.span(), line)


def _sums(line: str) -> Iterator[Item]:
    for match in _SUM.finditer(line):
        words = match.group()
        sign = _SIGN.search(words)
        assert sign is not None
        figure = (
            (words[: sign.start()] + words[sign.end() :])
            .strip()
            .replace("\u00a0", "")
            .replace("’", "")
            .replace("'", "")
        )
        number = parse_value(figure, _convention(figure)).number
        if number is not None:
            currency = _CURRENCIES[sign.group().casefold()]
            yield Item(f"{number:.2f} {currency}", f"{currency} {number:020.2f}", *match.span(), line)


def _convention(figure: str) -> Convention:
    """What the marks in a sum mean: the last one, with one or two digits behind it, is the decimal mark."""
    decimal = re.search(r"([.,])\d{1,2}$", figure)
    if decimal:
        return Convention(mark=decimal.group(1))  # type: ignore[arg-type]
    return Convention(mark="," if "." in figure else ".")


def _persons(line: str) -> Iterator[Item]:
    taken: list[tuple[int, int]] = []
    for pattern in (_TITLED, _FULL_NAME):
        for match in pattern.finditer(line):
            start, end = match.span()
            if any(start < last and first < end for first, last in taken) or not _is_name(match.group()):
                continue
            taken.append((start, end))
            name = " ".join(match.group().split()).rstrip(".")
            yield Item(name, _TITLE.sub("", name).split()[-1].casefold(), start, end, line)


def _is_name(words: str) -> bool:
    """Whether capitals are those of a name, not of a heading or a month."""
    parts = _TITLE.sub("", words).split()
    months = set(ENGLISH.months.split("|"))
    return not any(
        part.casefold() in months or _NO_PERSON.match(part) or (part.isupper() and len(part) > 2) for part in parts
    )


def _duties(line: str) -> Iterator[Item]:
    match = _DUTY.search(line)
    if match is None:
        return
    before = _CLAUSE_NUMBER.sub("", line[: match.start()]).strip()
    bearer = " ".join(re.split(r"[,;:]\s", before)[-1].split()[-_LONGEST_BEARER:])
    offset = len(line) - len(_CLAUSE_NUMBER.sub("", line))
    words = " ".join(line[offset:].split())
    yield Item(words, f"{bearer.casefold()} {words.casefold()}", offset, len(line), line, bearer)


_OF_KIND: dict[Extract, Callable[[str], Iterator[Item]]] = {
    "dates": _dates, "sums": _sums, "persons": _persons, "duties": _duties,
}  # fmt: skip
