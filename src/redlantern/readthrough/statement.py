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

HOW: dict[Way, str] = {
    "lines": "by lines: every line of every page compared by words and meaning, without a language model",
    "read": "read: every page by its lines, and by the language model unless its lines are certainly silent",
    "all": "read all: every page by its lines and by the language model",
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
            "<!doctype html><html lang='en'><meta charset='utf-8'>"
            f"<title>{escape(self.title)}</title><h1>{escape(self.title)}</h1>{body}</html>"
        )


def make_statement(wish: PageWish, covered: Coverage, found: Estimate, made: Made) -> Statement:
    """Put the statement together."""
    sections = (
        StatementSection("What was looked for", _asked(wish)),
        StatementSection("What was covered", _covered(wish, covered)),
        StatementSection("What could not be read", _unreadable(covered)),
        StatementSection("What was found", _found(covered)),
        StatementSection("What may have been missed", _missed(covered, found)),
        StatementSection("Hits", _hits(covered)),
        StatementSection("Documents", tuple(_document_line(each) for each in covered.documents) or ("none",)),
        StatementSection("Made with", _made(wish, made)),
    )
    return Statement("Statement of a read-through", sections)


def _asked(wish: PageWish) -> tuple[str, ...]:
    examples = [
        f"{'Counts' if each.is_hit else 'Does not count'}, for example: “{each.text}”" for each in wish.examples
    ]
    return (wish.question, *([f"What counts: {wish.counts}"] if wish.counts else []), *examples)


def _covered(wish: PageWish, covered: Coverage) -> tuple[str, ...]:
    n_read = covered.n_pages - covered.n_unread
    lines = [
        f"Scope: {'all documents of the collection' if wish.paths is None else 'documents that were chosen'}: "
        f"{_counted(len(covered.documents), 'document')}, {_counted(covered.n_pages, 'page')}.",
        f"Read: {n_read} of {_counted(covered.n_pages, 'page')}.",
    ]
    if covered.is_whole:
        lines.append("Complete: every page in scope was read.")
    elif covered.n_unread:
        lines.append(f"Not complete: {_counted(covered.n_unread, 'page')} {_are(covered.n_unread)} not read yet.")
    else:
        lines.append("Every page was looked at, but not all could be read: see below.")
    if covered.earlier:
        lines.append(
            f"{_counted(covered.earlier, 'page')} of documents that were changed or taken out since "
            "were read as well and are not counted; the changed ones were read anew, or are among those not read."
        )
    return tuple(lines)


def _unreadable(covered: Coverage) -> tuple[str, ...]:
    lines = [f"{document.shown_path}: the whole document. {document.reason}" for document in covered.refused]
    for each in covered.documents:
        lines += [
            f"{each.document.shown_path}, page {page.place[1]}: {page.reason}"
            for page in each.pages
            if page is not None and page.state == "unreadable"
        ]
    return tuple(lines) or ("Nothing: every page gave text.",)


def _found(covered: Coverage) -> tuple[str, ...]:
    pages, states = covered.pages, covered.by_state
    of_machine = (
        f"By the program: {states['hit']} hits, {states['doubtful']} doubtful, {states['silent']} silent pages."
    )
    judged = [page for page in pages if page.judged and page.state != "silent"]
    n_accepted = sum(page.judged == "accepted" for page in judged)
    n_open = sum(page.is_open for page in pages)
    of_person = (
        f"By a person: {n_accepted} of them accepted, {len(judged) - n_accepted} rejected, {n_open} not judged yet."
    )
    return of_machine, of_person


def _missed(covered: Coverage, found: Estimate) -> tuple[str, ...]:
    if not found.n_judged:
        return (
            "Not estimated: no sample of the silent pages was judged. How many hits are among the "
            f"{_counted(found.n_silent, 'silent page')} is not known.",
        )
    low, high = _percent(found.low), _percent(found.high)
    lines = [
        f"{_counted(found.n_judged, 'silent page')} of {found.n_silent}, drawn at random, {_were(found.n_judged)} judged by a person: "
        f"{found.n_missed} {_were(found.n_missed)} a hit after all.",
        f"So between {low} and {high} of the silent pages ({found.n_missed_low} to {found.n_missed_high} pages) are hits that were "
        f"missed, with {LEVEL:.0%} confidence (exact binomial interval of Clopper and Pearson).",
    ]
    n_hits = sum(page.counts for page in covered.pages if page.state != "silent")
    if n_hits:
        least = n_hits / (n_hits + found.n_missed_high)
        lines.append(f"Beside {n_hits} hits that stand, that is a recall of at least {_percent(least)}.")
    return tuple(lines)


def _hits(covered: Coverage) -> tuple[str, ...]:
    lines = []
    for each in covered.documents:
        for page in each.pages:
            if page is not None and (page.counts or page.judged):
                lines.append(_hit_line(each, page))
    return tuple(lines) or ("none",)


def _hit_line(covered: DocumentCovered, page: PageRead) -> str:
    words = visible(" ".join(page.words[0].text.split())) if page.words else ""
    said = {"accepted": "accepted", "rejected": "rejected", "": "not judged"}[page.judged]
    note = f" Note: {page.note}" if page.note else ""
    return f"{covered.document.call_mark} p.{page.place[1]} ({said}, certainty {page.certainty:.2f}): “{words}”{note}"


def _document_line(covered: DocumentCovered) -> str:
    document = covered.document
    n_pages = len(covered.pages)
    read = "not read" if document.is_refused else f"{n_pages - covered.n_unread} of {_counted(n_pages, 'page')} read"
    dated = f"file of {datetime.fromtimestamp(document.mtime_ns / 1e9, UTC):%Y-%m-%d}; " if document.mtime_ns else ""
    return f"{document.call_mark}  {document.shown_path}: {read}; {dated}SHA-256 {document.sha256 or 'not known'}"


def _made(wish: PageWish, made: Made) -> tuple[str, ...]:
    when = f"Begun {made.began_at}, last page read {made.ended_at or 'never'}."
    return (f"Way of reading: {HOW[wish.way]}.", *made.models, f"Red Lantern {made.program}.", when)


def _counted(n: int, noun: str) -> str:
    return f"{n} {noun}{'' if n == 1 else 's'}"


def _are(n: int) -> str:
    return "is" if n == 1 else "are"


def _were(n: int) -> str:
    return "was" if n == 1 else "were"


def _percent(share: float) -> str:
    return f"{share:.0%}" if share >= _PERCENT_FROM or share == 0 else f"{share:.1%}"
