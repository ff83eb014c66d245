"""The seal: the kernel refuses every socket but local (Unix) ones, for this process and all its children.

The filter allows one address family instead of naming the forbidden ones: the
kernel looks at the lower 32 bits of the argument only, so a rule that refuses
"family equals AF_INET" can be passed by by setting an upper bit. A rule that
refuses "family is not AF_UNIX" cannot.
"""

import errno
import socket
from dataclasses import dataclass
from pathlib import Path


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
        _state = _install()
    return _state


def state() -> SealState:
    """Say whether the seal is on in this process."""
    return _state


def kernel_says_filtered(pid: int | str = "self") -> bool:
    """Ask the kernel, not ourselves, whether a process runs under a system call filter."""
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return any(line.split() == ["Seccomp:", "2"] for line in lines)


def _install() -> SealState:
    try:
        import pyseccomp
    except (ImportError, RuntimeError, OSError):
        return SealState(False, "The library libseccomp is missing. Install the Debian package libseccomp2.")
    try:
        rules = pyseccomp.SyscallFilter(pyseccomp.ALLOW)
        # Threads that a library has started already are covered too.
        rules.set_attr(pyseccomp.Attr.CTL_TSYNC, 1)
        refuse = pyseccomp.ERRNO(errno.EACCES)
        rules.add_rule(refuse, "socket", pyseccomp.Arg(0, pyseccomp.NE, int(socket.AF_UNIX)))
        # io_uring opens sockets without the socket call.
        rules.add_rule(refuse, "io_uring_setup")
        rules.load()
    except (OSError, RuntimeError, ValueError) as failure:
        return SealState(False, f"This kernel refused the filter ({failure}).")
    if not kernel_says_filtered():
        return SealState(False, "The kernel took the filter but does not apply it.")
    return SealState(True)
