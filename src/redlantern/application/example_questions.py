# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions to begin with, made of the documents' own headings: for somebody who does not know yet what to ask."""

import re

from redlantern.answering.engine import Engine
from redlantern.collection.values import Document
from redlantern.splitting.headings import Headings
from redlantern.text.languages import ENGLISH, LANGUAGES

_LOOKED_AT, _PAGES = 24, 3
"""Of so many documents so many pages: enough to find a few headings, and quick."""
_MOST_WORDS, _MOST_CHARS = 6, 52
_LEAST_CHARS = 6
_NUMBERING = re.compile(r"^(?:(?:[A-Z]?\.?\d+(?:\.\d+)*[.:)]?)|(?:[IVX]+[.)])|§+\s*\d*)\s+")
_PLAIN = re.compile(r"[^\W\d_]+(?:[ ,'’-]+[^\W\d_]+)*")


def example_questions(engine: Engine, n: int = 4) -> tuple[str, ...]:
    """Up to `n` questions, each about a heading of another document, in its language; none where there are no headings."""
    # The longest first: they have headings, and are what the collection is about.
    documents = sorted(engine.asked.documents(), key=lambda document: (-document.n_pages, document.document_id))
    found: list[tuple[bool, str, Document]] = []
    for document in [document for document in documents if not document.is_refused][:_LOOKED_AT]:
        known = {heading.casefold() for _, heading, _ in found}
        headings = [heading for heading in _headings_of(engine, document) if heading.casefold() not in known]
        if headings:
            # One word may be anything ("Subject"); several say what they are about.
            heading = next((heading for heading in headings if " " in heading), headings[0])
            found.append((" " not in heading, heading, document))
    found.sort(key=lambda row: row[0])
    return tuple(_question(heading, document.language) for _, heading, document in found[:n])


def _headings_of(engine: Engine, document: Document) -> list[str]:
    """Headings of its first pages that say in words what stands under them."""
    found = []
    for page in range(1, min(document.n_pages, _PAGES) + 1):
        for *_, printed in engine.asked.page_passages(document.document_id, page):
            path = Headings.parse(printed).path
            heading = _NUMBERING.sub("", path[-1]).strip() if len(path) > 1 else ""
            is_short = len(heading.split()) <= _MOST_WORDS and _LEAST_CHARS <= len(heading) <= _MOST_CHARS
            if is_short and _PLAIN.fullmatch(heading):
                found.append(heading)
    return found


def _question(heading: str, language: str) -> str:
    asks = LANGUAGES.get(language, ENGLISH).asks_about or ENGLISH.asks_about
    return asks.format(_within(heading, language))


def _within(heading: str, language: str) -> str:
    """The heading as it stands within a sentence: a capital that only begins it is none there, but in German."""
    is_name = heading[1:2].isupper() or any(word[:1].isupper() for word in heading.split()[1:])
    return heading if is_name or language == "de" else heading[:1].lower() + heading[1:]
