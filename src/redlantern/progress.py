# SPDX-License-Identifier: GPL-3.0-or-later
"""How slow work reports, and is cancelled."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass


@dataclass(frozen=True)
class Progress:
    """One report of slow work.

    `total` is None until it is known; `unit` is the plural noun that `done`
    and `total` count ("pages"); `detail` names what is worked on just now.
    """

    stage: str
    done: int
    total: int | None
    unit: str
    detail: str = ""


Report = Callable[[Progress], None]


def silent(progress: Progress) -> None:
    """Take a report and do nothing with it."""


class Cancelled(Exception):
    """The work was stopped because somebody asked for it."""


class Cancel:
    """A request to stop, or to hold still for a while, set by one thread and looked at by another."""

    def __init__(self) -> None:
        self._event = threading.Event()
        self._may_go_on = threading.Event()
        self._may_go_on.set()
        self._callbacks: list[Callable[[], None]] = []
        self._lock = threading.Lock()

    def now(self) -> None:
        """Ask for the work to stop. May be called more than once and from any thread."""
        with self._lock:
            self._event.set()
            self._may_go_on.set()
            callbacks, self._callbacks = self._callbacks, []
        for callback in callbacks:
            callback()

    @property
    def is_set(self) -> bool:
        """Whether stopping was asked for."""
        return self._event.is_set()

    def hold(self) -> None:
        """Ask for the work to hold still the next time it looks."""
        if not self._event.is_set():
            self._may_go_on.clear()

    def go_on(self) -> None:
        """Let the work go on after `hold`."""
        self._may_go_on.set()

    @property
    def is_held(self) -> bool:
        """Whether the work was asked to hold still."""
        return not self._may_go_on.is_set()

    def check(self) -> None:
        """Wait while the work is held; raise Cancelled if stopping was asked for."""
        self._may_go_on.wait()
        if self._event.is_set():
            raise Cancelled

    @contextmanager
    def calling(self, callback: Callable[[], None]) -> Iterator[None]:
        """Call `callback` as soon as stopping is asked for, while the body runs.

        For work that waits in a system call and so cannot look for itself.
        """
        with self._lock:
            is_late = self._event.is_set()
            if not is_late:
                self._callbacks.append(callback)
        if is_late:
            callback()
        try:
            yield
        finally:
            with self._lock:
                if callback in self._callbacks:
                    self._callbacks.remove(callback)
