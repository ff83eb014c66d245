# SPDX-License-Identifier: GPL-3.0-or-later
"""A brief as paragraphs, before it is written in any format: the two voices kept apart, every quote with its number."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from redlantern.brief.citations import Numbered, numbered
from redlantern.brief.values import OF_DOCUMENTS, Brief, BriefEntry, Quote
from redlantern.safety.names import visible
from redlantern.translation import tr

ParagraphKind = Literal["title", "heading", "own", "claim", "quote", "figure", "table", "note"]
Style = Literal["marks", "titles", "numbers", "footnotes"]
"""How citations stand in the text: as call-marks (`SUR p.4`), as document, page, clause and date, as numbers that lead to
the list at the end, or as footnotes."""
STYLES: tuple[Style, ...] = ("marks", "titles", "numbers", "footnotes")
CITATIONS, DOCUMENTS, ANNEX = tr("Citations"), tr("Documents cited"), tr("Cited pages")
_SUPPORT = {
    "supported": "",
    "partly supported": tr("partly borne out"),
    "unsupported": tr("not borne out"),
    "in doubt": tr("in doubt"),
}


@dataclass(frozen=True)
class Note:
    """A footnote with its number, from 1, which is also that of its citation."""

    number: int
    text: str


@dataclass(frozen=True)
class Paragraph:
    """A paragraph: its words, what stands after them in brackets, its footnotes, and for a table its rows."""

    kind: ParagraphKind
    text: str = ""
    cited: str = ""
    rows: tuple[tuple[str, ...], ...] = ()
    notes: tuple[Note, ...] = ()

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

    @property
    def stretches(self) -> list[tuple[str, bool]]:
        """The text in stretches, each cited or not."""
        found, at = [], 0
        for start, end in sorted(self.spans):
            if start > at:
                found.append((self.text[at:start], False))
            if end > max(start, at):
                found.append((self.text[max(start, at) : end], True))
            at = max(at, end)
        if at < len(self.text):
            found.append((self.text[at:], False))
        return found


@dataclass(frozen=True)
class Rendered:
    """A brief ready to be written: the body, the list of citations, the list of documents, and the annex."""

    name: str
    body: tuple[Paragraph, ...]
    citations: tuple[str, ...]
    documents: tuple[str, ...]
    annex: tuple[AnnexPage, ...] = ()

    @property
    def lists(self) -> list[tuple[str, tuple[str, ...]]]:
        """The lists at the end under their titles; none that is empty."""
        return [(title, items) for title, items in ((CITATIONS, self.citations), (DOCUMENTS, self.documents)) if items]


def render(brief: Brief, style: Style, annex: Sequence[AnnexPage] = ()) -> Rendered:
    """Make the paragraphs of a brief."""
    making = _Making(numbered(brief), style)
    body = [Paragraph("title", visible(brief.name))]
    for entry in brief.entries:
        body += making.paragraphs(entry)
    # Footnotes say what the list would say again.
    citations = [making.citation(quote) for quote in making.numbers.quotes] if style != "footnotes" else []
    documents = dict.fromkeys(map(_document, making.numbers.quotes))
    return Rendered(visible(brief.name), tuple(body), tuple(citations), tuple(documents), tuple(annex))


class _Making:
    """The paragraphs of a brief in one style of citing."""

    def __init__(self, numbers: Numbered, style: Style) -> None:
        self.numbers, self._style = numbers, style
        self._in_notes: set[Quote] = set()

    def paragraphs(self, entry: BriefEntry) -> list[Paragraph]:
        if entry.kind in OF_DOCUMENTS:
            said = [Paragraph("note", visible(entry.text))] if entry.text else []
            return [self._cited(Paragraph("quote", _words(quote)), (quote,)) for quote in entry.quotes] + said
        if entry.kind in ("heading", "own"):
            lines = entry.text.split("\n") if entry.kind == "own" else [entry.text]
            return [
                Paragraph("heading" if entry.kind == "heading" else "own", visible(line))
                for line in lines
                if line.strip()
            ]
        kind: ParagraphKind = "figure" if entry.kind in ("figure", "list") else "claim"
        found = [self._cited(Paragraph(kind, visible(entry.text)), entry.quotes, _SUPPORT.get(entry.support, ""))]
        if len(entry.rows) > 1:
            found.append(Paragraph("table", rows=tuple(tuple(visible(cell) for cell in row) for row in entry.rows)))
        return found

    def citation(self, quote: Quote) -> str:
        """A citation as it stands in the list."""
        return f"{self.numbers.number(quote)}. {visible(quote.mark)}: {_place(quote)}: “{_words(quote)}”"

    def _cited(self, paragraph: Paragraph, quotes: Sequence[Quote], doubt: str = "") -> Paragraph:
        notes: list[Note] = []
        if self._style == "footnotes":
            new = [quote for quote in dict.fromkeys(quotes) if quote not in self._in_notes]
            notes = [Note(self.numbers.number(quote), self._note(quote, paragraph)) for quote in new]
            said = [
                tr("note {number}").format(number=self.numbers.number(quote))
                for quote in quotes
                if quote in self._in_notes
            ]
            self._in_notes.update(new)
        elif self._style == "numbers":
            said = [str(self.numbers.number(quote)) for quote in quotes]
        elif self._style == "titles":
            said = [_place(quote) for quote in quotes]
        else:
            said = [visible(quote.mark) for quote in quotes]
        between = "; " if self._style == "titles" else ", "
        bracket = "; ".join(filter(None, (between.join(dict.fromkeys(said)), doubt)))
        return replace(paragraph, cited=bracket, notes=tuple(notes))

    def _note(self, quote: Quote, paragraph: Paragraph) -> str:
        # A quote stands in the text already.
        words = "" if paragraph.is_of_documents else f": “{_words(quote)}”"
        return f"{visible(quote.mark)}: {_place(quote)}{words}"


def _words(quote: Quote) -> str:
    return visible(quote.words.replace("\t", "   "))


def _place(quote: Quote) -> str:
    """Document, page, clause and date, as far as they are known."""
    clause, dated = f", {visible(quote.clause)}" if quote.clause else "", f", {quote.dated}" if quote.dated else ""
    return tr("{title}, page {page_number}{clause}{dated}").format(
        title=visible(quote.title), page_number=quote.page_number, clause=clause, dated=dated
    )


def _document(quote: Quote) -> str:
    dated = f", {quote.dated}" if quote.dated else ""
    part = quote.document_key.partition("/")[2]
    within = tr(" (within it: {part})").format(part=visible(part)) if part else ""
    return tr("{call_mark}: {title}{dated}, {path}{within}. SHA-256 {sha256}").format(
        call_mark=visible(quote.call_mark),
        title=visible(quote.title),
        dated=dated,
        path=visible(quote.path),
        within=within,
        sha256=quote.sha256,
    )
