"""Keeps a file from being replaced under the feet of those who read it."""

import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager


class Gate:
    """Any number of threads are inside at once, or one holds it alone. A thread that is inside or holds it may come in again."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._inside: Counter[int] = Counter()
        self._holder: int | None = None

    @contextmanager
    def inside(self) -> Iterator[None]:
        """Be inside while the body runs; waits while another thread holds the gate."""
        me = threading.get_ident()
        with self._changed:
            self._changed.wait_for(lambda: self._holder in (None, me) or self._inside[me] > 0)
            self._inside[me] += 1
        try:
            yield
        finally:
            with self._changed:
                self._inside[me] -= 1
                if not self._inside[me]:
                    del self._inside[me]
                    self._changed.notify_all()

    @contextmanager
    def held(self) -> Iterator[None]:
        """Wait until no other thread is inside, and let none in while the body runs."""
        me = threading.get_ident()
        with self._changed:
            is_outermost = self._holder != me
            self._changed.wait_for(lambda: self._holder in (None, me))
            self._holder = me
            self._changed.wait_for(lambda: self._inside.keys() <= {me})
        try:
            yield
        finally:
            if is_outermost:
                with self._changed:
                    self._holder = None
                    self._changed.notify_all()
