"""The same question answered in several ways: a column for each, with what differs marked."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from redlantern.answering.sheet import Claim, Sheet
from redlantern.collection.values import Citation
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.rows import (
    CitedRow,
    ClaimRow,
    LineRow,
    column_area,
    notice,
    quiet_button,
    section_label,
    words_label,
)
from redlantern.text.quantities import plain, quantities, values

_GAP = 10
ONLY_HERE, OTHERWISE = "only here", "says otherwise than another column"


@dataclass(frozen=True)
class Contrast:
    """What a column has that others have not: found lines and claims by their number, and claims that contradict another's."""

    lines: frozenset[int] = frozenset()
    claims: frozenset[int] = frozenset()
    against: frozenset[int] = frozenset()


def contrasts(sheets: Sequence[Sheet]) -> list[Contrast]:
    """What each sheet has that no other has; nothing where there is but one.

    A claim is another's where both cite the same page and no number or date parts them; it speaks against another where
    both cite the same page and their numbers or dates differ.
    """
    found = []
    for at, sheet in enumerate(sheets):
        others = [other for number, other in enumerate(sheets) if number != at]
        if not others:
            return [Contrast()]
        pages = {_page(line.citation) for other in others for line in other.found_lines}
        lines = {n for n, line in enumerate(sheet.found_lines) if _page(line.citation) not in pages}
        theirs = [claim for other in others for claim in other.claims]
        claims = {n for n, claim in enumerate(sheet.claims) if not any(_is_shared(claim, other) for other in theirs)}
        against = {n for n, claim in enumerate(sheet.claims) if any(_is_against(claim, other) for other in theirs)}
        found.append(Contrast(frozenset(lines), frozenset(claims - against), frozenset(against)))
    return found


class SheetColumn(QWidget):
    """One way: its name, how it came out, what was written and the found lines. Rows open their pages."""

    page_wanted = pyqtSignal(object)
    given_wanted = pyqtSignal(object)

    def __init__(self, title: str, sheet: Sheet | None, contrast: Contrast, aside: str = "") -> None:
        super().__init__()
        self.rows: list[CitedRow] = []
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 12)
        self._box.setSpacing(5)
        name = words_label(title, family=theme.SANS, scale=1.05)
        name.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self._box.addWidget(name)
        if aside:
            self._box.addWidget(words_label(aside, family=theme.SANS, scale=0.92, name="quiet"))
        if sheet is not None:
            self._show(sheet, contrast)
        self._box.addStretch(1)
        self.setAccessibleName(f"Answered by: {title}")

    def _show(self, sheet: Sheet, contrast: Contrast) -> None:
        self._box.addWidget(words_label(how_it_came_out(sheet), family=theme.SANS, scale=0.92, name="quiet"))
        if sheet.refused:
            self._box.addWidget(notice(sheet.refusal_reason))
        if sheet.is_reckoned and sheet.reckoning is not None:
            self._box.addWidget(section_label("RECKONED"))
            self._box.addWidget(words_label(sheet.reckoning.answer, family=theme.SANS))
        if sheet.claims:
            self._box.addWidget(section_label("WRITTEN"))
        for number, claim in enumerate(sheet.claims):
            self._tag(OTHERWISE if number in contrast.against else ONLY_HERE if number in contrast.claims else "")
            if claim.citations:
                self._add(ClaimRow(claim))
            else:
                own = words_label(claim.text, family=theme.SANS)
                own.setContentsMargins(10, 4, 10, 4)
                self._box.addWidget(own)
                self._box.addWidget(words_label("stands on no document", family=theme.SANS, scale=0.9, name="problem"))
        if sheet.no_prose_reason and not sheet.claims and not sheet.refused:
            self._box.addWidget(words_label(sheet.no_prose_reason, family=theme.SANS, scale=0.92, name="quiet"))
        if sheet.found_lines:
            self._box.addWidget(section_label("WHAT THE NEAREST LINES SAY" if sheet.refused else "FOUND LINES"))
        for number, line in enumerate(sheet.found_lines):
            self._tag(ONLY_HERE if number in contrast.lines else "")
            self._add(LineRow(line))
        if sheet.given:
            given = quiet_button(
                "What the model was given", "Word for word, with the number of tokens; to be read and copied"
            )
            given.clicked.connect(lambda: self.given_wanted.emit(sheet))
            self._box.addWidget(given, 0, Qt.AlignmentFlag.AlignLeft)

    def _tag(self, words: str) -> None:
        if words:
            label = words_label(words, family=theme.SANS, scale=0.85, name="problem")
            label.setContentsMargins(10, 3, 0, 0)
            self._box.addWidget(label)

    def _add(self, row: CitedRow) -> None:
        row.chosen.connect(lambda chosen: self.page_wanted.emit(chosen.citation))
        row.step_wanted.connect(self._on_step)
        self.rows.append(row)
        self._box.addWidget(row)

    def _on_step(self, by: int) -> None:
        focused = self.focusWidget()
        at = next((number for number, row in enumerate(self.rows) if row is focused), -1) + by
        if 0 <= at < len(self.rows):
            self.rows[at].setFocus()


class SheetColumns(QWidget):
    """The columns side by side, each with its own scroll bar. `page_wanted` carries the citation of a chosen row."""

    page_wanted = pyqtSignal(object)
    given_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.columns: list[SheetColumn] = []
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(_GAP)

    def show_sheets(self, titled: Sequence[tuple[str, Sheet | None, str]]) -> None:
        """Show a column for each: its title, its sheet if there is one yet, and words under the title."""
        while (item := self._row.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        there = [sheet for _, sheet, _ in titled if sheet is not None]
        by_sheet = dict(zip(map(id, there), contrasts(there), strict=True)) if there else {}
        self.columns = []
        for title, sheet, aside in titled:
            column = SheetColumn(title, sheet, by_sheet.get(id(sheet), Contrast()), aside)
            column.page_wanted.connect(self.page_wanted)
            column.given_wanted.connect(self.given_wanted)
            self.columns.append(column)
            self._row.addWidget(_scrolled(column), 1)


def how_it_came_out(sheet: Sheet) -> str:
    """Whether a sheet answers, after how long, and how much was read and written."""
    said = [
        {"answered": "Answered", "partly answered": "Answered in part", "not answered": "Not answered"}[sheet.outcome]
    ]
    said.append(f"{sheet.seconds.total:.1f} s")
    if sheet.n_prompt_tokens:
        said.append(f"{sheet.n_prompt_tokens:,} tokens read, {sheet.n_written_tokens:,} written")
    return ", ".join(said)


def _scrolled(column: SheetColumn) -> QScrollArea:
    area = column_area()
    area.setWidget(column)
    return area


def _page(citation: Citation) -> tuple[str, int, str]:
    return citation.path, citation.page_number, " ".join(citation.text.split())


def _pages(claim: Claim) -> set[tuple[str, int]]:
    return {(citation.path, citation.page_number) for citation in claim.citations}


def _is_shared(claim: Claim, other: Claim) -> bool:
    if not (claim.citations and other.citations):
        return claim.text == other.text
    return bool(_pages(claim) & _pages(other)) and not _is_against(claim, other)


def _is_against(claim: Claim, other: Claim) -> bool:
    mine, theirs = values(quantities(plain(claim.text))), values(quantities(plain(other.text)))
    return bool(_pages(claim) & _pages(other)) and bool(mine) and bool(theirs) and not mine & theirs
