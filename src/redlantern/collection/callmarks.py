"""Call-marks: the short marks that documents are cited by, made from their titles."""

import re
import unicodedata
from collections.abc import Collection as Names
from collections.abc import Iterator
from itertools import count

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
    significant = [word for word in words if word.lower() not in _SMALL_WORDS and len(word) > 1] or words or ["DOC"]
    noun = head[-1] if head else significant[0]
    first = (noun + "XX")[:3]
    yield first
    initials = "".join(word[0] for word in significant)
    if len(initials) >= 3:
        yield initials[:3]
    for word in significant:
        if word.isalpha():
            yield (word + "XX")[:3]
    # A number within the title says more than a running one: Minutes 4, Invoice 2031.
    for word in words:
        if word.isdigit():
            yield f"{first}{word[-4:]}"
    yield from (f"{first}{number}" for number in count(2))
