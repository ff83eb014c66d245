# SPDX-License-Identifier: GPL-3.0-or-later
"""The written part of a sheet: what is being written, and then each claim with its support; an answer, a summary or a draft."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from redlantern.answering.sheet import Claim, Sheet
from redlantern.answering.wording import as_text, cautions, searched_also
from redlantern.application.models import closer_reader
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.given_dialog import GivenDialog
from redlantern.desktop.widgets.labels import clear, notice, quiet_button, titled, words_label
from redlantern.desktop.widgets.rows import CitedRow, ClaimRow, DraftRow
from redlantern.translation import tr

_KEPT_LINES = 6
"""As high as a title and a short answer with its mark of support."""
TakeIn = Callable[[CitedRow], None]
"""Makes a row one of the sheet's, walked through with Up and Down."""


class OwnRow(QFrame):
    """A sentence that the model says is its own: set apart from everything that is cited, with nothing to open."""

    def __init__(self, claim: Claim) -> None:
        super().__init__()
        self.setObjectName("modelAlone")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 8)
        layout.setSpacing(3)
        layout.addWidget(words_label(claim.text, family=theme.SANS))
        layout.addWidget(
            words_label(
                tr("not from the documents: {doubt}").format(doubt=claim.doubt),
                family=theme.SANS,
                scale=0.9,
                name="problem",
            )
        )
        self.setAccessibleName(tr("The model's own sentence, not from the documents: {text}").format(text=claim.text))


class AnswerPart(QWidget):
    """The answer's place at the head of a sheet: what is written, then the claims, or that the documents do not say.

    While it is being read and written, room is kept for it, so that nothing under it
    moves when it comes. `rows` are those that stand on words of a document.
    """

    closer_wanted = pyqtSignal()

    def __init__(self, take_in: TakeIn) -> None:
        super().__init__()
        self._take_in = take_in
        self.rows: list[CitedRow] = []
        self._drafts: list[DraftRow] = []
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 4, 0, 0)
        self._box.setSpacing(7)

    def show_waiting(self, sheet: Sheet) -> None:
        """Say that something is about to be read and written, in a place as high as a short answer."""
        self.setMinimumHeight(_KEPT_LINES * self.fontMetrics().lineSpacing())
        self._box.addLayout(titled(_title(sheet), tr("being written; Esc stops")))
        self._add_head(sheet)
        self._drafts = [DraftRow()]
        waiting = tr("reading the passages: whether they answer is not decided yet ...")
        self._drafts[0].set_words(tr("after its sections ...") if sheet.sections else waiting, "")
        self._box.addWidget(self._drafts[0])
        self._box.addStretch(1)

    def show_writing(self, claims: tuple[tuple[str, str], ...]) -> None:
        """Show what the language model has written so far: (text, call-mark) of each claim; none yet, but that there is an answer."""
        if not self._drafts:
            return
        while len(self._drafts) < len(claims):
            self._drafts.append(DraftRow())
            self._box.insertWidget(self._box.count() - 1, self._drafts[-1])
        if not claims:
            self._drafts[0].set_words(tr("the documents answer; writing ..."), "")
        for row, (text, mark) in zip(self._drafts, claims, strict=False):
            row.set_words(text, mark)

    def show_answer(self, sheet: Sheet) -> None:
        """Show the checked claims, or why there are none, in place of what was being written."""
        clear(self._box)
        self._drafts, self.rows = [], []
        if sheet.refused:
            self._box.addWidget(notice(sheet.refusal_reason))
            self._add_words(searched_also(sheet))
            for button in self._given(sheet):
                self._box.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        elif sheet.claims:
            copy = quiet_button(tr("Copy"), tr("Copy these sentences with their call-marks, as plain text"))
            copy.clicked.connect(lambda: _copy(as_text(sheet)))
            self._box.addLayout(titled(_title(sheet), f"{sheet.seconds.total:.1f} s", *self._given(sheet), copy))
            self._add_head(sheet)
            for claim in sheet.claims:
                self._add_claim(claim)
            self._add_words(sheet.left_out)
            self._add_words(searched_also(sheet))
        elif sheet.no_prose_reason:
            self._box.addLayout(titled(tr("NO {title}").format(title=_title(sheet)), "", *self._given(sheet)))
            self._box.addWidget(words_label(sheet.no_prose_reason, family=theme.SANS, name="quiet"))
            self._add_words(searched_also(sheet))
        if closer_reader(sheet):
            closer = quiet_button(
                tr("Read it more closely"),
                tr("Ask again, this once with the close reader: it takes longer and errs less"),
            )
            closer.clicked.connect(self.closer_wanted)
            self._box.addWidget(closer, 0, Qt.AlignmentFlag.AlignLeft)
        for caution in cautions(sheet):
            self._box.addWidget(words_label(caution, family=theme.SANS, scale=0.95, name="problem"))
        self._box.addStretch(1)

    def _given(self, sheet: Sheet) -> list[QPushButton]:
        """The button that shows what the language model was given; none where it was given nothing."""
        if not sheet.given:
            return []
        button = quiet_button(
            tr("What the model was given"), tr("Word for word, with what came of it; to be read and copied")
        )
        button.clicked.connect(lambda: GivenDialog(sheet, self).exec())
        return [button]

    def _add_words(self, words: str) -> None:
        if words:
            self._box.addWidget(words_label(words, family=theme.SANS, scale=0.88, name="quiet"))

    def _add_head(self, sheet: Sheet) -> None:
        if sheet.draft is not None and sheet.draft.head:
            head = words_label(sheet.draft.head, family=theme.SANS, name="quiet")
            head.setContentsMargins(12, 2, 0, 4)
            self._box.addWidget(head)

    def _add_claim(self, claim: Claim) -> None:
        if not claim.citations:
            self._box.addWidget(OwnRow(claim))
            return
        row = ClaimRow(claim)
        self.rows.append(row)
        self._take_in(row)
        self._box.addWidget(row)


def _copy(text: str) -> None:
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    clipboard.setText(text)


def _title(sheet: Sheet) -> str:
    if sheet.sections:
        return tr("WRITTEN SUMMARY")
    if sheet.draft is not None:
        return tr("DRAFT OF A {kind}").format(kind=sheet.draft.kind.upper())
    return (
        tr("WRITTEN ANSWER, IN PART") if sheet.claims and sheet.outcome == "partly answered" else tr("WRITTEN ANSWER")
    )
