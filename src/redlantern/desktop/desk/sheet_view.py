# SPDX-License-Identifier: GPL-3.0-or-later
"""The middle column: one sheet at a time, from question to evidence."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from redlantern.answering.changes import Comparison, SourceChange
from redlantern.answering.sheet import Evidence, Sheet
from redlantern.desktop.desk.answer_part import AnswerPart
from redlantern.desktop.desk.changed import changed_notice, comparison_part
from redlantern.desktop.desk.differing import side_rows
from redlantern.desktop.desk.model_alone_part import ModelAlonePart
from redlantern.desktop.desk.reckoned_part import ReckonedPart
from redlantern.desktop.desk.sheet_parts import (
    WhyNot,
    new_body,
    put_aside_row,
    search_words,
    turner,
)
from redlantern.desktop.desk.summary_part import SummaryPart
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import column_area, quiet_button, section_label, titled, words_label
from redlantern.desktop.widgets.rows import CitedRow, EvidenceRow, LineRow
from redlantern.text.listing import counted
from redlantern.translation import tr


class SheetView(QWidget):
    """Shows a sheet. Up and Down walk through all its rows, and the chosen one is announced by `row_chosen`."""

    row_chosen = pyqtSignal(object)
    previous_wanted = pyqtSignal()
    next_wanted = pyqtSignal()
    edit_wanted = pyqtSignal(str)
    again_wanted = pyqtSignal()
    pin_wanted = pyqtSignal(object)
    put_aside_wanted = pyqtSignal(object)
    bring_back_wanted = pyqtSignal()
    why_not_wanted = pyqtSignal()
    as_typed_wanted = pyqtSignal(str)
    without_thread_wanted = pyqtSignal(str)
    model_alone_wanted = pyqtSignal()
    closer_wanted = pyqtSignal()
    reckon_wanted = pyqtSignal(object, int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.sheet: Sheet | None = None
        self._lines: list[CitedRow] = []
        self._sides: list[CitedRow] = []
        self._evidence: list[CitedRow] = []
        self._answer: AnswerPart | None = None
        self._lines_title: QLabel | None = None
        self._passages_title: QLabel | None = None
        self._summary: SummaryPart | None = None
        self.chosen: CitedRow | None = None
        # What is still to be built, one piece at a time.
        self._waiting: list[Callable[[], None]] = []
        self._why_not: WhyNot | None = None
        self.model_alone: ModelAlonePart | None = None
        self.reckoned: ReckonedPart | None = None
        self.n_put_aside = 0
        self._build_timer = QTimer(self)
        self._build_timer.timeout.connect(self._build_next)
        self.place_button = quiet_button("", tr("All sheets of this collection (Ctrl+Y)"))
        self.previous_button = turner("‹", tr("Earlier sheet"), self.previous_wanted)
        self.next_button = turner("›", tr("Later sheet"), self.next_wanted)
        top = QHBoxLayout()
        top.setContentsMargins(22, 8, 16, 2)
        top.addWidget(self.place_button)
        top.addStretch(1)
        top.addWidget(self.previous_button)
        top.addWidget(self.next_button)
        self._scroll = column_area()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(self._scroll, 1)
        self.set_place(0, 0)

    @property
    def rows(self) -> list[CitedRow]:
        """All rows that stand on words of a document, from top to bottom."""
        written = [*(self._answer.rows if self._answer else ()), *(self._summary.rows if self._summary else ())]
        if self.reckoned is not None:
            is_first = self.reckoned.reckoning.is_sure
            written = [*self.reckoned.rows, *written] if is_first else [*written, *self.reckoned.rows]
        return [*written, *self._lines, *self._sides, *self._evidence]

    @property
    def is_building(self) -> bool:
        """Whether rows are still being added."""
        return bool(self._waiting)

    def set_place(self, number: int, total: int) -> None:
        """Say which of how many sheets this is."""
        self.place_button.setText(tr("Sheet {number} of {total}").format(number=number, total=total) if total else "")
        self.place_button.setAccessibleName(
            tr("Sheet {number} of {total}: show all").format(number=number, total=total)
        )
        self.place_button.setVisible(bool(total))
        self.previous_button.setEnabled(number > 1)
        self.next_button.setEnabled(number < total)
        for button in (self.previous_button, self.next_button):
            button.setVisible(total > 1)

    def show_widget(self, widget: QWidget) -> None:
        """Show something that is no sheet: a welcome, or what went wrong."""
        self._forget()
        self._scroll.setWidget(widget)

    def show_asking(self, question: str) -> None:
        """Show a question that is being searched for."""
        self._forget()
        body, box = new_body(question)
        box.addWidget(words_label(tr("Searching ..."), family=theme.SANS, name="quiet"))
        box.addStretch(1)
        self._scroll.setWidget(body)

    def show_sheet(
        self,
        sheet: Sheet,
        *,
        is_being_written: bool = False,
        changes: Sequence[SourceChange] = (),
        comparison: Comparison | None = None,
    ) -> None:
        """Show a sheet: found lines at once, the evidence row by row, so that nothing waits for it.

        `changes` are what has become of its documents since, `comparison` how it differs from an earlier one.
        """
        self._forget()
        self.sheet = sheet
        body, box = new_body(sheet.question)
        self._add_head(box, sheet, changes, comparison)
        reckoned = ReckonedPart(sheet.reckoning, self._take_in) if sheet.reckoning is not None else None
        if reckoned is not None:
            self.reckoned = reckoned
            reckoned.again_wanted.connect(self.reckon_wanted)
            if sheet.is_reckoned:
                box.addWidget(reckoned)
        self._answer = AnswerPart(self._take_in)
        self._answer.closer_wanted.connect(self.closer_wanted)
        box.addWidget(self._answer)
        if is_being_written:
            self._answer.show_waiting(sheet)
        else:
            self._answer.show_answer(sheet)
        if reckoned is not None and not sheet.is_reckoned:
            # In doubt it stands beside what was found, and after what was written.
            box.addWidget(reckoned)
        if sheet.found_lines:
            self._add_found_lines(box, sheet)
            self._add_sides(box, sheet)
        if sheet.sections:
            self._add_parts(box, sheet, is_being_written=is_being_written)
        if sheet.passages and not sheet.draft:
            self.model_alone = ModelAlonePart()
            self.model_alone.wanted.connect(self.model_alone_wanted)
            box.addWidget(self.model_alone)
        if sheet.passages:
            self._add_passages(box, sheet)
        box.addStretch(1)
        self._scroll.setWidget(body)
        if self._waiting:
            self._build_timer.start(0)

    def _add_head(
        self, box: QVBoxLayout, sheet: Sheet, changes: Sequence[SourceChange], comparison: Comparison | None
    ) -> None:
        """How it was searched for, and what is to be known before reading it."""
        searched = search_words(
            sheet,
            edit=self.edit_wanted.emit,
            without_thread=self.without_thread_wanted.emit,
            as_typed=self.as_typed_wanted.emit,
        )
        if searched is not None:
            box.addLayout(searched)
        if changes:
            box.addWidget(changed_notice(sheet.asked_at, changes, self.again_wanted.emit))
        if comparison is not None:
            box.addWidget(comparison_part(comparison))

    def show_why_not(self, words: str) -> None:
        """Say what held the page at the right back."""
        if self._why_not is not None:
            self._why_not.show_words(words)

    def show_answer(self, sheet: Sheet) -> None:
        """Put the written answer, checked, in place of what was being written; everything else stays as it is."""
        if self._answer is None:
            return
        self.sheet = sheet
        self._answer.show_answer(sheet)
        if self._lines_title is not None:
            self._lines_title.setText(_lines_title(sheet))
        if self._passages_title is not None:
            self._passages_title.setText(_passages_title(sheet))
        if self._summary is not None:
            self._summary.finish()

    def show_writing(self, claims: tuple[tuple[str, str], ...]) -> None:
        """Show what the language model has written so far."""
        if self._answer is not None:
            self._answer.show_writing(claims)

    def show_part(self, sheet: Sheet, done: int, total: int) -> None:
        """Show a section of a summary that has just been written."""
        if self._summary is not None:
            self.sheet = sheet
            self._summary.show_written(sheet.sections[done - 1], done, total)

    def choose(self, index: int) -> None:
        """Choose a row by its number, as Up and Down do."""
        if self.rows:
            row = self.rows[max(0, min(len(self.rows) - 1, index))]
            row.setFocus(Qt.FocusReason.OtherFocusReason)
            self._on_chosen(row)
            # Once the layout knows where the row is.
            QTimer.singleShot(0, lambda: self._scroll.ensureWidgetVisible(row, 0, 40) if row in self.rows else None)

    def step(self, by: int) -> None:
        """Choose the next row, or the one before."""
        at = self.rows.index(self.chosen) if self.chosen in self.rows else -1 if by > 0 else 0
        self.choose(at + by)

    def _add_found_lines(self, box: QVBoxLayout, sheet: Sheet) -> None:
        box.addSpacing(4)
        seconds = sheet.seconds.first_line
        spent = f"{seconds:.1f} s" if seconds is not None else ""
        self._lines_title = section_label(_lines_title(sheet))
        box.addLayout(titled(self._lines_title, spent))
        for line in sheet.found_lines:
            self._add_row(box, self._lines, LineRow(line))

    def _add_passages(self, box: QVBoxLayout, sheet: Sheet) -> None:
        """The evidence, row by row, and under it the question why another page is not there."""
        box.addSpacing(8)
        self._passages_title = section_label(_passages_title(sheet))
        box.addLayout(titled(self._passages_title, tr("words above, meaning below")))
        if self.n_put_aside:
            box.addLayout(put_aside_row(self.n_put_aside, self.bring_back_wanted))
        best = max(passage.words for passage in sheet.passages)
        self._waiting += [partial(self._add_evidence, box, passage, best) for passage in sheet.passages]
        self._why_not = WhyNot(self._scroll)
        self._why_not.wanted.connect(self.why_not_wanted)
        box.addWidget(self._why_not)

    def _add_sides(self, box: QVBoxLayout, sheet: Sheet) -> None:
        """The values that the documents give differently, beside one another."""
        if sheet.disagreement is None:
            return
        box.addSpacing(8)
        box.addLayout(titled(tr("THE DOCUMENTS DIFFER"), tr("do they speak of the same thing?")))
        beside, rows = side_rows(sheet.disagreement)
        for row in rows:
            self._take_in(row)
            self._sides.append(row)
        box.addLayout(beside)

    def _add_parts(self, box: QVBoxLayout, sheet: Sheet, *, is_being_written: bool) -> None:
        """The sections of a summary, which are built one after another."""
        self._summary = summary = SummaryPart(len(sheet.sections), self._take_in)
        if is_being_written:
            summary.begin(len(sheet.sections))

        def add_section(at: int) -> None:
            # Looked up when it is built: it may have been written meanwhile.
            if self.sheet is not None:
                summary.add(self.sheet.sections[at])

        self._waiting += [partial(add_section, at) for at in range(len(sheet.sections))]
        box.addWidget(summary)

    def _add_evidence(self, box: QVBoxLayout, evidence: Evidence, best_words: float) -> None:
        row = EvidenceRow(evidence, best_words)
        row.pin_wanted.connect(self.pin_wanted)
        row.put_aside_wanted.connect(self.put_aside_wanted)
        # Before the question why not, and the stretch that ends the body.
        self._add_row(box, self._evidence, row, at=box.count() - 2)
        if self.chosen is None:
            # A refused sheet has no lines; its nearest passage is the one that the facsimile shows.
            self.mark_chosen(row)

    def _build_next(self) -> None:
        body = self._scroll.widget()
        box = body.layout() if body is not None else None
        if not self._waiting or self.sheet is None or box is None:
            self._build_timer.stop()
            return
        self._waiting.pop(0)()
        if not self._waiting:
            # Heights depend on widths, and those on whether the scroll bar came: once more, now that all rows are there.
            box.invalidate()
            box.activate()

    def _add_row(self, box: QVBoxLayout, group: list[CitedRow], row: CitedRow, *, at: int = -1) -> None:
        self._take_in(row)
        group.append(row)
        box.insertWidget(at, row)

    def _take_in(self, row: CitedRow) -> None:
        row.chosen.connect(self._on_chosen)
        row.step_wanted.connect(self.step)

    def _forget(self) -> None:
        self.sheet, self._answer, self.chosen, self._why_not = None, None, None, None
        self.reckoned = self.model_alone = self._summary = self._lines_title = self._passages_title = None
        self._lines, self._sides, self._evidence, self._waiting = [], [], [], []

    def _on_chosen(self, row: CitedRow) -> None:
        self.mark_chosen(row)
        self.row_chosen.emit(row)

    def mark_chosen(self, row: CitedRow) -> None:
        """Show which row the facsimile shows, without asking it to."""
        if self.chosen is not None and self.chosen in self.rows:
            self.chosen.set_chosen(False)
        self.chosen = row
        row.set_chosen(True)


def _lines_title(sheet: Sheet) -> str:
    if sheet.places:
        return sheet.places.upper()
    if sheet.sections:
        return tr("THE WHOLE, IN THE DOCUMENTS' OWN WORDS")
    return tr("WHAT THE NEAREST LINES SAY") if sheet.refused else tr("FOUND LINES")


def _passages_title(sheet: Sheet) -> str:
    return (
        tr("NEAREST PASSAGES")
        if sheet.refused
        else tr("EVIDENCE   {passage}").format(passage=counted(len(sheet.passages), "passage"))
    )
