# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions to begin with, made of the documents' own headings: for somebody who does not know yet what to ask."""

import re

from redlantern.answering.engine import Engine
from redlantern.collection.values import Document
from redlantern.splitting.headings import Headings
from redlantern.text.languages import ENGLISH, LANGUAGES

_LOOKED_AT, _PAGES = 24, 3
"""Of so many documents so many pages: enough to find a few headings, and quick."""
_FEWEST_WORDS, _MOST_WORDS, _MOST_CHARS = 1, 6, 52
_LEAST_CHARS = 6
_NUMBERING = re.compile(r"^(?:(?:[A-Z]?\.?\d+(?:\.\d+)*[.:)]?)|(?:[IVX]+[.)])|§+\s*\d*)\s+")
_PLAIN = re.compile(r"[^\W\d_]+(?:[ ,'’-]+[^\W\d_]+)*")


def first_questions(engine: Engine, n: int = 4) -> tuple[str, ...]:
    """Up to `n` questions, each about a heading of another document, in its language; none where there are no headings."""
    # The longest first: they have headings, and are what the collection is about.
    documents = sorted(engine.asked.documents(), key=lambda document: (-document.n_pages, document.document_id))
    found: dict[str, str] = {}
    for document in [document for document in documents if not document.is_refused][:_LOOKED_AT]:
        heading = _heading_of(engine, document, set(found))
        if heading:
            language = LANGUAGES.get(document.language, ENGLISH)
            found[heading.casefold()] = (language.asks_about or ENGLISH.asks_about).format(_within(heading, language.code))
        if len(found) == n:
            break
    return tuple(found.values())


def _heading_of(engine: Engine, document: Document, known: set[str]) -> str:
    """A heading that says in words what stands under it, and was not taken before; empty if there is none."""
    for page in range(1, min(document.n_pages, _PAGES) + 1):
        for *_, printed in engine.asked.page_passages(document.document_id, page):
            path = Headings.parse(printed).path
            heading = _NUMBERING.sub("", path[-1]).strip() if len(path) > 1 else ""
            is_short = len(heading.split()) <= _MOST_WORDS and _LEAST_CHARS <= len(heading) <= _MOST_CHARS
            if is_short and _PLAIN.fullmatch(heading) and heading.casefold() not in known:
                return heading
    return ""


def _within(heading: str, language: str) -> str:
    """The heading as it stands within a sentence: a capital that only begins it is none there, but in German."""
    is_name = heading[1:2].isupper() or any(word[:1].isupper() for word in heading.split()[1:])
    return heading if is_name or language == "de" else heading[:1].lower() + heading[1:]
