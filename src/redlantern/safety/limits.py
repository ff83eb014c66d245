# SPDX-License-Identifier: GPL-3.0-or-later
"""Limits a process puts on itself before it touches anything that could harm it, or that it could give away."""

import ctypes
import resource

_PR_SET_DUMPABLE = 4


def no_core_dumps() -> None:
    """Keep this process's memory to itself: no dump of it when it crashes, and no other program of the login may look.

    The kernel then gives the files of /proc/PID that show memory to root alone,
    and refuses a debugger of the same user.
    """
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    ctypes.CDLL(None).prctl(_PR_SET_DUMPABLE, 0, 0, 0, 0)


def confine_reader(*, memory_bytes: int) -> None:
    """Bound a reader process: address space, and no file may be written at all."""
    no_core_dumps()
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))


def bound_cpu(seconds_from_now: int) -> None:
    """Let the kernel end this process after so many more seconds of processor time."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    limit = int(used.ru_utime + used.ru_stime) + seconds_from_now
    resource.setrlimit(resource.RLIMIT_CPU, (limit, resource.RLIM_INFINITY))
