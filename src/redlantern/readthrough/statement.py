# SPDX-License-Identifier: GPL-3.0-or-later
"""The statement of a read-through: what was looked at, how, with what result, and how much may have been missed.

It is made of sections with lines, which the window, the command line and paper
show in their own ways. It says "complete" only where every page was read.
"""

from dataclasses import dataclass
from datetime import UTC, datetime
from html import escape

from redlantern.readthrough.coverage import Coverage, DocumentCovered
from redlantern.readthrough.estimate import LEVEL, Estimate
from redlantern.readthrough.values import PageRead, PageWish, Way
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import language, tr, trn

HOW: dict[Way, str] = {
    "lines": tr("by lines: every line of every page compared by words and meaning, without a language model"),
    "read": tr("read: every page by its lines, and by the language model unless its lines are certainly silent"),
    "all": tr("read all: every page by its lines and by the language model"),
}
_PERCENT_FROM = 0.1


@dataclass(frozen=True)
class Made:
    """With what it was made: the program's version, models by name and identity, when it began and when the last page was read."""

    program: str
    models: tuple[str, ...]
    began_at: str
    ended_at: str


@dataclass(frozen=True)
class StatementSection:
    """A heading with lines."""

    heading: str
    lines: tuple[str, ...]


@dataclass(frozen=True)
class Statement:
    """A title and sections in order."""

    title: str
    sections: tuple[StatementSection, ...]

    def as_text(self) -> str:
        """Plain text."""
        parts = [self.title, "=" * len(self.title)]
        for section in self.sections:
            parts += ["", section.heading, "-" * len(section.heading), *section.lines]
        return "\n".join(parts) + "\n"

    def as_html(self) -> str:
        """HTML without outside links, for paper."""
        body = "".join(
            f"<h2>{escape(section.heading)}</h2>" + "".join(f"<p>{escape(line)}</p>" for line in section.lines)
            for section in self.sections
        )
        return (
            f"<!doctype html><html lang='{language()}'><meta charset='utf-8'>"
            f"<title>{escape(self.title)}</title><h1>{escape(self.title)}</h1>{body}</html>"
        )


def make_statement(wish: PageWish, covered: Coverage, found: Estimate, made: Made) -> Statement:
    """Put the statement together."""
    sections = (
        StatementSection(tr("What was looked for"), _asked(wish)),
        StatementSection(tr("What was covered"), _covered(wish, covered)),
        StatementSection(tr("What could not be read"), _unreadable(covered)),
        StatementSection(tr("What was found"), _found(covered)),
        StatementSection(tr("What may have been missed"), _missed(covered, found)),
        StatementSection(tr("Hits"), _hits(covered)),
        StatementSection(tr("Documents"), tuple(_document_line(each) for each in covered.documents) or (tr("None."),)),
        StatementSection(tr("Made with"), _made(wish, made)),
    )
    return Statement(tr("Statement of a read-through"), sections)


def _asked(wish: PageWish) -> tuple[str, ...]:
    examples = [
        tr("{kind}, for example: “{text}”").format(
            kind=tr("Counts") if each.is_hit else tr("Does not count"), text=each.text
        )
        for each in wish.examples
    ]
    return (
        wish.question,
        *([tr("What counts: {counts}").format(counts=wish.counts)] if wish.counts else []),
        *examples,
    )


def _covered(wish: PageWish, covered: Coverage) -> tuple[str, ...]:
    n_read = covered.n_pages - covered.n_unread
    lines = [
        tr("Scope: {which}: {document}, {page}.").format(
            which=tr("all documents of the collection") if wish.paths is None else tr("documents that were chosen"),
            document=counted(len(covered.documents), "document"),
            page=counted(covered.n_pages, "page"),
        ),
        tr("Read: {n_read} of {page}.").format(n_read=n_read, page=counted(covered.n_pages, "page")),
    ]
    if covered.is_whole:
        lines.append(tr("Complete: every page in scope was read."))
    elif covered.n_unread:
        lines.append(
            trn(
                "Not complete: {n} page is not read yet.", "Not complete: {n} pages are not read yet.", covered.n_unread
            )
        )
    else:
        lines.append(tr("Every page was looked at, but not all could be read: see below."))
    if covered.earlier:
        lines.append(
            tr(
                "{page} of documents that were changed or taken out since were read as well and are not counted; the "
                "changed ones were read anew, or are among those not read."
            ).format(page=counted(covered.earlier, "page"))
        )
    return tuple(lines)


def _unreadable(covered: Coverage) -> tuple[str, ...]:
    lines = [
        tr("{shown_path}: the whole document. {reason}").format(shown_path=document.shown_path, reason=document.reason)
        for document in covered.refused
    ]
    for each in covered.documents:
        lines += [
            tr("{shown_path}, page {place}: {reason}").format(
                shown_path=each.document.shown_path, place=page.place[1], reason=page.reason
            )
            for page in each.pages
            if page is not None and page.state == "unreadable"
        ]
    return tuple(lines) or (tr("Nothing: every page gave text."),)


