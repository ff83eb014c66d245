# SPDX-License-Identifier: GPL-3.0-or-later
"""Looking instead of asking: every place where words or phrases in quotation marks stand."""

import re
from collections.abc import Collection as Ids
from collections.abc import Sequence
from dataclasses import dataclass

from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.progress import Cancel
from redlantern.retrieval.index import Index
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

_QUOTED = re.compile(r"[\"“”„«»]\s*([^\"“”„«»]+?)\s*[\"“”„«»]")
_BETWEEN = r"[\s\-‐‑­]+"


@dataclass(frozen=True)
class Place:
    """Where a phrase stands, and the line around it: code points in the page's stored text."""

    document_id: int
    page_number: int
    start: int
    end: int
    line: tuple[int, int]


def phrases_in(text: str) -> list[str]:
    """The phrases of a text that is nothing but phrases in quotation marks; none if there is anything else."""
    phrases = [groups for groups in _QUOTED.findall(text) if any(letter.isalnum() for letter in groups)]
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
            lines = _lines(index, collection, (document_id, page_number))
            found += [
                Place(document_id, page_number, *span, _line_of(span, lines))
                for spans_of_phrase in spans
                for span in spans_of_phrase
            ]
    return sorted(found, key=lambda place: (order.get(place.document_id, 0), place.page_number, place.start, place.end))


def _lines(index: Index, collection: Collection | Joint, page: tuple[int, int]) -> list[tuple[int, int]]:
    """The sentences, list items and rows of a page, in order."""
    passages = collection.passages(list(index.passages_of(page)))
    return sorted({line for passage in passages for line in passage.lines})


def _line_of(span: tuple[int, int], lines: Sequence[tuple[int, int]]) -> tuple[int, int]:
    """The line that a place begins in; one that goes on in the next is shown with that."""
    touched = [line for line in lines if line[0] < span[1] and span[0] < line[1]]
    return (min(span[0], touched[0][0]), max(span[1], touched[-1][1])) if touched else span


def _pattern(phrase: str) -> re.Pattern[str]:
    """The phrase at the bounds of words; blanks and hyphens between its words are alike."""
    parts = [re.escape(part) for part in re.split(_BETWEEN, phrase.strip()) if part]
    before, after = (r"(?<!\w)" if phrase.strip()[at].isalnum() else "" for at in (0, -1))
    return re.compile(before + _BETWEEN.join(parts) + after.replace("<!", "!"), re.IGNORECASE)
