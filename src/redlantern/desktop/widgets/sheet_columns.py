# SPDX-License-Identifier: GPL-3.0-or-later
"""The same question answered in several ways: a column for each, with what differs marked."""

from collections.abc import Collection, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from redlantern.answering.sheet import Sheet
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import clear, column_area, notice, quiet_button, section_label, words_label
from redlantern.desktop.widgets.rows import CitedRow, ClaimRow, LineRow, mark_button
from redlantern.translation import tr
from redlantern.trials.contrasts import Contrast, contrasts

_GAP, _PASSAGES_SHOWN = 10, 5
ONLY_HERE, OTHERWISE, RIGHT_PAGE = tr("only here"), tr("says otherwise than another column"), tr("the right page")


class SheetColumn(QWidget):
    """One way: its name, how it came out, what was written and the found lines. Rows open their pages."""

    page_wanted = pyqtSignal(object)
    given_wanted = pyqtSignal(object)

    def __init__(
        self,
        title: str,
        sheet: Sheet | None,
        contrast: Contrast,
        aside: str = "",
        *,
        right: Collection[tuple[str, int]] = (),
    ) -> None:
        super().__init__()
        self._right = right
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
        self.setAccessibleName(tr("Answered by: {title}").format(title=title))

    def _show(self, sheet: Sheet, contrast: Contrast) -> None:
        self._box.addWidget(words_label(how_it_came_out(sheet), family=theme.SANS, scale=0.92, name="quiet"))
        if sheet.refused:
            self._box.addWidget(notice(sheet.refusal_reason))
        if sheet.is_reckoned and sheet.reckoning is not None:
            self._box.addWidget(section_label(tr("RECKONED")))
            self._box.addWidget(words_label(sheet.reckoning.answer, family=theme.SANS))
        if sheet.claims:
            self._box.addWidget(section_label(tr("WRITTEN")))
        for number, claim in enumerate(sheet.claims):
            self._tag(OTHERWISE if number in contrast.against else ONLY_HERE if number in contrast.claims else "")
            if claim.citations:
                self._add(ClaimRow(claim))
            else:
                own = words_label(claim.text, family=theme.SANS)
                own.setContentsMargins(10, 4, 10, 4)
                self._box.addWidget(own)
                self._box.addWidget(
                    words_label(tr("stands on no document"), family=theme.SANS, scale=0.9, name="problem")
                )
        if sheet.no_prose_reason and not sheet.claims and not sheet.refused:
            self._box.addWidget(words_label(sheet.no_prose_reason, family=theme.SANS, scale=0.92, name="quiet"))
        if sheet.found_lines:
            self._box.addWidget(section_label(tr("WHAT THE NEAREST LINES SAY") if sheet.refused else tr("FOUND LINES")))
        for number, line in enumerate(sheet.found_lines):
            is_right = (line.citation.path, line.citation.page_number) in self._right
            self._tag(ONLY_HERE if number in contrast.lines else "", RIGHT_PAGE if is_right else "")
            self._add(LineRow(line))
        if sheet.passages:
            self._add_passages(sheet)
        if sheet.given:
            given = quiet_button(
                tr("What the model was given"), tr("Word for word, with the number of tokens; to be read and copied")
            )
            given.clicked.connect(lambda: self.given_wanted.emit(sheet))
            self._box.addWidget(given, 0, Qt.AlignmentFlag.AlignLeft)

    def _add_passages(self, sheet: Sheet) -> None:
        """The pages of the best passages in their order; a click opens each."""
        self._box.addWidget(section_label(tr("PASSAGES IN ORDER")))
        row = QHBoxLayout()
        row.setSpacing(5)
        for passage in sheet.passages[:_PASSAGES_SHOWN]:
            button = mark_button(passage.citation)
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            if (passage.citation.path, passage.citation.page_number) in self._right:
                button.setText(f"✓ {button.text()}")
                button.setAccessibleName(tr("{name}, the right page").format(name=button.accessibleName()))
            button.clicked.connect(lambda _, citation=passage.citation: self.page_wanted.emit(citation))
            row.addWidget(button)
        row.addStretch(1)
        self._box.addLayout(row)

    def _tag(self, *tags: str) -> None:
        words = ", ".join(filter(None, tags))
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

    @property
    def focused(self) -> CitedRow | None:
        """The row that has the focus."""
        return next((row for column in self.columns for row in column.rows if row.hasFocus()), None)

    def show_sheets(
        self, titled: Sequence[tuple[str, Sheet | None, str]], *, right: Collection[tuple[str, int]] = ()
    ) -> None:
        """Show a column for each: its title, its sheet if there is one yet, and words under the title.

        `right` are the pages, by path and number, that are known to answer; they are marked.
        """
        clear(self._row)
        there = [sheet for _, sheet, _ in titled if sheet is not None]
        by_sheet = dict(zip(map(id, there), contrasts(there), strict=True)) if there else {}
        self.columns = []
        for title, sheet, aside in titled:
            column = SheetColumn(title, sheet, by_sheet.get(id(sheet), Contrast()), aside, right=right)
            column.page_wanted.connect(self.page_wanted)
            column.given_wanted.connect(self.given_wanted)
            self.columns.append(column)
            self._row.addWidget(_scrolled(column), 1)


def how_it_came_out(sheet: Sheet) -> str:
    """Whether a sheet answers, after how long, and how much was read and written."""
    said = [
        {"answered": tr("Answered"), "partly answered": tr("Answered in part"), "not answered": tr("Not answered")}[
            sheet.outcome
        ]
    ]
    said.append(f"{sheet.seconds.total:.1f} s")
    if sheet.n_prompt_tokens:
        said.append(
            tr("{n_prompt_tokens:,} tokens read, {n_written_tokens:,} written").format(
                n_prompt_tokens=sheet.n_prompt_tokens, n_written_tokens=sheet.n_written_tokens
            )
        )
    return ", ".join(said)


def _scrolled(column: SheetColumn) -> QScrollArea:
    area = column_area()
    area.setWidget(column)
    return area
