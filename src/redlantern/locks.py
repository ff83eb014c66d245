# SPDX-License-Identifier: GPL-3.0-or-later
"""The one readers-writer lock of the program (many share, or one holds it alone), and the queue made of it."""

import threading
from collections import Counter, deque
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager

from redlantern.progress import Cancel


class ReadersWriterLock:
    """Any number of threads share it, or one holds it alone; who waits to hold it alone goes before those who come later.

    Those who wait to hold it alone get it in the order in which they came.
    A thread that shares or holds it may share it again. One that shares it may
    not ask to hold it alone: two that did so would wait for each other for ever.
    """

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._sharing: Counter[int] = Counter()
        self._owner: int | None = None
        self._depth = 0
        self._waiting: deque[int] = deque()

    @property
    def n_sharing(self) -> int:
        """How often it is shared just now."""
        with self._changed:
            return self._sharing.total()

    @contextmanager
    def shared(self) -> Iterator[None]:
        """Share it while the body runs; waits while another thread holds it alone, or waits to."""
        me = threading.get_ident()
        with self._changed:
            self._changed.wait_for(lambda: self._may_share(me))
            self._sharing[me] += 1
        try:
            yield
        finally:
            # By the thread that began: a generator may be closed in another.
            with self._changed:
                self._sharing[me] -= 1
                if not self._sharing[me]:
                    del self._sharing[me]
                    self._changed.notify_all()

    @contextmanager
    def exclusive(self, cancel: Cancel | None = None) -> Iterator[None]:
        """Hold it alone while the body runs; waits until no other thread shares or holds it.

        Raises
        ------
        RuntimeError
            If this thread shares it and does not hold it.
        Cancelled
            If stopping was asked for while it waited.
        """
        me = threading.get_ident()
        with self._waking(cancel), self._changed:
            if self._owner != me:
                self._take(me, cancel)
            self._depth += 1
        try:
            yield
        finally:
            with self._changed:
                self._depth -= 1
                if not self._depth:
                    self._owner = None
                    self._changed.notify_all()

    def wait_until_unshared(self, cancel: Cancel) -> None:
        """Return when nobody shares it; takes nothing.

        Raises
        ------
        Cancelled
            If stopping is asked for first.
        """
        with self._waking(cancel), self._changed:
            self._changed.wait_for(lambda: not self._sharing or cancel.is_set)
        cancel.check()

    def _take(self, me: int, cancel: Cancel | None) -> None:
        if me in self._sharing:
            raise RuntimeError("a thread that shares a lock cannot hold it alone")
        self._waiting.append(me)

        def is_over() -> bool:
            is_stopped = cancel is not None and cancel.is_set
            return is_stopped or (self._owner is None and not self._sharing and self._waiting[0] == me)

        try:
            self._changed.wait_for(is_over)
        finally:
            self._waiting.remove(me)
            self._changed.notify_all()
        if cancel is not None:
            cancel.check()
        self._owner = me

    def _may_share(self, me: int) -> bool:
        return self._owner == me or me in self._sharing or (self._owner is None and not self._waiting)

    @contextmanager
    def _waking(self, cancel: Cancel | None) -> Iterator[None]:
        """Wake those who wait when stopping is asked for."""
        if cancel is None:
            yield
            return

        def wake() -> None:
            with self._changed:
                self._changed.notify_all()

        with cancel.calling(wake):
            yield


class ComputeQueue:
    """One queue for the processor: a question goes before indexing.

    Indexing calls `wait_for_turn` before each step; it holds still there while
    any question is worked on. A step that would take seconds is made while
    `giving_way`. What exchanges what questions run with does it `alone`.
    """

    def __init__(self) -> None:
        self._lock = ReadersWriterLock()
        self._giving_way: list[Callable[[], None]] = []
        self._waited_for: list[int] = []

    @property
    def n_questions(self) -> int:
        """How many questions are worked on."""
        return self._lock.n_sharing

    @contextmanager
    def question(self) -> Iterator[None]:
        """Mark a question as being worked on; waits while something is done alone. What gives way is told first."""
        with self._lock.shared():
            me = threading.get_ident()
            self._waited_for.append(me)
            try:
                self._drop_what_gives_way()
                yield
            finally:
                self._waited_for.remove(me)

    @contextmanager
    def trial(self, drop: Callable[[], None]) -> Iterator[None]:
        """Mark a question as being worked on that nobody waits for: `drop` is called as soon as one begins that somebody does.

        It is called at once if one is being worked on already, in the thread of either; may be called more than once.
        """
        with self._lock.shared():
            self._giving_way.append(drop)
            try:
                if self._waited_for:
                    drop()
                yield
            finally:
                self._giving_way.remove(drop)

    @contextmanager
    def giving_way(self, drop: Callable[[], None]) -> Iterator[None]:
        """Do a long step that a question may break off: `drop` is called, in its thread, as soon as one begins.

        It is called at once if one is being worked on already; may be called more than once.
        """
        self._giving_way.append(drop)
        try:
            if self.n_questions:
                drop()
            yield
        finally:
            self._giving_way.remove(drop)

    def alone(self, cancel: Cancel | None = None) -> AbstractContextManager[None]:
        """Wait until no question is worked on, and let none begin while the body runs; raises Cancelled if stopped first.

        What gives way to a question gives way to this, too.
        """
        self._drop_what_gives_way()
        return self._lock.exclusive(cancel)

    def wait_for_turn(self, cancel: Cancel) -> None:
        """Return when no question is worked on; raise Cancelled if stopping is asked for first."""
        self._lock.wait_until_unshared(cancel)

    def _drop_what_gives_way(self) -> None:
        for drop in tuple(self._giving_way):
            drop()
