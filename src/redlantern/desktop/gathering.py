# SPDX-License-Identifier: GPL-3.0-or-later
"""What is chosen in a room, as entries of a brief."""

from collections.abc import Callable

from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.application.briefs import about
from redlantern.brief.gathering import About, entry_of_claim, entry_of_figure, entry_of_hit, entry_of_line
from redlantern.brief.values import BriefEntry
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.readthrough.room import ReadThroughRoom
from redlantern.desktop.sidebyside.room import SideBySideRoom
from redlantern.desktop.trials.room import TrialsRoom
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.widgets.rows import CitedRow, ClaimRow

Gather = Callable[[Engine], list[BriefEntry]]
"""Makes entries of a brief of what was chosen; called in the background."""


def chosen_in(room: Room) -> Gather | None:
    """What is chosen in a room: a row of a sheet, or a page of a read-through; None where nothing is."""
    if isinstance(room, Desk):
        return _of_desk(room)
    if isinstance(room, ReadThroughRoom):
        return _of_read_through(room)
    if isinstance(room, SideBySideRoom) and (row := room.columns.focused) is not None:
        return _of_row(row, room.question.text().strip())
    if isinstance(room, TrialsRoom) and (row := room.runs.question.columns.focused) is not None:
        question = room.runs.question.question
        return _of_row(row, question.question if question is not None else "")
    return None


def _of_desk(desk: Desk) -> Gather | None:
    """A claim, a figure with its working, or words of a document."""
    row, sheet = desk.view.chosen, desk.view.sheet
    if row is None or sheet is None:
        return None
    if desk.view.reckoned is not None and row in desk.view.reckoned.rows:
        return _of_figure(sheet)
    return _of_row(row, sheet.question)


def _of_read_through(room: ReadThroughRoom) -> Gather | None:
    """The page that is chosen in the list, by its best line."""
    current, through = room.view.hits.current, room.view.through
    if not room.view.isVisible() or current is None or through is None or not current[1].words:
        return None
    document, page, question = *current, through.wish.question

    def gather(engine: Engine) -> list[BriefEntry]:
        words = page.words[0]
        citation = engine.collection.cite(document, page.place[1], words.start, words.end)
        return [entry_of_hit(document, page, citation, _about(engine), question)]

    return gather


def _of_row(row: CitedRow, question: str) -> Gather:
    claim, citation = row.claim if isinstance(row, ClaimRow) else None, row.citation

    def gather(engine: Engine) -> list[BriefEntry]:
        if claim is not None:
            return [entry_of_claim(claim, _about(engine), question)]
        return [entry_of_line(citation, _about(engine), question)]

    return gather


def _of_figure(sheet: Sheet) -> Gather:
    reckoning = sheet.reckoning
    assert reckoning is not None
    return lambda engine: [entry_of_figure(reckoning, _about(engine), sheet.question)]


def _about(engine: Engine) -> About:
    return lambda citation: about(engine, citation)
