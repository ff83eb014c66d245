"""Looking instead of asking: every place where words or phrases in quotation marks stand."""

import re
from collections.abc import Collection as Ids
from collections.abc import Sequence
from dataclasses import dataclass

from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.progress import Cancel
from redlantern.retrieval.analysis import stem, tokens
from redlantern.retrieval.index import Index

_QUOTED = re.compile(r"[\"“”„«»]\s*([^\"“”„«»]+?)\s*[\"“”„«»]")
_BETWEEN = r"[\s\-‐‑­]+"


@dataclass(frozen=True)
class Place:
    """Where a phrase stands: code points in the page's stored text."""

    document_id: int
    page_number: int
    start: int
    end: int


def quoted(text: str) -> list[str]:
    """The phrases of a text that is nothing but phrases in quotation marks; none if there is anything else."""
    phrases = [one for one in _QUOTED.findall(text) if any(letter.isalnum() for letter in one)]
    return phrases if phrases and not re.sub(r"[\s,;]", "", _QUOTED.sub("", text)) else []


def look_for(
    phrases: Sequence[str],
    index: Index,
    collection: Collection | Joint,
    scope: Ids[int] | None,
    cancel: Cancel,
) -> list[Place]:
    """Find every place of the phrases on pages that have them all, whatever their capitals and line ends.

    Returns
    -------
    list of Place
        By document in the order of the collection, page and place on it.
    """
    terms = {stem(token) for phrase in phrases for token in tokens(phrase)}
    patterns = [_pattern(phrase) for phrase in phrases]
    order = {document_id: at for at, document_id in enumerate(index.documents)}
    found: list[Place] = []
    for document_id, page_number in index.pages_with(terms, scope):
        cancel.check()
        page = collection.page(document_id, page_number)
        spans = [[match.span() for match in pattern.finditer(page.text)] for pattern in patterns] if page else [[]]
        if all(spans):
            found += [Place(document_id, page_number, *span) for one in spans for span in one]
    return sorted(found, key=lambda one: (order.get(one.document_id, 0), one.page_number, one.start, one.end))


def _pattern(phrase: str) -> re.Pattern[str]:
    """The phrase at the bounds of words; blanks and hyphens between its words are alike."""
    parts = [re.escape(part) for part in re.split(_BETWEEN, phrase.strip()) if part]
    before, after = (r"(?<!\w)" if phrase.strip()[at].isalnum() else "" for at in (0, -1))
    return re.compile(before + _BETWEEN.join(parts) + after.replace("<!", "!"), re.IGNORECASE)


def line_around(text: str, start: int, end: int) -> tuple[int, int]:
    """The sentence, list item or row around a place, cut where it would be very long: code points, end excluded."""
    before = max((match.end() for match in _LINE_END.finditer(text, max(0, start - _MOST_BESIDE), start)), default=-1)
    after = _LINE_END.search(text, end, min(len(text), end + _MOST_BESIDE))
    first = before if before >= 0 else _at_blank(text, max(0, start - _MOST_BESIDE), start)
    last = after.start() + len(after.group().rstrip()) if after else min(len(text), end + _MOST_BESIDE)
    return first, max(last, end)


_MOST_BESIDE = 240
_LINE_END = re.compile(r"\n{2,}|(?<=[.!?])\s+(?=[A-Z0-9“\"])|(?<=[.:;!?])\n|\n(?=[-•*\d(])|\n(?=[^\n]*\t)")


def _at_blank(text: str, at: int, before: int) -> int:
    """Do not begin within a word."""
    if at == 0:
        return 0
    found = text.find(" ", at, before)
    return found + 1 if found >= 0 else at


def places_in_words(n_places: int, n_pages: int, n_documents: int, n_shown: int) -> str:
    """Say how many places there are."""
    said = f"{_many(n_places, 'place')} on {_many(n_pages, 'page')} of {_many(n_documents, 'document')}"
    return said if n_shown == n_places else f"{said}, the first {n_shown} shown"


def no_place(phrases: Sequence[str]) -> str:
    """Say that there is none."""
    named = " and ".join(f"“{one}”" for one in phrases)
    together = " on one page" if len(phrases) > 1 else ""
    hint = "Ask in a sentence without quotation marks to find what is near it."
    return f"No document in scope has {named}{together}, in any capitals. {hint}"


def _many(n: int, thing: str) -> str:
    return f"{n:,} {thing}{'s' * (n != 1)}"
