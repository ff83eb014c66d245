# SPDX-License-Identifier: GPL-3.0-or-later
"""Numbers, dates, sums and measures of a sentence, in one spelling, with their units and their bounds ("up to", "about")."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from redlantern.text.dates import MONTH_NAMES
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

Bound = Literal["", "at most", "at least", "more than", "less than", "about", "exactly"]

_NUMBER_WORDS = {
    word: value
    for value, word in enumerate(
        "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen "
        "eighteen nineteen twenty".split()
    )
} | {"thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80, "ninety": 90, "hundred": 100}
_ORDINALS = {
    word: value
    for value, word in enumerate(
        "first second third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth".split(), start=1
    )
}
_MONTHS = {name: full for full in MONTH_NAMES for name in (full, full[:3])} | {"sept": "september"}
DAYS = frozenset("monday tuesday wednesday thursday friday saturday sunday".split())
# No "GB" and no "TB": in French "£GB" is a currency, and a column "TB" of a clinic is no size.
_UNITS = {
    form: unit
    for unit, forms in {
        "%": "% percent", "EUR": "€ eur euro euros", "GBP": "£ gbp pound pounds", "USD": "$ usd dollar dollars", "CHF": "chf francs",
        "hours": "h hr hrs hour hours", "minutes": "min mins minute minutes", "seconds": "s sec secs seconds",
        "days": "d day days", "weeks": "week weeks", "months": "month months", "years": "year years", "nights": "night nights",
        "mg": "mg milligrams", "g": "g gram grams", "kg": "kg kilogram kilograms kilos", "tonnes": "t tonne tonnes ton tons",
        "µg": "µg", "l": "l litre litres liter liters", "ml": "ml millilitres", "m": "m metre metres meter meters",
        "cm": "cm centimetres", "mm": "mm millimetres", "km": "km kilometres kilometers", "mg/l": "mg/l", "g/l": "g/l", "µg/l": "µg/l",
        "bar": "bar", "mbar": "mbar", "°C": "°c degrees celsius", "Hz": "hz", "kW": "kw", "W": "w watts", "kWh": "kwh", "V": "v volts",
        "m²": "m² m2 sqm", "m³": "m³ m3", "ha": "ha hectare hectares", "miles": "mile miles", "ms": "ms milliseconds",
        "bytes": "byte bytes", "kB": "kb kilobytes", "MB": "mb megabytes", "times": "times", "people": "people persons",
    }.items()
    for form in forms.split()
}  # fmt: skip
_BOUNDS: tuple[tuple[Bound, str], ...] = (
    (
        "at most",
        r"at most|up to|(?:no|not) (?:more|later|longer) than|(?:a )?maximum(?: of)?|not exceed(?:ing)?|within",
    ),
    ("at least", r"at least|(?:no|not) (?:less|fewer) than|(?:a )?minimum(?: of)?"),
    ("more than", r"more than|over|above|exceeds?|exceeding|exceeded|older than|longer than"),
    ("less than", r"less than|fewer than|under|below|younger than|shorter than"),
    ("about", r"about|around|approximately|approx\.?|nearly|almost|roughly|circa|ca\.?|some"),
    ("exactly", r"exactly|precisely"),
)  # fmt: skip
_BOUND_BEFORE = [
    (bound, re.compile(rf"\b(?:{words})\s+(?:of\s+|the\s+|a\s+)?$", re.IGNORECASE)) for bound, words in _BOUNDS
]

_PER_CENT = re.compile(r"\bper\s?cent\b", re.IGNORECASE)
_LETTERED = re.compile(r"\b([^\W\d_]{3,}) ([A-HJ-Z])\b(?![.’'/])")
ORDINAL_DIGITS = re.compile(r"\b(\d+)(?:st|nd|rd|th)\b")
_OF_MONTH = re.compile(rf"\s+(?:of\s+)?(?:{'|'.join(_MONTHS)})\b", re.IGNORECASE)
_ORDINAL_DAY = re.compile(rf"\b(\d{{1,2}})(?:st|nd|rd|th)(?=\s+(?:of\s+)?(?:{'|'.join(_MONTHS)})\b)", re.IGNORECASE)
_ISO_DATE = re.compile(r"\b(\d{4})-(\d{2})-(\d{2})\b")
# Without a year only in two figures each, for "9.2." may end a sentence about a clause.
_NUMERIC_DATE = re.compile(r"\b(\d{1,2})[./](\d{1,2})[./](\d{4})\b|\b(\d{2})\.(\d{2})\.(?!\d)")
_PIECE = re.compile(r"\d+(?:[.,:]\d+)*|[^\W\d_]+(?:['’][^\W\d_]+)*")
_UNIT_AFTER = re.compile(r"\s?([%€£$°²³µ]?[^\W\d_]*[²³23]?(?:/[a-z]+[³3]?)?)")
# "41 working days", "36 consecutive hours"
_BEFORE_UNIT = re.compile(r"^\s(?:working|calendar|consecutive|full|whole|more|further|metric)\b", re.IGNORECASE)
_UNIT_BEFORE = re.compile(r"(€|£|\$|\bEUR|\bGBP|\bUSD|\bCHF)\s?$", re.IGNORECASE)


_ORDER_WORDS = {f"#{value}": word for word, value in _ORDINALS.items()}


@dataclass(frozen=True)
class Quantity:
    """One number, part of a date, or place in an order: `value` in one spelling, `unit` where it is known, `kind` what it is."""

    value: str
    kind: Literal["number", "date", "order"]
    unit: str
    bound: Bound
    start: int
    unit_word: str = ""
    """The unit as it is written beside the number, in small letters."""

    @property
    def said(self) -> str:
        """As it is named in a doubt."""
        return self.value.removeprefix("#") if self.kind != "order" else _ORDER_WORDS.get(self.value, self.value)


def plain(text: str) -> str:
    """A text with dates written out and "per cent" as a sign, so that one thing has one spelling; "Pump A" gets a word of its
    own ("Pump PumpA"), for a letter alone is none.
    """
    text = _ORDINAL_DAY.sub(r"\1", _PER_CENT.sub("%", text))
    text = _LETTERED.sub(r"\1 \1\2", text)
    text = _ISO_DATE.sub(lambda match: _written(match.group(3), match.group(2), match.group(1)), text)
    return _NUMERIC_DATE.sub(
        lambda match: _written(
            match.group(1) or match.group(4), match.group(2) or match.group(5), match.group(3) or ""
        ),
        text,
    )


def quantities(text: str) -> list[Quantity]:
    """Find the quantities of a text that `plain` has gone over, in order. "One" is none, for it is mostly a pronoun."""
    found = []
    for match in _PIECE.finditer(text):
        word, start, rest = match.group(), match.start(), text[match.end() :]
        low = word.casefold()
        if word[0].isdigit():
            ordinal = ORDINAL_DIGITS.match(text, start)
            if ordinal:
                found.append(Quantity(f"#{int(ordinal.group(1))}", "order", "", "", start))
            else:
                found.append(_number(stem(word), text, start, rest))
        elif low in _NUMBER_WORDS and low != "one":
            found.append(_number(str(_NUMBER_WORDS[low]), text, start, rest))
        elif low in _ORDINALS and not re.search(r"(?:\d|\bper|\ba)\s$", text[:start]):
            if _OF_MONTH.match(rest):
                found.append(Quantity(str(_ORDINALS[low]), "date", "", "", start))
            else:
                found.append(Quantity(f"#{_ORDINALS[low]}", "order", "", "", start))
        elif low in DAYS:
            found.append(Quantity(low, "date", "", "", start))
        elif low in _MONTHS and _is_month(low, text):
            found.append(Quantity(_MONTHS[low], "date", "", "", start))
    return found


def is_unit(word: str) -> bool:
    """Whether a word is the name of a unit."""
    return word.casefold() in _UNITS


def units_in(text: str) -> list[str]:
    """The units that a text names, with numbers or without, such as the name of a column does; in order."""
    words = re.findall(r"[^\W\d_]+[²³]?(?:/[a-z]+)?|[%€£$]|°C", text)
    return [_UNITS[word.casefold()] for word in words if word.casefold() in _UNITS]


def values(found: Sequence[Quantity]) -> set[str]:
    """What quantities say, without their units."""
    return {quantity.value for quantity in found}


def stated_values(text: str, *, without_dates: bool = False) -> set[str]:
    """What the quantities of a text that `plain` has gone over say, and "one": mostly a pronoun and so no quantity, but what is
    called by it may be called by its figure.
    """
    found = [quantity for quantity in quantities(text) if not without_dates or quantity.kind != "date"]
    return values(found) | ({"1"} if "one" in tokens(text) else set())


def _number(value: str, text: str, start: int, rest: str) -> Quantity:
    value = re.sub(r"\.0+$", "", value.lstrip("0")) or "0"
    value = value if not value.startswith(".") else f"0{value}"
    if _OF_MONTH.match(rest):
        return Quantity(value, "date", "", "", start)
    after = _UNIT_AFTER.match(_BEFORE_UNIT.sub("", rest))
    word = after.group(1).casefold() if after else ""
    before = _UNIT_BEFORE.search(text[:start])
    if word not in _UNITS and before:
        word = before.group(1).casefold()
    unit = _UNITS.get(word, "")
    if not unit and re.fullmatch(r"(?:19|20)\d\d", value):
        return Quantity(value, "date", "", "", start)
    lead = text[: before.start() if before else start]
    bound = next((bound for bound, words in _BOUND_BEFORE if words.search(lead)), "")
    return Quantity(value, "number", unit, bound, start, word if unit else "")  # type: ignore[arg-type]


def _is_month(token: str, text: str) -> bool:
    # "may" and "march" are verbs, too: a month begins with a capital and stands beside a number.
    if len(token) > 3 and token not in ("march", "sept"):
        return True
    word = token.capitalize()
    return bool(
        re.search(
            rf"(?:\d\s*(?:st|nd|rd|th)?\s*(?:of\s+)?{word}\b|\b{word}\.?\s+\d|"
            rf"\b(?:in|by|until|since|of|last|next|early|late|mid)\s+{word}\b)",
            text,
        )
    )


def _written(day: str, month: str, year: str) -> str:
    index = int(month) - 1
    name = MONTH_NAMES[index].capitalize() if 0 <= index < len(MONTH_NAMES) else month
    return f"{int(day)} {name} {year}".rstrip() + " " * (not year)
