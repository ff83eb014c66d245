# SPDX-License-Identifier: GPL-3.0-or-later
"""Hands files to reader processes, one file at a time each, and replaces a process that a file broke."""

import contextlib
import errno
import os
import queue
import socket
import stat
import subprocess
import threading
import time
from collections.abc import Callable, Generator, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.progress import Cancel
from redlantern.reading import errors, frames
from redlantern.reading.answers import Gathering, Message, OnPage, picture_of, refusal
from redlantern.reading.values import ReadFile
from redlantern.safety import names, seal
from redlantern.safety.children import start_child

MOST_FILE_MB = 500
MOST_MESSAGE_BYTES = 256 * 2**20
TIMEOUT_S = 180.0
"""How long a reader may say nothing; it tells of each page."""

_LAST = ("done", "refused", "picture", "awake", "tried")


@dataclass(frozen=True)
class PagePicture:
    """A page in pixels, 4 bytes each (blue, green, red, unused), rows without padding."""

    width_px: int
    height_px: int
    pixels: bytes


def _done(head: dict[str, Any]) -> int:
    done = head.get("done")
    return done if type(done) is int else -1


class _Watch:
    """Calls somebody when it was not reset for so long."""

    def __init__(self, timeout_s: float, on_silence: Callable[[], None]) -> None:
        self._timeout_s, self._on_silence = timeout_s, on_silence
        self._last = time.monotonic()
        self._stopped = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def reset(self) -> None:
        """Begin to count again."""
        self._last = time.monotonic()

    def stop(self) -> None:
        """Watch no longer."""
        self._stopped.set()
        self._thread.join()

    def _run(self) -> None:
        while (left := self._last + self._timeout_s - time.monotonic()) > 0:
            if self._stopped.wait(left):
                return
        self._on_silence()


