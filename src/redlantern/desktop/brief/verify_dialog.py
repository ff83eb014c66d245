# SPDX-License-Identifier: GPL-3.0-or-later
"""Checks an exported brief against a folder of documents, as a colleague would: whether each cited word stands on its page."""

import contextlib
from pathlib import Path

from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.briefs import read_citations
from redlantern.brief.verifying import Verdict, Verified, verify
from redlantern.desktop.bridge import Task
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.progress import Progress
from redlantern.reading.pool import ReaderPool
from redlantern.safety.names import visible
from redlantern.translation import tr

_VERDICTS: dict[Verdict, str] = {
    "stands": tr("stands"), "elsewhere on the page": tr("elsewhere on the page"), "on another page": tr("on another page"),
    "not in the file": tr("not in the file"), "file missing": tr("file missing"), "file not read": tr("file not read"),
}  # fmt: skip
_WORDS = tr(
    "Choose the exported brief, or its file of citations, and the folder that the documents lie in, "
    "whatever they are called. Each file is found by its hash and read again; nothing else is needed, "
    "and no collection."
)


class VerifyDialog(QDialog):
    """Two files to choose, a check that can be stopped, and what came of it: what does not stand first."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Verify an exported brief"))
        self.resize(860, 520)
        self.export: Path | None = None
        self.folder: Path | None = None
        self.found: list[Verified] = []
        self._task: Task | None = None
        self.export_button, self.folder_button = QPushButton(tr("The brief ...")), QPushButton(tr("The documents ..."))
        self.check_button = QPushButton(tr("Check"))
        self.said, self.list = QLabel(""), QTreeWidget()
        self._build()
        self._show_state()

    def choose(self, *, export: Path | None = None, folder: Path | None = None) -> None:
        """Take these."""
        self.export, self.folder = export or self.export, folder or self.folder
        self._show_state()

    def check(self) -> None:
        """Check, or stop checking."""
        if self._task is not None:
            self._task.cancel.now()
            return
        export, folder = self.export, self.folder
        if export is None or folder is None:
            return

        def work(task: Task) -> list[Verified]:
            with contextlib.closing(ReaderPool()) as readers:
                return verify(read_citations(export), folder, readers, report=task.report, cancel=task.cancel)

        task = self._task = Task(work)
        task.progressed.connect(self._on_progress)
        task.finished.connect(self._on_found)
        task.failed.connect(self._on_failed)
        task.cancelled.connect(self._on_stopped)
        task.start()
        self.said.setText(tr("Looking for the files ..."))
        self._show_state()

    def reject(self) -> None:
        """Stop first."""
        if self._task is not None:
            self._task.cancel.now()
        super().reject()

    def _build(self) -> None:
        self.said.setWordWrap(True)
        self.said.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self.check_button.setObjectName("first")
        self.export_button.clicked.connect(self._choose_export)
        self.folder_button.clicked.connect(self._choose_folder)
        self.check_button.clicked.connect(self.check)
        self.list.setHeaderLabels(["", tr("Citation"), tr("What was found"), tr("Words")])
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName(tr("Citations, those that do not stand first"))
        header = self.list.header()
        assert header is not None
        for column, width in ((0, 44), (1, 150), (2, 190)):
            header.resizeSection(column, theme.px(width))
        header.setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        row = QHBoxLayout()
        for button in (self.export_button, self.folder_button, self.check_button):
            button.setAutoDefault(False)
            row.addWidget(button)
        row.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.addWidget(words_label(_WORDS, family=theme.SANS, name="quiet"))
        box.addLayout(row)
        box.addWidget(self.said)
        box.addWidget(self.list, 1)

    def _choose_export(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, tr("The exported brief, or its citations"), "")
        if chosen:
            self.choose(export=Path(chosen))

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, tr("The folder of the documents"))
        if chosen:
            self.choose(folder=Path(chosen))

    def _on_progress(self, progress: Progress) -> None:
        counted = (
            tr(": {done} of {total} {unit}").format(done=progress.done, total=progress.total, unit=progress.unit)
            if progress.total
            else " ..."
        )
        self.said.setText(f"{progress.stage}{counted}")

    def _on_failed(self, reason: str) -> None:
        self._end(reason)

    def _on_stopped(self) -> None:
        self._end(tr("Stopped."))

    def _on_found(self, found: list[Verified]) -> None:
        self.found = sorted(found, key=lambda each: each.is_good)
        self.list.clear()
        for each in self.found:
            other = (
                tr(", but on page {page_number}").format(page_number=each.page_number)
                if each.page_number and not each.is_good
                else ""
            )
            sign, words = "✓" if each.is_good else "✗", " ".join(each.cited.words.split())
            mark = f"{each.cited.number}. {visible(each.mark)}"
            item = QTreeWidgetItem([sign, mark, f"{_VERDICTS[each.verdict]}{other}", visible(words)])
            item.setToolTip(3, visible(each.cited.words))
            self.list.addTopLevelItem(item)
        n_good = sum(each.is_good for each in found)
        self._end(
            tr("All {n_found} citations stand on their pages.").format(n_found=len(found))
            if n_good == len(found)
            else tr("{n_good} of {n_found} citations stand on their pages; those that do not come first.").format(
                n_good=n_good, n_found=len(found)
            )
        )

    def _end(self, words: str) -> None:
        self._task = None
        self.said.setText(words)
        self._show_state()

    def _show_state(self) -> None:
        self.export_button.setText(visible(self.export.name) if self.export is not None else tr("The brief ..."))
        self.folder_button.setText(visible(self.folder.name) if self.folder is not None else tr("The documents ..."))
        self.check_button.setText(tr("Stop") if self._task is not None else tr("Check"))
        self.check_button.setEnabled(self.export is not None and self.folder is not None)
