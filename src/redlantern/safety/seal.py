# SPDX-License-Identifier: GPL-3.0-or-later
"""The seal: the kernel refuses every socket but local (Unix) ones, for this process and all its children.

The filter allows one address family instead of naming the forbidden ones: the
kernel looks at the lower 32 bits of the argument only, so a rule that refuses
"family equals AF_INET" can be passed by by setting an upper bit. A rule that
refuses "family is not AF_UNIX" cannot.

A process that needs less puts a closer filter on top, and Landlock's rules on
what files it may reach; they add up and none can be taken off again. Where the
filter cannot be put on, the program does not go on unless it is told so in so
many words, and a reader, a model host and the like never do.
"""

import ctypes
import errno
import os
import socket
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.safety import landlock
from redlantern.translation import marked, tr

LOCAL_ONLY = marked("local sockets only")
NO_SOCKETS = marked("no sockets at all, no writing, no other program")
HOST_ONLY = marked("the one socket it has, no writing, no other program")
LOOPBACK_ONLY = marked("sockets to this machine's own loopback, made before the filter, and no others")

UNSEALED = "--unsealed"
"""The word that lets the program go on where its seal cannot be put on."""

# What acts through another process, or takes what is another's.
_OTHERS = "ptrace process_vm_readv process_vm_writev pidfd_getfd process_madvise process_mrelease kcmp".split()
# What opens sockets without the socket call, or looks where the kernel itself does.
_AROUND = "io_uring_setup io_uring_enter io_uring_register bpf perf_event_open userfaultfd".split()
_WRITING = (
    "creat truncate ftruncate rename renameat renameat2 link linkat symlink symlinkat unlink unlinkat rmdir mkdir mkdirat mknod "
    "mknodat chmod fchmod fchmodat chown lchown fchown fchownat utime utimes utimensat futimesat setxattr lsetxattr fsetxattr "
    "removexattr lremovexattr fremovexattr fallocate swapon quotactl acct"
).split()
_STARTING = "execve execveat".split()
_LEAVING = (
    "openat2 open_by_handle_at name_to_handle_at unshare setns mount umount2 pivot_root chroot fsopen fsconfig fsmount fspick "
    "move_mount open_tree mount_setattr init_module finit_module delete_module kexec_load kexec_file_load keyctl add_key "
    "request_key shmget shmat msgget semget mq_open iopl ioperm reboot"
).split()
_SOCKETS = "socket connect bind listen accept accept4".split()
# Younger than the libraries that know system calls by their names; these numbers are the same on every architecture:
# fchmodat2, setxattrat, removexattrat, open_tree_attr, file_setattr.
_YOUNG_WRITING = (452, 463, 466, 467, 469)
_TYPES_INTO_TERMINAL = (0x5412, 0x541C)  # TIOCSTI, TIOCLINUX
_PR_GET_SECCOMP, _FILTERED = 21, 2
_LOW_32_BITS = 0xFFFFFFFF
_NAMESPACES = (
    0x00020000,
    0x02000000,
    0x04000000,
    0x08000000,
    0x10000000,
    0x20000000,
    0x40000000,
    0x00000080,
)  # CLONE_NEW*


_SYSTEM_PLACES = tuple(
    map(
        Path,
        (
            "/usr/lib", "/usr/lib64", "/lib", "/lib64", "/usr/local/lib", "/usr/share", "/etc/ld.so.cache", "/etc/fonts",
            "/etc/localtime", "/etc/mime.types", "/dev/null", "/dev/urandom", "/sys/devices/system/cpu",
        ),
    )
)  # fmt: skip
_MACHINE_PLACES = (Path("/proc/cpuinfo"), Path("/proc/meminfo"), Path("/sys/devices/system/node"))


@dataclass(frozen=True)
class SealState:
    """Whether the seal is on, and if not, why, in plain words; and whether the wall to other processes is up."""

    is_on: bool
    reason: str = ""
    has_wall: bool = True


_state = SealState(False, "The seal has not been put on.", False)  # set once, by put_on, at the start of the process


class _Rules:
    """The filter that is being made."""

    def __init__(self, library: Any) -> None:
        self.library = library
        self.filter = library.SyscallFilter(library.ALLOW)
        # Threads that a library has started already are covered too.
        self.filter.set_attr(library.Attr.CTL_TSYNC, 1)
        self._refused = library.ERRNO(errno.EACCES)

    def refuse(self, names: Iterable[str | int]) -> None:
        """Refuse calls whatever their arguments; names that this machine has no call for are passed over."""
        for name in names:
            if isinstance(name, int) or self.library.resolve_syscall(self.library.Arch.NATIVE, name) >= 0:
                self.filter.add_rule(self._refused, name)

    def refuse_if(self, name: str, position: int, mask: int, value: int) -> None:
        """Refuse a call where an argument, looked at through a mask, has a value."""
        if self.library.resolve_syscall(self.library.Arch.NATIVE, name) >= 0:
            self.filter.add_rule(self._refused, name, self.library.Arg(position, self.library.MASKED_EQ, mask, value))

    def refuse_all_but_local(self) -> None:
        """Refuse every socket but Unix ones, other processes, and typing into the terminal."""
        family = self.library.Arg(0, self.library.NE, int(socket.AF_UNIX))
        self.filter.add_rule(self._refused, "socket", family)
        self.refuse([*_OTHERS, *_AROUND])
        for request in _TYPES_INTO_TERMINAL:
            self.refuse_if("ioctl", 1, _LOW_32_BITS, request)

    def refuse_writing_and_starting(self) -> None:
        """Refuse whatever changes a file, starts a program, or leaves for where rules do not hold."""
        self.refuse([*_WRITING, *_YOUNG_WRITING, *_STARTING, *_LEAVING])
        for name, position in (("open", 1), ("openat", 2)):
            for flags in (os.O_WRONLY, os.O_RDWR, os.O_CREAT, os.O_TRUNC):
                self.refuse_if(name, position, flags, flags)
        for namespace in _NAMESPACES:
            self.refuse_if("clone", 0, namespace, namespace)
        # Its arguments cannot be looked at; the C library then falls back on clone.
        self.filter.add_rule(self.library.ERRNO(errno.ENOSYS), "clone3")


