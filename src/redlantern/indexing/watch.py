# SPDX-License-Identifier: GPL-3.0-or-later
"""Watches followed folders, and says when something in them has changed and been quiet again. Never acts by itself."""

import threading
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

QUIET_S = 2.0
"""How long nothing may happen before a change is told: a file is often written in many steps."""


class FolderWatch:
    """Watches until it is closed. Folders that are not there are left out."""

    def __init__(self, paths: Iterable[Path], on_change: Callable[[], None], *, quiet_s: float = QUIET_S) -> None:
        """`on_change` is called in a thread of the watch."""
        from watchdog.observers import Observer

        self._on_change, self._quiet_s = on_change, quiet_s
        self._lock = threading.Lock()
        self._waiting: threading.Timer | None = None
        self._is_closed = False
        self._observer = Observer()
        handler = _handler(self._on_event)
        for folder in sorted({path if path.is_dir() else path.parent for path in paths}):
            if folder.is_dir():
                self._observer.schedule(handler, str(folder), recursive=True)
        self._observer.start()

    def close(self) -> None:
        """Watch no longer; nothing is told after this."""
        with self._lock:
            self._is_closed = True
            waiting, self._waiting = self._waiting, None
        if waiting is not None:
            waiting.cancel()
        self._observer.stop()
        self._observer.join()

    def _on_event(self) -> None:
        with self._lock:
            if self._is_closed:
                return
            if self._waiting is not None:
                self._waiting.cancel()
            self._waiting = threading.Timer(self._quiet_s, self._tell)
            self._waiting.daemon = True
            self._waiting.start()

    def _tell(self) -> None:
        with self._lock:
            self._waiting = None
            if self._is_closed:
                return
        self._on_change()


def _handler(on_event: Callable[[], None]) -> Any:
    from watchdog.events import FileSystemEvent, FileSystemEventHandler

    class Handler(FileSystemEventHandler):
        """Only what changes files counts, not who looks at them."""

        def on_any_event(self, event: FileSystemEvent) -> None:
            if event.event_type in ("created", "deleted", "modified", "moved", "closed"):
                on_event()

    return Handler()
