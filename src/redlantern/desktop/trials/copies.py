# SPDX-License-Identifier: GPL-3.0-or-later
"""Other indexes beside the collection: the dialog that makes one, and what is done for it in the background."""

from collections.abc import Sequence

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QComboBox, QDialog, QPushButton, QSpinBox, QVBoxLayout, QWidget

from redlantern.application import tried
from redlantern.application.tried import EMBEDDING_NAMES, CopyWish, KeptCopy
from redlantern.desktop.bridge import Task
from redlantern.desktop.trials.home import Home
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import foot
from redlantern.desktop.widgets.labels import name_choice, section_label, words_label
from redlantern.desktop.workspace import Workspace
from redlantern.progress import Progress
from redlantern.settings import declared_settings
from redlantern.text.listing import seconds_words
from redlantern.translation import tr


class CopyDialog(QDialog):
    """How the other index is to be made; `wish` gives it."""

    def __init__(self, present: CopyWish, words: Sequence[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Make another index"))
        self._words, self._present = list(words), present
        self.combo, self.tokens = QComboBox(), QSpinBox()
        self.combo.addItems([EMBEDDING_NAMES.get(word, word) for word in words])
        self.combo.setCurrentIndex(
            max(0, self._words.index(present.embedding) if present.embedding in self._words else 0)
        )
        name_choice(self.combo, tr("Embedding model"))
        declared = next(each for each in declared_settings() if each.name == "passage_tokens")
        self.tokens.setRange(int(declared.metadata["minimum"]), int(declared.metadata["maximum"]))
        self.tokens.setValue(present.passage_tokens)
        self.tokens.setSuffix(tr(" tokens"))
        self.tokens.setAccessibleName(tr("Longest passage"))
        self.said = words_label("", family=theme.SANS, name="quiet")
        self.make_button = QPushButton(tr("Make it"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 16, 22, 14)
        layout.setSpacing(8)
        for title, field in ((tr("FOUND BY"), self.combo), (tr("LONGEST PASSAGE"), self.tokens)):
            label = section_label(title)
            label.setBuddy(field)
            layout.addWidget(label)
            layout.addWidget(field)
        layout.addWidget(self.said)
        layout.addLayout(foot(self, self.make_button))
        self.setMinimumWidth(520)
        for changed in (self.combo.currentIndexChanged, self.tokens.valueChanged):
            changed.connect(self._show)
        self._show()

    def wish(self) -> CopyWish:
        """What was chosen."""
        return CopyWish(self._words[max(0, self.combo.currentIndex())], self.tokens.value())

    def _show(self) -> None:
        is_same = self.wish() == self._present
        self.make_button.setEnabled(not is_same)
        self.said.setText(
            tr("That is how the collection itself is made: choose something else.") if is_same else
            tr(
    "All documents are split and embedded once more beside the collection, which takes about as much of "
    "the disk. Questions go first meanwhile, and nothing of the collection changes."
)
        )  # fmt: skip


class Copies(QObject):
    """Lists the copies on the page of all trials, makes them and lets them go."""

    def __init__(self, workspace: Workspace, home: Home) -> None:
        super().__init__(home)
        self._workspace, self._home = workspace, home
        self._task: Task | None = None
        home.copy_wanted.connect(self._on_wanted)
        home.copy_dropped.connect(self._on_dropped)
        home.copying_stopped.connect(self._on_stopped)

    def show(self) -> None:
        """List the copies there are."""
        self._home.copy_button.setEnabled(self._workspace.can_change and self._task is None)
        self._workspace.with_engine(tried.copies, self._on_listed, self._tell)

    def make(self, wish: CopyWish) -> None:
        """Make one."""
        session = self._workspace.session
        if session is None or self._task is not None:
            return
        engine = session.engine
        self._home.show_copying(tr("Making {name} ...").format(name=wish.name), is_running=True)

        def work(task: Task) -> object:
            seconds = tried.seconds_to_make(engine, wish)
            task.report(
                Progress(
                    tr("Making {name}, {seconds_words}").format(name=wish.name, seconds_words=seconds_words(seconds)),
                    0,
                    None,
                    "documents",
                )
            )
            return tried.make_copy(engine, wish, report=task.report, cancel=task.cancel)

        self._task = self._workspace.run(
            work,
            progressed=self._on_progress,
            finished=lambda _: self._on_ended(tr("Made: it can be chosen as a way of answering now.")),
            cancelled=lambda: self._on_ended(tr("Stopped; nothing of it is left.")),
            failed=self._on_ended,
        )

    def _on_wanted(self) -> None:
        self._workspace.with_engine(
            lambda engine: (tried.present_wish(engine), tried.offered()), self._choose, self._tell
        )

    def _choose(self, found: tuple[CopyWish, tuple[str, ...]]) -> None:
        dialog = CopyDialog(*found, self._home)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.make(dialog.wish())

    def _on_progress(self, progress: Progress) -> None:
        of = tr(" of {total}").format(total=progress.total) if progress.total else ""
        counted = f", {progress.done}{of} {progress.unit}" if progress.done else ""
        self._home.show_copying(f"{progress.stage}{counted} ...", is_running=True)

    def _on_ended(self, words: str) -> None:
        self._task = None
        self._home.show_copying(words, is_running=False)
        self.show()

    def _on_stopped(self) -> None:
        if self._task is not None:
            self._task.cancel.now()

    def _on_dropped(self, word: str) -> None:
        self._workspace.with_engine(lambda engine: tried.let_go(engine, word), lambda _: self.show(), self._tell)

    def _on_listed(self, copies: list[KeptCopy]) -> None:
        self._home.show_copies(copies)

    def _tell(self, reason: str) -> None:
        self._home.show_copying(reason, is_running=False)
