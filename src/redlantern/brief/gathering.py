# SPDX-License-Identifier: GPL-3.0-or-later
"""What is gathered: claims, found lines, figures and hits as entries of a brief."""

from collections.abc import Callable

from redlantern.answering.sheet import Claim, Reckoning
from redlantern.brief.values import BriefEntry, quote_of
from redlantern.collection.values import Citation, Document
from redlantern.readthrough.values import PageRead

_MOST_ROWS = 40
Dated = Callable[[Citation], str]
"""Gives the date of a citation's document in words; empty if it has none."""


def entry_of_line(citation: Citation, dated: Dated, question: str = "") -> BriefEntry:
    """A line of a document."""
    return BriefEntry(0, "line", quotes=(quote_of(citation, dated(citation)),), question=question)


def entry_of_claim(claim: Claim, dated: Dated, question: str = "") -> BriefEntry:
    """A sentence that a model wrote, with what it stands on."""
    quotes = tuple(quote_of(citation, dated(citation)) for citation in claim.citations)
    return BriefEntry(0, "claim", claim.text, quotes, claim.support, question=question)


def entry_of_figure(reckoning: Reckoning, dated: Dated, question: str = "") -> BriefEntry:
    """What was reckoned, with the first rows of its working and the cells that it is read from."""
    rows = [tuple(reckoning.columns)]
    rows += [
        tuple(" ".join(cell.text.split()) if cell is not None else "" for cell in row.cells) for row in reckoning.rows
    ]
    quotes = tuple(quote_of(cell, dated(cell)) for cell in dict.fromkeys(reckoning.cells))
    support = "in doubt" if reckoning.doubts else "reckoned"
    return BriefEntry(0, "figure", reckoning.answer, quotes, support, tuple(rows[: _MOST_ROWS + 1]), question)


def entry_of_hit(document: Document, page: PageRead, citation: Citation, dated: Dated, question: str) -> BriefEntry:
    """A page of a read-through, by its best line, with what a person said to it."""
    said = " ".join(filter(None, (page.judged, page.note)))
    return BriefEntry(0, "hit", said, (quote_of(citation, dated(citation)),), page.state, question=question)
