# SPDX-License-Identifier: GPL-3.0-or-later
"""The proof in the seal room: every process of the program tries to get out, and a table says what came of it."""

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.bridge import Task
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.models import proof
from redlantern.models.proof import Proof
from redlantern.safety import attempts
from redlantern.safety.attempts import Attempt
from redlantern.safety.processes import ProcessState
from redlantern.safety.seal import SealState
from redlantern.translation import tr

_HOW = tr(
    "Before Red Lantern opens a file it asks the Linux kernel to refuse it every network socket, and the "
    "kernel never takes that back. The processes that read documents or hold the language model may "
    "reach nothing but what they need."
)
_KINDS = {
    attempts.NETWORK: tr("reach a network"),
    attempts.WRITING: tr("change or make files"),
    attempts.STARTING: tr("start other programs"),
    attempts.READING: tr("read other documents"),
    attempts.PROCESSES: tr("look into other processes"),
    attempts.TERMINAL: tr("type into the terminal"),
    attempts.BUS: tr("ask other services"),
}
"""What is tried, in the words of the table's rows."""
_SHORT = {
    attempts.WINDOW: tr("window"),
    attempts.RECOGNITION: tr("recognition"),
    attempts.HOST: tr("model"),
    attempts.LINK: tr("link"),
}
_LEGEND = tr(
    "closed: the kernel refused it. needed: open to the window alone, which keeps your collections, "
    "opens documents in their own programs and asks this login's secret store."
)
_CLOSED, _NEEDED, _OPEN, _FILTERED = tr("closed"), tr("needed"), tr("OPEN"), tr("filtered")


class ProofPane(QWidget):
    """A button that lets every process try, the verdict, the table, and each try on demand."""

    def __init__(self, seal: SealState) -> None:
        super().__init__()
        self.proof: Proof | None = None
        self._task: Task | None = None
        self.test_button = QPushButton(tr("Try to get out"))
        self.test_button.setObjectName("first")
        self.test_button.setToolTip(
            tr("Let every process try everything that it must not be able to do, and show what came of it")
        )
        self.test_button.setAccessibleName(tr("Try to get out"))
        self.verdict = QLabel("")
        self.verdict.setTextFormat(Qt.TextFormat.PlainText)
        self.verdict.setWordWrap(True)
        self.verdict.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
        self.details_button = QPushButton(tr("Show each try"))
        self.details_button.setObjectName("quiet")
        self.details_button.setCheckable(True)
        self.details_button.setAccessibleName(tr("Show each try, with what the kernel said"))
        self._lacks = words_label("", family=theme.SANS, name="problem")
        self._legend = words_label(_LEGEND, family=theme.SANS, scale=0.95, name="quiet")
        self._table, self._processes, self._details = QGridLayout(), QGridLayout(), QGridLayout()
        self._processes_label = section_label(tr("EVERY PROCESS, AND WHAT THE KERNEL LETS IT OPEN"))
        self._details_box = QWidget()
        self._build(seal)
        self.test_button.clicked.connect(self.run)
        self.details_button.toggled.connect(self._on_details)

    def run(self) -> None:
        """Let every process try, off the interface thread."""
        if self._task is None:
            self.test_button.setEnabled(False)
            self.verdict.setText(tr("Every process is trying ..."))
            self._task = Task(lambda _: proof.prove())
            self._task.finished.connect(self._on_proved)
            self._task.failed.connect(self._on_failed)
            self._task.start()

    def wait(self) -> None:
        """Wait for a run to end."""
        if self._task is not None:
            self._task.wait()

    def _build(self, seal: SealState) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(7)
        how = (
            _HOW
            if seal.is_on
            else tr("The network is not closed off on this machine. {reason}").format(reason=seal.reason)
        )
        box.addWidget(words_label(how, family=theme.SANS))
        row = QHBoxLayout()
        row.addWidget(self.test_button)
        row.addSpacing(10)
        row.addWidget(self.verdict, 1)
        box.addLayout(row)
        box.addWidget(self._lacks)
        for grid in (self._table, self._processes, self._details):
            grid.setHorizontalSpacing(14)
            grid.setVerticalSpacing(3)
        box.addLayout(self._table)
        box.addWidget(self._legend)
        row = QHBoxLayout()
        row.addWidget(self.details_button)
        row.addStretch(1)
        box.addLayout(row)
        inner = QVBoxLayout(self._details_box)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.addLayout(self._details)
        inner.addSpacing(4)
        inner.addWidget(self._processes_label)
        inner.addLayout(self._processes)
        box.addWidget(self._details_box)
        for widget in (self._lacks, self._legend, self.details_button, self._details_box):
            widget.hide()

    def _on_proved(self, proof: Proof) -> None:
        self._task, self.proof = None, proof
        self.test_button.setEnabled(True)
        self.test_button.setText(tr("Try again"))
        self.verdict.setText(verdict_words(proof))
        self._lacks.setText("\n".join(proof.lacks))
        self._lacks.setVisible(bool(proof.lacks))
        _fill(self._table, table_rows(proof.attempts))
        _fill(self._details, _detail_rows(proof.attempts))
        _fill(self._processes, _process_rows(proof.processes))
        self._legend.show()
        self.details_button.show()

    def _on_failed(self, reason: str) -> None:
        self._task = None
        self.test_button.setEnabled(True)
        self.verdict.setText(reason)

    def _on_details(self, is_wanted: bool) -> None:
        self._details_box.setVisible(is_wanted)
        self.details_button.setText(tr("Hide each try") if is_wanted else tr("Show each try"))


