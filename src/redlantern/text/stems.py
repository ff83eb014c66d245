"""Text to stems, the same way for documents and questions."""

import re
import unicodedata
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any

from redlantern.text.function_words import ENGLISH, small_words_of

# Numbers keep their inner points and commas (7.2, 1.299,50); words may hold an apostrophe.
_TOKEN = re.compile(r"\d+(?:[.,:/]\d+)*|[^\W\d_]+(?:['’][^\W\d_]+)*")
_APOSTROPHE = re.compile(r"['’](?:s|S)?$|['’].*$")

STOP_WORDS = ENGLISH.function
QUESTION_WORDS = frozenset(
    "according tell give list name show say said says state stated according please mean means happen happened happens there "
    "document documents file files".split()
)


def tokens(text: str) -> list[str]:
    """Cut text into words and numbers, folded to small letters without accents' variants (NFKC)."""
    found = _TOKEN.findall(unicodedata.normalize("NFKC", text).casefold())
    return [one if one.isalnum() or one[0].isdigit() else _APOSTROPHE.sub("", one) for one in found]


# "e-mail" is also "email", "max_connections" and "N416" are words of their own.
_JOINED = re.compile(r"[^\W_]+(?:[-_‐‑][^\W_]+)*")
_JOINER = re.compile(r"[-_‐‑]")
_MOST_COMPOUND_CHARS = 40


def compounds(text: str) -> list[str]:
    """Words of several parts in one: joined by hyphens or underscores, or of letters and digits; in order."""
    found = []
    for word in _JOINED.findall(unicodedata.normalize("NFKC", text).casefold()):
        # Most words are letters alone: nothing more is asked of them.
        if not word.isalpha() and len(whole := _JOINER.sub("", word)) <= _MOST_COMPOUND_CHARS and not whole.isdigit():
            found.append(whole)
    return found


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


_STEMMED = {
    "da": "danish", "de": "german", "es": "spanish", "fi": "finnish", "fr": "french", "hu": "hungarian", "it": "italian",
    "nl": "dutch", "no": "norwegian", "pt": "portuguese", "ro": "romanian", "ru": "russian", "sv": "swedish", "tr": "turkish",
}  # fmt: skip


STEMMED_LANGUAGES = tuple(_STEMMED)
"""Languages other than English whose words have stems of their own (ISO 639-1)."""


def other_languages(languages: Iterable[str]) -> list[str]:
    """Those of these languages whose words have stems of their own beside the English ones, in order."""
    return sorted(set(languages) & _STEMMED.keys())


@lru_cache(maxsize=200_000)
def stem_in(language: str, token: str) -> str:
    """Give a word's stem in a language other than English (Snowball), marked with its code."""
    return f"{language}:{_stemmer(_STEMMED[language]).stemWord(token)}"


_MONTH_NAMES = "january february march april may june july august september october november december".split()
_MONTHS = {name: number for number, full in enumerate(_MONTH_NAMES, start=1) for name in (full, full[:3])}
_YEAR = re.compile(r"\d{4}")
_NUMERIC_DATE = re.compile(r"\b(\d{1,2})[./](\d{1,2})[./](\d{4})\b|\b(\d{4})-(\d{2})-(\d{2})\b")
_WRITTEN_DATE = re.compile(
    rf"\b(\d{{1,2}})(?:st|nd|rd|th)?\s+(?:of\s+)?({'|'.join(_MONTHS)})\.?,?\s+(\d{{4}})\b|"
    rf"\b({'|'.join(_MONTHS)})\.?\s+(\d{{1,2}})(?:st|nd|rd|th)?,?\s+(\d{{4}})\b",
    re.IGNORECASE,
)


def dates(text: str) -> list[str]:
    """Give the full dates of a text as `date:2026-03-17`, however they are written; day before month in 3.4.2026."""
    found: list[tuple[str, int, int]] = []
    if not _YEAR.search(text):
        return []
    for day, month, year, iso_year, iso_month, iso_day in _NUMERIC_DATE.findall(text):
        found.append((year or iso_year, int(month or iso_month), int(day or iso_day)))
    for day, month, year, other_month, other_day, other_year in _WRITTEN_DATE.findall(text):
        found.append((year or other_year, _MONTHS[(month or other_month).lower()], int(day or other_day)))
    return [f"date:{year}-{month:02d}-{day:02d}" for year, month, day in found if month <= 12 and 1 <= day <= 31]


def content_words(question: str) -> list[str]:
    """Give a question's words that carry content, as written, in order and without repeats."""
    small = small_words_of(question).function
    found = [token for token in tokens(question) if token not in small and token not in QUESTION_WORDS]
    return list(dict.fromkeys(found))


def as_typed(word: str, question: str) -> str:
    """A word of `content_words` with the capitals it has in the question."""
    return next((one for one in _WORD_TYPED.findall(question) if one.casefold() == word), word)


_WORD_TYPED = re.compile(r"[^\W_]+(?:['’][^\W_]+)*")


def every_stem(word: str, languages: Sequence[str]) -> list[str]:
    """A word's stem in English and in each of these languages."""
    return [stem(word), *(stem_in(language, word) for language in languages if word[0].isalpha())]


def dates_in_words(text: str) -> str:
    """Write numeric dates out (17.03.2026 as 17 March 2026), as the embedding model knows them best."""

    def written(match: re.Match[str]) -> str:
        day, month, year, iso_year, iso_month, iso_day = match.groups()
        number = int(month or iso_month)
        if not 1 <= number <= len(_MONTH_NAMES):
            return match.group()
        return f"{int(day or iso_day)} {_MONTH_NAMES[number - 1].capitalize()} {year or iso_year}"

    return _NUMERIC_DATE.sub(written, text)


@lru_cache(maxsize=200_000)
def stem(token: str) -> str:
    """Give a word's stem (Snowball English); numbers lose only what is spelling: 1,299.50 is 1299.50."""
    if token[0].isdigit():
        return _plain_number(token)
    if token in _NUMBER_WORDS:
        return _NUMBER_WORDS[token]
    stemmed: str = _stemmer("english").stemWord(token)
    return stemmed


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


@lru_cache
def _stemmer(language: str) -> Any:
    import snowballstemmer

    return snowballstemmer.stemmer(language)


_GROUPED = re.compile(r"^\d{1,3}(?:([.,])\d{3})(?:\1\d{3})*(?:[.,]\d{1,2})?$")


def _plain_number(token: str) -> str:
    """Take out the thousands separators and write the decimal mark as a point."""
    match = _GROUPED.match(token)
    if match:
        grouping = match.group(1)
        return token.replace(grouping, "").replace(",", ".")
    return re.sub(r"^(\d+),(\d{1,2})$", r"\1.\2", token)


def searched_stems(question: str, languages: Sequence[str] = ()) -> list[str]:
    """The stems a question is searched by, also in these languages: without stop words, unless it has nothing else."""
    found = tokens(question)
    small = small_words_of(question).function
    content = [token for token in found if token not in small]
    chosen = content or found
    foreign = [stem_in(language, token) for language in languages for token in chosen if token[0].isalpha()]
    whole = [stem(token) for token in compounds(question) if not token[0].isdigit()]
    return [stem(token) for token in chosen] + whole + dates(question) + foreign
