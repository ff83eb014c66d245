# SPDX-License-Identifier: GPL-3.0-or-later
"""What is gathered: claims, found lines, figures and hits as entries of a brief."""

import re
from collections.abc import Callable, Sequence

from redlantern.answering.sheet import Claim, Reckoning
from redlantern.brief.values import BriefEntry, quote_of
from redlantern.collection.values import Citation, Document, StoredPassage
from redlantern.readthrough.values import PageRead
from redlantern.text.listing import counted
from redlantern.translation import tr

_MOST_ROWS = 40
_CLAUSE_NUMBER = re.compile(
    r"\s*(?:(?:clause|section|article|art\.)\s+)?(§+\s*\d+\w?|\d+(?:\.\d+)+)(?=[\s.):])", re.IGNORECASE
)
About = Callable[[Citation], tuple[str, str]]
"""Gives the date of a citation's document in words, and the clause that it stands in; each empty if there is none."""


def clause_of(passage: StoredPassage, start: int) -> str:
    """The clause that a place in a passage stands in, by the nearest number before it, or the heading above; empty if neither."""
    lines = [at for at, (begin, _) in enumerate(passage.lines) if begin <= start]
    numbers = (_CLAUSE_NUMBER.match(passage.line_text(at)) for at in reversed(lines))
    number = next((found[1] for found in numbers if found), "") if passage.kind == "prose" else ""
    if number:
        return number if number.startswith("§") else tr("clause {number}").format(number=number)
    # The first heading is the document's title.
    return f"“{passage.headings.path[-1]}”" if len(passage.headings.path) > 1 else ""


def entry_of_line(citation: Citation, about: About, question: str = "") -> BriefEntry:
    """A line of a document."""
    return BriefEntry(0, "line", quotes=(quote_of(citation, *about(citation)),), question=question)


def entry_of_claim(claim: Claim, about: About, question: str = "") -> BriefEntry:
    """A sentence that a model wrote, with what it stands on."""
    quotes = tuple(quote_of(citation, *about(citation)) for citation in claim.citations)
    return BriefEntry(0, "claim", claim.text, quotes, claim.support, question=question)


def entry_of_figure(reckoning: Reckoning, about: About, question: str = "") -> BriefEntry:
    """What was reckoned, with the first rows of its working and the cells that it is read from."""
    rows = [tuple(reckoning.columns)]
    rows += [
        tuple(" ".join(cell.text.split()) if cell is not None else "" for cell in row.cells) for row in reckoning.rows
    ]
    quotes = tuple(quote_of(cell, *about(cell)) for cell in dict.fromkeys(reckoning.cells))
    support = "in doubt" if reckoning.doubts else "reckoned"
    return BriefEntry(0, "figure", reckoning.answer, quotes, support, tuple(rows[: _MOST_ROWS + 1]), question)


def entry_of_list(title: str, rows: Sequence[tuple[str, ...]], cited: Sequence[Citation], about: About) -> BriefEntry:
    """A list of values with the words that each was taken from; `rows` begin with the names of the columns."""
    quotes = tuple(quote_of(citation, *about(citation)) for citation in dict.fromkeys(cited))
    return BriefEntry(0, "list", f"{title}: {counted(len(rows) - 1, 'value')}", quotes, rows=tuple(rows))


def entry_of_hit(document: Document, page: PageRead, citation: Citation, about: About, question: str) -> BriefEntry:
    """A page of a read-through, by its best line, with what a person said to it."""
    said = " ".join(filter(None, (page.judged, page.note)))
    return BriefEntry(0, "hit", said, (quote_of(citation, *about(citation)),), page.state, question=question)