def verdict_words(proof: Proof) -> str:
    """The proof in a sentence."""
    n_processes = len({attempt.process for attempt in proof.attempts})
    said = tr("All {n_attempts} tries by {n_processes} processes ended as they must.").format(
        n_attempts=len(proof.attempts), n_processes=n_processes
    )
    if proof.n_wrong:
        said = tr("{n_wrong} of {n_attempts} ways are OPEN that must be closed.").format(
            n_wrong=proof.n_wrong, n_attempts=len(proof.attempts)
        )
    if not all(process.is_filtered for process in proof.processes):
        said += tr(" A process runs without its filter; it is named below.")
    return said


def table_rows(found: Sequence[Attempt]) -> list[tuple[str, ...]]:
    """A row for each kind of try, a column for each process: closed, needed (open, and meant to be), or OPEN."""
    processes = list(dict.fromkeys(attempt.process for attempt in found))
    rows: list[tuple[str, ...]] = [(tr("It tried to"), *(_SHORT.get(process, tr(process)) for process in processes))]
    for kind, words in _KINDS.items():
        cells = []
        for process in processes:
            tries = [attempt for attempt in found if (attempt.process, attempt.kind) == (process, kind)]
            is_wrong, is_open = (
                any(attempt.is_wrong for attempt in tries),
                any(not attempt.is_closed for attempt in tries),
            )
            cells.append(_OPEN if is_wrong else _NEEDED if is_open else _CLOSED)
        rows.append((words, *cells))
    return rows


def _detail_rows(found: Sequence[Attempt]) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = []
    for attempt in found:
        state = _CLOSED if attempt.is_closed else _NEEDED if attempt.needed else _OPEN
        rows.append(
            (
                _SHORT.get(attempt.process, tr(attempt.process)),
                state,
                f"{tr(attempt.way)}: {tr(attempt.needed) or attempt.said}",
            )
        )
    return rows


def _process_rows(processes: Sequence[ProcessState]) -> list[tuple[str, ...]]:
    return [
        (
            _FILTERED if process.is_filtered else _OPEN,
            tr(process.role),
            tr("{filter_words}; holds {holds}").format(filter_words=tr(process.filter_words), holds=tr(process.holds)),
        )
        for process in processes
    ]


def _style_of(text: str) -> str:
    """By which name a state is set; a word says it, too."""
    return "failed" if text == _OPEN else "sealed" if text in (_CLOSED, _FILTERED) else ""


def _fill(grid: QGridLayout, rows: Sequence[Sequence[str]]) -> None:
    """Put rows of words into a grid, in place of what stands there."""
    while (item := grid.takeAt(0)) is not None:
        widget: Any = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
    for row, words in enumerate(rows):
        for column, text in enumerate(words):
            label = words_label(text, family=theme.SANS, scale=0.95)
            label.setWordWrap(column == len(words) - 1 and len(words) == 3)
            label.setObjectName(_style_of(text))
            grid.addWidget(label, row, column, Qt.AlignmentFlag.AlignTop)
    # Sentences take the room that is left; a table of short words keeps to the left.
    width = max(map(len, rows), default=1)
    grid.setColumnStretch(width - 1 if width == 3 else width, 1)
