"""Hands files to reader processes, one file at a time each, and replaces a process that a file broke."""

import contextlib
import os
import queue
import stat
import subprocess
import sys
import threading
import time
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from redlantern.progress import Cancel
from redlantern.reading import errors, frames
from redlantern.reading.geometry import unpack_blocks, unpack_runs
from redlantern.reading.values import Origin, Page, Part, ReadFile

MOST_FILE_MB = 500
MOST_MESSAGE_BYTES = 256 * 2**20
MOST_TEXT_CHARS = 200_000_000
MOST_PARTS = 300_000
TIMEOUT_S = 180.0
"""How long a reader may say nothing; it tells of each page."""

OnPage = Callable[[int, int], None]


@dataclass(frozen=True)
class PagePicture:
    """A page in pixels, 4 bytes each (blue, green, red, unused), rows without padding."""

    width_px: int
    height_px: int
    pixels: bytes


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

    def ask(self, request: dict[str, Any], cancel: Cancel, timeout_s: float) -> Iterator[tuple[dict[str, Any], bytes]]:
        """Send a request and give each message of its answer, the last one included."""
        process = self._started()
        assert process.stdin is not None and process.stdout is not None
        has_hung = threading.Event()

        def give_up() -> None:
            has_hung.set()
            process.kill()

        watch = _Watch(timeout_s, give_up)
        try:
            with cancel.calling(process.kill):
                frames.send(process.stdin, request)
                while True:
                    head, body = frames.receive(process.stdout, most_bytes=MOST_MESSAGE_BYTES)
                    watch.reset()
                    yield head, body
                    if head["is"] in ("done", "refused", "picture"):
                        return
        except (EOFError, OSError, ValueError, KeyError) as failure:
            self.stop()
            cancel.check()
            if has_hung.is_set():
                raise errors.broke_the_reader(f"reading it took over {timeout_s:.0f} seconds") from failure
            raise errors.ReaderBrokeError from failure
        finally:
            watch.stop()

    def start(self) -> None:
        """Start the process, if none runs, and wait until it answers: then its filter is on."""
        process = self._started()
        assert process.stdin is not None and process.stdout is not None
        frames.send(process.stdin, {"do": "wake"})
        frames.receive(process.stdout, most_bytes=MOST_MESSAGE_BYTES)

    def stop(self) -> None:
        """End the process, if one runs."""
        process, self._process = self._process, None
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
            command = [sys.executable, "-m", "redlantern.reading.worker"]
            self._process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, close_fds=True
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
        _check_regular(path)
        request = {"do": "read", "path": str(path), "password": password}
        with self._reader() as reader:
            try:
                return _gather(reader.ask(request, cancel, self._timeout_s), on_page)
            except errors.ReaderBrokeError:
                # An earlier file may have left something behind that broke it: only a new process proves this one guilty.
                return _gather(reader.ask(request, cancel, self._timeout_s), on_page)

    def picture(self, path: Path, page_index: int, scale: float, cancel: Cancel, *, part: str = "") -> PagePicture:
        """Print a page to pixels in a reader process; `scale` is pixels per point, `part` names a document in the file.

        Raises
        ------
        FileRefusedError
            If the file cannot be printed.
        Cancelled
            If stopping was asked for.
        """
        _check_regular(path)
        request = {"do": "picture", "path": str(path), "part": part, "page_index": page_index, "scale": scale}
        with self._reader() as reader:
            for head, body in reader.ask(request, cancel, self._timeout_s):
                if head["is"] == "picture":
                    width, height = int(head["width"]), int(head["height"])
                    # No longer than announced: a broken reader must not fill the memory of this process.
                    pixels = zlib.decompressobj().decompress(body, width * height * 4)
                    return PagePicture(width, height, pixels)
                _raise_if_refused(head)
        raise errors.damaged("PDF")

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


def _check_regular(path: Path) -> None:
    try:
        status = path.lstat()
    except OSError as failure:
        raise errors.unreadable(failure.strerror or "unknown error") from failure
    if not stat.S_ISREG(status.st_mode):
        raise errors.unreadable("it is not a regular file")
    if status.st_size > MOST_FILE_MB * 2**20:
        raise errors.too_large(MOST_FILE_MB)


def _gather(messages: Iterator[tuple[dict[str, Any], bytes]], on_page: OnPage | None) -> ReadFile:
    pages: list[Page] = []
    document: ReadFile | None = None
    parts: list[Part] = []
    part_name = ""
    n_chars = 0
    for head, body in messages:
        _raise_if_refused(head)
        if head["is"] == "progress" and on_page is not None:
            on_page(int(head["done"]), int(head["total"]))
        elif head["is"] == "page":
            pages.append(_page(head, body))
            n_chars += len(pages[-1].text)
            if n_chars > MOST_TEXT_CHARS:
                raise errors.broke_the_reader("it holds more text than any document should")
        elif head["is"] == "document":
            read = _document(head, pages)
            pages = []
            if document is None:
                document = read
            else:
                parts.append(Part(part_name, read))
        elif head["is"] == "part":
            part_name = str(head["name"])
        elif head["is"] == "part refused":
            parts.append(Part(str(head["name"]), None, str(head["reason"])))
        elif head["is"] == "done" and document is not None:
            return replace(document, parts=tuple(parts))
        if len(parts) > MOST_PARTS:
            raise errors.broke_the_reader("it holds more documents than any file should")
    raise errors.ReaderBrokeError


def _document(head: dict[str, Any], pages: list[Page]) -> ReadFile:
    details = {str(name): str(value) for name, value in dict(head["details"]).items()}
    return ReadFile(
        str(head["kind"]),
        str(head["title"]),
        tuple(pages),
        tuple(map(str, head["notes"])),
        details,
        str(head["language"]),
    )


def _raise_if_refused(head: dict[str, Any]) -> None:
    if head["is"] == "refused":
        raise errors.FileRefusedError(str(head["reason"]), str(head["advice"]))


def _page(head: dict[str, Any], body: bytes) -> Page:
    n_text, n_blocks, _ = head["parts"]
    text = body[:n_text].decode()
    blocks = unpack_blocks(body[n_text : n_text + n_blocks])
    runs = unpack_runs(body[n_text + n_blocks :])
    origin: Origin = head["origin"] if head["origin"] in ("recognised", "none") else "text"
    return Page(
        int(head["page_number"]),
        text,
        blocks,
        runs,
        float(head["width_pt"]),
        float(head["height_pt"]),
        origin,
        float(head["confidence"]),
        tuple(map(str, head["warnings"])),
    )
