# SPDX-License-Identifier: GPL-3.0-or-later
"""Loads a model while something else is still being done."""

import threading
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, Generic, TypeVar

Model = TypeVar("Model")


class Preloaded(Generic[Model]):
    """Makes a model in a thread of its own from now on. Called, it waits for it and gives it; called again, or for another model
    than the one it began with, it makes one.
    """

    def __init__(self, make: Callable[..., Model]) -> None:
        self._make = make
        self._lock = threading.Lock()
        self._first: Future[Model] | None = Future()
        threading.Thread(target=self._begin, args=(self._first,), daemon=True).start()

    def __call__(self, *which: Any) -> Model:
        """Give the model, or the one that `which` names to its maker; raises what making it raised."""
        if which:
            return self._make(*which)
        with self._lock:
            first, self._first = self._first, None
        return first.result() if first is not None else self._make()

    def _begin(self, future: "Future[Model]") -> None:
        try:
            future.set_result(self._make())
        except BaseException as failure:  # handed on to whoever asks for the model
            future.set_exception(failure)
