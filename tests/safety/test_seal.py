# SPDX-License-Identifier: GPL-3.0-or-later
"""The seal and the closer confinement of each process, tried in processes of their own: none of it can be taken off again."""

import ctypes
import json
import os
import socket
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from redlantern.models.hosted import HostedModel
from redlantern.reading.pool import ReaderPool
from redlantern.safety import attempts, landlock, seal
from redlantern.safety.children import child_environment, start_child
from redlantern.safety.wayout import WAYS, judged

needs_landlock = pytest.mark.skipif(not landlock.version(), reason="this kernel has no Landlock")


def run(code, *words, **environment):
    done = subprocess.run(
        [sys.executable, "-c", code, *map(str, words)], capture_output=True, text=True, check=False, timeout=60,
        env={**os.environ, **environment},
    )  # fmt: skip
    return done.returncode, done.stdout.strip(), done.stderr.strip()


def test_the_test_process_itself_is_sealed():
    assert seal.state().is_on
    assert seal.kernel_says_filtered()


def test_every_way_to_a_network_is_closed():
    assert [name for name, attempt in WAYS if not judged(name, attempt).is_closed] == []


@pytest.mark.parametrize("family", [socket.AF_INET, socket.AF_INET6, socket.AF_PACKET, socket.AF_NETLINK])
def test_no_family_but_unix_gets_a_socket(family):
    with pytest.raises(PermissionError):
        socket.socket(family)


def test_unix_sockets_stay():
    one, other = socket.socketpair(socket.AF_UNIX)
    one.sendall(b"x")
    assert other.recv(1) == b"x"
    one.close()
    other.close()


def test_a_process_gives_its_memory_to_nobody():
    code = (
        "import ctypes, resource; from redlantern.safety import limits; limits.no_core_dumps()\n"
        "print(ctypes.CDLL(None).prctl(3, 0, 0, 0, 0), resource.getrlimit(resource.RLIMIT_CORE))"
    )
    assert run(code)[1] == "0 (0, 0)"


@pytest.fixture(scope="module")
def tried():
    """What each process tried: the very readers, recognition and model host that the program runs."""
    readers, model = ReaderPool(1), HostedModel()
    try:
        with attempts.canary() as folder:
            rows = readers.try_ways(folder, os.getpid())
            hosted = model.try_ways(folder, os.getpid())
            left = {one.name for one in Path(folder).iterdir()}
            document = (Path(folder) / "document.txt").read_text()
        yield {
            "reader": [row for row in rows if row["role"] == "reader"],
            "text recognition": [row for row in rows if row["role"] == "text recognition"],
            "model host": hosted,
            "left": (left, document),
        }
    finally:
        readers.close()
        model.close()


@needs_landlock
@pytest.mark.parametrize("process", ["reader", "text recognition", "model host"])
def test_a_confined_process_can_do_none_of_it(tried, process):
    rows = tried[process]
    assert len(rows) == 29
    assert [(row["kind"], row["name"], row["said"]) for row in rows if not row["is_closed"]] == []
    assert {row["kind"] for row in rows} == {
        "network", "writing", "other programs", "files", "other processes", "terminal", "message bus",
    }  # fmt: skip


def test_what_was_tried_left_no_trace(tried):
    left, document = tried["left"]
    assert left == {"document.txt", "bus.sock"}
    assert document == "A document that belongs to somebody else.\n"


def test_the_tries_show_open_ways_where_there_is_no_confinement(outside, tmp_path):
    """The same tries in a process without any of it: each of these must come out open, or the table proves nothing."""
    (tmp_path / "document.txt").write_text("A document that belongs to somebody else.\n")
    code = (
        "import json, os, socket, subprocess, sys\nfrom redlantern.safety import attempts\n"
        "bus = socket.socket(socket.AF_UNIX); bus.bind(sys.argv[1] + '/bus.sock'); bus.listen()\n"
        "other = subprocess.Popen(['sleep', '20'], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)\n"
        "print(json.dumps(attempts.try_all(sys.argv[1], other.pid))); os.kill(other.pid, 9)"
    )
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    returned, said, problem = outside.run([sys.executable, "-c", code, str(tmp_path)], env=environment)
    assert returned == 0, problem
    rows = json.loads(said)
    still_closed = {row["name"] for row in rows if row["is_closed"]}
    # As root or as somebody else, a machine may refuse raw packets and other processes of its own accord.
    assert still_closed <= {
        "raw packets on the network card", "reading another process's memory", "writing another process's memory",
        "stopping another process like a debugger", "taking over another program's open connection",
        "io_uring, a way around ordinary system calls", "typing into the terminal",
    }  # fmt: skip
    assert (tmp_path / "document.txt").read_text() == "A document that belongs to somebody else.\n"


