# SPDX-License-Identifier: GPL-3.0-or-later
"""Lists every process of this application with what it holds and the filter that the kernel applies to it."""

import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from redlantern.safety import seal
from redlantern.translation import marked

_ROLES = (
    (
        "redlantern.reading.worker",
        marked("reader"),
        marked("one untrusted file at a time; recognises text in a fork of itself"),
        seal.NO_SOCKETS,
    ),
    (
        "redlantern.models.host",
        marked("model host"),
        marked("the language model and the lines sent to it"),
        seal.HOST_ONLY,
    ),
    (
        "redlantern.models.link",
        marked("model link"),
        marked("questions and lines on their way to your model server"),
        seal.LOOPBACK_ONLY,
    ),
)
_NETWORK_TABLES = ("tcp", "tcp6", "udp", "udp6", "raw", "raw6", "packet")


@dataclass(frozen=True)
class ProcessState:
    """One process. `network_sockets` is None where the kernel lets nobody look, which is so for all but ourselves."""

    role: str
    pid: int
    holds: str
    filter_words: str
    is_filtered: bool
    n_filters: int
    network_sockets: int | None

    def as_json(self) -> dict[str, object]:
        """Give the form documented in docs/commands.md."""
        return {
            "process": self.role,
            "pid": self.pid,
            "holds": self.holds,
            "filter": self.filter_words,
            "kernel_says_filtered": self.is_filtered,
            "filters": self.n_filters,
            "network_sockets": self.network_sockets,
        }


def household() -> list[ProcessState]:
    """List the process that asks and everything it has started that still runs, itself first."""
    own = os.getpid()
    found = [
        _state_of(
            own,
            marked("this program"),
            marked("collection, indexes, embedding model, what is on screen"),
            seal.LOCAL_ONLY,
        )
    ]
    for pid in sorted(_descendants(own)):
        words = _command_line(pid)
        named = next((role for role in _ROLES if role[0] in words), None)
        if named is not None:
            found.append(_state_of(pid, *named[1:]))
        elif words:
            found.append(
                _state_of(
                    pid, Path(words.split(" ")[0]).name, marked("started by the desktop toolkit"), seal.LOCAL_ONLY
                )
            )
    return found


def _state_of(pid: int, role: str, holds: str, filter_words: str) -> ProcessState:
    is_filtered = seal.kernel_says_filtered(pid)
    words = filter_words if is_filtered else marked("NO FILTER")
    return ProcessState(role, pid, holds, words, is_filtered, seal.n_filters(pid), _network_sockets(pid))


def _descendants(pid: int) -> set[int]:
    parents = dict(_parents())
    found: set[int] = set()
    grown = True
    while grown:
        more = {child for child, parent in parents.items() if parent == pid or parent in found} - found
        found |= more
        grown = bool(more)
    return found


def _parents() -> Iterator[tuple[int, int]]:
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            try:
                # The name in brackets may itself hold brackets and blanks.
                rest = (folder / "stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            if rest[0] != "Z":
                yield int(folder.name), int(rest[1])


def _command_line(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace").strip()
    except OSError:
        return ""


def _network_sockets(pid: int) -> int | None:
    """Count the sockets of a process that are in the kernel's tables of network sockets."""
    try:
        links = [str(path.readlink()) for path in Path(f"/proc/{pid}/fd").iterdir()]
    except OSError:
        return None
    held = {link[8:-1] for link in links if link.startswith("socket:[")}
    return len(held & _network_inodes(pid)) if held else 0


def _network_inodes(pid: int) -> set[str]:
    inodes = set()
    for table in _NETWORK_TABLES:
        try:
            lines = Path(f"/proc/{pid}/net/{table}").read_text().splitlines()[1:]
        except OSError:
            continue
        column = 8 if table == "packet" else 9
        inodes |= {fields[column] for line in lines if len(fields := line.split()) > column}
    return inodes
