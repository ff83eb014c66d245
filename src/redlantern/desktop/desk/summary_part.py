# SPDX-License-Identifier: GPL-3.0-or-later
"""The sections of a summary under the whole of it: each one's lines at once, its sentences as they are written."""

import time

from PyQt6.QtWidgets import QLabel, QProgressBar, QVBoxLayout, QWidget

from redlantern.answering.sheet import SummarySection
from redlantern.desktop.desk.answer_part import OwnRow, TakeIn
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.amounts import duration_words
from redlantern.desktop.widgets.labels import clear, titled, words_label
from redlantern.desktop.widgets.rows import CitedRow, ClaimRow, LineRow
from redlantern.text.listing import counted
from redlantern.translation import tr


class SummaryPart(QWidget):
    """The sections, added one by one, so that nothing waits for them; and how far the writing is."""

    def __init__(self, n_sections: int, take_in: TakeIn) -> None:
        super().__init__()
        self._take_in = take_in
        self._sections: list[_Section] = []
        self._began = time.monotonic()
        self.progress = QLabel("")
        self.progress.setObjectName("quiet")
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, max(1, n_sections))
        self.bar.setAccessibleName(tr("Sections summarised"))
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 6, 0, 0)
        self._box.setSpacing(7)
        sections = counted(n_sections, "section")
        self._box.addLayout(titled(tr("SECTION BY SECTION"), sections))
        self._box.addWidget(self.progress)
        self._box.addWidget(self.bar)
        self.finish()

    @property
    def rows(self) -> list[CitedRow]:
        """All rows of all sections, from top to bottom."""
        return [row for section in self._sections for row in section.rows]

    def begin(self, total: int) -> None:
        """Say that the sections are being written."""
        self._began = time.monotonic()
        self.progress.setText(
            tr("writing section 1 of {total}; Esc stops, and what is written stays").format(total=total)
        )
        for widget in (self.progress, self.bar):
            widget.show()

    def add(self, part: SummarySection) -> None:
        """Add the next section."""
        section = _Section(part, self._take_in)
        self._sections.append(section)
        self._box.addWidget(section)

    def show_written(self, part: SummarySection, done: int, total: int) -> None:
        """Show the sentences of a section that has just been written, and how long the others will take."""
        if done <= len(self._sections):
            self._sections[done - 1].fill(part)
        left_s = (time.monotonic() - self._began) / done * (total - done)
        self.bar.setValue(done)
        self.progress.setText(
            tr("{done} of {total} sections written, about {duration_words} left; Esc stops").format(
                done=done, total=total, duration_words=duration_words(left_s)
            )
        )

    def finish(self) -> None:
        """Nothing more is being written."""
        for widget in (self.progress, self.bar):
            widget.hide()


class _Section(QWidget):
    def __init__(self, part: SummarySection, take_in: TakeIn) -> None:
        super().__init__()
        self._take_in = take_in
        self.rows: list[CitedRow] = []
        self._inner = QVBoxLayout()
        self._inner.setSpacing(5)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 6, 0, 0)
        box.setSpacing(4)
        # A heading is the document's own words.
        heading = words_label(part.title, family=theme.SERIF, scale=1.05)
        heading.setFont(theme.voice(theme.SERIF, scale=1.05, weight=theme.BOLD))
        box.addWidget(heading)
        if part.rows:
            box.addWidget(
                words_label(tr("beside {rows}").format(rows=part.rows), family=theme.SANS, scale=0.88, name="quiet")
            )
        box.addLayout(self._inner)
        self.fill(part)

    def fill(self, part: SummarySection) -> None:
        """Show what was written of the section, or its lines until then."""
        clear(self._inner)
        self.rows = []
        for claim in part.claims:
            if claim.citations:
                self._add(ClaimRow(claim))
            else:
                self._inner.addWidget(OwnRow(claim))
        for line in () if part.claims else part.lines:
            self._add(LineRow(line))

    def _add(self, row: CitedRow) -> None:
        self.rows.append(row)
        self._take_in(row)
        self._inner.addWidget(row)