_WINDOW_TRIES = (
    "import json, os, sys\nfrom redlantern.safety import attempts, seal\n"
    "assert seal.put_on().is_on\n"
    "with attempts.canary() as folder:\n    rows = attempts.try_all(folder, os.getppid())\n"
    "print(json.dumps([one.as_json() for one in attempts.attempts_of(attempts.WINDOW, rows)]))"
)


@needs_landlock
def test_the_program_itself_reaches_no_other_process_and_no_terminal():
    code, said, problem = run(_WINDOW_TRIES)
    assert code == 0, problem
    rows = json.loads(said)
    is_open = {row["kind"] for row in rows if not row["is_closed"]}
    assert is_open == {"writing", "other programs", "files", "message bus"}
    assert all(row["needed"] for row in rows if not row["is_closed"])


def test_without_landlock_the_filter_stands_and_the_rest_is_said(monkeypatch):
    code = (
        "from redlantern.safety import landlock, seal\nlandlock.version = lambda: 0\n"
        "state = seal.put_on()\nprint(state.is_on, state.has_wall)\n"
        "state = seal.put_on_reader()\nprint(state.is_on, state.has_wall)\n"
        "try:\n    open('/tmp/x', 'w')\nexcept PermissionError:\n    print('refused')"
    )
    assert run(code)[1].split("\n") == ["True False", "True False", "refused"]


def test_without_landlock_the_rows_that_are_open_are_known():
    code = (
        "import json, os, sys\nfrom redlantern.safety import attempts, landlock, seal\nlandlock.version = lambda: 0\n"
        "with attempts.canary() as folder:\n    pid = os.fork()\n    if not pid:\n        seal.put_on_reader()\n"
        "        print(json.dumps(attempts.try_all(folder, os.getppid())), flush=True)\n        os._exit(0)\n"
        "    os.waitpid(pid, 0)"
    )
    _, said, problem = run(code)
    assert said, problem
    is_open = {row["kind"] for row in json.loads(said) if not row["is_closed"]}
    assert "files" in is_open and is_open <= {"files", "other processes"}


def test_told_to_go_on_unsealed_it_still_reads_no_document(tmp_path):
    (tmp_path / "note.txt").write_text("The blower stands in the passage.")
    words = ["--unsealed", "index", str(tmp_path / "c.redlantern"), str(tmp_path / "note.txt"), "--json"]
    code, said, problem = run(
        _WITHOUT_LIBRARY.format(words=words) + "from redlantern.__main__ import main\nsys.exit(main())"
    )
    assert code == 0, problem
    form = json.loads(said)["documents"]
    assert form["read"] == 0
    assert form["refused"][0]["reason"].startswith(
        "No file is read here, for a reader could not be confined. The library"
    )


def test_rules_that_the_kernel_does_not_take_are_no_seal():
    code = (
        "from redlantern.safety import landlock, seal\nlandlock._RESTRICT_SELF = 9999\n"
        "state = seal.put_on()\nprint(state.is_on, state.reason)"
    )
    assert run(code)[1].startswith("False This kernel refused the filter (")


def test_a_machine_without_the_library_is_told_so(monkeypatch):
    monkeypatch.setitem(sys.modules, "pyseccomp", None)
    state = seal._install(seal._Rules.refuse_all_but_local, reach=seal.landlock.WALL_ONLY)
    assert not state.is_on
    assert "libseccomp2" in state.reason


_WITHOUT_LIBRARY = "import sys; sys.modules['pyseccomp'] = None\nsys.argv = ['redlantern', *{words}]\n"


