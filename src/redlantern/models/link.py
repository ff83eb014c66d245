# SPDX-License-Identifier: GPL-3.0-or-later
"""The model link: the one process that may speak to a model server on this machine's loopback, and to nothing else.

Runs as `python -m redlantern.models.link HOST PORT SOCKET` and is started before
the seal is put on, only when its owner has chosen a server. It makes a few
network sockets and binds each to the loopback device; then the kernel refuses it
every other socket, every change to those, and every other program. It carries
bytes between a private Unix socket and the server, keeps none and writes no file.
"""

import ctypes
import os
import queue
import select
import socket
import sys
import threading

from redlantern.safety import attempts, limits, seal

N_CONNECTIONS = 4
_PIECE_BYTES = 65536
_LOOPBACK_DEVICE = b"lo\0"


def main() -> None:
    """Carry until standard input closes."""
    host, port, socket_path = sys.argv[1:4]
    limits.no_core_dumps()
    # What connecting needs of the packages is loaded before the filter.
    "localhost".encode("idna")
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    outer: queue.SimpleQueue[socket.socket] = queue.SimpleQueue()
    for _ in range(N_CONNECTIONS):
        outgoing = socket.socket(family, socket.SOCK_STREAM)
        # What leaves through this device comes back to this machine; the kernel will not route it anywhere else.
        outgoing.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, _LOOPBACK_DEVICE)
        outer.put(outgoing)
    inner = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
    inner.bind(socket_path)
    inner.listen(N_CONNECTIONS)
    if not seal.put_on_link().is_on:
        sys.exit("FAILED")
    print("READY", flush=True)
    threading.Thread(target=_serve, args=(inner, outer, (host, int(port))), daemon=True).start()
    attempts.serve(sys.stdin, sys.stdout)
    os._exit(0)


def _serve(inner: socket.socket, outer: "queue.SimpleQueue[socket.socket]", address: tuple[str, int]) -> None:
    while True:
        asking, _ = inner.accept()
        threading.Thread(target=_carry, args=(asking, outer, address), daemon=True).start()


def _carry(asking: socket.socket, outer: "queue.SimpleQueue[socket.socket]", address: tuple[str, int]) -> None:
    """Carry one conversation, and make its outer socket ready for the next."""
    server = outer.get()
    try:
        server.connect(address)
        other = {asking: server, server: asking}
        while True:
            for ready in select.select([asking, server], [], [])[0]:
                piece = ready.recv(_PIECE_BYTES)
                if not piece:
                    return
                other[ready].sendall(piece)
    except OSError:
        return  # whoever asked sees the conversation end, and says so
    finally:
        asking.close()
        _disconnect(server)
        outer.put(server)


def _disconnect(server: socket.socket) -> None:
    """Take a connection down and keep its socket: connecting to no family does that (connect(2))."""
    nowhere = ctypes.create_string_buffer(16)
    ctypes.CDLL(None).connect(server.fileno(), nowhere, len(nowhere))


if __name__ == "__main__":
    main()
