# SPDX-License-Identifier: GPL-3.0-or-later
"""Call-marks: the short marks that documents are cited by, made from their titles."""

import re
import unicodedata
from collections.abc import Collection as Names
from collections.abc import Iterator
from itertools import count

from redlantern.text.dates import MONTH_NAMES

_SMALL_WORDS = frozenset(
    "a an and are as at by concerning for from in into is of on or re regarding the to under upon with "
    "der die das den dem des ein eine und von vom zu zum zur für über mit im in am an auf le la les un une des du de et "
    "pour sur el los las y del il lo i gli e di per het een en van voor op te".split()
)
_WORD = re.compile(r"[^\W_]+")


def call_mark(title: str, taken: Names[str]) -> str:
    """Make a call-mark of three capital letters, with a number only if nothing else is free.

    Parameters
    ----------
    title : str
        "Condition survey of the organ" gives SUR: the noun that such titles turn
        on is the last word before the first small one.
    taken : collection of str
        Marks that are used already.
    """
    words = [_letters(word) for word in _WORD.findall(title)]
    for candidate in _candidates([word for word in words if word]):
        if candidate not in taken:
            return candidate
    raise AssertionError("the numbered candidates never end")


def _letters(word: str) -> str:
    plain = unicodedata.normalize("NFKD", word)
    return "".join(character for character in plain if character.isascii() and character.isalnum()).upper()


def _candidates(words: list[str]) -> Iterator[str]:
    head: list[str] = []
    for word in words:
        if word.lower() in _SMALL_WORDS:
            if head:
                break
        elif word.isalpha():
            head.append(word)
    numbers = [word for word in words if word.isdigit()]
    others = [
        word
        for word in words
        if word.isalpha()
        and word != noun_of(head, words)
        and len(word) > 2
        and word.lower() not in _SMALL_WORDS | frozenset(MONTH_NAMES)
    ]
    noun = noun_of(head, words)
    first = (noun + "XX")[:3]
    yield first
    yield from (noun[0] + word[:2] for word in others)
    # A number within the title says more than a running one: Invoice 2031.
    yield from (f"{first}{number[-4:]}" for number in reversed(numbers))
    yield from (f"{first}{number}" for number in count(2))


def noun_of(head: list[str], words: list[str]) -> str:
    """The word a title turns on; DOC for a title without words."""
    return head[-1] if head else (words or ["DOC"])[0]
