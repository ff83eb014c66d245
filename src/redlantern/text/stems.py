# SPDX-License-Identifier: GPL-3.0-or-later
"""Words to stems (Snowball), the same way for documents and questions."""

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any

from redlantern.text.dates import dates
from redlantern.text.languages import ENGLISH, LANGUAGES, STEMMED
from redlantern.text.tokens import compounds, tokens

STOP_WORDS = ENGLISH.function_words

# "The third instalment" and "instalment 3" are one thing; "second" and "one" mean too much else.
_NUMBER_WORDS = {
    word: str(number)
    for words in (
        "two three four five six seven eight nine ten eleven twelve",
        "_ third fourth fifth sixth seventh eighth ninth tenth",
    )
    for number, word in enumerate(words.split(), start=2)
    if word != "_"
}
_GROUPED = re.compile(r"^\d{1,3}(?:([.,])\d{3})(?:\1\d{3})*(?:[.,]\d{1,2})?$")


def stems(text: str, languages: Sequence[str] = ()) -> list[str]:
    """Cut text into stems, in order, stop words included; then compounds whole, each date in one spelling, and the stems in
    other languages.

    Parameters
    ----------
    text : str
    languages : sequence of str
        ISO 639-1 codes. A word's stem in each of them is added as `de:prüf`, so
        that words of different languages never meet by chance.
    """
    found = tokens(text)
    foreign = [
        stem_in(language, token) for language in other_languages(languages) for token in found if token[0].isalpha()
    ]
    whole = [stem(token) for token in compounds(text) if not token[0].isdigit()]
    return [stem(token) for token in found] + whole + dates(text) + foreign


def other_languages(languages: Iterable[str]) -> list[str]:
    """Those of these languages whose words have stems of their own beside the English ones, in order."""
    return sorted(set(languages) & set(STEMMED))


@lru_cache(maxsize=200_000)
def stem_in(language: str, token: str) -> str:
    """Give a word's stem in a language other than English (Snowball), marked with its code."""
    return f"{language}:{_stemmer(LANGUAGES[language].stemmer).stemWord(token)}"


def every_stem(word: str, languages: Sequence[str]) -> list[str]:
    """A word's stem in English and in each of these languages."""
    return [stem(word), *(stem_in(language, word) for language in languages if word[0].isalpha())]


@lru_cache(maxsize=200_000)
def stem(token: str) -> str:
    """Give a word's stem (Snowball English); numbers lose only what is spelling: 1,299.50 is 1299.50."""
    if token[0].isdigit():
        return _plain_number(token)
    if token in _NUMBER_WORDS:
        return _NUMBER_WORDS[token]
    stemmed: str = _stemmer("english").stemWord(token)
    return stemmed


@lru_cache
def _stemmer(language: str) -> Any:
    import snowballstemmer

    return snowballstemmer.stemmer(language)


def _plain_number(token: str) -> str:
    """Take out the thousands separators and write the decimal mark as a point."""
    match = _GROUPED.match(token)
    if match:
        grouping = match.group(1)
        return token.replace(grouping, "").replace(",", ".")
    return re.sub(r"^(\d+),(\d{1,2})$", r"\1.\2", token)
