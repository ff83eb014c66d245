# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with briefs: keep, look what has changed, export with citations, verify an export."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

import msgspec

from redlantern import __version__
from redlantern.answering.engine import Engine
from redlantern.answering.evidence.disagreement import date_of
from redlantern.application.exporting import put_exported
from redlantern.brief.citations import CitationsForm, NoCitationsError, citations_from, citations_of
from redlantern.brief.gathering import clause_of
from redlantern.brief.rendering import AnnexPage, Rendered, Style, render
from redlantern.brief.values import Brief, BriefEntry, Quote, brief_from, brief_values
from redlantern.brief.writing.forms import FORMS, BriefForm, write
from redlantern.collection.values import Citation, Document
from redlantern.errors import RedlanternError
from redlantern.translation import tr

CITATIONS_ENDING = ".citations.json"


class EmptyBriefError(RedlanternError):
    """A brief has nothing in it."""

    def __str__(self) -> str:
        return tr(
            "There is nothing in this brief yet. Gather something with Ctrl+G, or write a heading or words of your own."
        )


@dataclass(frozen=True)
class QuoteNow:
    """A quote beside what stands there now: `document` has its content still, or lies at its place, None if it is gone."""

    quote: Quote
    document: Document | None
    is_changed: bool = False
    offered: Quote | None = None
    """The same words where they stand in the document as it is now; None if they do not."""


def briefs(engine: Engine) -> list[Brief]:
    """The briefs of a collection, oldest first; one that cannot be understood is left out."""
    found = []
    for number, values in engine.collection.briefs.all().items():
        try:
            found.append(brief_from(values, number))
        except msgspec.ValidationError:
            continue
    return found


def keep_brief(engine: Engine, brief: Brief) -> Brief:
    """Keep a brief, a new one or as it is now."""
    there = {document.key for document in engine.asked.documents()}
    with engine.collection.file.writing():
        known = {quote for each in briefs(engine) if each.brief_id == brief.brief_id for quote in each.quotes}
        # What was erased while it was gathered must not come in; what a kept entry quotes stays when its document is gone.
        entries = tuple(
            entry
            for entry in brief.entries
            if all(quote in known or quote.document_key in there for quote in entry.quotes)
        )
        kept = replace(brief, entries=entries)
        return replace(kept, brief_id=engine.collection.briefs.keep(brief_values(kept), brief.brief_id))


def delete_brief(engine: Engine, brief_id: int) -> None:
    """Forget a brief."""
    engine.collection.briefs.drop(brief_id)


def gather(engine: Engine, entries: Sequence[BriefEntry], brief_id: int = 0) -> Brief:
    """Add entries to a brief, to the last one, or to a first one."""
    kept = briefs(engine)
    into = next(
        (each for each in reversed(kept) if brief_id in (0, each.brief_id)), Brief(f"Brief of {engine.collection.name}")
    )
    return keep_brief(engine, into.with_entries(*entries))


def about(engine: Engine, citation: Citation) -> tuple[str, str]:
    """The date of a citation's document in words, and the clause that it stands in; each empty if there is none."""
    index = engine.current_index()
    document = index.documents.get(citation.document_id)
    if document is None:
        return "", ""
    passages = engine.asked.passages(list(index.passages_of((citation.document_id, citation.page_number))))
    within = [passage for passage in passages if passage.start <= citation.start < passage.end]
    return date_of(document), clause_of(within[0], citation.start) if within else ""


def quotes_now(engine: Engine, brief: Brief) -> dict[Quote, QuoteNow]:
    """Each quote beside what stands there now."""
    documents = engine.collection.documents()
    by_key = {document.key: document for document in documents}
    by_path = {document.path: document for document in documents}
    found = {}
    for quote in brief.quotes:
        document = by_key.get(quote.document_key)
        if document is not None:
            found[quote] = QuoteNow(quote, document)
            continue
        other = by_path.get(quote.path)
        offered = _same_words(engine, quote, other) if other is not None else None
        found[quote] = QuoteNow(quote, other, is_changed=True, offered=offered)
    return found


