"""The seal: the kernel refuses every socket but local (Unix) ones, for this process and all its children.

The filter allows one address family instead of naming the forbidden ones: the
kernel looks at the lower 32 bits of the argument only, so a rule that refuses
"family equals AF_INET" can be passed by by setting an upper bit. A rule that
refuses "family is not AF_UNIX" cannot.

A process that needs less puts a closer filter on top; filters add up and none
can be taken off again.
"""

import errno
import socket
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

LOCAL_ONLY = "local sockets only"
NO_SOCKETS = "no sockets at all"
LOOPBACK_ONLY = "sockets to this machine's own loopback, made before the filter, and no others"


@dataclass(frozen=True)
class SealState:
    """Whether the seal is on, and if not, why, in plain words."""

    is_on: bool
    reason: str = ""


_state = SealState(False, "The seal has not been put on.")  # set once, by put_on, at the start of the process


def put_on() -> SealState:
    """Put the seal on this process and everything it starts. It can never be taken off.

    Returns the state; never raises, for a machine whose kernel cannot do it
    must be able to say so on screen.
    """
    global _state
    if not _state.is_on:
        _state = _install(_refuse_all_but_local)
    return _state


def put_on_reader() -> SealState:
    """Put the seal on, and over it a filter for a process that reads untrusted files: no sockets of any kind."""
    if put_on().is_on:
        return _install(_refuse_sockets)
    return _state


def put_on_link() -> SealState:
    """Put a filter on a process that holds loopback sockets already: it can make no other, nor rebind those it has."""
    global _state
    _state = _install(_refuse_sockets_and_options)
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


def _status_line(pid: int | str, name: str) -> str:
    try:
        lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    except OSError:
        return ""
    return next((line.split()[1] for line in lines if line.startswith(f"{name}:")), "")


def _refuse_all_but_local(rules: Any, refuse: Any, arg: Any, not_equal: Any) -> None:
    rules.add_rule(refuse, "socket", arg(0, not_equal, int(socket.AF_UNIX)))
    # io_uring opens sockets without the socket call; the others would let it act through another process.
    for name in ("io_uring_setup", "ptrace", "process_vm_readv", "process_vm_writev"):
        rules.add_rule(refuse, name)


def _refuse_sockets(rules: Any, refuse: Any, arg: Any, not_equal: Any) -> None:
    for name in ("socket", "connect", "bind", "listen", "io_uring_setup"):
        rules.add_rule(refuse, name)


def _refuse_sockets_and_options(rules: Any, refuse: Any, arg: Any, not_equal: Any) -> None:
    for name in ("socket", "setsockopt", "bind", "io_uring_setup", "ptrace", "process_vm_readv", "process_vm_writev"):
        rules.add_rule(refuse, name)
    # Nothing else may be started here: it would hold the sockets, too.
    for name in ("execve", "execveat"):
        rules.add_rule(refuse, name)


def _install(add_rules: Callable[[Any, Any, Any, Any], None]) -> SealState:
    try:
        import pyseccomp
    except (ImportError, RuntimeError, OSError):
        return SealState(False, "The library libseccomp is missing. Install the Debian package libseccomp2.")
    try:
        rules = pyseccomp.SyscallFilter(pyseccomp.ALLOW)
        # Threads that a library has started already are covered too.
        rules.set_attr(pyseccomp.Attr.CTL_TSYNC, 1)
        add_rules(rules, pyseccomp.ERRNO(errno.EACCES), pyseccomp.Arg, pyseccomp.NE)
        rules.load()
    except (OSError, RuntimeError, ValueError) as failure:
        return SealState(False, f"This kernel refused the filter ({failure}).")
    if not kernel_says_filtered():
        return SealState(False, "The kernel took the filter but does not apply it.")
    return SealState(True)
