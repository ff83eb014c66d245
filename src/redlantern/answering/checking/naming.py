# SPDX-License-Identifier: GPL-3.0-or-later
"""The names in a claim: which do not stand around its line, and which of those it may have from elsewhere."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from redlantern.answering.checking.phrasing import base_form
from redlantern.answering.checking.roles import NAME, names_in
from redlantern.text.quantities import is_unit, quantities
from redlantern.text.stems import STOP_WORDS
from redlantern.text.tokens import tokens

_PRONOUN = re.compile(r"\b(?:she|he|they|it|I|we)\b", re.IGNORECASE)
_TITLES = frozenset("Mr Mrs Ms Dr Prof".split())
_NAMED = re.compile(r"[A-ZÀ-Þ][\w’'-]+(?: [A-ZÀ-Þ][\w’'-]+)*")
_IDENTIFIER = re.compile(r"\b\w+(?:_\w+)+\b")
"""What a machine calls something: `checkpoint_timeout` is one name, and no other than `checkpoint_flush_after`."""


class Elsewhere(NamedTuple):
    """What a claim may take from elsewhere than its line, at the price of being supported in part only: words of the question
    that it answers, and the full names of those whom its line names by one name, from what was read.
    """

    asked: str = ""
    names: frozenset[str] = frozenset()


NOWHERE = Elsewhere()


def missing_names(claim: str, around: str) -> list[str]:
    """The names of a claim that do not stand around the line."""
    here = {base_form(token) for token in tokens(around)}
    missing = []
    for match in NAME.finditer(claim):
        name = match.group()
        forms = tokens(name)
        is_first = not claim[: match.start()].strip(" “\"'(")
        if not forms or forms[0] in STOP_WORDS or quantities(name) or is_unit(name):
            continue
        # The first word is a capital anyway; it is a name only if it goes on as one.
        if is_first and not re.match(r"\s+[A-ZÀ-Þ][\w’'-]+", claim[match.end() :]):
            continue
        if not all(base_form(form) in here for form in forms):
            missing.append(name)
    called = {name.casefold() for name in _IDENTIFIER.findall(around)}
    missing += [name for name in _IDENTIFIER.findall(claim) if name.casefold() not in called]
    return list(dict.fromkeys(missing))


def speaks_of(names: Sequence[str], cited: str, passage: str) -> bool:
    """Whether a line that names nobody, or says "she", may be about these: all are of the name that its passage begins with."""
    if names_in(cited, 1) and not _PRONOUN.search(cited):
        return False
    begins = next((match.group().split() for match in _NAMED.finditer(passage) if names_in(match.group())), [])
    return set(names) <= set(begins)


def is_from(name: str, claim: str, around: str, elsewhere: Elsewhere) -> bool:
    """Whether a name that does not stand around a line is the question's, and the line names nobody else; or one that was read
    beside another name which the line has by itself.
    """
    if name.casefold() in tokens(elsewhere.asked) and not _IDENTIFIER.search(name):
        return not names_in(around, 1)
    here = [set(_untitled(match.group())) for match in _NAMED.finditer(around)]
    for words in (set(full.split()) for full in elsewhere.names if name in full.split() and full in claim):
        called = [said for said in here if said & words]
        if called and all(said < words for said in called):
            return True
    return False


def full_names(text: str) -> set[str]:
    """The names of two words or more in a text."""
    return {" ".join(words) for match in _NAMED.finditer(text) if len(words := _untitled(match.group())) > 1}


def _untitled(name: str) -> list[str]:
    return [word for word in name.split() if word not in _TITLES]