def _found(covered: Coverage) -> tuple[str, ...]:
    pages, states = covered.pages, covered.by_state
    of_machine = tr("By the program: {hit}, {n_doubtful} doubtful, {silent_page}.").format(
        hit=counted(states["hit"], "hit"),
        n_doubtful=states["doubtful"],
        silent_page=counted(states["silent"], "silent page"),
    )
    judged = [page for page in pages if page.judged and page.state != "silent"]
    n_accepted = sum(page.judged == "accepted" for page in judged)
    n_open = sum(page.is_open for page in pages)
    of_person = tr("By a person: {n_accepted} of them accepted, {n_judged} rejected, {n_open} not judged yet.").format(
        n_accepted=n_accepted, n_judged=len(judged) - n_accepted, n_open=n_open
    )
    return of_machine, of_person


def _missed(covered: Coverage, found: Estimate) -> tuple[str, ...]:
    if not found.n_judged:
        return (
            tr(
                "Not estimated: no sample of the silent pages was judged. How many hits are among the {silent_page} "
                "is not known."
            ).format(silent_page=counted(found.n_silent, "silent page")),
        )
    low, high = _percent(found.low), _percent(found.high)
    lines = [
        trn(
            "{n} silent page of {{n_silent}}, drawn at random, was judged by a person",
            "{n} silent pages of {{n_silent}}, drawn at random, were judged by a person",
            found.n_judged,
        ).format(n_silent=found.n_silent)
        + trn(": {n} was a hit after all.", ": {n} were a hit after all.", found.n_missed),
        tr(
            "So between {low} and {high} of the silent pages ({n_missed_low} to {n_missed_high} pages) are hits "
            "that were missed, with {level:.0%} confidence (exact binomial interval of Clopper and Pearson)."
        ).format(low=low, high=high, n_missed_low=found.n_missed_low, n_missed_high=found.n_missed_high, level=LEVEL),
    ]
    n_hits = sum(page.counts for page in covered.pages if page.state != "silent")
    if n_hits:
        least = n_hits / (n_hits + found.n_missed_high)
        lines.append(
            tr("Beside the pages that stand as hits ({n_hits}), that is a recall of at least {percent}.").format(
                n_hits=n_hits, percent=_percent(least)
            )
        )
    return tuple(lines)


_JUDGED = {"accepted": tr("accepted"), "rejected": tr("rejected"), "": tr("not judged")}


def _hits(covered: Coverage) -> tuple[str, ...]:
    lines = []
    for each in covered.documents:
        for page in each.pages:
            if page is not None and (page.counts or page.judged):
                lines.append(_hit_line(each, page))
    return tuple(lines) or (tr("None."),)


def _hit_line(covered: DocumentCovered, page: PageRead) -> str:
    words = visible(" ".join(page.words[0].text.split())) if page.words else ""
    said = _JUDGED[page.judged]
    note = tr(" Note: {note}").format(note=page.note) if page.note else ""
    return tr("{call_mark} p.{place} ({said}, certainty {certainty:.2f}): “{words}”{note}").format(
        call_mark=covered.document.call_mark,
        place=page.place[1],
        said=said,
        certainty=page.certainty,
        words=words,
        note=note,
    )


def _document_line(covered: DocumentCovered) -> str:
    document = covered.document
    n_pages = len(covered.pages)
    read = (
        tr("not read")
        if document.is_refused
        else tr("{n_pages} of {page} read").format(n_pages=n_pages - covered.n_unread, page=counted(n_pages, "page"))
    )
    dated = (
        tr("file of {day:%Y-%m-%d}; ").format(day=datetime.fromtimestamp(document.mtime_ns / 1e9, UTC))
        if document.mtime_ns
        else ""
    )
    return tr("{call_mark}  {shown_path}: {read}; {dated}SHA-256 {sha256}").format(
        call_mark=document.call_mark,
        shown_path=document.shown_path,
        read=read,
        dated=dated,
        sha256=document.sha256 or tr("not known"),
    )


def _made(wish: PageWish, made: Made) -> tuple[str, ...]:
    when = tr("Begun {began_at}, last page read {ended_at}.").format(
        began_at=made.began_at, ended_at=made.ended_at or "never"
    )
    return (
        tr("Way of reading: {how}.").format(how=HOW[wish.way]),
        *made.models,
        tr("Red Lantern {program}.").format(program=made.program),
        when,
    )


def _percent(share: float) -> str:
    return f"{share:.0%}" if share >= _PERCENT_FROM or share == 0 else f"{share:.1%}"
