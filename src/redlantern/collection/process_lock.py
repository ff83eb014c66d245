# SPDX-License-Identifier: GPL-3.0-or-later
"""The lock by which processes keep out of each other's way: byte ranges of a small file beside the collection.

Beside the collection and not in a folder of the login, so that it holds for
whoever reaches the file: another login, another environment, another machine on
a shared folder. Not on the collection itself: closing any handle of that would
drop the locks that the database holds on it (POSIX locks belong to a process).
Open file description locks (fcntl(2), F_OFD_SETLK) belong to a handle, so two
openings within one process keep each other out, too, and a kill lets go of them.
"""

import contextlib
import errno
import fcntl
import os
import socket
import stat
import struct
import time
from collections.abc import Iterator
from pathlib import Path

from redlantern.collection import errors

LOCK_ENDING = ".lock"
_OPEN_BYTE, _CHANGE_BYTE = 0, 1
"""Shared by every process that has the file open, or held alone; held by the one that may change it."""
_HOLDER_AT, _MOST_HOLDER_BYTES = 16, 200
_PATIENCE_S, _PAUSE_S = 3.0, 0.02
"""How long an opening waits for a file that is being replaced just now."""
_CANNOT_LOCK = {errno.ENOLCK, errno.ENOSYS, errno.EOPNOTSUPP, errno.EINVAL, errno.EIO}


class ProcessLock:
    """The lock of one opening of a collection. Taken shared by `opened`, and until `release`."""

    def __init__(self, path: Path, handle: int | None, *, can_claim: bool) -> None:
        self.path = path
        self._handle, self._can_claim = handle, can_claim
        self.is_claimed = False

    @classmethod
    def opened(cls, path: Path) -> "ProcessLock":
        """Take a share in the collection at `path`, as everybody does who has it open.

        In a folder that cannot be written to there may be no lock file; nobody
        replaces the collection there, and it can only be read.

        Raises
        ------
        CollectionInUseError
            If another process holds it alone, and goes on to.
        CannotLockError
            If its file system keeps no locks.
        """
        deadline = time.monotonic() + _PATIENCE_S
        while True:
            handle, can_claim = _open(path)
            if handle is None:
                return cls(path, None, can_claim=False)
            try:
                if _take(path, handle, _OPEN_BYTE, fcntl.F_RDLCK) and _is_still(path, handle):
                    return cls(path, handle, can_claim=can_claim)
                holder = _holder(handle)
            except BaseException:
                os.close(handle)
                raise
            os.close(handle)
            if time.monotonic() > deadline:
                raise errors.CollectionInUseError(str(path), holder)
            time.sleep(_PAUSE_S)

    def claim(self) -> None:
        """Become the one that may change the collection.

        Raises
        ------
        CollectionInUseError
            If another is that already.
        CannotWriteError
            If the lock file cannot be written to.
        """
        if self.is_claimed:
            return
        if self._handle is None or not self._can_claim:
            raise errors.CannotWriteError(str(self.path), "its folder can only be read")
        if not _take(self.path, self._handle, _CHANGE_BYTE, fcntl.F_WRLCK):
            raise errors.CollectionInUseError(str(self.path), _holder(self._handle))
        self.is_claimed = True
        os.ftruncate(self._handle, 0)
        os.pwrite(self._handle, f"{os.getpid()} {socket.gethostname()}".encode()[:_MOST_HOLDER_BYTES], _HOLDER_AT)

    def hold_alone(self) -> None:
        """Become the only one that has it open at all.

        Raises
        ------
        CollectionInUseError
            If another has, also to read. The share stays.
        """
        assert self._handle is not None
        if not _take(self.path, self._handle, _OPEN_BYTE, fcntl.F_WRLCK):
            raise errors.CollectionInUseError(str(self.path), "")

    def share_again(self) -> None:
        """Let others open it again."""
        if self._handle is not None:
            _take(self.path, self._handle, _OPEN_BYTE, fcntl.F_RDLCK)

    def release(self) -> None:
        """Give everything up; the lock file goes with the last one who had it."""
        handle, self._handle, self.is_claimed = self._handle, None, False
        if handle is None:
            return
        with contextlib.suppress(OSError, errors.CannotLockError):
            if self._can_claim and _take(self.path, handle, _OPEN_BYTE, fcntl.F_WRLCK) and _is_still(self.path, handle):
                lock_path(self.path).unlink()
        os.close(handle)


@contextlib.contextmanager
def held_alone(path: Path) -> Iterator[ProcessLock]:
    """Have a collection alone, for what removes it or puts it in a new place.

    Raises
    ------
    CollectionInUseError, CannotLockError, CannotWriteError
    """
    lock = ProcessLock.opened(path)
    try:
        lock.claim()
        lock.hold_alone()
        yield lock
    finally:
        lock.release()


def lock_path(path: Path) -> Path:
    """The lock file of the collection at `path`."""
    return path.with_name(path.name + LOCK_ENDING)


def _open(path: Path) -> tuple[int | None, bool]:
    """Open the lock file, or make it; gives its handle and whether it can be written to."""
    place = lock_path(path)
    try:
        handle = os.open(place, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600)
    except PermissionError:
        return _open_to_read(place), False
    except OSError as failure:
        if failure.errno == errno.EROFS:
            return _open_to_read(place), False
        raise errors.CannotLockError(str(path), failure.strerror or "unknown error") from failure
    _open_as_the_collection(path, handle)
    return handle, True


def _open_to_read(place: Path) -> int | None:
    with contextlib.suppress(OSError):
        return os.open(place, os.O_RDONLY | os.O_NOFOLLOW | os.O_CLOEXEC)
    return None


def _open_as_the_collection(path: Path, handle: int) -> None:
    """Let whoever may use the collection use its lock."""
    with contextlib.suppress(OSError):
        wanted = stat.S_IMODE(path.stat().st_mode) & 0o666 | 0o600
        if stat.S_IMODE(os.fstat(handle).st_mode) != wanted:
            os.fchmod(handle, wanted)


def _take(path: Path, handle: int, byte: int, how: int) -> bool:
    """Take one of the locks, or change how it is held, in one step; False where another stands in the way."""
    # struct flock: type, whence, start, length, process (0 for these locks).
    wanted = struct.pack("hhqqi4x", how, os.SEEK_SET, byte, 1, 0)
    try:
        fcntl.fcntl(handle, fcntl.F_OFD_SETLK, wanted)
    except OSError as failure:
        if failure.errno in (errno.EAGAIN, errno.EACCES):
            return False
        if failure.errno in _CANNOT_LOCK:
            raise errors.CannotLockError(str(path), failure.strerror or "unknown error") from failure
        raise
    return True


def _is_still(path: Path, handle: int) -> bool:
    """Whether the lock file still has its name: the last one who had it may have removed it a moment ago."""
    try:
        named = lock_path(path).stat()
    except FileNotFoundError:
        return False
    own = os.fstat(handle)
    return (named.st_dev, named.st_ino) == (own.st_dev, own.st_ino)


def _holder(handle: int) -> str:
    """Who may change it, in words."""
    pid, _, host = os.pread(handle, _MOST_HOLDER_BYTES, _HOLDER_AT).decode(errors="replace").strip("\0").partition(" ")
    if not pid.isdigit():
        return ""
    return f" (process {pid})" if host in ("", socket.gethostname()) else f" (process {pid} on {host[:60]})"
