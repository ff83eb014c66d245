# SPDX-License-Identifier: GPL-3.0-or-later
"""Landlock: the kernel's list of what files a process may reach, and a wall between it and other processes.

Three system calls (Linux 5.13 and later; landlock(7), and the kernel's
Documentation/userspace-api/landlock.rst for the numbers), called through the C
library. A process under any rule set can look into no process outside of it:
/proc/PID/mem, ptrace and pidfd_getfd of others are refused. Rule sets add up and
are inherited; none can be taken off.
"""

import ctypes
import errno
import os
import stat
import struct
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446  # the same on every architecture
_VERSION_FLAG, _PATH_BENEATH = 1, 1
_PR_SET_NO_NEW_PRIVS = 38

_EXECUTE, _WRITE_FILE, _READ_FILE, _READ_DIR = 1 << 0, 1 << 1, 1 << 2, 1 << 3
_MAKE_CHAR, _MAKE_SOCK, _MAKE_BLOCK = 1 << 6, 1 << 9, 1 << 11
_REFER, _TRUNCATE, _IOCTL_DEVICE = 1 << 13, 1 << 14, 1 << 15
_OF_A_FILE = _EXECUTE | _WRITE_FILE | _READ_FILE | _TRUNCATE | _IOCTL_DEVICE
_READ = _READ_FILE | _READ_DIR
_RIGHTS = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1, 5: (1 << 16) - 1}
"""All rights on files that a version of the interface knows of, from that version on."""
_TCP, _SIGNALS, _ABSTRACT_SOCKETS = 0b11, 0b10, 0b01
_SINCE_TCP, _SINCE_SCOPES = 4, 6


class CannotConfineError(OSError):
    """The kernel knows Landlock and did not take the rules."""


@dataclass(frozen=True)
class Reach:
    """What a process may reach from now on; everything else on disk is refused, writing and executing above all.

    `reads` are files, and folders with all below; in the folders `makes_sockets_in` local sockets may be made.
    """

    reads: tuple[Path, ...] = ()
    makes_sockets_in: tuple[Path, ...] = ()
    refuses_tcp: bool = True


WALL_ONLY = None
"""Files stay as they are, but for devices that nobody makes here; only the wall to other processes is put up."""


@cache
def version() -> int:
    """The version of the interface that this kernel has; 0 for none."""
    found = _libc().syscall(_CREATE_RULESET, None, 0, _VERSION_FLAG)
    return max(0, int(found))


def confine(reach: Reach | None) -> bool:
    """Put rules on this thread and all that it starts; gives False where the kernel has none of this.

    Parameters
    ----------
    reach : Reach
        WALL_ONLY leaves files alone.

    Raises
    ------
    CannotConfineError
        If the kernel did not take them.
    """
    # Before its second version every rule set keeps files from being renamed from folder to folder, which the program must.
    if version() < (1 if reach is not None else 2):
        return False
    rights = _all_rights() if reach is not None else (_MAKE_CHAR | _MAKE_BLOCK | _REFER) & _all_rights()
    refuses_tcp = reach is None or reach.refuses_tcp
    handle = _create(
        rights, refuses_tcp=refuses_tcp, scopes=_SIGNALS if reach is None else _SIGNALS | _ABSTRACT_SOCKETS
    )
    try:
        if reach is None:
            # Every rule set refuses renaming from folder to folder unless it allows it.
            _allow(handle, [Path("/")], _REFER & rights)
        else:
            _allow(handle, reach.reads, _READ)
            _allow(handle, reach.makes_sockets_in, _MAKE_SOCK)
        _checked(_libc().prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0))
        _checked(_libc().syscall(_RESTRICT_SELF, handle, 0))
    finally:
        os.close(handle)
    return True


def _create(rights: int, *, refuses_tcp: bool, scopes: int) -> int:
    attributes = struct.pack("=Q", rights)
    if version() >= _SINCE_TCP:
        attributes += struct.pack("=Q", _TCP if refuses_tcp else 0)
    if version() >= _SINCE_SCOPES:
        attributes += struct.pack("=Q", scopes)
    return _checked(_libc().syscall(_CREATE_RULESET, attributes, len(attributes), 0))


def _allow(handle: int, paths: Iterable[Path], rights: int) -> None:
    for path in paths if rights else ():
        try:
            place = os.open(path, os.O_PATH | os.O_CLOEXEC)
        except OSError:
            continue  # what is not there need not be reached
        try:
            is_folder = stat.S_ISDIR(os.fstat(place).st_mode)
            allowed = rights if is_folder else rights & _OF_A_FILE
            rule = struct.pack("=Qi", allowed, place)
            _checked(_libc().syscall(_ADD_RULE, handle, _PATH_BENEATH, rule, 0))
        finally:
            os.close(place)


def _all_rights() -> int:
    return max(rights for since, rights in _RIGHTS.items() if since <= version())


def _checked(result: int) -> int:
    if result < 0:
        number = ctypes.get_errno()
        raise CannotConfineError(number, f"{os.strerror(number)} ({errno.errorcode.get(number, number)})")
    return int(result)


@cache
def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)
