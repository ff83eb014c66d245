# SPDX-License-Identifier: GPL-3.0-or-later
"""What each process of the program tries to do and must not be able to, and what the kernel said.

Runs within the very process that is judged, or a fork of it. Every try aims at
this machine itself and at a folder made for it, so that nothing is harmed where
there is no protection: an open way shows in that it works.
"""

import contextlib
import ctypes
import fcntl
import json
import mmap
import os
import select
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO, Any

from redlantern.safety.places import runtime_directory
from redlantern.safety.wayout import WAYS, judged
from redlantern.translation import marked

NETWORK, WRITING, STARTING, READING = "network", "writing", "other programs", "files"
PROCESSES, TERMINAL, BUS = "other processes", "terminal", "message bus"

WINDOW, READER, RECOGNITION, HOST, LINK = "this program", "reader", "text recognition", "model host", "model link"

NEEDED = {
    WRITING: marked("it keeps your collections"),
    STARTING: marked("it opens documents in their own programs and starts the processes below"),
    READING: marked("it finds your documents"),
    BUS: marked("it asks the login's secret store, and the desktop"),
}
"""What the program itself needs, and so is open to it alone, with the reason."""

_DOCUMENT, _BUS_SOCKET = "document.txt", "bus.sock"
_WORDS = "A document that belongs to somebody else.\n"
_PIDFD_OPEN, _PIDFD_GETFD = 434, 438  # the same on every architecture
_PTRACE_ATTACH, _TIOCSTI = 16, 0x5412
_AT_ONCE_S = 5
_PATIENCE_S = 60


@dataclass(frozen=True)
class Attempt:
    """One try of one process. `needed` says why an open way is meant to be open; empty where it must be closed."""

    process: str
    kind: str
    way: str
    is_closed: bool
    said: str
    needed: str = ""

    @property
    def is_wrong(self) -> bool:
        """Whether a way is open that must not be."""
        return not self.is_closed and not self.needed

    def as_json(self) -> dict[str, Any]:
        """Give the form documented in docs/commands.md."""
        return asdict(self)


@contextmanager
def canary() -> Iterator[str]:
    """A folder with a document and a listening local socket in it, which no process of ours but this one has to do with."""
    with (
        tempfile.TemporaryDirectory(prefix="try-", dir=runtime_directory()) as folder,
        socket.socket(socket.AF_UNIX) as bus,
    ):
        (Path(folder) / _DOCUMENT).write_text(_WORDS)
        bus.bind(str(Path(folder) / _BUS_SOCKET))
        bus.listen()
        yield folder


def try_all(folder: str, other: int) -> list[dict[str, Any]]:
    """Try everything, each once, from within the process that is judged.

    Parameters
    ----------
    folder : str
        What `canary` made.
    other : int
        A process that is none of this one's children.

    Returns
    -------
    list of dict
        With kind, name, is_closed and said.
    """
    tries = [(NETWORK, name, attempt) for name, attempt in WAYS] + _ways(Path(folder), other)
    return [{"kind": kind, **asdict(judged(name, attempt))} for kind, name, attempt in tries]


def serve(requests: IO[str], answers: IO[str]) -> None:
    """Answer, in a process that waits for its parent to go, whoever there asks it to try (see `ask`); ends with the requests."""
    for line in requests:
        request = json.loads(line)
        print(json.dumps(try_all(request["folder"], request["other"])), file=answers, flush=True)


def ask(process: "subprocess.Popen[bytes]", folder: str, other: int) -> list[dict[str, Any]]:
    """Let a process that `serve`s try everything; nothing where it does not answer."""
    assert process.stdin is not None and process.stdout is not None
    try:
        process.stdin.write(json.dumps({"folder": folder, "other": other}).encode() + b"\n")
        process.stdin.flush()
        answer, deadline = b"", time.monotonic() + _PATIENCE_S
        while not answer.endswith(b"\n") and time.monotonic() < deadline:
            if select.select([process.stdout], [], [], 1.0)[0]:
                piece = os.read(process.stdout.fileno(), 2**16)
                if not piece:
                    break
                answer += piece
        return list(json.loads(answer))
    except (OSError, ValueError):
        return []


def attempts_of(process: str, rows: list[dict[str, Any]]) -> list[Attempt]:
    """Put what a process said of its tries under its name."""
    needed = NEEDED if process == WINDOW else {}
    return [
        Attempt(
            process, str(row["kind"]), str(row["name"]), bool(row["is_closed"]), str(row["said"])[:200],
            "" if row["is_closed"] else needed.get(str(row["kind"]), ""),
        )
        for row in rows
    ]  # fmt: skip


