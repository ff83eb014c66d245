# SPDX-License-Identifier: GPL-3.0-or-later
"""Messages over a pipe: a JSON head and raw bytes, each with its length in front.

JSON and not pickle: what comes out of a reader process is as untrusted as the
file that went in.
"""

import json
import struct
from typing import IO, Any

_HEAD = struct.Struct(">IQ")


def send(pipe: IO[bytes], head: dict[str, Any], body: bytes = b"") -> None:
    """Write one message and flush it."""
    encoded = json.dumps(head).encode()
    pipe.write(_HEAD.pack(len(encoded), len(body)) + encoded)
    pipe.write(body)
    pipe.flush()


def receive(pipe: IO[bytes], *, most_bytes: int) -> tuple[dict[str, Any], bytes]:
    """Read one message.

    Raises
    ------
    EOFError
        If the other side ended, even within a message.
    ValueError
        If the message is larger than `most_bytes` or no message at all.
    """
    n_head, n_body = _HEAD.unpack(_exactly(pipe, _HEAD.size))
    if n_head + n_body > most_bytes:
        raise ValueError(f"a message of {n_head + n_body} bytes")
    head = json.loads(_exactly(pipe, n_head))
    if not isinstance(head, dict):
        raise ValueError("a message without a head")
    return head, _exactly(pipe, n_body)


def _exactly(pipe: IO[bytes], n_bytes: int) -> bytes:
    data = pipe.read(n_bytes)
    if len(data) != n_bytes:
        raise EOFError
    return data
