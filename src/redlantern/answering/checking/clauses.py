# SPDX-License-Identifier: GPL-3.0-or-later
"""Sentences taken apart: clauses, what each holds, and its words step by step."""

import re
from collections.abc import Sequence

from redlantern.answering.checking.phrasing import LEADING_OVER, base_form, content
from redlantern.text.quantities import is_unit, quantities, values
from redlantern.text.tokens import tokens

SHORTENED = "".join(rf"(?<!\b{part})" for part in "Mr Mrs Ms Dr Prof St No Nr Ltd Inc ca approx [A-Z]".split())
_CLAUSE_END = re.compile(
    rf"[;:!?]\s+|{SHORTENED}\.\s+|,\s+(?:and|but|while|whereas|or)\s+|\s+(?:but|while|whereas|and)\s+|,\s+(?!(?:\d{{4}}|unless|except|provided|if|subject)\b|\w+ly\s+\S?\d)"
)
"""Not before "typically 16 MB": such a number is said of what stands before it."""
_TOGETHER = re.compile(r"[A-ZÀ-Þ][\w’'.-]*\s+and\s+[A-ZÀ-Þ]|\b\w+ing\s+and\s+\w+ing\b")
_HELD_BY_ALL = re.compile(r"^(?:according to|in (?:\w+|\w+ \w+) (?:opinion|view))\b", re.IGNORECASE)
"""What begins so says of the whole sentence on whose word it stands."""


def clauses_of(text: str) -> list[str]:
    """The clauses of a text; "and" between two names, or two things that are done, ends none."""
    inside = [match.span() for match in _TOGETHER.finditer(text)]
    found, begin = [], 0
    for match in _CLAUSE_END.finditer(text):
        if not any(start <= match.start() and match.end() <= end for start, end in inside):
            found.append(text[begin : match.start()])
            begin = match.end()
    return [clause for clause in (*found, text[begin:]) if clause.strip()]


def matched(claim: str, clauses: Sequence[str], least: int) -> list[str]:
    """The clauses that the claim's words are from, in their order: the one with most, then those that add as many as `least`."""
    left = {base_form(token) for token in content(claim)} | values(quantities(claim))
    held = [{base_form(token) for token in content(clause)} | values(quantities(clause)) for clause in clauses]
    chosen: set[int] = set()
    while left:
        best = max(range(len(clauses)), key=lambda at: (len(left & held[at]), -at), default=None)
        if best is None or len(left & held[best]) < (least if chosen else 1):
            break
        chosen.add(best)
        left -= held[best]
    if chosen and _HELD_BY_ALL.match(clauses[0]):
        chosen.add(0)
    return [clauses[at] for at in sorted(chosen)]


def words_and_values(text: str) -> list[str]:
    """The stems of a text's content, without units and what only leads over, and behind them its numbers."""
    words = [base for token in content(text) if not is_unit(token) and (base := base_form(token)) not in LEADING_OVER]
    return words + [quantity.value for quantity in quantities(text)]


def steps(text: str) -> list[tuple[str, str, tuple[str, ...]]]:
    """Each word with content, the next one, and the words between them."""
    found, last, between = [], "", []
    for token in tokens(text):
        # "Probably the fire began" is "the fire probably began".
        if not content(token) or is_unit(token) or token.endswith("ly"):
            between.append(token)
            continue
        word = base_form(token)
        if last:
            found.append((last, word, tuple(between)))
        last, between = word, []
    return found


def as_written(stemmed: str, text: str) -> str:
    """A word as it stands in a text, for its stem."""
    found = (match.group() for match in re.finditer(r"[\w’'.,-]*\w", text))
    return next((word for word in found if stemmed in map(base_form, tokens(word))), stemmed)
