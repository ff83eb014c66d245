# SPDX-License-Identifier: GPL-3.0-or-later
"""What the rooms share: the open session, the choice of documents, and the tasks that work for them."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from redlantern.answering.engine import Engine
from redlantern.application.documents import load_documents
from redlantern.application.session import Session
from redlantern.collection.fingerprints import Version
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.desktop.updates import Updates
from redlantern.desktop.upkeeping import Upkeep
from redlantern.desktop.widgets.documents_in_scope import DocumentsInScope
from redlantern.desktop.widgets.status import StatusLine

_LOOK_MS = 5


class Workspace(QObject):
    """The open session with its tasks. Rooms know it and their own widgets, and not each other.

    `documents_changed` comes whenever other documents are shown or none, `erased`
    when words were erased that sheets cite. `shown_document` and `shown_question`
    are what the desk shows at its right and in its middle.
    """

    documents_changed = pyqtSignal()
    updating_changed = pyqtSignal(bool)
    asking_changed = pyqtSignal(bool)
    reading_through_changed = pyqtSignal(bool)
    reloaded = pyqtSignal(object)

    def __init__(self, status: StatusLine) -> None:
        super().__init__()
        self.status = status
        self.session: Session | None = None
        self.documents_in_scope = DocumentsInScope()
        self.shown_document: Document | None = None
        self.shown_question = ""
        self.is_asking = self.is_closing = self.is_reading_through = False
        self._tasks: set[Task] = set()
        self._ending: list[Task] = []
        self.upkeep = Upkeep(self.run, status)
        self.updates = Updates(self)
        self.updates.began.connect(lambda: self.updating_changed.emit(True))
        self.updates.ended.connect(lambda _: self.updating_changed.emit(False))
        self.updates.documents_read.connect(self.show_documents)

    @property
    def is_updating(self) -> bool:
        """Whether files are being read."""
        return self.updates.is_running

    @property
    def is_busy(self) -> bool:
        """Whether anything at all is being fetched or worked on."""
        return bool(self._tasks) or self.is_closing

    @property
    def works_alone(self) -> bool:
        """Whether long work goes on that needs no person: files are read, or every page for one question."""
        return self.is_updating or self.is_reading_through

    @property
    def is_free(self) -> bool:
        """Whether nothing is asked, read or kept up just now."""
        return not (self.is_asking or self.is_updating or self.upkeep.is_running)

    @property
    def can_change(self) -> bool:
        """Whether a collection is open that can be changed here."""
        return self.session is not None and self.session.can_change

    @property
    def documents(self) -> list[Document]:
        """All documents of the open collection, and of those asked with it."""
        return self.session.documents if self.session is not None else []

    @property
    def scope(self) -> frozenset[int] | None:
        """The documents in scope; None for all."""
        return self.documents_in_scope.scope()

    def open(self, session: Session) -> None:
        """Work on this session."""
        self.session = session
        self.show_documents(session.documents)

    def set_reading_through(self, is_reading_through: bool) -> None:
        """Every page is gone through, or no longer."""
        if is_reading_through != self.is_reading_through:
            self.is_reading_through = is_reading_through
            self.reading_through_changed.emit(is_reading_through)

    def set_asking(self, is_asking: bool) -> None:
        """A question is worked on now, or none is."""
        self.is_asking = is_asking
        self.asking_changed.emit(is_asking)

    def show_documents(self, documents: list[Document], versions: dict[int, Version] | None = None) -> None:
        """The collection holds these documents now; their versions stay as they were unless given."""
        if self.session is not None:
            self.session.documents = documents
            self.session.versions = self.session.versions if versions is None else versions
            self.documents_in_scope.set_documents(documents)
            self.documents_changed.emit()

    def refresh_documents(self) -> None:
        """Fetch documents and their versions anew."""
        session = self.session
        if session is not None:
            self.run(lambda _: load_documents(session.engine), finished=lambda fetched: self.show_documents(*fetched))

    def run(self, work: Callable[[Task], Any], **slots: Callable[..., object]) -> Task:
        """Start a task with its signals connected: a quick one may be over before the next statement."""
        task = Task(work)
        self._tasks.add(task)
        for name, slot in slots.items():
            getattr(task, name).connect(slot)
        for ended in (task.finished, task.failed):
            ended.connect(lambda _: self._forget(task))
        task.cancelled.connect(lambda: self._forget(task))
        return task.start()

    def with_engine(
        self, work: Callable[[Engine], Any], then: Callable[[Any], object], failed: Callable[[str], object]
    ) -> None:
        """Do something short with the engine in the background, then show what came of it; nothing without a session."""
        session = self.session
        if session is not None:
            engine = session.engine
            self.run(lambda _: work(engine), finished=then, failed=failed)

    def close(self, then: Callable[[], None], last_words: str = "") -> None:
        """Stop everything and let go of the collection, without holding up the interface; then call `then`.

        `last_words` say in the collection's journal why it was locked. What was
        asked for stands at once: no room has a session any more.
        """
        self.is_closing = True
        session, self.session = self.session, None
        self.updates.forget()
        self.upkeep.forget()
        self.is_asking = False
        self.documents_in_scope.forget()
        self.shown_document, self.shown_question = None, ""
        self.documents_changed.emit()
        for task in self._tasks:
            task.cancel.now()
        running = [*self._tasks, *self._ending]
        self._tasks.clear()
        self._ending = []
        self._close_when_ended(running, session, last_words, then)

    def _close_when_ended(
        self, running: list[Task], session: Session | None, last_words: str, then: Callable[[], None]
    ) -> None:
        running = [task for task in running if not task.has_ended]
        if running:
            again = partial(self._close_when_ended, running, session, last_words, then)
            QTimer.singleShot(_LOOK_MS, again)
        elif session is None:
            self._end_closing(then)
        else:
            closing = Task(lambda _: session.close(last_words))
            closing.finished.connect(lambda _: self._end_closing(then))
            closing.failed.connect(lambda reason: self._end_closing(then, reason))
            closing.start()

    def _end_closing(self, then: Callable[[], None], problem: str = "") -> None:
        self.is_closing = False
        if problem:
            self.status.finish(problem)
        then()

    def _forget(self, task: Task) -> None:
        self._tasks.discard(task)
        # Kept until its thread has let go of it: a task must end in this thread, and this thread must not wait for it.
        self._ending = [ending for ending in (*self._ending, task) if not ending.has_ended]
