# SPDX-License-Identifier: GPL-3.0-or-later
"""How fast the close reader writes questions for passages, alone and in parallel slots: `python -m training.throughput`."""

import http.client
import json
import os
import socket
import sys
import tempfile
import threading
import time
from pathlib import Path

from redlantern.models.readers import reader_of

SLOTS = (1, 4, 8)
_TEXT = Path(__file__).parent.parent / "docs" / "retrieval.md"
_EXCERPT_CHARS, _STEP_CHARS = 900, 700
_MOST_TOKENS = 90
_SLOT_TOKENS = 2048


class _SocketConnection(http.client.HTTPConnection):
    """HTTP over a Unix socket."""

    def __init__(self, place: str) -> None:
        super().__init__("localhost")
        self._place = place

    def connect(self) -> None:
        """Connect."""
        self.sock = socket.socket(socket.AF_UNIX)
        self.sock.connect(self._place)


def seconds_per_request(n_slots: int, place: str) -> float:
    """Ask for three questions about each of some excerpts, `n_slots` of them at a time; the seconds of each on the whole."""
    text = _TEXT.read_text(encoding="utf-8")
    n_requests = max(8, 2 * n_slots)
    waiting = list(range(n_requests))

    def work() -> None:
        while waiting:
            at = waiting.pop() * _STEP_CHARS
            user = (
                f"Text:\n{text[at : at + _EXCERPT_CHARS]}\n\nWrite three questions that this text answers, one a line."
            )
            body = {"messages": [{"role": "user", "content": user}], "max_tokens": _MOST_TOKENS}
            connection = _SocketConnection(place)
            connection.request("POST", "/v1/chat/completions", json.dumps(body), {"Content-Type": "application/json"})
            connection.getresponse().read()
            connection.close()

    began = time.perf_counter()
    workers = [threading.Thread(target=work) for _ in range(n_slots)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    return (time.perf_counter() - began) / n_requests


def main() -> int:
    """Measure with so many slots as the word after the command says, or with each number in turn."""
    reader = reader_of("close")
    if reader is None:
        print("The close reader is not there: `./run setup` fetches it.", file=sys.stderr)
        return 1
    if len(sys.argv) < 2:
        # The runtime does not end in the process that began it: one process for each.
        return max(os.system(f"{sys.executable} -m training.throughput {n_slots}") for n_slots in SLOTS)
    import xllamacpp

    n_slots = int(sys.argv[1])
    with tempfile.TemporaryDirectory() as folder:
        params = xllamacpp.CommonParams()
        params.model.path = str(reader.place)
        params.n_ctx, params.n_parallel = _SLOT_TOKENS * n_slots, n_slots
        params.n_batch, params.n_ubatch = 512, 256
        params.cpuparams.n_threads = params.cpuparams_batch.n_threads = os.cpu_count() or 1
        params.hostnames = [f"{folder}/runtime.sock"]
        params.verbosity = -1
        server = xllamacpp.Server(params)
        print(f"{n_slots} at a time: {seconds_per_request(n_slots, params.hostnames[0]):.1f} s a request", flush=True)
        del server
    os._exit(0)


if __name__ == "__main__":
    sys.exit(main())
