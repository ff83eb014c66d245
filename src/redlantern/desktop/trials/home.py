# SPDX-License-Identifier: GPL-3.0-or-later
"""Where trials begin: the sets of questions, and the runs that are kept."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from redlantern.application.trials import RunState
from redlantern.application.tried import KeptCopy
from redlantern.desktop.trials.words import how_far_words
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import show_in_the_middle
from redlantern.desktop.widgets.labels import clear, notice, quiet_button, section_label, words_label
from redlantern.text.listing import counted
from redlantern.translation import tr
from redlantern.trials.values import QuestionSet

_INTRODUCTION = tr(
    "Write down questions whose answers you know, with the page that answers. Then let them be asked in "
    "two ways, and see with figures which way finds more: before you change a model or a setting, and "
    "after an update. The same questions can also be put to each document alone, which gives a grid to "
    "work with."
)
_NO_SETS = tr("None yet. Begin one, take one over from a file, or mark a sheet on the desk as right (Ctrl+T).")
_NO_COPIES = tr(
    "None. Another embedding model, or passages of another length, need an index of their own: it is "
    "made once beside the collection, can then be chosen as a way of answering, and is let go when it is "
    "no longer wanted."
)
_WIDTH = 900


class Home(QWidget):
    """The page. Signals carry the number of a set or of a run."""

    set_opened = pyqtSignal(int)
    set_begun = pyqtSignal()
    file_wanted = pyqtSignal()
    run_wanted = pyqtSignal(int)
    grid_wanted = pyqtSignal(int)
    set_deleted = pyqtSignal(int)
    run_opened = pyqtSignal(int)
    run_deleted = pyqtSignal(int)
    again_wanted = pyqtSignal(int)
    copy_wanted = pyqtSignal()
    copy_dropped = pyqtSignal(str)
    copying_stopped = pyqtSignal()
    lines_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.notice = words_label("", family=theme.SANS, name="problem")
        self.new_button = QPushButton(tr("New set"))
        self.new_button.setObjectName("first")
        self.new_button.clicked.connect(self.set_begun)
        self.file_button = QPushButton(tr("From a file ..."))
        self.file_button.setToolTip(tr("JSONL, CSV, a workbook, or one question a line (docs/trials.md)"))
        self.file_button.clicked.connect(self.file_wanted)
        self.paste_button = QPushButton(tr("From lines ..."))
        self.paste_button.setToolTip(tr("Paste or type questions, one a line"))
        self.paste_button.clicked.connect(self.lines_wanted)
        self.copy_button = QPushButton(tr("Make another index ..."))
        self.copy_button.setToolTip(
            tr("With another embedding model or longer passages, beside the collection, to be compared with it")
        )
        self.copy_button.clicked.connect(self.copy_wanted)
        self.stop_button = QPushButton(tr("Stop"))
        self.stop_button.clicked.connect(self.copying_stopped)
        self.stop_button.hide()
        self.copying = words_label("", family=theme.SANS, name="quiet")
        self._warnings, self._sets, self._runs = QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self._copies = QVBoxLayout()
        self._build()
        self.show_kept([], [])
        self.show_copies([])

    def show_kept(
        self,
        sets: Sequence[QuestionSet],
        states: Sequence[RunState],
        outdated: Sequence[tuple[RunState, str]] = (),
    ) -> None:
        """List what the collection keeps; `outdated` are marks since which something changed, with what did."""
        clear(self._warnings)
        for state, words in outdated:
            self._warnings.addWidget(self._warning(state, words))
        clear(self._sets)
        clear(self._runs)
        for each in sets:
            self._sets.addWidget(self._set_row(each))
        if not sets:
            self._sets.addWidget(words_label(_NO_SETS, family=theme.SANS, name="quiet"))
        for state in states:
            self._runs.addWidget(self._run_row(state))
        if not states:
            self._runs.addWidget(words_label(tr("None yet."), family=theme.SANS, name="quiet"))

    def show_copies(self, copies: Sequence[KeptCopy]) -> None:
        """List the other indexes beside the collection."""
        clear(self._copies)
        for kept in copies:
            copy = kept.copy
            said = tr("{size_bytes:,.0f} MB beside the collection, encrypted with its key").format(
                size_bytes=copy.size_bytes / 1e6
            )
            said += "" if kept.is_current else tr("; the documents have changed since it was made")
            self._copies.addWidget(
                _row(
                    copy.name, said,
                    (tr("Let it go"), tr("Remove it from the disk"), partial(self.copy_dropped.emit, copy.word), True),
                )
            )  # fmt: skip
        if not copies:
            self._copies.addWidget(words_label(_NO_COPIES, family=theme.SANS, name="quiet"))

    def show_copying(self, words: str, *, is_running: bool) -> None:
        """Say how far the making of one is, or how it ended."""
        self.copying.setText(words)
        self.stop_button.setVisible(is_running)
        self.copy_button.setEnabled(not is_running)

    def _warning(self, state: RunState, words: str) -> QWidget:
        frame = notice(
            tr(
                "Since the run of “{name}” that is the mark {words}: ask it again to see whether something was lost."
            ).format(name=state.run.name, words=words)
        )
        again = QPushButton(tr("Ask it again"))
        again.setAccessibleName(tr("Ask again: {name}").format(name=state.run.name))
        again.clicked.connect(lambda: self.again_wanted.emit(state.run.run_id))
        box = frame.layout()
        assert box is not None
        box.addWidget(again)
        box.setAlignment(again, Qt.AlignmentFlag.AlignLeft)
        return frame

    def _set_row(self, each: QuestionSet) -> QWidget:
        n_bare = sum(question.expects_nothing for question in each.questions)
        said = counted(len(each.questions), "question")
        said += tr(", {n_bare} without anything expected").format(n_bare=n_bare) if n_bare else ""
        n_proposed = sum(question.is_proposed for question in each.questions)
        said += tr(", {n_proposed} thought of by a model").format(n_proposed=n_proposed) if n_proposed else ""
        has_questions, number = bool(each.questions), each.set_id
        return _row(
            each.name,
            said,
            (
                tr("Ask them ..."),
                tr("Ask every question in one or more ways, and compare"),
                lambda: self.run_wanted.emit(number),
                has_questions,
            ),
            (
                tr("Grid ..."),
                tr("Put them to each document alone"),
                lambda: self.grid_wanted.emit(number),
                has_questions,
            ),
            (tr("Open"), tr("See and change its questions"), lambda: self.set_opened.emit(number), True),
            (tr("Delete ..."), tr("Forget the set; its runs stay"), lambda: self.set_deleted.emit(number), True),
        )

    def _run_row(self, state: RunState) -> QWidget:
        number = state.run.run_id
        opening = tr("Open") if state.is_done else tr("Go on")
        mark = tr("   the mark") if state.run.is_mark else ""
        kind = tr("Grid: ") if state.run.kind == "grid" else ""
        return _row(
            f"{kind}{state.run.name}{mark}", how_far_words(state),
            (opening, tr("Show its figures and answers"), lambda: self.run_opened.emit(number), True),
            (tr("Delete ..."), tr("Forget it with its answers"), lambda: self.run_deleted.emit(number), True),
        )  # fmt: skip

    def _build(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(28, 20, 28, 20)
        column.setSpacing(8)
        column.addWidget(words_label(_INTRODUCTION, family=theme.SANS, scale=1.02))
        column.addSpacing(8)
        column.addLayout(self._warnings)
        column.addWidget(section_label(tr("SETS OF QUESTIONS")))
        column.addLayout(self._sets)
        row = QHBoxLayout()
        row.addWidget(self.new_button)
        row.addWidget(self.file_button)
        row.addWidget(self.paste_button)
        row.addWidget(self.notice, 1)
        column.addLayout(row)
        column.addSpacing(14)
        column.addWidget(section_label(tr("RUNS")))
        column.addLayout(self._runs)
        column.addSpacing(14)
        column.addWidget(section_label(tr("OTHER INDEXES TO COMPARE WITH")))
        column.addLayout(self._copies)
        making = QHBoxLayout()
        making.addWidget(self.copy_button)
        making.addWidget(self.stop_button)
        making.addWidget(self.copying, 1)
        column.addLayout(making)
        column.addStretch(1)
        show_in_the_middle(self, body, _WIDTH)
        for rows in (self._warnings, self._sets, self._runs, self._copies):
            rows.setSpacing(4)


def _row(title: str, said: str, *actions: tuple[str, str, Callable[[], object], bool]) -> QWidget:
    """A row of the page: what it is, and what can be done with it."""
    row = QWidget()
    row.setObjectName("panel")
    row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    inner = QHBoxLayout(row)
    inner.setContentsMargins(14, 7, 8, 7)
    words = QVBoxLayout()
    words.setSpacing(1)
    name: QLabel = words_label(title, family=theme.SANS)
    words.addWidget(name)
    words.addWidget(words_label(said, family=theme.SANS, scale=0.88, name="quiet"))
    inner.addLayout(words, 1)
    for text, tip, act, is_possible in actions:
        button = quiet_button(text, tip)
        button.setAccessibleName(f"{text.removesuffix(' ...')}: {title}")
        button.setEnabled(is_possible)
        button.clicked.connect(lambda _, act=act: act())
        inner.addWidget(button, 0, Qt.AlignmentFlag.AlignVCenter)
    return row
