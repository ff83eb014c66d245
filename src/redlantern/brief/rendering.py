# SPDX-License-Identifier: GPL-3.0-or-later
"""A brief as paragraphs, before it is written in any format: the two voices kept apart, every quote with its number."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from redlantern.brief.citations import Numbered, numbered
from redlantern.brief.values import OF_DOCUMENTS, Brief, BriefEntry, Quote
from redlantern.safety.names import visible

ParagraphKind = Literal["title", "heading", "own", "claim", "quote", "figure", "table", "note"]
Style = Literal["marks", "numbers"]
"""How citations stand in the text: as call-marks (`SUR p.4`), or as numbers that lead to the list at the end."""
STYLES: tuple[Style, ...] = ("marks", "numbers")
_SUPPORT = {
    "supported": "",
    "partly supported": "partly borne out",
    "unsupported": "not borne out",
    "in doubt": "in doubt",
}


@dataclass(frozen=True)
class Paragraph:
    """A paragraph: its words, what stands after them in brackets, and for a table its rows."""

    kind: ParagraphKind
    text: str = ""
    cited: str = ""
    rows: tuple[tuple[str, ...], ...] = ()

    @property
    def is_of_documents(self) -> bool:
        """Whether the words are a document's."""
        return self.kind == "quote"


@dataclass(frozen=True)
class AnnexPage:
    """A cited page for the annex: its head, its text, and which stretches of it are cited, by offsets."""

    head: str
    text: str
    spans: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Rendered:
    """A brief ready to be written: the body, the list of citations, the list of documents, and the annex."""

    name: str
    body: tuple[Paragraph, ...]
    citations: tuple[str, ...]
    documents: tuple[str, ...]
    annex: tuple[AnnexPage, ...] = ()


def render(brief: Brief, style: Style, annex: Sequence[AnnexPage] = ()) -> Rendered:
    """Make the paragraphs of a brief."""
    numbers = numbered(brief)
    body = [Paragraph("title", visible(brief.name))]
    for entry in brief.entries:
        body += _paragraphs(entry, numbers, style)
    return Rendered(
        visible(brief.name), tuple(body), tuple(_citation(numbers, quote) for quote in numbers.quotes),
        tuple(dict.fromkeys(map(_document, numbers.quotes))), tuple(annex),
    )  # fmt: skip


def _paragraphs(entry: BriefEntry, numbers: Numbered, style: Style) -> list[Paragraph]:
    cited = _cited(entry.quotes, numbers, style)
    if entry.kind in OF_DOCUMENTS:
        said = [Paragraph("note", visible(entry.text))] if entry.text else []
        return [Paragraph("quote", _words(quote), _cited((quote,), numbers, style)) for quote in entry.quotes] + said
    if entry.kind in ("heading", "own"):
        lines = entry.text.split("\n") if entry.kind == "own" else [entry.text]
        return [
            Paragraph("heading" if entry.kind == "heading" else "own", visible(line)) for line in lines if line.strip()
        ]
    doubt = _SUPPORT.get(entry.support, "")
    bracket = "; ".join(filter(None, (cited, doubt)))
    found = [Paragraph("figure" if entry.kind == "figure" else "claim", visible(entry.text), bracket)]
    if len(entry.rows) > 1:
        found.append(Paragraph("table", rows=tuple(tuple(visible(cell) for cell in row) for row in entry.rows)))
    return found


def _words(quote: Quote) -> str:
    return visible(quote.words.replace("\t", "   "))


def _cited(quotes: Sequence[Quote], numbers: Numbered, style: Style) -> str:
    if style == "numbers":
        return ", ".join(str(numbers.number(quote)) for quote in quotes)
    return ", ".join(dict.fromkeys(visible(quote.mark) for quote in quotes))


def _citation(numbers: Numbered, quote: Quote) -> str:
    dated = f", {quote.dated}" if quote.dated else ""
    title = visible(quote.title)
    return (
        f"{numbers.number(quote)}. {visible(quote.mark)}: {title}, page {quote.page_number}{dated}: “{_words(quote)}”"
    )


def _document(quote: Quote) -> str:
    dated = f", {quote.dated}" if quote.dated else ""
    part = quote.document_key.partition("/")[2]
    within = f" (within it: {visible(part)})" if part else ""
    return f"{visible(quote.call_mark)}: {visible(quote.title)}{dated}, {visible(quote.path)}{within}. SHA-256 {quote.sha256}"