@pytest.mark.parametrize("words", [["--help"], ["ask", "x.redlantern", "Why?"], ["--unsealed-not"]])
def test_without_its_seal_the_program_does_not_start(words):
    code, said, problem = run(
        _WITHOUT_LIBRARY.format(words=words) + "from redlantern.__main__ import main\nsys.exit(main())"
    )
    assert (code, said) == (3, "")
    assert problem == (
        "redlantern: The seal cannot be put on, so nothing was opened. The library libseccomp is missing. Install the Debian "
        "package libseccomp2. To go on without it, at your own risk: redlantern --unsealed ..."
    )


def test_told_so_in_so_many_words_it_starts_unsealed(tmp_path):
    words = ["--unsealed", "check", str(tmp_path / "none.redlantern")]
    code, _, problem = run(
        _WITHOUT_LIBRARY.format(words=words) + "from redlantern.__main__ import main\nsys.exit(main())"
    )
    assert code == 1
    assert "There is no collection at" in problem


def test_a_reader_never_goes_without(tmp_path):
    (tmp_path / "sitecustomize.py").write_text("import sys; sys.modules['pyseccomp'] = None\n")
    environment = {**child_environment(), "PYTHONPATH": os.pathsep.join([str(tmp_path), *sys.path])}
    for module, words in (
        ("redlantern.reading.worker", ["0"]),
        ("redlantern.models.host", ["m.gguf", "/tmp/s", "16", "1", "16"]),
    ):
        done = subprocess.run(
            [sys.executable, "-m", module, *words],
            capture_output=True,
            text=True,
            env=environment,
            input="",
            timeout=60,
        )
        assert done.returncode == 1, module
        assert "libseccomp" in done.stdout + done.stderr


def test_children_get_no_bus_no_display_and_a_session_of_their_own(monkeypatch):
    for name in ("DBUS_SESSION_BUS_ADDRESS", "DISPLAY", "WAYLAND_DISPLAY", "SSH_AUTH_SOCK", "XAUTHORITY"):
        monkeypatch.setenv(name, "secret")
    assert "secret" not in child_environment().values()
    readers = ReaderPool(1)
    try:
        readers.start()
        process = readers._readers[0]._process
        assert os.getsid(process.pid) == process.pid != os.getsid(0)
        given = Path(f"/proc/{process.pid}/environ")
        with pytest.raises(PermissionError) if not _can_look_anywhere() else _nothing():
            assert b"secret" not in given.read_bytes()
    finally:
        readers.close()


def _can_look_anywhere():
    return os.getuid() == 0


class _nothing:
    def __enter__(self):
        return None

    def __exit__(self, *_):
        return False


def test_recognition_runs_in_a_process_that_nobody_may_look_into():
    """A program that is executed would be dumpable again; a fork of the reader is not."""
    from redlantern.reading.forked import in_a_fork
    from redlantern.safety import limits

    def dumpable():
        limits.no_core_dumps()
        return in_a_fork(lambda: str(ctypes.CDLL(None).prctl(3, 0, 0, 0, 0)).encode(), timeout_s=10)

    found = []
    thread = threading.Thread(target=lambda: found.append(dumpable()))
    thread.start()
    thread.join(20)
    assert found == [b"0"]


def test_a_child_that_never_starts_is_told():
    process = start_child("redlantern.no_such_module")
    assert process.wait(30) == 1
    for pipe in (process.stdin, process.stdout):
        pipe.close()


def test_an_unsealed_process_is_told_apart():
    assert not judged("opens", lambda: None).is_closed

    def refused_by_the_network() -> None:
        raise ConnectionRefusedError(111, "Connection refused")

    assert not judged("answered", refused_by_the_network).is_closed


@needs_landlock
def test_the_command_prints_what_each_process_tried_and_succeeds():
    done = subprocess.run(
        [sys.executable, "-m", "redlantern", "seal-test"], capture_output=True, text=True, check=False, timeout=120
    )
    assert done.returncode == 0, done.stdout + done.stderr
    for words in ("this program", "reader", "text recognition", "model host", "typing into the terminal", "needed:"):
        assert words in done.stdout.lower()
    assert "Nothing is open that must be closed" in done.stdout
    told = subprocess.run(
        [sys.executable, "-m", "redlantern", "seal-test", "--json"],
        capture_output=True,
        text=True,
        check=False,
        timeout=120,
    )
    form = json.loads(told.stdout)
    assert form["sealed"] and form["lacks"] == []
    assert len(form["attempts"]) == 4 * 29
    assert {one["process"] for one in form["processes"]} >= {"this program", "reader", "model host"}