AddRules = Callable[[_Rules], None]


def put_on() -> SealState:
    """Put the seal on this process and everything it starts. It can never be taken off.

    Returns the state and does not raise: whoever called decides what to do without.
    """
    global _state
    if not _state.is_on:
        _state = _install(_Rules.refuse_all_but_local, reach=landlock.WALL_ONLY)
    return _state


def put_on_reader(*reads: Path) -> SealState:
    """Put on what a process has that reads untrusted files: no sockets, no writing, no other program.

    Parameters
    ----------
    *reads : Path
        What it may open besides the packages it runs with; files that were handed over open need not be among them.
    """

    def add(rules: _Rules) -> None:
        rules.refuse(_SOCKETS)
        rules.refuse_writing_and_starting()

    return _installed_over(add, landlock.Reach((*code_places(), *reads)))


def put_on_host(reads: tuple[Path, ...], socket_folder: Path) -> SealState:
    """Put on what the model host has while it loads: a socket in its folder, no connection to anybody.

    Parameters
    ----------
    reads : tuple of Path
        What it may open besides the packages it runs with: its model's file.
    socket_folder : Path
        Where it may make its socket.
    """

    def add(rules: _Rules) -> None:
        rules.refuse(["connect"])
        rules.refuse_writing_and_starting()

    folders = (*code_places(), *_MACHINE_PLACES, *reads)
    return _installed_over(add, landlock.Reach(folders, makes_sockets_in=(socket_folder,)))


def close_host() -> SealState:
    """Put on the rest once the model host listens: no further socket of any kind."""
    return _install(lambda rules: rules.refuse(["socket", "socketpair", "bind", "listen"]), reach=None, has_rules=False)


def put_on_link() -> SealState:
    """Put a filter on a process that holds loopback sockets already: it can make no other, nor rebind those it has."""

    def add(rules: _Rules) -> None:
        rules.refuse(["socket", "setsockopt", "bind", *_OTHERS, *_AROUND])
        rules.refuse_writing_and_starting()
        for request in _TYPES_INTO_TERMINAL:
            rules.refuse_if("ioctl", 1, _LOW_32_BITS, request)

    global _state
    _state = _install(add, reach=landlock.Reach(code_places(), refuses_tcp=False))
    return _state


def state() -> SealState:
    """Say whether the seal is on in this process."""
    return _state


def kernel_says_filtered(pid: int | str = "self") -> bool:
    """Ask the kernel, not ourselves, whether a process runs under a system call filter."""
    return _status_line(pid, "Seccomp") == "2"


def n_filters(pid: int | str = "self") -> int:
    """How many filters the kernel applies to a process; 0 where it does not say."""
    said = _status_line(pid, "Seccomp_filters")
    return int(said) if said.isdigit() else 0


def code_places() -> tuple[Path, ...]:
    """Where programs and packages lie: what a Python process has to read to run at all. No place for documents."""
    import sys
    import sysconfig

    own = {Path(sysconfig.get_path(name)) for name in ("stdlib", "platstdlib", "purelib", "platlib")}
    # What the login has set for libraries and for Tesseract's data is as much a place of programs.
    named = [os.environ.get(name, "") for name in ("LD_LIBRARY_PATH", "TESSDATA_PREFIX")]
    own |= {Path(part) for part in (*sys.path, *":".join(named).split(":")) if part and Path(part).is_absolute()}
    return (*sorted(own), *_SYSTEM_PLACES)


def _status_line(pid: int | str, name: str) -> str:
    try:
        lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    except OSError:
        return ""
    return next((line.split()[1] for line in lines if line.startswith(f"{name}:")), "")


def _installed_over(add_rules: AddRules, reach: landlock.Reach) -> SealState:
    """Put rules on over the seal."""
    return _install(add_rules, reach=reach) if put_on().is_on else _state


def _install(add_rules: AddRules, *, reach: landlock.Reach | None, has_rules: bool = True) -> SealState:
    try:
        import pyseccomp
    except (ImportError, RuntimeError, OSError):
        return SealState(False, tr("The library libseccomp is missing. Install the Debian package libseccomp2."), False)
    try:
        # First the rules on files: making them takes calls that the filter may refuse.
        has_wall = landlock.confine(reach) if has_rules else True
        rules = _Rules(pyseccomp)
        add_rules(rules)
        rules.filter.load()
    except (OSError, RuntimeError, ValueError) as failure:
        return SealState(False, tr("This kernel refused the filter ({failure}).").format(failure=failure), False)
    # Asked by a call and not by /proc, which may not be read any more.
    if ctypes.CDLL(None).prctl(_PR_GET_SECCOMP, 0, 0, 0, 0) != _FILTERED:
        return SealState(False, tr("The kernel took the filter but does not apply it."), False)
    return SealState(True, "", has_wall)
