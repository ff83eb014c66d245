# SPDX-License-Identifier: GPL-3.0-or-later
"""A read-through at work or done: the map at the left, the pages to judge in the middle, the page at the right."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.read_through import ReadThrough, why_silent
from redlantern.collection.values import Document
from redlantern.desktop.readthrough.hits_list import HitsList
from redlantern.desktop.readthrough.page_map import PageMap, map_column
from redlantern.desktop.readthrough.words import how_far, learned_words, sample_words
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.facsimile import Facsimile
from redlantern.desktop.widgets.labels import name_choice, quiet_button, words_label
from redlantern.progress import Progress
from redlantern.readthrough.learning import Learned, in_turn
from redlantern.readthrough.values import PageRead
from redlantern.text.listing import seconds_words
from redlantern.translation import tr

TO_JUDGE, SAMPLE = tr("To judge"), tr("Sample of silent pages")
_Chosen = Callable[[PageRead], bool]
_FILTERS: dict[str, _Chosen] = {
    TO_JUDGE: lambda page: page.is_open,
    tr("Hits"): lambda page: page.counts,
    tr("Doubtful"): lambda page: page.state == "doubtful",
    tr("Accepted"): lambda page: page.judged == "accepted",
    tr("Rejected"): lambda page: page.judged == "rejected",
    tr("Could not be read"): lambda page: page.state == "unreadable",
}
_KEYS = tr("A accept    R reject    O leave open    N note    ↑ ↓ next page")


class ThroughView(QWidget):
    """The view of one read-through."""

    judged = pyqtSignal(str, str)
    back_wanted = pyqtSignal()
    pause_wanted = pyqtSignal(bool)
    stop_wanted = pyqtSignal()
    go_on_wanted = pyqtSignal()
    more_wanted = pyqtSignal()
    statement_wanted = pyqtSignal()
    page_chosen = pyqtSignal(object, object)
    example_wanted = pyqtSignal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.through: ReadThrough | None = None
        self.learned: Learned | None = None
        self.is_running = False
        self.title = words_label("", family=theme.SANS, scale=1.15)
        self.state = words_label("", family=theme.SANS, name="quiet")
        self.problem = words_label("", family=theme.SANS, name="problem")
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName(tr("Pages read"))
        self.map, self.hits, self.facsimile = PageMap(), HitsList(), Facsimile()
        self.filter = QComboBox()
        self.filter.addItems([*_FILTERS, SAMPLE])
        name_choice(self.filter, tr("Which pages are listed"))
        self.note = QLineEdit()
        self.note.setPlaceholderText(tr("Note to this page ..."))
        self.note.setAccessibleName(tr("Note to the chosen page"))
        self.note.setObjectName("question")
        self.about = words_label("", family=theme.SANS, scale=0.9, name="quiet")
        self.example_buttons: list[QPushButton] = []
        self._make_buttons()
        self._build()
        self.filter.currentTextChanged.connect(lambda _: self.show_rows())
        self.hits.judged.connect(lambda judged: self._judge(judged))
        self.hits.note_wanted.connect(self.note.setFocus)
        self.note.returnPressed.connect(self._on_note)
        self.hits.page_chosen.connect(self._on_row)
        self._show_state()
        self.facsimile.step_wanted.connect(self._step)
        self.map.page_chosen.connect(self._on_cell)

    # What is shown

    def show_through(self, through: ReadThrough) -> None:
        """Show a read-through as it stands; the chosen page stays chosen."""
        is_other = self.through is None or self.through.key != through.key
        self.through = through
        if is_other:
            self.learned = None
            self.filter.setCurrentText(TO_JUDGE)
        self.title.setText(through.wish.question)
        self.map.show_coverage(through.covered)
        self.show_rows()
        self._show_state()

    def show_running(self, is_running: bool, problem: str = "") -> None:
        """Pages are being read just now, or not; and what stopped it."""
        self.is_running = is_running
        self.problem.setText(problem)
        self.problem.setVisible(bool(problem))
        self.bar.setVisible(is_running)
        if not is_running:
            self.pause_button.setChecked(False)
        self._show_state()

    def show_progress(self, progress: Progress, left_s: float | None) -> None:
        """Say how far it is, and how long it takes yet."""
        self.bar.setRange(0, progress.total or 0)
        self.bar.setValue(progress.done)
        left = tr(", {seconds_words} left").format(seconds_words=seconds_words(left_s)) if left_s is not None else ""
        self.state.setText(
            tr("Reading page {done} of {total}{left}: {detail}").format(
                done=progress.done, total=progress.total, left=left, detail=progress.detail
            )
        )

    def show_judged(self, page: PageRead) -> None:
        """Show what was just said to a page, in the list and on the map."""
        if self.through is None:
            return
        documents = tuple(
            replace(each, pages=tuple(page if old and old.place == page.place else old for old in each.pages))
            if each.document.key == page.place[0]
            else each
            for each in self.through.covered.documents
        )
        self.through = replace(self.through, covered=replace(self.through.covered, documents=documents))
        self.hits.pages.replace(page)
        self.map.show_coverage(self.through.covered)
        self.map.go_to(page.place)
        self._say_about(len(self.hits.pages.rows))

    def show_learned(self, learned: Learned | None) -> None:
        """Order what is to be judged by what was judged."""
        self.learned = learned
        if self.filter.currentText() == TO_JUDGE:
            self.show_rows()

    def show_rows(self) -> None:
        """List the pages that the filter lets through."""
        if self.through is None:
            return
        chosen = self.hits.current[1].place if self.hits.current is not None else None
        rows = self._rows()
        self.hits.pages.show_rows(rows)
        places = [page.place for _, page in rows]
        at = places.index(chosen) if chosen in places else 0
        if rows:
            self.hits.setCurrentIndex(self.hits.pages.index(at))
        self._say_about(len(rows))

    # How it is done

    def _rows(self) -> list[tuple[Document, PageRead]]:
        assert self.through is not None
        covered = self.through.covered
        documents = {each.document.key: each.document for each in covered.documents}
        if self.filter.currentText() == SAMPLE:
            by_place = {page.place: page for page in covered.pages}
            pages = [by_place[place] for place in self.through.drawn if place in by_place]
        else:
            pages = [page for page in covered.pages if _FILTERS[self.filter.currentText()](page)]
            if self.filter.currentText() == TO_JUDGE:
                pages = in_turn(pages, self.learned)
        return [(documents[page.place[0]], page) for page in pages]

    def _say_about(self, n_rows: int) -> None:
        assert self.through is not None
        if self.filter.currentText() == SAMPLE:
            words = sample_words(self.through)
        elif self.filter.currentText() == TO_JUDGE and self.learned is not None:
            words = learned_words(self.learned)
        elif self.filter.currentText() == TO_JUDGE and n_rows:
            words = tr(
                "The most doubtful first. After two accepted and two rejected the likeliest come first, by your "
                "judgements."
            )
        else:
            words = "" if n_rows else self._nothing()
        self.about.setText(words)
        self.about.setVisible(bool(words))

    def _nothing(self) -> str:
        assert self.through is not None
        if self.filter.currentText() != TO_JUDGE:
            return tr("No page here.")
        if self.is_running:
            return tr("Hits come in here while the pages are read.")
        if not any(page.state in ("hit", "doubtful") for page in self.through.covered.pages):
            return tr("No page is a hit. Any page of the map can be opened and accepted all the same.")
        return tr("All is judged. What may have been missed, a sample of the silent pages says: choose it above.")

    def _show_state(self) -> None:
        if self.through is None:
            # The page of a listed value, without a read-through.
            self.title.setText(tr("A page of the list"))
            for widget in (
                self.go_on_button,
                self.pause_button,
                self.stop_button,
                self.more_button,
                self.bar,
                self.about,
            ):
                widget.hide()
            self.statement_button.setEnabled(False)
            return
        if not self.is_running:
            self.state.setText(how_far(self.through))
        is_unread = bool(self.through.covered.n_unread)
        self.go_on_button.setVisible(is_unread and not self.is_running)
        self.pause_button.setVisible(self.is_running)
        self.stop_button.setVisible(self.is_running)
        self.more_button.setVisible(not self.is_running and self.through.wish.way != "all")
        self.statement_button.setEnabled(not self.is_running)
        for button in self.example_buttons:
            button.setVisible(not self.is_running and self.through.wish.way == "lines")

    def _judge(self, judged: str, note: str | None = None) -> None:
        current = self.hits.current
        if current is None:
            return
        at = self.hits.currentIndex().row()
        self.judged.emit(judged, current[1].note if note is None else note)
        if judged and at + 1 < len(self.hits.pages.rows):
            self.hits.setCurrentIndex(self.hits.pages.index(at + 1))

    def _on_note(self) -> None:
        if self.hits.current is not None:
            self._judge(self.hits.current[1].judged, self.note.text().strip())
            self.hits.setFocus()

    def _step(self, by: int) -> None:
        at = self.hits.currentIndex().row() + by
        if 0 <= at < len(self.hits.pages.rows):
            self.hits.setCurrentIndex(self.hits.pages.index(at))

    def _on_row(self, row: tuple[Document, PageRead]) -> None:
        document, page = row
        self.note.setText(page.note)
        self.map.go_to(page.place)
        self._say_about(len(self.hits.pages.rows))
        if page.state in ("silent", "unreadable") and self.filter.currentText() != SAMPLE:
            self.about.setText(why_silent(page))
            self.about.show()
        self.page_chosen.emit(document, page)

    def _on_cell(self, place: object) -> None:
        """A page of the map: shown, and listed alone where the list does not have it."""
        assert self.through is not None
        rows = self.hits.pages.rows
        at = next((at for at, (_, page) in enumerate(rows) if page.place == place), -1)
        if at < 0:
            page = next((page for page in self.through.covered.pages if page.place == place), None)
            document = self.through.covered.document_of(place)  # type: ignore[arg-type]
            if page is None or document is None:
                return
            self.hits.pages.show_rows([(document, page), *rows])
            at = 0
        self.hits.setCurrentIndex(self.hits.pages.index(at))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Backspace goes back to the form."""
        if event is not None and event.key() == Qt.Key.Key_Backspace:
            self.back_wanted.emit()
        else:
            super().keyPressEvent(event)

    # How it is built

    def _make_buttons(self) -> None:
        self.back_button = quiet_button(tr("‹ All read-throughs"), tr("Back to the form and the earlier read-throughs"))
        self.pause_button = QPushButton(tr("Pause"))
        self.pause_button.setCheckable(True)
        self.pause_button.toggled.connect(self._on_pause)
        self.stop_button = QPushButton(tr("Stop"))
        self.go_on_button = QPushButton(tr("Read what is missing"))
        self.go_on_button.setObjectName("first")
        self.more_button = QPushButton(tr("Read more carefully ..."))
        self.statement_button = QPushButton(tr("Statement ..."))
        for button, signal in (
            (self.back_button, self.back_wanted),
            (self.stop_button, self.stop_wanted),
            (self.go_on_button, self.go_on_wanted),
            (self.more_button, self.more_wanted),
            (self.statement_button, self.statement_wanted),
        ):
            button.clicked.connect(signal)

    def _on_pause(self, is_paused: bool) -> None:
        self.pause_button.setText(tr("Go on") if is_paused else tr("Pause"))
        self.pause_wanted.emit(is_paused)

    def _build(self) -> None:
        head = QVBoxLayout()
        head.setContentsMargins(22, 10, 22, 8)
        head.setSpacing(3)
        top = QHBoxLayout()
        top.setSpacing(8)
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(self.title)
        words.addWidget(self.state)
        top.addWidget(self.back_button, 0, Qt.AlignmentFlag.AlignTop)
        top.addLayout(words, 1)
        for button in (self.pause_button, self.stop_button, self.go_on_button, self.more_button, self.statement_button):
            top.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        head.addLayout(top)
        head.addWidget(self.problem)
        head.addWidget(self.bar)
        columns = QSplitter(Qt.Orientation.Horizontal)
        columns.setChildrenCollapsible(False)
        columns.setHandleWidth(1)
        for column in (map_column(self.map), self._list_column(), self.facsimile):
            columns.addWidget(column)
        columns.setSizes([270, 520, 490])
        columns.setStretchFactor(1, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(columns, 1)

    def _judging_row(self) -> QHBoxLayout:
        """What the keys do, for the mouse; and examples, by which all pages are compared anew."""
        row = QHBoxLayout()
        row.setContentsMargins(2, 0, 2, 0)
        row.setSpacing(6)
        for words, judged in ((tr("Accept"), "accepted"), (tr("Reject"), "rejected"), (tr("Leave open"), "")):
            button = QPushButton(words)
            button.setAccessibleName(tr("{words} the chosen page").format(words=words))
            button.clicked.connect(lambda _, judged=judged: self._judge(judged))
            row.addWidget(button)
        row.addStretch(1)
        for words, is_hit in ((tr("More like this"), True), (tr("Less like this"), False)):
            button = quiet_button(
                words, tr("Take these words as an example, and compare every page that you have not judged anew")
            )
            button.clicked.connect(lambda _, is_hit=is_hit: self._on_example(is_hit))
            row.addWidget(button)
            self.example_buttons.append(button)
        return row

    def _on_example(self, is_hit: bool) -> None:
        current = self.hits.current
        if current is not None and current[1].words:
            self.example_wanted.emit(current[1], is_hit)

    def _list_column(self) -> QWidget:
        column = QWidget()
        box = QVBoxLayout(column)
        box.setContentsMargins(6, 8, 6, 8)
        box.setSpacing(6)
        top = QHBoxLayout()
        top.setContentsMargins(8, 0, 8, 0)
        top.addWidget(self.filter)
        top.addStretch(1)
        box.addLayout(top)
        self.about.setContentsMargins(8, 0, 8, 0)
        box.addWidget(self.about)
        box.addWidget(self.hits, 1)
        box.addLayout(self._judging_row())
        box.addWidget(self.note)
        keys = words_label(_KEYS, family=theme.SANS, scale=0.85, name="quiet")
        keys.setContentsMargins(8, 0, 8, 0)
        box.addWidget(keys)
        return column
