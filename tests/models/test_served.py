# SPDX-License-Identifier: GPL-3.0-or-later
"""The owner's own model server, through the model link; outside of the seal, for a sealed process can start no server."""

import json
import os
import sys
from pathlib import Path

import pytest

from redlantern.safety import loopback
from redlantern.safety.loopback import NotLoopbackError, chosen_server, parse_server

_ASK = """
import json, subprocess, sys, time
from pathlib import Path
server_file, collection = Path(sys.argv[1]), sys.argv[2]
server = subprocess.Popen([sys.executable, sys.argv[3], str(server_file)], stdin=subprocess.PIPE)
while not server_file.exists() or not server_file.read_text():
    time.sleep(0.02)
from redlantern.safety import loopback
loopback.choose_server(loopback.parse_server("127.0.0.1:" + server_file.read_text(), sys.argv[4]))
run = lambda *words: subprocess.run([sys.executable, "-m", "redlantern", *words], capture_output=True, text=True)
run("index", collection, sys.argv[5])
asked = run("ask", collection, "At what relative humidity shall the work cease?", "--json")
again = run("ask", collection, "At what relative humidity shall the work cease?", "--json")
test = run("seal-test", "--json")
server.stdin.close()
server.wait()
without = run("ask", collection, "At what relative humidity shall the work cease?", "--json")
loopback.choose_server(None)
off = run("seal-test", "--json")
print(json.dumps([one.stdout or one.stderr or f"ended with {one.returncode}" for one in (asked, again, test, without, off)]))
"""


@pytest.mark.real_models
@pytest.mark.parametrize("model", ["small-1", "unknown"])
def test_a_server_on_the_loopback_writes_and_everything_else_stays_sealed(outside, folder, tmp_path, model):
    """Starts the program six times, so it takes some seconds."""
    path = tmp_path / "file.redlantern"
    here = Path(__file__).parents[1] / "standin_server.py"
    command = [sys.executable, "-c", _ASK, str(tmp_path / "port"), str(path), str(here), model, str(folder)]
    code, said, complaint = outside.run(command, env=dict(os.environ))
    assert code == 0, complaint
    asked, again, test, without, off = map(json.loads, json.loads(said))
    assert without["claims"] == []
    assert "does not answer; is its server running?" in without["no_prose_reason"]
    assert (test["sealed"], off["sealed"]) == (True, True)
    assert test["model_server"].startswith("127.0.0.1:")
    [link] = [one for one in test["processes"] if one["process"] == "model link"]
    assert link["kernel_says_filtered"]
    assert link["filter"] == "sockets to this machine's own loopback, made before the filter, and no others"
    assert off["model_server"] is None
    assert [one["process"] for one in off["processes"]] == ["this program", "reader", "model host"]
    assert [one for one in test["attempts"] if not one["is_closed"] and not one["needed"]] == []
    assert sum(one["process"] == "model link" and one["is_closed"] for one in test["attempts"]) == 29
    if model == "unknown":
        assert "refused the request (no such model)" in asked["no_prose_reason"]
        return
    for sheet in (asked, again):
        assert sheet["models"]["language"].startswith("small-1 at 127.0.0.1:")
        assert "70 per cent" in sheet["answer"]
        assert sheet["claims"][0]["support"] == "supported"


_INSIDE_THE_LINK = """
import socket, sys
from redlantern.safety import seal
held = socket.socket()
held.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, b"lo\\0")
assert seal.put_on_link().is_on
assert held.getsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, 16).startswith(b"lo")
def is_refused(attempt):
    try:
        attempt()
    except PermissionError:
        return True
print(is_refused(lambda: socket.socket()), is_refused(lambda: socket.socket(socket.AF_UNIX)),
      is_refused(lambda: held.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, b"\\0")),
      is_refused(lambda: __import__("os").execv("/bin/true", ["true"])))
"""


def test_the_link_can_make_no_other_socket_nor_take_one_off_the_loopback(outside):
    code, said, complaint = outside.run([sys.executable, "-c", _INSIDE_THE_LINK], env=dict(os.environ))
    assert (code, said.split()) == (0, ["True"] * 4), complaint


@pytest.mark.parametrize("address", ["127.0.0.1:8080", "127.9.9.9:1", "[::1]:65535"])
def test_an_address_of_the_loopback_is_taken_and_kept(address):
    server = parse_server(address, "m")
    assert server.address == address
    loopback.choose_server(server)
    assert chosen_server() == server
    loopback.choose_server(None)
    assert chosen_server() is None


@pytest.mark.parametrize(
    "address",
    ["192.168.1.4:80", "localhost:80", "example.org:80", "127.0.0.1", "127.0.0.1:0", "127.0.0.1:99999", "0.0.0.0:80", "", "[::]:1",
     "::ffff:10.0.0.1:80", "127.0.0.1:8080/path"],
)  # fmt: skip
def test_nothing_else_is(address):
    with pytest.raises(NotLoopbackError) as refused:
        parse_server(address)
    assert "so nothing was changed" in str(refused.value)


def test_a_choice_that_was_tampered_with_counts_as_none():
    loopback.choose_server(parse_server("127.0.0.1:80"))
    place = loopback._place()
    for text in ("{", "[]", '{"address": "10.0.0.1:80"}', '{"address": 7}', ""):
        place.write_text(text)
        assert chosen_server() is None
