# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of one language: a record, filled in by one module each."""

import re
from dataclasses import dataclass

_NEVER = re.compile(r"(?!)")


@dataclass(frozen=True)
class Language:
    """One language.

    `code` is ISO 639-1; `stemmer` the Snowball stemmer's name, empty for a language whose words have no stems of their own
    here, or, of English, need none; `decimal_mark` what its numbers are written with; `has_ordinal_point` whether
    "3." is the third; `abbreviations` are words that end in a point and no sentence.

    `function_words` carry no content; `openers` begin what goes on from an earlier question ("and", "what about");
    `pointers` are pronouns, `persons` those of them that mean a person; `determined` is what a pronoun further on in the same
    question may mean ("the Trust"). `telling_words` carry content, and tell the language where hardly anything else does
    ("Was kostet die Reparatur?"). A language without function words is read and searched, but questions in it are taken for
    English.

    `openings` say by a question's first words what it wants, after the `linking_word` that it may begin with: pairs of a kind
    of answer (see text.answer_kind) and a pattern. `month_names` are the twelve in order, with blanks between. `months`,
    `time_units` and `number_words` are what dates and numbers in its lines are told by, as patterns. `asks_about` is a question
    about whatever stands in its braces.
    """

    code: str
    name: str
    stemmer: str = ""
    decimal_mark: str = ","
    has_ordinal_point: bool = False
    abbreviations: frozenset[str] = frozenset()
    function_words: frozenset[str] = frozenset()
    openers: re.Pattern[str] = _NEVER
    pointers: re.Pattern[str] = _NEVER
    persons: re.Pattern[str] = _NEVER
    determined: re.Pattern[str] = _NEVER
    telling_words: frozenset[str] = frozenset()
    linking_word: str = ""
    openings: tuple[tuple[str, str], ...] = ()
    month_names: str = ""
    months: str = ""
    time_units: str = ""
    number_words: str = ""
    asks_about: str = ""


def words(text: str) -> frozenset[str]:
    """Words as they stand in a record, with blanks between."""
    return frozenset(text.split())


def begins(pattern: str) -> re.Pattern[str]:
    """A pattern for what a question begins with."""
    return re.compile(rf"^(?:{pattern})\b", re.IGNORECASE)


def anywhere(pattern: str) -> re.Pattern[str]:
    """A pattern for whole words."""
    return re.compile(rf"\b(?:{pattern})\b", re.IGNORECASE)


def determined_by(articles: str) -> re.Pattern[str]:
    """An article with its noun, or a name: a capital that does not begin the question."""
    return re.compile(rf"\b(?i:{articles})\s+\w|['’]s\b|(?<=[a-zà-ÿ,;] )[A-ZÀ-Þ]\w")
