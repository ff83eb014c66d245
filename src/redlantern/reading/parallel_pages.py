# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads the two halves of a long document at once, the second in a process of its own."""

import contextlib
import os
import pickle
import signal
import threading
from collections.abc import Callable, Iterator
from typing import BinaryIO, Generic, TypeVar

from redlantern.reading import errors
from redlantern.reading.forked import end_with

OnPage = Callable[[int, int], None]
"""Told the number of pages done and of all."""

WORTH_TWO_PROCESSES = 24

Found = TypeVar("Found")
Work = Callable[[range], Iterator[Found]]


def in_two_processes(work: Work[Found], n_pages: int, on_page: OnPage) -> list[Found]:
    """Do work on pages, on two cores when there are many.

    Parameters
    ----------
    work : callable
        Given page indexes, gives one result a page, in order.
    n_pages : int
    on_page : callable
        Called in this thread only.

    Returns
    -------
    list
        One result a page, in order.

    Raises
    ------
    FileRefusedError
        What `work` raised in either process, or if the second process broke.
    """
    is_worth = n_pages >= WORTH_TWO_PROCESSES and (os.cpu_count() or 1) > 1
    n_mine = (n_pages + 1) // 2 if is_worth else n_pages
    other = _Other(work, range(n_mine, n_pages))
    found: list[Found] = []
    try:
        for page in work(range(n_mine)):
            found.append(page)
            on_page(len(found) + other.n_done, n_pages)
        while other.is_busy():
            on_page(n_mine + other.n_done, n_pages)
        found.extend(other.results())
    finally:
        other.end()
    if is_worth:
        on_page(n_pages, n_pages)
    return found


class _Other(Generic[Found]):
    """A second process, forked from this one, and the thread that listens to it."""

    def __init__(self, work: Work[Found], pages: range) -> None:
        self._wanted = len(pages)
        self._found: list[Found] = []
        self._refusal: errors.FileRefusedError | None = None
        self._pid = 0
        self._thread: threading.Thread | None = None
        if pages:
            self._start(work, pages)

    @property
    def n_done(self) -> int:
        """How many results have come."""
        return len(self._found)

    def _start(self, work: Work[Found], pages: range) -> None:
        reading, writing = os.pipe()
        parent = os.getpid()
        self._pid = os.fork()
        if self._pid == 0:
            os.close(reading)
            with os.fdopen(writing, "wb") as pipe:
                _serve(work, pages, pipe, parent)
            os._exit(0)
        os.close(writing)
        self._thread = threading.Thread(target=self._listen, args=(os.fdopen(reading, "rb"),), daemon=True)
        self._thread.start()

    def _listen(self, pipe: BinaryIO) -> None:
        # The other process holds the same file in the same confinement: it can say nothing worse than this one.
        with pipe, contextlib.suppress(EOFError, pickle.UnpicklingError, OSError):
            while True:
                found = pickle.load(pipe)
                if isinstance(found, errors.FileRefusedError):
                    self._refusal = found
                else:
                    self._found.append(found)

    def is_busy(self) -> bool:
        """Whether it still works; waits a little if so."""
        if self._thread is None:
            return False
        self._thread.join(0.2)
        return self._thread.is_alive()

    def results(self) -> list[Found]:
        """What it found."""
        if self._refusal is not None:
            raise self._refusal
        if len(self._found) != self._wanted:
            raise errors.broke_the_reader("it broke the reader")
        return self._found

    def end(self) -> None:
        """End the process, whether it is done or not."""
        if self._pid:
            with contextlib.suppress(ProcessLookupError):
                os.kill(self._pid, signal.SIGKILL)
            os.waitpid(self._pid, 0)
        if self._thread is not None:
            self._thread.join()


def _serve(work: Work[Found], pages: range, pipe: BinaryIO, parent: int) -> None:
    end_with(parent)
    try:
        for found in work(pages):
            pickle.dump(found, pipe, pickle.HIGHEST_PROTOCOL)
            pipe.flush()
    except errors.FileRefusedError as refusal:
        pickle.dump(refusal, pipe)
    except BaseException:  # the outer edge of this process: the parent sees that results are missing
        os._exit(1)
