# SPDX-License-Identifier: GPL-3.0-or-later
"""The way in and out: opens, makes, locks and closes collections, and asks for what opens them."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from redlantern.application.opening import Models, NewKey, WriteAccess, open_session
from redlantern.application.session import IDLE_MINUTES, Session
from redlantern.collection.known import known_collections
from redlantern.desktop.absence import IDLE, Absence
from redlantern.desktop.bridge import Task
from redlantern.desktop.single_instance import SingleInstance
from redlantern.desktop.widgets.file_names import COLLECTIONS
from redlantern.desktop.widgets.lock_page import LockPage
from redlantern.desktop.widgets.status import StatusLine
from redlantern.desktop.workspace import Workspace
from redlantern.safety.keys import Holding, PassphraseNeededError, WrongPassphraseError
from redlantern.safety.names import path_text, visible
from redlantern.translation import tr

_BY_HAND = "by hand"
_LOCKED_WORDS = tr("Its key, its index and every open page have been dropped from memory.")
Then = Callable[[], None]


class Door(QObject):
    """Holds the workspace, which is another one after each locking: nothing may keep a word of what was open.

    `opened` comes with a session that has just been opened, `locked` when rooms are
    to be made anew, `failed` with why a collection could not be opened, `changed`
    whenever something of this is to be shown, `known` with the collections of this login.
    """

    opened = pyqtSignal()
    locked = pyqtSignal()
    failed = pyqtSignal(str)
    changed = pyqtSignal()
    known = pyqtSignal(list)

    def __init__(self, window: QWidget, models: Models, status: StatusLine) -> None:
        super().__init__(window)
        self._window, self._models, self._status = window, models, status
        self.workspace = Workspace(status)
        self.lock_page = LockPage()
        self.absence, self.single_instance = Absence(self), SingleInstance(self)
        self._opening: Task | None = None
        self._tasks: list[Task] = []
        self._n_closing = 0
        self._when_closed: list[Then] = []
        self._locked: tuple[Path, Holding] | None = None
        self._then: Then | None = None
        self._lock_reason = ""
        self._is_shut = False
        self.before_leaving: Callable[[Then], None] = lambda then: then()
        self.lock_page.unlock_wanted.connect(self._on_unlock_wanted)
        self.lock_page.other_wanted.connect(self.choose_collection)
        self.absence.noticed.connect(self._on_absence)

    @property
    def is_locked(self) -> bool:
        """Whether a collection waits to be unlocked."""
        return self._locked is not None

    @property
    def is_opening(self) -> bool:
        """Whether a collection is being opened."""
        return self._opening is not None

    def open_collection(
        self,
        path: Path,
        *,
        creates: bool = False,
        key: NewKey | None = None,
        passphrase: str | None = None,
        then: Then | None = None,
    ) -> None:
        """Open a collection off the interface thread, or make it; `then` is called when it is open."""
        if self._opening is not None or self._is_shut:
            return
        words = (
            tr("Opening ...") if self.is_locked else tr("Opening {name} ...").format(name=visible(path_text(path.name)))
        )
        new_key = key or (NewKey() if creates else None)
        task = self._opening = Task(lambda task: _opened(path, passphrase, new_key, self._models))
        task.finished.connect(lambda session: self._on_opened(session, then))
        task.failed.connect(lambda reason: self._on_open_failed(path, reason, task, then))

        left, is_other = self.workspace, self.workspace.session is not None

        def begin() -> None:
            self._status.activity.setText(words)
            if is_other:
                left.deleteLater()
            task.start()

        self._close_workspace(begin)
        if is_other:
            # No room may keep a word of the collection that was open.
            self.workspace = Workspace(self._status)
            self.locked.emit()
        self.changed.emit()

    def lock(self, reason: str = "") -> None:
        """Close the collection, drop everything of it from memory, and ask for the way back in."""
        session, upkeep = self.workspace.session, self.workspace.upkeep
        if session is None or self._opening is not None:
            return
        if session.is_scratch:
            # Nobody could open it again: locking is its end, and nobody being here no reason for that.
            if not reason:
                self.before_leaving(self.close_scratch)
            return
        if upkeep.is_running:
            # It has the file alone. Nobody being here is no reason to break it off; it is locked when it has ended.
            self._lock_reason = reason or _BY_HAND
            if reason != IDLE:
                upkeep.cancel()
            return
        self._lock_reason = ""
        collection = session.engine.collection
        holding = collection.holding
        self._locked = (collection.path, holding)
        del session, collection
        left = self.workspace
        self._close_workspace(left.deleteLater, reason or _BY_HAND)
        self.workspace = Workspace(self._status)
        self.locked.emit()
        self._status.show_speed("")
        self._status.finish("")
        self.lock_page.forget()
        self.lock_page.show_locked(
            tr("Locked"), f"{reason} {_LOCKED_WORDS}".strip(), asks=holding is Holding.PASSPHRASE
        )
        self.changed.emit()
        self.lock_page.set_busy(False)

    def close_scratch(self) -> None:
        """Close the open scratch collection, which erases it, and show none."""
        left = self.workspace

        def closed() -> None:
            left.deleteLater()
            self._status.finish(tr("The scratch collection is erased."))

        self._close_workspace(closed)
        self.workspace = Workspace(self._status)
        self.locked.emit()
        self._status.show_speed("")
        self.changed.emit()

    def lock_if_waiting(self) -> None:
        """Lock now, if that waited for upkeep to end."""
        if self._lock_reason:
            reason, self._lock_reason = self._lock_reason, ""
            # After those have run who are told how it ended.
            QTimer.singleShot(0, lambda: self.lock("" if reason == _BY_HAND else reason))

    def shut(self, then: Then) -> None:
        """Stop everything and close for good; `then` is called when all of it has ended."""
        self._is_shut = True
        if self._opening is not None:
            self._opening.cancel.now()
        self._close_workspace(lambda: self._when_idle(then))

    def close_to_erase(self, then: Then) -> None:
        """Close the collection, which is about to be erased."""

        def closed() -> None:
            self.changed.emit()
            then()

        self._close_workspace(closed)

    # Asking for collections

    def choose_collection(self) -> None:
        """Ask for a collection and open it."""
        chosen, _ = QFileDialog.getOpenFileName(
            self._window,
            tr("Open a collection"),
            "",
            tr("{collections};;All files (*)").format(collections=COLLECTIONS),
        )
        if chosen:
            self.open_other(Path(chosen))

    def open_other(self, path: Path) -> None:
        """Open another collection, also instead of one that is locked."""

        def open_it() -> None:
            self._leave_lock()
            self.open_collection(path)

        self.before_leaving(open_it)

    def list_known(self) -> None:
        """Find out which collections this login has opened; `known` tells."""
        self.run(lambda _: known_collections(), self.known.emit)

    def set_idle_minutes(self, minutes: int) -> None:
        """Lock after so many minutes without a person from now on, 0 for never; remembered in the collection."""
        self.absence.idle_minutes = minutes
        session = self.workspace.session
        if session is not None:
            session.idle_minutes = minutes
            self.workspace.run(lambda _: session.engine.collection.facts.put(IDLE_MINUTES, str(minutes)))

    def run(self, work: Callable[[Task], Any], done: Callable[[Any], object]) -> Task:
        """Do something that no collection is needed for."""
        task = Task(work)
        self._tasks = [running for running in (*self._tasks, task) if not running.has_ended]
        task.finished.connect(done)
        return task.start()

    # What happens

    def _close_workspace(self, then: Then, last_words: str = "") -> None:
        """Close what is open; what is to follow waits for this and for every closing that is still going on."""
        self.single_instance.stop()
        self._n_closing += 1
        self._when_closed.append(then)
        self.workspace.close(self._on_closed, last_words)

    def _on_closed(self) -> None:
        self._n_closing -= 1
        if not self._n_closing:
            waiting, self._when_closed = self._when_closed, []
            for then in waiting:
                then()

    def _when_idle(self, then: Then) -> None:
        self._tasks = [task for task in self._tasks if not task.has_ended]
        if self._opening is not None or self._tasks:
            QTimer.singleShot(10, lambda: self._when_idle(then))
        else:
            then()

    def _on_opened(self, session: Session, then: Then | None) -> None:
        self._opening = None
        if self._is_shut:
            self.run(lambda _: session.close(), lambda _: None)
            return
        self._status.activity.setText(session.only_reading or session.notice)
        self._status.activity.setToolTip(session.notice)
        self._leave_lock()
        self.absence.idle_minutes = session.idle_minutes
        self.workspace.open(session)
        self.opened.emit()
        self.single_instance.listen(session.engine.collection.path)
        self.workspace.updates.start_watching()
        self.list_known()
        self.changed.emit()
        if then is not None:
            # After this signal's other receivers have run.
            QTimer.singleShot(0, then)

    def _on_open_failed(self, path: Path, reason: str, task: Task, then: Then | None) -> None:
        self._opening = None
        self._status.activity.setText("")
        if isinstance(task.failure, PassphraseNeededError):
            self._locked, self._then = (path, Holding.PASSPHRASE), then
            self.lock_page.forget()
            # Shown before it takes the focus.
            self.changed.emit()
            self.lock_page.show_locked(path.stem, tr("This collection is opened by a passphrase."), asks=True)
        elif isinstance(task.failure, WrongPassphraseError) or self.is_locked:
            self.lock_page.show_problem(reason)
        else:
            self.failed.emit(reason)
        self.changed.emit()

    def _on_unlock_wanted(self, passphrase: str) -> None:
        if self._locked is not None:
            path, holding = self._locked
            asked = passphrase if holding is Holding.PASSPHRASE else None
            self.open_collection(path, passphrase=asked, then=self._then)

    def _leave_lock(self) -> None:
        self._locked, self._then = None, None
        self.lock_page.forget()

    def _on_absence(self, reason: str) -> None:
        # Reading goes on without a person; its end is a new beginning for the clock.
        if not self.workspace.works_alone or reason != IDLE:
            self.lock(reason)


def _opened(path: Path, passphrase: str | None, new_key: NewKey | None, models: Models) -> Session:
    """Open a session as a window does: with the claim to change it if that is free, and all that is shown of it."""
    session = open_session(
        path, by="in a window", passphrase=passphrase, new_key=new_key, claim=WriteAccess.IF_FREE, models=models
    )
    try:
        session.load()
    except BaseException:
        session.close()
        raise
    return session
