# SPDX-License-Identifier: GPL-3.0-or-later
"""Numbers as people print them, with their decimal mark, sign and unit, to values."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from redlantern.text.languages import LANGUAGES

Mark = Literal[".", ","]

_CURRENCIES = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY"}
_MINUS = "-−–"
# A number with its grouping (point, comma, apostrophe, thin or hard space), and what stands around it.
_NUMBER = re.compile(
    rf"^(?P<open>\()?\s*(?P<sign>[{_MINUS}+])?\s*(?P<before>[€$£¥]|[A-Z]{{3}})?\s*(?P<inner>[{_MINUS}])?"
    r"(?P<digits>\d+(?:[.,'’\u00a0\u2009\u202f ]\d{3})*(?:[.,]\d+)?|\d+(?:[.,]\d+)?)"
    r"\s*(?P<after>[a-z]{1,2}[23]|[^\s\d()][^\d()]{0,12})?\s*(?(open)\))$"
)
_GROUPING = re.compile(r"['’\u00a0\u2009\u202f ]")


@dataclass(frozen=True)
class Number:
    """A number as printed: its value, and its unit or ISO 4217 currency (empty without one)."""

    value: Decimal
    unit: str


def parse_number(text: str, mark: Mark) -> Number | None:
    """Read a cell that holds one number and perhaps a unit.

    Parameters
    ----------
    text : str
        Such as "1.299,50 EUR", "(20)", "74 %", "− 3 °C".
    mark : "." or ","
        The decimal mark where the text leaves it open ("1.299").

    Returns
    -------
    Number or None
        None when the text is something else, such as a date or a sentence.
    """
    match = _NUMBER.match(text.strip())
    if match is None:
        return None
    digits = _GROUPING.sub("", match["digits"])
    own = mark_of(digits) or mark
    grouping = "," if own == "." else "."
    if digits.count(own) > 1:
        return None
    value = Decimal(digits.replace(grouping, "").replace(own, "."))
    is_negative = bool(match["open"]) or (match["sign"] or match["inner"] or "+") in _MINUS
    unit = (match["before"] or match["after"] or "").strip()
    if match["open"] and not unit and value == value.to_integral_value() and value < 100 and len(digits) < 3:
        return None  # "(3)" counts something; it is no loss of three
    return Number(-value if is_negative else value, _CURRENCIES.get(unit, unit))


def mark_of(digits: str) -> Mark | None:
    """Which decimal mark a number's own digits prove; None when they leave it open."""
    point, comma = digits.rfind("."), digits.rfind(",")
    if point >= 0 and comma >= 0:
        return "." if point > comma else ","
    at = max(point, comma)
    if at < 0:
        return None
    used: Mark = "." if point >= 0 else ","
    other: Mark = "," if used == "." else "."
    if digits.count(used) > 1:
        return other
    # Three digits after a single mark may be thousands; any other number of them may not, nor a leading zero.
    return used if len(digits) - at - 1 != 3 or digits[:at] in ("", "0") or at > 3 else None


def proved_mark(cells: Iterable[str]) -> Mark | None:
    """Which decimal mark most cells of a column prove, each way of writing counted once; None where they leave it open."""
    votes = {".": 0, ",": 0}
    for cell in set(cells):
        match = _NUMBER.match(cell.strip())
        proved = mark_of(_GROUPING.sub("", match["digits"])) if match else None
        if proved:
            votes[proved] += 1
    if votes["."] == votes[","]:
        return None
    return "." if votes["."] > votes[","] else ","


def usual_mark(language: str) -> Mark:
    """The decimal mark that a language (ISO 639-1) is used to; a point for one that is not known."""
    known = LANGUAGES.get(language)
    return "," if known is not None and known.decimal_mark == "," else "."
