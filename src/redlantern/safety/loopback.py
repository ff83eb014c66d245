# SPDX-License-Identifier: GPL-3.0-or-later
"""The one exception to the seal, off unless its owner turns it on: a model server on this machine's own loopback.

The seal cannot be lowered while the program runs, so the choice is read once,
before the seal is put on; then one process, the model link, is started outside
of it. That process makes its sockets, each bound to the loopback device, and
then lets the kernel refuse it every other socket and every change to those.
"""

import ipaddress
import json
import shutil
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.errors import RedlanternError
from redlantern.safety import attempts
from redlantern.safety.children import start_child
from redlantern.safety.places import data_directory, runtime_directory
from redlantern.safety.placing import put_text

_START_TIMEOUT_S = 10


class NotLoopbackError(RedlanternError):
    """The address is not one of this machine's own loopback."""

    def __init__(self, address: str) -> None:
        super().__init__(address)
        self.address = address

    def __str__(self) -> str:
        return (
            f"“{self.address}” is not an address of this machine's loopback, so nothing was changed. "
            "Give an address like 127.0.0.1:8080 or [::1]:8080; names and other addresses are never used."
        )


@dataclass(frozen=True)
class ModelServer:
    """A model server on the loopback, and the name it knows its model by."""

    host: str
    port: int
    model: str = ""

    @property
    def address(self) -> str:
        """The address as it is written."""
        return f"[{self.host}]:{self.port}" if ":" in self.host else f"{self.host}:{self.port}"


def parse_server(address: str, model: str = "") -> ModelServer:
    """Read an address such as `127.0.0.1:8080`.

    Raises
    ------
    NotLoopbackError
        If it is not a number of the loopback with a port. No name is ever looked up.
    """
    host, _, port = address.strip().rpartition(":")
    try:
        number = ipaddress.ip_address(host.strip("[]"))
        if not number.is_loopback or not 0 < int(port) < 65536:
            raise NotLoopbackError(address)
    except ValueError as failure:
        raise NotLoopbackError(address) from failure
    return ModelServer(str(number), int(port), model.strip())


def chosen_server() -> ModelServer | None:
    """The server that its owner has chosen; None where there is none, or where the choice cannot be understood."""
    try:
        kept = json.loads(_place().read_text(encoding="utf-8"))
        return parse_server(str(kept["address"]), str(kept.get("model", "")))
    except (OSError, ValueError, KeyError, TypeError, RedlanternError):
        return None


def choose_server(server: ModelServer | None) -> None:
    """Use this server from the next start on; None for none."""
    if server is None:
        _place().unlink(missing_ok=True)
        return
    put_text(_place(), json.dumps({"address": server.address, "model": server.model}))


@dataclass
class Link:
    """The running model link: the server it leads to, and the Unix socket it listens on."""

    server: ModelServer
    socket_path: str
    process: "subprocess.Popen[bytes]"

    def try_ways(self, folder: str, other: int) -> list[dict[str, Any]]:
        """Let it try to get out; gives what it tried (see safety.attempts)."""
        return attempts.ask(self.process, folder, other)

    def close(self) -> None:
        """End it."""
        self.process.kill()
        self.process.wait()
        for pipe in (self.process.stdin, self.process.stdout):
            if pipe is not None:
                pipe.close()
        shutil.rmtree(Path(self.socket_path).parent, ignore_errors=True)


_link: Link | None = None  # set once, by start_link, before the seal is put on


def start_link() -> Link | None:
    """Start the model link if a server was chosen; called before the seal is put on, and only then."""
    global _link
    server = chosen_server()
    if server is not None and _link is None:
        _link = _start(server)
    return _link


def link() -> Link | None:
    """The model link, if one was started."""
    return _link


def _start(server: ModelServer) -> Link | None:
    socket_path = str(Path(tempfile.mkdtemp(prefix="link-", dir=runtime_directory())) / "link.sock")
    process = start_child("redlantern.models.link", server.host, str(server.port), socket_path)
    made = Link(server, socket_path, process)
    assert process.stdout is not None
    if process.stdout.readline().strip() != b"READY":
        made.close()
        return None
    return made


def _place() -> Path:
    return data_directory() / "model-server.json"
