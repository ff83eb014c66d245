# SPDX-License-Identifier: GPL-3.0-or-later
"""Does a piece of a reader's work in a process of its own that is forked from it, within the same confinement.

No other program is started for it: a program that is executed could be looked
into by others of the login (the kernel makes it dumpable again), and could be
another than it should be.
"""

import contextlib
import ctypes
import os
import select
import signal
import struct
import time
from collections.abc import Callable

_PR_SET_PDEATHSIG = 1
_MOST_BYTES = 64 * 2**20
_PIECE_BYTES = 2**16
_LENGTH = struct.Struct(">Q")


class ForkFailedError(Exception):
    """The work broke, or its process did."""


class ForkTimeoutError(ForkFailedError):
    """The work took too long."""


def in_a_fork(work: Callable[[], bytes], *, timeout_s: float) -> bytes:
    """Do work in a forked process; gives what it gave, at most 64 MiB.

    Raises
    ------
    ForkTimeoutError
        If it took longer than `timeout_s` seconds; its process is ended.
    ForkFailedError
        If it raised, or its process ended otherwise.
    """
    reading, writing = os.pipe()
    parent = os.getpid()
    pid = os.fork()
    if pid == 0:
        os.close(reading)
        _serve(work, writing, parent)
    os.close(writing)
    try:
        return _gathered(reading, time.monotonic() + timeout_s)
    finally:
        os.close(reading)
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)
        os.waitpid(pid, 0)


def end_with(parent: int) -> None:
    """Let the kernel end this process when its parent is gone: it must not outlive a reader that is killed."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)


def _serve(work: Callable[[], bytes], writing: int, parent: int) -> None:
    code = 1
    try:
        end_with(parent)
        found = work()
        said = _LENGTH.pack(len(found)) + found
        while said:
            said = said[os.write(writing, said[:_PIECE_BYTES]) :]
        code = 0
    finally:
        # Nothing that the parent would do at its end is done here.
        os._exit(code)


def _gathered(reading: int, deadline: float) -> bytes:
    found = bytearray()
    while True:
        left = deadline - time.monotonic()
        if left <= 0 or not select.select([reading], [], [], left)[0]:
            raise ForkTimeoutError
        piece = os.read(reading, _PIECE_BYTES)
        if not piece:
            break
        found += piece
        if len(found) > _MOST_BYTES:
            raise ForkFailedError
    if len(found) < _LENGTH.size or len(found) != _LENGTH.size + _LENGTH.unpack_from(found)[0]:
        raise ForkFailedError
    return bytes(found[_LENGTH.size :])