class _Reader:
    """One reader process, started when first needed."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None
        self._files: socket.socket | None = None

    def ask(
        self, request: dict[str, Any], cancel: Cancel, timeout_s: float, handle: int | None = None
    ) -> Generator[Message, None, None]:
        """Send a request, with an open file where it is about one, and give each message of its answer, the last included."""
        process = self._started()
        assert process.stdin is not None and process.stdout is not None and self._files is not None
        has_hung = threading.Event()

        def give_up() -> None:
            has_hung.set()
            process.kill()

        watch, is_over = _Watch(timeout_s, give_up), False
        try:
            with cancel.calling(process.kill):
                frames.send(process.stdin, request)
                if handle is not None:
                    socket.send_fds(self._files, [b"f"], [handle])
                furthest = -1
                while True:
                    head, body = frames.receive(process.stdout, most_bytes=MOST_MESSAGE_BYTES)
                    # One that only says again how far it is does not move.
                    if head.get("is") != "progress" or _done(head) > furthest:
                        furthest = max(furthest, _done(head))
                        watch.reset()
                    is_over = head.get("is") in _LAST
                    yield head, body
                    if is_over:
                        return
        except (EOFError, OSError, ValueError, KeyError, RecursionError) as failure:
            self.stop()
            cancel.check()
            if has_hung.is_set():
                raise errors.broke_the_reader(f"reading it took over {timeout_s:.0f} seconds") from failure
            raise errors.ReaderBrokeError from failure
        finally:
            watch.stop()
            if not is_over:
                # What it still says must not be taken for the answer about the next file.
                self.stop()

    def start(self) -> None:
        """Start the process, if none runs, and wait until it answers: then its filter is on."""
        list(self.ask({"do": "wake"}, Cancel(), TIMEOUT_S))

    def stop(self) -> None:
        """End the process, if one runs."""
        process, self._process = self._process, None
        files, self._files = self._files, None
        if files is not None:
            files.close()
        if process is not None:
            process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    # What was not yet written to a dead process is of no use to anybody.
                    with contextlib.suppress(BrokenPipeError):
                        pipe.close()

    def _started(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            self.stop()
            self._files, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_STREAM)
            with theirs:
                self._process = start_child(
                    "redlantern.reading.worker", str(theirs.fileno()), handles=[theirs.fileno()]
                )
        return self._process


class ReaderPool:
    """Reader processes, one per core unless said otherwise. Safe to use from several threads."""

    def __init__(self, n_readers: int | None = None, *, timeout_s: float = TIMEOUT_S) -> None:
        self.n_readers = n_readers or os.cpu_count() or 1
        self._timeout_s = timeout_s
        self._readers = [_Reader() for _ in range(self.n_readers)]
        self._idle: queue.SimpleQueue[_Reader] = queue.SimpleQueue()
        for reader in self._readers:
            self._idle.put(reader)

    def read(self, path: Path, cancel: Cancel, on_page: OnPage | None = None, *, password: str = "") -> ReadFile:
        """Read one file in a reader process; waits while all are busy.

        Parameters
        ----------
        path : Path
            Must name a regular file; a link is not followed.
        cancel : Cancel
            Ends the reader process at once.
        on_page : callable
            Told the number of pages done and of all.
        password : str
            Opens the file; kept nowhere.

        Raises
        ------
        FileRefusedError
            If the file gave no document.
        Cancelled
            If stopping was asked for.
        """
        _check_confinement()
        handle = _opened(path)
        try:
            request = {"do": "read", "name": names.path_text(path.name), "password": password}
            with self._reader() as reader:
                try:
                    return self._gathered(reader, request, cancel, handle, on_page)
                except errors.ReaderBrokeError:
                    # An earlier file may have left something behind that broke it: only a new process proves this one guilty.
                    return self._gathered(reader, request, cancel, handle, on_page)
        finally:
            os.close(handle)

    def _gathered(
        self, reader: _Reader, request: dict[str, Any], cancel: Cancel, handle: int, on_page: OnPage | None
    ) -> ReadFile:
        gathering = Gathering(on_page)
        try:
            with contextlib.closing(reader.ask(request, cancel, self._timeout_s, handle)) as messages:
                for head, body in messages:
                    read = gathering.take(head, body)
                    if read is not None:
                        return read
            raise errors.ReaderBrokeError
        except errors.ReaderBrokeError:
            # One that says what no reader does may be anybody's by now.
            reader.stop()
            raise

    def picture(self, path: Path, page_index: int, scale: float, cancel: Cancel, *, part: str = "") -> PagePicture:
        """Print a page to pixels in a reader process; `scale` is pixels per point, `part` names a document in the file.

        Raises
        ------
        FileRefusedError
            If the file cannot be printed.
        Cancelled
            If stopping was asked for.
        """
        _check_confinement()
        handle = _opened(path)
        try:
            request = {
                "do": "picture", "name": names.path_text(path.name), "part": part, "page_index": page_index, "scale": scale,
            }  # fmt: skip
            with self._reader() as reader:
                try:
                    for head, body in reader.ask(request, cancel, self._timeout_s, handle):
                        if head.get("is") == "picture":
                            return PagePicture(*picture_of(head, body))
                        if head.get("is") == "refused":
                            raise refusal(head)
                except errors.ReaderBrokeError:
                    reader.stop()
                    raise
        finally:
            os.close(handle)
        raise errors.damaged("PDF")

    def try_ways(self, canary: str, parent: int) -> list[dict[str, Any]]:
        """Let a reader, and what recognises text in it, try to get out; gives what each tried (see safety.attempts)."""
        with self._reader() as reader:
            [(head, _)] = reader.ask({"do": "try", "canary": canary, "parent": parent}, Cancel(), self._timeout_s)
            return list(head["rows"])

    def start(self) -> None:
        """Start a reader before the first file needs it."""
        with self._reader() as reader:
            reader.start()

    def close(self) -> None:
        """End all reader processes."""
        for reader in self._readers:
            reader.stop()

    @contextmanager
    def _reader(self) -> Iterator[_Reader]:
        reader = self._idle.get()
        try:
            yield reader
        finally:
            self._idle.put(reader)


def _check_confinement() -> None:
    """No file is read where a reader cannot be confined, also by a program that was told to go on without its seal.

    Raises
    ------
    FileRefusedError
    """
    state = seal.state()
    if not state.is_on:
        raise errors.no_confinement(state.reason)


def _opened(path: Path) -> int:
    """Open a regular file for a reader, which may open none itself; gives its handle.

    O_NOFOLLOW and O_NONBLOCK: the name may have come to stand for a link or a pipe since it was listed.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError as failure:
        is_link = failure.errno == errno.ELOOP
        why = "it is not a regular file" if is_link else failure.strerror or "unknown error"
        raise errors.unreadable(why) from failure
    try:
        status = os.fstat(handle)
        if not stat.S_ISREG(status.st_mode):
            raise errors.unreadable("it is not a regular file")
        if status.st_size > MOST_FILE_MB * 2**20:
            raise errors.too_large(MOST_FILE_MB)
    except BaseException:
        os.close(handle)
        raise
    return handle
