# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with the kept sheets: list, name, star, delete, print."""

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Any

from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.application.briefs import about
from redlantern.brief.gathering import entry_of_claim, entry_of_figure, entry_of_line
from redlantern.brief.rendering import render
from redlantern.brief.values import Brief, BriefEntry
from redlantern.brief.writing.web import as_html
from redlantern.collection.kept_sheets import ERASED
from redlantern.collection.values import Citation
from redlantern.translation import tr

ANSWERED, LINES, FIGURE, REFUSED, OUTSIDE = (
    tr("answered"),
    tr("found lines"),
    tr("figure"),
    tr("not in the documents"),
    tr("drafted"),
)
_OFTEN = 2


@dataclass(frozen=True)
class ListedSheet:
    """A kept sheet as it is listed. `thread` is the id of the sheet that its thread began with; `cited` are call-marks."""

    sheet_id: int
    asked_at: str
    question: str
    outcome: str
    thread: int
    name: str = ""
    is_starred: bool = False
    cited: tuple[str, ...] = ()
    titles: tuple[str, ...] = ()

    def has(self, words: Collection[str]) -> bool:
        """Whether all these words, in small letters, stand in what is listed of it."""
        said = " ".join(
            (self.name, self.question, self.outcome, self.asked_at[:10], *self.cited, *self.titles)
        ).casefold()
        return all(word in said for word in words)


def list_sheets(engine: Engine) -> list[ListedSheet]:
    """All kept sheets, oldest first: the order that they are turned through in."""
    kept = engine.collection.kept_sheets
    notes = kept.notes.all()
    return [
        _listed(sheet_id, asked_at, question, form, notes.get(sheet_id, {}))
        for sheet_id, asked_at, question, form in kept.all()
    ]


def _listed(sheet_id: int, asked_at: str, question: str, form: dict[str, Any], note: dict[str, Any]) -> ListedSheet:
    lines, claims = form.get("found_lines", ()), form.get("claims", ())
    cited = [line["citation"] for line in lines] + [each for claim in claims for each in claim.get("citations", ())]
    marks = {each["call_mark"]: each["document"] for each in cited if each["document"] != ERASED}
    if form.get("refused"):
        outcome = REFUSED
    elif form.get("reckoning"):
        outcome = FIGURE
    elif form.get("draft"):
        outcome = OUTSIDE
    else:
        outcome = ANSWERED if claims else LINES
    return ListedSheet(
        sheet_id, asked_at, question, outcome, int(note.get("thread", sheet_id)), str(note.get("name", "")),
        note.get("starred") is True, tuple(marks), tuple(filter(None, marks.values())),
    )  # fmt: skip


def often_asked(listed: Sequence[ListedSheet], most: int = 3) -> list[str]:
    """Questions that were asked several times, the most frequent first, as they were worded last."""
    counts = Counter(" ".join(each.question.casefold().split()) for each in listed)
    last = {" ".join(each.question.casefold().split()): each.question for each in listed}
    return [last[key] for key, n in counts.most_common() if n >= _OFTEN][:most]


def rename_sheet(engine: Engine, sheet_id: int, name: str) -> None:
    """Give a sheet a name of its own; none takes it away."""
    engine.collection.kept_sheets.note(sheet_id, name=" ".join(name.split()))


def star_sheet(engine: Engine, sheet_id: int, is_starred: bool) -> None:
    """Give a sheet a star, or take it away."""
    engine.collection.kept_sheets.note(sheet_id, starred=is_starred)


def delete_sheets(engine: Engine, sheet_ids: Collection[int]) -> int:
    """Delete sheets for good; gives how many. The journal says that it was done, not what was asked."""
    n_deleted = engine.collection.kept_sheets.delete(sheet_ids)
    engine.collection.journal.note("erased", f"{n_deleted} sheets" if n_deleted != 1 else "1 sheet")
    return n_deleted


def printed(engine: Engine, sheet: Sheet) -> str:
    """A sheet as a page of HTML to be printed: the question, what was answered, the lines, and the documents cited."""

    def known(citation: Citation) -> tuple[str, str]:
        return about(engine, citation)

    entries = [entry_of_figure(sheet.reckoning, known)] if sheet.reckoning is not None else []
    if sheet.claims:
        entries += [BriefEntry(0, "heading", tr("Answer")), *(entry_of_claim(claim, known) for claim in sheet.claims)]
    if sheet.refused:
        entries.append(BriefEntry(0, "own", tr("The documents in scope do not answer this. The nearest lines say:")))
    if sheet.found_lines:
        entries += [
            BriefEntry(0, "heading", tr("Lines of the documents")),
            *(entry_of_line(line.citation, known) for line in sheet.found_lines),
        ]
    brief = Brief(sheet.question).with_entries(*(replace(entry, question="") for entry in entries))
    return as_html(render(brief, "marks"))
