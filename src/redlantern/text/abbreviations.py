# SPDX-License-Identifier: GPL-3.0-or-later
"""Abbreviations that a document defines, so that its short and its long forms are found by each other.

A definition is a short form in brackets after its long form ("Relative Humidity
(RH)") or the other way round, with the letters of the short form in the long
one in order: Schwartz and Hearst, "A Simple Algorithm for Identifying
Abbreviation Definitions in Biomedical Text" (2003).
"""

import re
from collections.abc import Iterable, Mapping

_SHORT = re.compile(r"\((?:or |in short )?([A-Z][A-Za-z0-9/&.-]{1,9})\)")
_LONG_IN_BRACKETS = re.compile(r"\b([A-Z][A-Z0-9/&.-]{1,9}) ?\(([A-Za-z][A-Za-z -]{4,80})\)")
_WORD = re.compile(r"[^\W_]+(?:[-'’][^\W_]+)*")
_MOST_EXTRA_WORDS = 5


def definitions(texts: Iterable[str]) -> dict[str, str]:
    """Find the abbreviations that some texts define.

    Returns
    -------
    dict
        From each short form as it is written ("RH") to its long form ("Relative
        Humidity"); the first definition counts.
    """
    found: dict[str, str] = {}
    for text in texts:
        for match in _SHORT.finditer(text):
            _define(
                found, match.group(1), _long_form(match.group(1), text[max(0, match.start() - 120) : match.start()])
            )
        for match in _LONG_IN_BRACKETS.finditer(text):
            short, long = match.groups()
            if _long_form(short, long) == long.strip():
                _define(found, short, long.strip())
    return found


def _define(found: dict[str, str], short: str, long: str) -> None:
    if long:
        found.setdefault(short, long)


def _long_form(short: str, before: str) -> str:
    """The shortest stretch at the end of `before` that holds the letters of the short form in order, begun by its first."""
    letters = [letter.casefold() for letter in short if letter.isalnum()]
    if sum(letter.isupper() for letter in short) < 2:
        return ""
    n_most = min(len(letters) + _MOST_EXTRA_WORDS, 2 * len(letters))
    words = [match.start() for match in _WORD.finditer(before)][-n_most:]
    at = len(before) - 1
    for index in range(len(letters) - 1, -1, -1):
        while at >= 0 and not (before[at].casefold() == letters[index] and (index or at in words)):
            at -= 1
        if at < 0:
            return ""
        at -= 1
    long = before[at + 1 :].strip()
    return long if at + 1 in words and len(long) > 2 * len(short) else ""


def joined(text: str, known: Mapping[str, str]) -> str:
    """The other forms of what a text holds: long forms for its short ones, and short for long; empty without any."""
    added = []
    lowered = text.casefold()
    for short, long in known.items():
        has_short = re.search(rf"(?<!\w){re.escape(short)}(?!\w)", text) is not None
        has_long = long.casefold() in lowered
        if has_short and not has_long:
            added.append(long)
        elif has_long and not has_short:
            added.append(short)
    return " ".join(added)
