# SPDX-License-Identifier: GPL-3.0-or-later
"""What is about to be read, looked over: how many files of which kinds, how long it takes, what cannot be read; and where it goes."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.amounts import duration_words, size_words
from redlantern.desktop.widgets.key_dialog import agree_row, heading_label
from redlantern.desktop.widgets.labels import words_label
from redlantern.desktop.widgets.new_place import NewPlace
from redlantern.indexing.survey import Survey
from redlantern.progress import Progress
from redlantern.safety.names import path_text, visible
from redlantern.text.listing import counted
from redlantern.translation import tr

_COLUMNS = 2


class ImportDialog(QDialog):
    """Files on their way into the open collection, or into a new one; nothing is read before it is agreed to."""

    def __init__(self, paths: list[Path], *, collection: str, parent: QWidget) -> None:
        """`collection` is the name of the open one that they go into; empty for a new one."""
        super().__init__(parent)
        self.is_new = not collection
        title = tr("A new collection") if self.is_new else tr("Add to {collection}").format(collection=collection)
        self.setWindowTitle(title)
        self.setMinimumWidth(660)
        self.survey: Survey | None = None
        self._problem, self.agree_button = QLabel(""), QPushButton(tr("Read them") if self.is_new else tr("Add them"))
        self._sum, self._kinds, self._unread = (
            QLabel(tr("Looking ...")),
            QGridLayout(),
            words_label("", family=theme.SANS, name="quiet"),
        )
        name = paths[0].name if paths[0].is_dir() else paths[0].stem
        self.new_place = NewPlace(path_text(name), scratch=True) if self.is_new else None
        self._build(paths, title)
        self._show_state()

    def show_progress(self, progress: Progress) -> None:
        """Say how far the looking is."""
        self._sum.setText(tr("Looking ... {done} of {total} files").format(done=progress.done, total=progress.total))

    def show_survey(self, survey: Survey) -> None:
        """Show what was found."""
        self.survey = survey
        files = counted(survey.n_files, "file")
        self._sum.setText(
            tr("{files}, {size_words}: read in about {duration_words}, scans take longer").format(
                files=files, size_words=size_words(survey.n_bytes), duration_words=duration_words(survey.seconds)
            )
            if survey.n_files
            else tr("There is nothing here that can be read.")
        )
        rows = -(-len(survey.counts) // _COLUMNS)
        for at, (kind, number) in enumerate(survey.counts.items()):
            column, row = divmod(at, max(rows, 1))
            count = QLabel(f"{number:,}")
            count.setAlignment(Qt.AlignmentFlag.AlignRight)
            count.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
            self._kinds.addWidget(count, row, 3 * column)
            self._kinds.addWidget(QLabel(kind), row, 3 * column + 1)
        said = "; ".join(f"{number:,} × {_within(what)}" for what, number in survey.unread.items())
        self._unread.setText(tr("Not read, and listed on the shelf with the reason: {said}.").format(said=said))
        self._unread.setVisible(bool(said))
        self.adjustSize()
        self._show_state()

    def show_problem(self, reason: str) -> None:
        """It could not be looked over."""
        self._sum.setText(reason)

    def _build(self, paths: list[Path], title: str) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(26, 22, 26, 20)
        box.setSpacing(8)
        box.addWidget(heading_label(title))
        shown = visible(path_text(paths[0])) + (
            tr(" and {n_paths} more").format(n_paths=len(paths) - 1) if len(paths) > 1 else ""
        )
        box.addWidget(words_label(shown, family=theme.SANS, name="quiet"))
        self._sum.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
        self._sum.setWordWrap(True)
        box.addWidget(self._sum)
        self._kinds.setHorizontalSpacing(8)
        self._kinds.setColumnMinimumWidth(2, 24)
        self._kinds.setColumnStretch(_COLUMNS * 3, 1)
        box.addLayout(self._kinds)
        box.addWidget(self._unread)
        self._unread.hide()
        if self.new_place is not None:
            box.addSpacing(8)
            box.addWidget(self.new_place)
            self.new_place.changed.connect(self._show_state)
            self.new_place.choice.first.setFocus()
        box.addStretch(1)
        box.addSpacing(6)
        box.addLayout(agree_row(self, self._problem, self.agree_button))

    def _show_state(self) -> None:
        is_ready = self.survey is not None and self.survey.n_files > 0
        if self.new_place is not None:
            self._problem.setText(self.new_place.problem)
            is_ready = is_ready and self.new_place.is_ready
        self.agree_button.setEnabled(is_ready)


def _within(words: str) -> str:
    """Words as they stand within a sentence."""
    return words[:1].lower() + words[1:] if words[1:2].islower() or words[1:2] == " " else words