def take_offered(engine: Engine, brief: Brief) -> Brief:
    """The brief with every quote led to where its words stand in the document as it is now."""
    now = {quote: each.offered for quote, each in quotes_now(engine, brief).items() if each.offered is not None}
    entries = tuple(
        replace(entry, quotes=tuple(now.get(quote) or quote for quote in entry.quotes)) for entry in brief.entries
    )
    return keep_brief(engine, replace(brief, entries=entries))


def rendered(engine: Engine, brief: Brief, style: Style, *, with_pages: bool) -> Rendered:
    """The brief ready to be written; `with_pages` adds the cited pages, with the words marked.

    Raises
    ------
    EmptyBriefError
    """
    if not brief.entries:
        raise EmptyBriefError
    return render(brief, style, _annex(engine, brief) if with_pages else ())


def citations_file(brief: Brief) -> bytes:
    """The list of citations by which the brief can be checked."""
    made_at = datetime.now(UTC).isoformat(timespec="seconds")
    return citations_of(brief, made_at=made_at, made_by=f"Red Lantern {__version__}")


def export(engine: Engine, brief: Brief, target: Path, style: Style, *, with_pages: bool = False) -> Path:
    """Write a brief in the format of the target's ending, and beside it its citations; gives the place of these.

    Raises
    ------
    EmptyBriefError, CannotWriteError
    """
    whole = rendered(engine, brief, style, with_pages=with_pages)
    put_exported(target, write(whole, form_of(target)))
    beside = target.with_name(target.name + CITATIONS_ENDING)
    put_exported(beside, citations_file(brief))
    engine.collection.journal.note("exported", f"Brief “{brief.name}”: {target.name}")
    return beside


def form_of(target: Path) -> BriefForm:
    """The format of a file by its ending, DOCX for one that is none of ours."""
    ending = target.suffix.casefold().lstrip(".")
    return next((form for form in FORMS if form == ending), "docx")


def read_citations(path: Path) -> CitationsForm:
    """The citations of an export: of the file itself, or of the one that was saved beside it.

    Raises
    ------
    NoCitationsError
    """
    beside = path.with_name(path.name + CITATIONS_ENDING)
    place = path if path.name.endswith(CITATIONS_ENDING) or not beside.is_file() else beside
    try:
        return citations_from(place.name, place.read_bytes())
    except OSError as failure:
        raise NoCitationsError(place.name) from failure


def _same_words(engine: Engine, quote: Quote, document: Document) -> Quote | None:
    """Where the words of a quote stand in a document as it is now: on the same page first."""
    pages = sorted(
        engine.collection.pages(document.document_id),
        key=lambda page: (page.page_number != quote.page_number, page.page_number),
    )
    for page in pages:
        start = page.text.find(quote.text)
        if start >= 0:
            return replace(
                quote, document_key=document.key, call_mark=document.call_mark, title=document.title,
                page_number=page.page_number, start=start, end=start + len(quote.text),
            )  # fmt: skip
    return None


def _annex(engine: Engine, brief: Brief) -> list[AnnexPage]:
    """The cited pages that can still be had, in the order of the citations."""
    by_key = {document.key: document for document in engine.collection.documents()}
    spans: dict[tuple[str, int], list[tuple[int, int]]] = {}
    for quote in brief.quotes:
        spans.setdefault((quote.document_key, quote.page_number), []).append((quote.start, quote.end))
    found = []
    for (key, number), cited in spans.items():
        document = by_key.get(key)
        page = engine.collection.page(document.document_id, number) if document is not None else None
        if document is not None and page is not None:
            head = f"{document.call_mark} p.{number}: {document.title}"
            found.append(AnnexPage(head, page.text.replace("\t", " "), tuple(cited)))
    return found
