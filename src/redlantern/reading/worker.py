# SPDX-License-Identifier: GPL-3.0-or-later
"""The reader process: reads one untrusted file at a time and says what it found, over its standard streams.

Runs as `python -m redlantern.reading.worker HANDLE` and is started by `pool`, which hands it each file open over the socket
HANDLE: it may open none itself. It puts
the seal on, bounds its own memory, and cannot write files.
"""

import gc
import json
import os
import socket
import sys
import zlib
from collections.abc import Callable
from typing import IO, TYPE_CHECKING, Any

from redlantern.safety import limits, seal

if TYPE_CHECKING:
    from redlantern.reading.material import Material
    from redlantern.reading.values import ReadFile

MOST_MEMORY_BYTES = 3 * 2**30
MOST_REQUEST_BYTES = 2**20
MOST_CPU_S = 120
"""For one page, or for a whole file of a format that has none."""


def main() -> None:
    """Serve requests until the parent closes the pipe."""
    state = seal.put_on_reader()
    if not state.is_on:
        # No untrusted file is read without it, whatever the program was told.
        sys.exit(f"no filter: {state.reason}")
    files = socket.socket(fileno=int(sys.argv[1]))
    requests, answers = sys.stdin.buffer, sys.stdout.buffer
    # A library that prints must not break into the messages.
    sys.stdout = sys.stderr
    limits.confine_reader(memory_bytes=MOST_MEMORY_BYTES)
    from redlantern.reading import frames

    while True:
        try:
            request, _ = frames.receive(requests, most_bytes=MOST_REQUEST_BYTES)
        except EOFError:
            return
        if request["do"] == "wake":
            frames.send(answers, {"is": "awake"})
            continue
        limits.bound_cpu(MOST_CPU_S)
        if request["do"] == "try":
            frames.send(answers, {"is": "tried", "rows": _tried(request)})
            continue
        handle = _handed_over(files)
        try:
            _serve(request, handle, answers)
        finally:
            os.close(handle)


def _handed_over(files: socket.socket) -> int:
    """The file that the parent opened for this request."""
    _, handles, _, _ = socket.recv_fds(files, 1, 1)
    return handles[0]


def _serve(request: dict[str, Any], handle: int, answers: IO[bytes]) -> None:
    from redlantern.reading import errors, frames
    from redlantern.reading.material import Material

    try:
        work = {"read": _read, "picture": _picture}[request["do"]]
        material = Material(request["name"], handle, password=request.get("password", ""))
        with errors.making_sense():
            work(request, material, lambda head, body: frames.send(answers, head, body))
        return
    except errors.FileRefusedError as failure:
        refusal = failure
    except OSError as failure:
        refusal = errors.unreadable(failure.strerror or "unknown error")
    frames.send(answers, {"is": "refused", "reason": refusal.reason, "advice": refusal.advice})


_Send = Callable[[dict[str, Any], bytes], None]


def _read(request: dict[str, Any], material: "Material", send: _Send) -> None:
    from redlantern.reading.read import read_material

    def on_page(done: int, total: int) -> None:
        # Each page has its time: a long document is no hang.
        limits.bound_cpu(MOST_CPU_S)
        send({"is": "progress", "done": done, "total": total}, b"")

    # A long document is millions of small objects without cycles: looking through them again and again takes half the time.
    gc.disable()
    try:
        read = read_material(material, on_page)
    finally:
        gc.enable()
    _send_document(read, send)
    for part in read.parts:
        if part.read is None:
            send({"is": "part refused", "name": part.name, "reason": part.refusal}, b"")
        else:
            send({"is": "part", "name": part.name}, b"")
            _send_document(part.read, send)
    send({"is": "done"}, b"")


def _send_document(read: "ReadFile", send: _Send) -> None:
    from redlantern.reading.geometry import pack_blocks, pack_runs

    for page in read.pages:
        body = [page.text.encode(errors="replace"), pack_blocks(page.blocks), pack_runs(page.runs)]
        head = {
            "is": "page",
            "page_number": page.page_number,
            "width_pt": page.width_pt,
            "height_pt": page.height_pt,
            "origin": page.origin,
            "confidence": page.confidence,
            "warnings": list(page.warnings),
            "parts": [len(part) for part in body],
        }
        send(head, b"".join(body))
    head = {"is": "document", "kind": read.kind, "title": read.title, "language": read.language}
    send({**head, "notes": list(read.notes), "details": dict(read.details)}, b"")


def _picture(request: dict[str, Any], material: "Material", send: _Send) -> None:
    from redlantern.reading.read import page_pixels, part_of

    if request["part"]:
        material = part_of(material, request["part"])
    width, height, pixels = page_pixels(material, request["page_index"], request["scale"])
    send({"is": "picture", "width": width, "height": height}, zlib.compress(pixels, 1))


def _tried(request: dict[str, Any]) -> list[dict[str, Any]]:
    """Try to get out, here and in what text recognition runs in."""
    from redlantern.reading.forked import in_a_fork
    from redlantern.safety import attempts

    def try_all() -> bytes:
        return json.dumps(attempts.try_all(request["canary"], request["parent"])).encode()

    inner = json.loads(in_a_fork(try_all, timeout_s=60))
    return [
        *({"role": "reader", **row} for row in json.loads(try_all())),
        *({"role": "text recognition", **row} for row in inner),
    ]  # fmt: skip


if __name__ == "__main__":
    main()
