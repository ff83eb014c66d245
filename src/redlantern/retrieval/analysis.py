"""Text to stems, the same way for documents and questions."""

import re
import unicodedata
from functools import lru_cache

# Numbers keep their inner points and commas (7.2, 1.299,50); words may hold an apostrophe.
_TOKEN = re.compile(r"\d+(?:[.,:/]\d+)*|[^\W\d_]+(?:['’][^\W\d_]+)*")
_APOSTROPHE = re.compile(r"['’](?:s|S)?$|['’].*$")

STOP_WORDS = frozenset(
    "a an the and or but if of to in on at by for from with without into onto upon as is are was were be been being am do "
    "does did done has have had having will would shall should can could may might must not no nor so than that this these "
    "those there here it its he she they them their his her him we us our you your i me my what which who whom whose when "
    "where why how much many often any some all each per about under over between during before after again then "
    "also only own same such very just too out up down off".split()
)
QUESTION_WORDS = frozenset(
    "tell give list name show say said says state stated according please mean means happen happened happens there "
    "document documents file files".split()
)


def tokens(text: str) -> list[str]:
    """Cut text into words and numbers, folded to small letters without accents' variants (NFKC)."""
    found = _TOKEN.findall(unicodedata.normalize("NFKC", text).casefold())
    return [_APOSTROPHE.sub("", one) if not one[0].isdigit() else one for one in found]


def stems(text: str) -> list[str]:
    """Cut text into stems, in order, stop words included."""
    return [stem(token) for token in tokens(text)]


def content_words(question: str) -> list[str]:
    """Give a question's words that carry content, as written, in order and without repeats."""
    found = [token for token in tokens(question) if token not in STOP_WORDS and token not in QUESTION_WORDS]
    return list(dict.fromkeys(found))


@lru_cache(maxsize=200_000)
def stem(token: str) -> str:
    """Give a word's stem (Snowball English); numbers lose only what is spelling: 1,299.50 is 1299.50."""
    if token[0].isdigit():
        return _plain_number(token)
    stemmed: str = _stemmer().stemWord(token)
    return stemmed


@lru_cache(maxsize=1)
def _stemmer():  # type: ignore[no-untyped-def]
    import snowballstemmer

    return snowballstemmer.stemmer("english")


_GROUPED = re.compile(r"^\d{1,3}(?:([.,])\d{3})(?:\1\d{3})*(?:[.,]\d{1,2})?$")


def _plain_number(token: str) -> str:
    """Take out the thousands separators and write the decimal mark as a point."""
    match = _GROUPED.match(token)
    if match:
        grouping = match.group(1)
        return token.replace(grouping, "").replace(",", ".")
    return re.sub(r"^(\d+),(\d{1,2})$", r"\1.\2", token)
