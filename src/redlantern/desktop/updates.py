# SPDX-License-Identifier: GPL-3.0-or-later
"""Keeps the open collection current: adds files, plans updates and carries them out, watches folders."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.answering.engine import Engine
from redlantern.application import documents
from redlantern.application.models import use_embedder
from redlantern.application.opening import MakeEmbedder
from redlantern.application.session import WATCHING, Session
from redlantern.desktop.bridge import Task
from redlantern.desktop.upkeeping import Upkeep
from redlantern.desktop.widgets.status import StatusLine
from redlantern.indexing.plan import UpdatePlan
from redlantern.indexing.update import Summary
from redlantern.indexing.watch import FolderWatch
from redlantern.progress import Progress
from redlantern.safety.names import path_text
from redlantern.settings import Method
from redlantern.text.listing import counted
from redlantern.translation import tr

NOT_WATCHED, TELLS, UPDATES = "no", "tell", "update"


_STOPPED = tr("Stopped. Every document finished before is kept.")


class _Host(Protocol):
    """What the updates need of the workspace."""

    session: Session | None
    upkeep: Upkeep
    status: StatusLine

    def run(self, work: Callable[[Task], Any], **slots: Callable[..., object]) -> Task: ...


class Updates(QObject):
    """One update at a time, in the background; questions work on the last whole state meanwhile."""

    began = pyqtSignal()
    documents_read = pyqtSignal(object)
    ended = pyqtSignal(str)
    planned = pyqtSignal(object, float)
    changed_on_disk = pyqtSignal(object)
    _noticed = pyqtSignal()

    def __init__(self, host: _Host) -> None:
        super().__init__()
        self._host, self._status = host, host.status
        status = host.status
        self._task: Task | None = None
        self._planning: Task | None = None
        self._watch: FolderWatch | None = None
        status.cancel_wanted.connect(self.cancel)
        status.hold_wanted.connect(self.hold)
        # The watch speaks in a thread of its own.
        self._noticed.connect(self._on_noticed)

    @property
    def is_running(self) -> bool:
        """Whether files are being read."""
        return self._task is not None

    @property
    def can_begin(self) -> bool:
        """Whether an update may be begun now."""
        is_free = self._task is None and not self._host.upkeep.is_running
        return self._host.session is not None and is_free and not self._host.session.only_reading

    def add(self, *paths: Path, method: Method | None = None) -> None:
        """Read folders or files into the collection."""
        self._update(list(paths), {}, method)

    def read_again(self, passwords: dict[Path, str]) -> None:
        """Read files whatever the collection knows of them, each with its password or nothing."""
        self._update(list(passwords), {path_text(path): password for path, password in passwords.items()}, None)

    def plan(self) -> None:
        """Find out what an update of the followed folders would do; `planned` tells."""
        if self.can_begin and self._planning is None:
            engine = self._engine
            self._status.activity.setText(tr("Looking for changes ..."))

            def planned(found: tuple[UpdatePlan, float]) -> None:
                self._planning = None
                self._status.activity.setText("")
                self.planned.emit(*found)

            def failed(reason: str) -> None:
                self._planning = None
                self._status.activity.setText("")
                self.ended.emit(reason)

            self._planning = self._host.run(
                lambda task: documents.plan_update(engine, task.cancel), finished=planned, failed=failed
            )

    def carry_out(self, plan: UpdatePlan) -> None:
        """Do what a plan says."""
        if self.can_begin:
            engine = self._engine
            self._begin(
                lambda task: documents.carry_out(
                    engine, plan, report=task.report, cancel=task.cancel, on_documents=task.stepped.emit
                )
            )

    def embed_anew(self, make: MakeEmbedder, model: Path | str) -> None:
        """Embed everything with another model, a packaged one by its word; nothing changes until all of it is done."""
        if self.can_begin:
            engine = self._engine
            self._begin(
                lambda task: use_embedder(engine, make, model, report=task.report, cancel=task.cancel),
                stopped=tr("Stopped. Everything is as it was."),
            )

    def cancel(self) -> None:
        """Stop reading; what is finished is kept."""
        if self._task is not None:
            self._status.stopping()
            self._task.cancel.now()

    def hold(self, is_held: bool) -> None:
        """Let the reading hold still, or go on."""
        if self._task is not None:
            if is_held:
                self._task.cancel.hold()
            else:
                self._task.cancel.go_on()

    def watch(self, how: str) -> None:
        """Watch the followed folders from now on in this way, or not; remembered in the collection."""
        session = self._host.session
        if session is not None and not session.only_reading:
            session.watching = how
            self._host.run(lambda _: session.engine.collection.facts.put(WATCHING, how))
            self.start_watching()

    def unfollow(self, path: str) -> None:
        """Look at a folder no longer, and plan anew; its documents stay."""
        session = self._host.session
        if session is not None and not session.only_reading:
            self._host.run(lambda _: session.engine.collection.unfollow(Path(path)), finished=lambda _: self.plan())

    def start_watching(self) -> None:
        """Begin to watch as the collection says."""
        self.stop_watching()
        session = self._host.session
        if session is not None and session.watching != NOT_WATCHED and not session.only_reading:
            self._host.run(
                lambda _: FolderWatch(session.engine.collection.followed(), self._noticed.emit),
                finished=self._on_watching,
            )

    def stop_watching(self) -> None:
        """Watch no longer."""
        watch, self._watch = self._watch, None
        if watch is not None:
            watch.close()

    def forget(self) -> None:
        """The collection was closed."""
        self.stop_watching()
        self._task = self._planning = None

    @property
    def _engine(self) -> Engine:
        session = self._host.session
        assert session is not None
        return session.engine

    def _update(self, paths: list[Path], again: dict[str, str], method: Method | None) -> None:
        if self.can_begin:
            engine = self._engine
            self._begin(
                lambda task: documents.update(
                    engine, paths, again=again, method=method, report=task.report, cancel=task.cancel,
                    on_documents=task.stepped.emit,
                )
            )  # fmt: skip

    def _on_watching(self, watch: FolderWatch) -> None:
        if self._host.session is None or self._watch is not None:
            watch.close()
            return
        self._watch = watch

    def _on_noticed(self) -> None:
        """Something changed on disk: a new plan, which by itself changes nothing."""
        session = self._host.session
        if session is None or not self.can_begin:
            return
        self._host.run(lambda task: documents.plan_update(session.engine, task.cancel), finished=self._on_looked)

    def _on_looked(self, found: tuple[UpdatePlan, float]) -> None:
        session = self._host.session
        if session is None:
            return
        self.changed_on_disk.emit(found[0])
        if session.watching == UPDATES and found[0].has_work:
            self.carry_out(found[0])

    def _begin(self, work: Callable[[Task], Summary], *, stopped: str = _STOPPED) -> None:
        self._status.begin(tr("Looking for changes ..."))
        self._task = self._host.run(
            work,
            progressed=self._on_progress,
            stepped=self.documents_read.emit,
            finished=self._on_done,
            cancelled=lambda: self._end(stopped),
            failed=lambda reason: self._end(tr("Reading stopped."), problem=reason),
        )
        self.began.emit()

    def _on_progress(self, progress: Progress) -> None:
        if self._task is not None and not self._task.cancel.is_set:
            self._status.show_progress(progress)

    def _on_done(self, summary: Summary) -> None:
        words = tr("Read: {document}, {page}").format(
            document=counted(summary.read, "document"), page=counted(summary.pages, "page")
        )
        if summary.remade and not summary.read:
            words = tr("Done")
        others = (
            (summary.remade, tr("made anew")), (summary.unchanged, tr("unchanged")), (summary.moved, tr("moved")),
            (summary.copies, tr("copies")), (summary.removed, tr("gone")),
        )  # fmt: skip
        words += "".join(f", {number} {name}" for number, name in others if number)
        if summary.refused:
            words += tr(", {n_refused} refused (see the shelf)").format(n_refused=len(summary.refused))
        self._end(words)

    def _end(self, words: str, *, problem: str = "") -> None:
        self._task = None
        self._status.finish(words)
        self.ended.emit(problem)
        # What is followed may be more than before.
        self.start_watching()
