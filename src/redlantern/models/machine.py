# SPDX-License-Identifier: GPL-3.0-or-later
"""What the machine has left and what a process holds of it, as the kernel tells it."""

import os
import resource
from pathlib import Path

_PAGE_BYTES = resource.getpagesize()
_TICKS_PER_S = os.sysconf("SC_CLK_TCK")
_USER_TICKS, _SYSTEM_TICKS = 11, 12
SCARCE_BYTES = 600 * 2**20
"""With less than this free, the machine is about to swap."""


def free_bytes() -> int:
    """Bytes that may still be used before the machine would swap."""
    for line in Path("/proc/meminfo").read_text().splitlines():
        if line.startswith("MemAvailable:"):
            return int(line.split()[1]) * 1024
    return _PAGE_BYTES * os.sysconf("SC_AVPHYS_PAGES")


def processor_features() -> frozenset[str]:
    """What the processor can do beyond the least, named as the kernel names it; empty where it does not say."""
    for line in Path("/proc/cpuinfo").read_text(encoding="utf-8", errors="replace").splitlines():
        if line.startswith("flags"):
            return frozenset(line.partition(":")[2].split())
    return frozenset()


def resident_bytes(pid: int) -> int:
    """Bytes of memory that a process holds; 0 if there is none."""
    try:
        return int(Path(f"/proc/{pid}/statm").read_text(encoding="ascii").split()[1]) * _PAGE_BYTES
    except (OSError, ValueError, IndexError):
        return 0


def processor_seconds(pid: int) -> float:
    """Seconds of processor time that a process has used so far; 0 if there is none."""
    try:
        # The name, in brackets, may hold blanks.
        fields = Path(f"/proc/{pid}/stat").read_text(encoding="utf-8", errors="replace").rpartition(")")[2].split()
        return (int(fields[_USER_TICKS]) + int(fields[_SYSTEM_TICKS])) / _TICKS_PER_S
    except (OSError, ValueError, IndexError):
        return 0.0
