# SPDX-License-Identifier: GPL-3.0-or-later
"""Where documents say different things about what was asked: another date, sum or number for the same words of the question.

A small thing that is looked for strictly, for a false alarm costs trust: the
lines are from different documents, have the very same words of the question,
most of them, and one value each of the kind and unit that is asked for; and no
date that would make them speak of different days.
"""

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

from redlantern.answering.checking.phrasing import base_form, content
from redlantern.answering.evidence.lines import Asked, Candidate, in_words
from redlantern.answering.sheet import Disagreement, Side
from redlantern.collection.values import Citation, Document
from redlantern.text.dates import MONTH_NAMES
from redlantern.text.quantities import Quantity, plain, quantities, values

_KINDS = ("date", "sum", "number")
_LEAST_SHARE = 0.65
"""Of the question's words, by idf, so much must stand in a line or above it."""
_USUAL_RARITY = 3.0
_MOST_SIDES = 4
# "The first ten days" and "26 more" are no values of the whole.
_A_PART = re.compile(r"\b(?:first|last|further|other|another|remaining)\s$", re.IGNORECASE)
_CURRENCIES = ("EUR", "GBP", "USD", "CHF")
_MONTHS = [name.capitalize() for name in MONTH_NAMES]
_DAY = re.compile(rf"\b(\d{{1,2}}) (?:of )?({'|'.join(_MONTHS)})\b(?: (\d{{4}}))?", re.IGNORECASE)


@dataclass(frozen=True)
class _Said:
    """One line's value, in one spelling and as it stands, and what it is said of."""

    key: str
    shown: str
    unit: str
    about: frozenset[str]
    days: frozenset[str]
    candidate: Candidate


def disagreement(
    asked: Asked,
    candidates: Sequence[Candidate],
    cite: Callable[[Candidate], Citation],
    dated: Callable[[Candidate], str],
) -> Disagreement | None:
    """Find lines of different documents that give different values for what was asked.

    Parameters
    ----------
    asked : Asked
    candidates : sequence of Candidate
        Best first; only those compared word by word count.
    cite, dated : callables
        The citation of a line, and the date of its document in words, which may be empty.

    Returns
    -------
    Disagreement or None
        With the best line of each value, at most four.
    """
    if asked.question.kind not in _KINDS:
        return None
    said = [said for candidate in candidates if candidate.is_compared for said in _values_of(asked, candidate)]
    for first in said:
        sides = {first.key: first}
        for other in said:
            if other.key not in sides and _may_differ(first, other) and _is_from_elsewhere(other, sides.values()):
                sides[other.key] = other
        if len(sides) > 1:
            chosen = list(sides.values())[:_MOST_SIDES]
            return Disagreement(
                asked.question.kind,
                tuple(Side(side.shown, cite(side.candidate), dated(side.candidate)) for side in chosen),
            )
    return None


def date_of(document: Document) -> str:
    """The date that a document's title or its own details give, else that of its file, in words."""
    named = _DAY.search(plain(document.title)) or _DAY.search(plain(document.details.get("date", "")))
    if named:
        return named.group()
    if not document.mtime_ns:
        return ""
    at = datetime.fromtimestamp(document.mtime_ns / 1e9)
    return f"file of {at.day} {_MONTHS[at.month - 1]} {at.year}"


def _is_from_elsewhere(said: _Said, others: Iterable[_Said]) -> bool:
    return all(said.candidate.passage.document_id != other.candidate.passage.document_id for other in others)


def _may_differ(said: _Said, other: _Said) -> bool:
    if said.unit != other.unit or said.about != other.about:
        return False
    # In a log, a reading of the ninth and one of the tenth are two readings.
    are_rows = said.candidate.is_row or other.candidate.is_row
    return not (are_rows and said.days and other.days) or bool(said.days & other.days)


def _values_of(asked: Asked, candidate: Candidate) -> Iterator[_Said]:
    """The value of a line, if it has just one of the kind that is asked for beside what the question says."""
    text, question = plain(in_words(candidate)), plain(asked.question.text)
    around = f"{plain(candidate.passage.headings.printed)} {text}"
    numbers_asked = values(quantities(question))
    wanted = {base_form(word) for word in content(question)} | numbers_asked
    about = frozenset(wanted & ({base_form(word) for word in content(around)} | values(quantities(around))))
    weights = {word: asked.wanted.get(word, _USUAL_RARITY) for word in wanted}
    if not wanted or not numbers_asked <= about:
        return
    if sum(map(weights.__getitem__, about)) < _LEAST_SHARE * sum(weights.values()):
        return
    days = frozenset(match.group().casefold() for match in _DAY.finditer(text))
    if asked.question.kind == "date":
        found = {(int(m.group(1)), m.group(2).casefold()): m.group() for m in _DAY.finditer(text)}
        mine = {key: shown for key, shown in found.items() if shown.casefold() not in question.casefold()}
        if len(mine) == 1:
            [(key, shown)] = mine.items()
            yield _Said(f"{key}", shown, "date", about, frozenset(), candidate)
        return
    numbers = [
        quantity
        for quantity in quantities(text)
        if quantity.kind == "number"
        and quantity.value not in numbers_asked
        and not _A_PART.search(text[: quantity.start])
    ]
    by_unit: dict[str, list[Quantity]] = {}
    for number in numbers:
        by_unit.setdefault(number.unit, []).append(number)
    for unit, members in by_unit.items():
        is_wanted = unit in _CURRENCIES if asked.question.kind == "sum" else unit not in ("", *_CURRENCIES)
        if is_wanted and len({member.value for member in members}) == 1:
            yield _Said(members[0].value, _shown(members[0], text), unit, about, days, candidate)


def _shown(quantity: Quantity, text: str) -> str:
    """A number as it stands, with its unit."""
    match = re.match(r"[\d.,:]*\w*", text[quantity.start :])
    number = match.group().rstrip(".,:") if match else quantity.value
    return f"{number} {quantity.unit}".strip()
