"""The middle column: one sheet at a time, from question to evidence."""

from PyQt6.QtCore import Qt, QTimer, pyqtBoundSignal, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QScrollBar, QVBoxLayout, QWidget

from redlantern.answering.sheet import Sheet
from redlantern.desktop import theme
from redlantern.desktop.rows import CitedRow, ClaimRow, DraftRow, LineRow, evidence_rows, section_label, words_label


class SheetView(QWidget):
    """Shows a sheet. Up and Down walk through all its rows, and the chosen one is announced by `row_chosen`."""

    row_chosen = pyqtSignal(object)
    previous_wanted = pyqtSignal()
    next_wanted = pyqtSignal()
    edit_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.sheet: Sheet | None = None
        self.rows: list[CitedRow] = []
        self._drafts: list[DraftRow] = []
        self._draft_box: QVBoxLayout | None = None
        self._chosen: CitedRow | None = None
        self._place = QLabel("")
        self._place.setObjectName("quiet")
        self.previous_button = self._turner("‹", "Earlier sheet", self.previous_wanted)
        self.next_button = self._turner("›", "Later sheet", self.next_wanted)
        top = QHBoxLayout()
        top.setContentsMargins(22, 8, 16, 2)
        top.addWidget(self._place, 1)
        top.addWidget(self.previous_button)
        top.addWidget(self.next_button)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(self._scroll, 1)
        self.set_place(0, 0)

    @property
    def chosen(self) -> CitedRow | None:
        """The row that the facsimile shows."""
        return self._chosen

    def set_place(self, number: int, total: int) -> None:
        """Say which of how many sheets this is."""
        self._place.setText(f"Sheet {number} of {total}" if total else "")
        self.previous_button.setEnabled(number > 1)
        self.next_button.setEnabled(number < total)
        for button in (self.previous_button, self.next_button):
            button.setVisible(total > 1)

    def show_widget(self, widget: QWidget) -> None:
        """Show something that is no sheet: a welcome, or what went wrong."""
        self.sheet, self.rows, self._chosen = None, [], None
        self._scroll.setWidget(widget)

    def show_asking(self, question: str) -> None:
        """Show a question that is being searched for."""
        body, box = self._new_body(question)
        box.addWidget(words_label("Searching ...", family=theme.SANS, name="quiet"))
        box.addStretch(1)
        self.sheet, self.rows, self._chosen = None, [], None
        self._scroll.setWidget(body)

    def show_sheet(self, sheet: Sheet, *, is_being_written: bool = False, note: str = "") -> None:
        """Show a sheet; `note` replaces the written answer by a reason why there is none."""
        kept = self.rows.index(self._chosen) if self._chosen in self.rows else None
        scrolled = self._bar().value() if kept is not None else 0
        self.sheet, self.rows, self._drafts, self._draft_box = sheet, [], [], None
        self._chosen = None
        body, box = self._new_body(sheet.question)
        self._add_search_words(box, sheet)
        if sheet.refused:
            self._add_refusal(box, sheet)
        else:
            self._add_found_lines(box, sheet)
            self._add_answer(box, sheet, is_being_written, note)
        if sheet.passages:
            box.addSpacing(8)
            words = "NEAREST PASSAGES" if sheet.refused else f"EVIDENCE   {len(sheet.passages)} passages"
            box.addLayout(_titled(words, "words above, meaning below"))
            for row in evidence_rows(sheet.passages):
                self._add_row(box, row)
        box.addStretch(1)
        self._scroll.setWidget(body)
        if kept is not None and kept < len(self.rows):
            self.mark_chosen(self.rows[kept])
            self._bar().setValue(scrolled)

    def show_writing(self, claims: tuple[tuple[str, str], ...]) -> None:
        """Show what the language model has written so far."""
        if self._draft_box is None:
            return
        while len(self._drafts) < len(claims):
            self._drafts.append(DraftRow())
            self._draft_box.addWidget(self._drafts[-1])
        for row, (text, mark) in zip(self._drafts, claims, strict=False):
            row.set_words(text, mark)

    def choose(self, index: int) -> None:
        """Choose a row by its number, as Up and Down do."""
        if self.rows:
            row = self.rows[max(0, min(len(self.rows) - 1, index))]
            row.setFocus(Qt.FocusReason.OtherFocusReason)
            self._on_chosen(row)
            # Once the layout knows where the row is.
            QTimer.singleShot(0, self._reveal_chosen)

    def step(self, by: int) -> None:
        """Choose the next row, or the one before."""
        at = self.rows.index(self._chosen) if self._chosen in self.rows else -1 if by > 0 else 0
        self.choose(at + by)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down walk through the rows; Enter chooses the one in focus."""
        assert event is not None
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.step(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(row := self.focusWidget(), CitedRow):
            row.choose()
        else:
            super().keyPressEvent(event)

    def _reveal_chosen(self) -> None:
        if self._chosen in self.rows:
            self._scroll.ensureWidgetVisible(self._chosen, 0, 40)

    def _turner(self, text: str, name: str, signal: pyqtBoundSignal) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName("quiet")
        button.setFont(theme.voice(theme.SANS, scale=1.3))
        button.setAccessibleName(name)
        button.setToolTip(name)
        button.clicked.connect(signal)
        return button

    def _new_body(self, question: str) -> tuple[QWidget, QVBoxLayout]:
        body = QWidget()
        box = QVBoxLayout(body)
        box.setContentsMargins(22, 4, 18, 24)
        box.setSpacing(7)
        title = words_label(question, family=theme.SANS, scale=1.35)
        title.setFont(theme.voice(theme.SANS, scale=1.35, weight=theme.BOLD))
        box.addWidget(title)
        return body, box

    def _add_search_words(self, box: QVBoxLayout, sheet: Sheet) -> None:
        said = []
        if sheet.standalone_question != sheet.question:
            said.append(f"searched as: {sheet.standalone_question}")
        said += [f"“{typed}” searched as “{form}”" for typed, form in sheet.mended.items()]
        if not said:
            return
        row = QHBoxLayout()
        row.addWidget(words_label("; ".join(said), family=theme.SANS, scale=0.95, name="quiet"), 1)
        edit = QPushButton("edit")
        edit.setObjectName("quiet")
        edit.setToolTip("Put the words that were searched for into the question bar, to change them and ask again")
        edit.setAccessibleName("Edit the question as it was searched for")
        edit.clicked.connect(lambda: self.edit_wanted.emit(sheet.standalone_question))
        row.addWidget(edit, 0, Qt.AlignmentFlag.AlignTop)
        box.addLayout(row)

    def _add_refusal(self, box: QVBoxLayout, sheet: Sheet) -> None:
        notice = QWidget()
        notice.setObjectName("notice")
        notice.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        inner = QVBoxLayout(notice)
        inner.setContentsMargins(16, 12, 16, 12)
        inner.addWidget(words_label(sheet.refusal_reason, family=theme.SANS, scale=1.05))
        notice.setAccessibleName(sheet.refusal_reason)
        box.addSpacing(4)
        box.addWidget(notice)

    def _add_found_lines(self, box: QVBoxLayout, sheet: Sheet) -> None:
        box.addSpacing(4)
        seconds = sheet.seconds.first_line
        box.addLayout(_titled("FOUND LINES", f"{seconds:.1f} s" if seconds is not None else ""))
        for line in sheet.found_lines:
            self._add_row(box, LineRow(line))

    def _add_answer(self, box: QVBoxLayout, sheet: Sheet, is_being_written: bool, note: str) -> None:
        box.addSpacing(8)
        if is_being_written:
            box.addLayout(_titled("WRITTEN ANSWER", "being written; Esc stops"))
            self._draft_box = QVBoxLayout()
            self._draft_box.setSpacing(0)
            box.addLayout(self._draft_box)
            self._drafts = [DraftRow()]
            self._drafts[0].set_words("reading the found lines ...", "")
            self._draft_box.addWidget(self._drafts[0])
            return
        if sheet.claims:
            box.addLayout(_titled("WRITTEN ANSWER", f"{sheet.seconds.total:.1f} s"))
            for claim in sheet.claims:
                self._add_row(box, ClaimRow(claim))
        reason = note or sheet.no_prose_reason
        if reason:
            box.addLayout(_titled("NO WRITTEN ANSWER", ""))
            box.addWidget(words_label(reason, family=theme.SANS, name="quiet"))

    def _add_row(self, box: QVBoxLayout, row: CitedRow) -> None:
        row.chosen.connect(self._on_chosen)
        self.rows.append(row)
        box.addWidget(row)

    def _on_chosen(self, row: CitedRow) -> None:
        self.mark_chosen(row)
        self.row_chosen.emit(row)

    def mark_chosen(self, row: CitedRow) -> None:
        """Show which row the facsimile shows, without asking it to."""
        if self._chosen is not None and self._chosen in self.rows:
            self._chosen.set_chosen(False)
        self._chosen = row
        row.set_chosen(True)

    def _bar(self) -> QScrollBar:
        bar = self._scroll.verticalScrollBar()
        assert bar is not None
        return bar


def _titled(text: str, aside: str) -> QHBoxLayout:
    row = QHBoxLayout()
    row.addWidget(section_label(text))
    row.addStretch(1)
    if aside:
        label = QLabel(aside)
        label.setObjectName("section")
        label.setFont(theme.voice(theme.SANS, scale=0.85))
        row.addWidget(label)
    return row