def _ways(folder: Path, other: int) -> list[tuple[str, str, Callable[[], None]]]:
    document = folder / _DOCUMENT
    beside = folder / f"made by {os.getpid()}"
    return [
        (WRITING, marked("overwriting a file"), lambda: os.close(os.open(document, os.O_WRONLY))),
        (WRITING, marked("overwriting a file through memory"), lambda: _map(document)),
        (WRITING, marked("cutting a file short"), lambda: os.truncate(document, len(_WORDS))),
        (WRITING, marked("making a file"), lambda: _make(beside)),
        (WRITING, marked("giving a file another name"), lambda: _there_and_back(document, beside)),
        (WRITING, marked("removing a file"), lambda: _remove(folder, beside)),
        (WRITING, marked("making a link to a file"), lambda: _link(os.link, document, beside)),
        (WRITING, marked("making a symbolic link"), lambda: _link(os.symlink, document, beside)),
        (WRITING, marked("changing who may read a file"), lambda: document.chmod(0o644)),
        (WRITING, marked("making a folder"), lambda: _folder(beside)),
        (STARTING, marked("starting a program"), lambda: _run("/bin/true")),
        (STARTING, marked("starting a shell"), lambda: _run("/bin/sh", "-c", "exit 0")),
        (
            READING,
            marked("reading a document that was not handed over"),
            lambda: os.close(os.open(document, os.O_RDONLY)),
        ),
        (
            PROCESSES,
            marked("reading another process's memory"),
            lambda: os.close(os.open(f"/proc/{other}/mem", os.O_RDONLY)),
        ),
        (
            PROCESSES,
            marked("writing another process's memory"),
            lambda: os.close(os.open(f"/proc/{other}/mem", os.O_RDWR)),
        ),
        (PROCESSES, marked("stopping another process like a debugger"), lambda: _attach(other)),
        (PROCESSES, marked("taking over another program's open connection"), lambda: _take_descriptor(other)),
        (PROCESSES, marked("sending a signal to another process"), lambda: os.kill(other, 0)),
        (TERMINAL, marked("typing into the terminal"), _type),
        (BUS, marked("asking a service over a message bus"), lambda: _connect(folder / _BUS_SOCKET)),
    ]


def _map(path: Path) -> None:
    handle = os.open(path, os.O_RDWR)
    with contextlib.closing(mmap.mmap(handle, 1)) as mapped:
        mapped[0:1] = mapped[0:1]
    os.close(handle)


def _make(path: Path) -> None:
    os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
    path.unlink()


def _there_and_back(path: Path, other: Path) -> None:
    path.rename(other)
    other.rename(path)


def _remove(folder: Path, path: Path) -> None:
    try:
        path.write_text("")
    except PermissionError:
        # It cannot even make one: so one that is there is tried, which is put back where that works.
        document = folder / _DOCUMENT
        document.unlink()
        document.write_text(_WORDS)
        return
    path.unlink()


def _link(make: Callable[[Path, Path], None], path: Path, other: Path) -> None:
    make(path, other)
    other.unlink()


def _folder(path: Path) -> None:
    path.mkdir()
    path.rmdir()


def _run(*words: str) -> None:
    subprocess.run(words, check=False, timeout=_AT_ONCE_S, stdin=subprocess.PIPE, stdout=subprocess.PIPE)


def _attach(other: int) -> None:
    libc = ctypes.CDLL(None, use_errno=True)
    if libc.ptrace(_PTRACE_ATTACH, other, None, None) < 0:
        _raise_errno()
    libc.ptrace(17, other, None, None)  # PTRACE_DETACH
    os.kill(other, signal.SIGCONT)


def _take_descriptor(other: int) -> None:
    libc = ctypes.CDLL(None, use_errno=True)
    process = libc.syscall(_PIDFD_OPEN, other, 0)
    if process < 0:
        _raise_errno()
    try:
        handle = libc.syscall(_PIDFD_GETFD, process, 0, 0)
        if handle < 0:
            _raise_errno()
        os.close(handle)
    finally:
        os.close(process)


def _type() -> None:
    # On whatever the standard input is: where the kernel does not refuse it for itself, it says that this is no terminal.
    fcntl.ioctl(sys.__stdin__.fileno() if sys.__stdin__ is not None else 0, _TIOCSTI, b"\0")


def _connect(path: Path) -> None:
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as bus:
        bus.settimeout(_AT_ONCE_S)
        bus.connect(str(path))


def _raise_errno() -> None:
    number = ctypes.get_errno()
    raise OSError(number, os.strerror(number))
