"""The seal, tried in processes of their own: it can never be taken off again."""

import socket
import subprocess
import sys

import pytest

from redlantern.safety import seal
from redlantern.safety.wayout import try_all


def test_the_test_process_itself_is_sealed():
    assert seal.state().is_on
    assert seal.kernel_says_filtered()


def test_every_way_out_is_closed():
    assert [way.name for way in try_all() if not way.is_closed] == []


@pytest.mark.parametrize("family", [socket.AF_INET, socket.AF_INET6, socket.AF_PACKET, socket.AF_NETLINK])
def test_no_family_but_unix_gets_a_socket(family):
    with pytest.raises(PermissionError):
        socket.socket(family)


def test_a_process_gives_its_memory_to_nobody():
    code = (
        "import ctypes, resource; from redlantern.safety import limits; limits.no_core_dumps()\n"
        "print(ctypes.CDLL(None).prctl(3, 0, 0, 0, 0), resource.getrlimit(resource.RLIMIT_CORE))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "0 (0, 0)"


def test_a_reader_gets_no_socket_at_all():
    code = (
        "import socket; from redlantern.safety import seal; print(seal.put_on_reader().is_on, seal.n_filters())\n"
        "try:\n    socket.socket(socket.AF_UNIX)\nexcept PermissionError:\n    print('refused')"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    first, refused = done.stdout.splitlines()
    assert first.startswith("True ") and refused == "refused"


def test_unix_sockets_stay():
    one, other = socket.socketpair(socket.AF_UNIX)
    one.sendall(b"x")
    assert other.recv(1) == b"x"
    one.close()
    other.close()


def test_an_unsealed_process_is_told_apart():
    # The parent of the tests is unsealed, but every child of ours is not: what is tested is that the table can say
    # OPEN at all, with an attempt that succeeds.
    from redlantern.safety.wayout import _judge

    assert not _judge("opens", lambda: None).is_closed

    def refused_by_the_network() -> None:
        raise ConnectionRefusedError(111, "Connection refused")

    assert not _judge("answered", refused_by_the_network).is_closed


def test_the_command_prints_a_table_and_succeeds():
    done = subprocess.run(
        [sys.executable, "-m", "redlantern", "seal-test"], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0
    assert done.stdout.count("closed") >= 9
    assert "neither this process nor anything it starts can reach a network" in done.stdout


def test_a_machine_without_the_library_is_told_so(monkeypatch):
    monkeypatch.setitem(sys.modules, "pyseccomp", None)
    state = seal._install(seal._refuse_all_but_local)
    assert not state.is_on
    assert "libseccomp2" in state.reason
