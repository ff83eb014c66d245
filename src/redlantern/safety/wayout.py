# SPDX-License-Identifier: GPL-3.0-or-later
"""Tries to reach a network in several ways, so that a person can see each of them fail.

Every try aims at this machine itself, so that nothing leaves it even when
there is no seal: an open way shows in that the network answers, not the seal.
"""

import ctypes
import errno
import os
import socket
import struct
import subprocess
import sys
from collections.abc import Callable
from dataclasses import dataclass

from redlantern.translation import marked

_DISCARD_PORT = 9
_NAME_SERVER_PORT = 53
_HERE = "127.0.0.1"


@dataclass(frozen=True)
class WayOut:
    """One try: what was tried, whether it was refused, and what the kernel said."""

    name: str
    is_closed: bool
    said: str


def judged(name: str, attempt: Callable[[], None]) -> WayOut:
    """Try one way, and judge by what came of it: closed where the kernel refused it."""
    try:
        attempt()
    except PermissionError as refusal:
        return WayOut(name, True, os.strerror(refusal.errno or errno.EACCES))
    except OSError as failure:
        # Any other failure came from what was reached, and so from outside the seal.
        return WayOut(name, False, f"not refused: {failure.strerror or failure}")
    return WayOut(name, False, "open")


def _connect(family: int, host: str) -> None:
    with socket.socket(family, socket.SOCK_STREAM) as out:
        out.settimeout(0.5)
        out.connect((host, _DISCARD_PORT))


def _c_connect() -> None:
    libc = ctypes.CDLL(None, use_errno=True)
    handle = libc.socket(int(socket.AF_INET), int(socket.SOCK_STREAM), 0)
    if handle < 0:
        raise OSError(ctypes.get_errno(), os.strerror(ctypes.get_errno()))
    os.set_blocking(handle, False)
    address = struct.pack("=HH4s8x", int(socket.AF_INET), socket.htons(_DISCARD_PORT), socket.inet_aton(_HERE))
    libc.connect(handle, address, len(address))
    os.close(handle)


def _upper_bits() -> None:
    # The kernel reads 32 bits of the family; a filter that compares 64 with "equals" lets this pass.
    libc = ctypes.CDLL(None, use_errno=True)
    libc.syscall.argtypes = [ctypes.c_long, ctypes.c_ulong, ctypes.c_ulong, ctypes.c_ulong]
    number = {"x86_64": 41, "aarch64": 198}.get(os.uname().machine)
    if number is None:
        raise PermissionError(errno.EACCES, "not applicable")
    handle = libc.syscall(number, (1 << 32) | int(socket.AF_INET), int(socket.SOCK_STREAM), 0)
    if handle < 0:
        raise OSError(ctypes.get_errno(), os.strerror(ctypes.get_errno()))
    os.close(handle)


def _child_process() -> None:
    code = (
        "import socket, sys\n"
        "try:\n    socket.socket(socket.AF_INET).close()\n"
        "except OSError as failure:\n    sys.exit(failure.errno)\n"
    )
    done = subprocess.run([sys.executable, "-I", "-S", "-c", code], check=False, timeout=20)
    if done.returncode:
        raise OSError(done.returncode, os.strerror(done.returncode))


def _udp_packet() -> None:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        out.sendto(b"", (_HERE, _DISCARD_PORT))


def _name_lookup() -> None:
    # A question to a name server, as the C library would send it: a UDP packet to port 53.
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        out.sendto(b"\0\1\1\0\0\1\0\0\0\0\0\0\7example\7invalid\0\0\1\0\1", (_HERE, _NAME_SERVER_PORT))


def _raw_packet() -> None:
    socket.socket(socket.AF_PACKET, socket.SOCK_RAW).close()


def _io_uring() -> None:
    libc = ctypes.CDLL(None, use_errno=True)
    params = ctypes.create_string_buffer(120)
    handle = libc.syscall(425, 2, params)  # 425 is io_uring_setup on every architecture
    if handle < 0:
        raise OSError(ctypes.get_errno(), os.strerror(ctypes.get_errno()))
    os.close(handle)


WAYS: list[tuple[str, Callable[[], None]]] = [
    (marked("IPv4 connection from Python"), lambda: _connect(socket.AF_INET, _HERE)),
    (marked("IPv6 connection from Python"), lambda: _connect(socket.AF_INET6, "::1")),
    (marked("connection from C, past Python"), _c_connect),
    (marked("system call with disguised arguments"), _upper_bits),
    (marked("connection from a child process"), _child_process),
    (marked("UDP packet"), _udp_packet),
    (marked("name look-up (DNS)"), _name_lookup),
    (marked("raw packets on the network card"), _raw_packet),
    (marked("io_uring, a way around ordinary system calls"), _io_uring),
]
