# SPDX-License-Identifier: GPL-3.0-or-later
"""One window a collection: opening it once more brings the first window forward."""

import os
import signal
import socket
import subprocess
import sys
import time

import pytest

from redlantern.collection.store import Collection
from redlantern.desktop.single_instance import SingleInstance, _place_of, raise_running
from tests.desktop.conftest import WAIT_MS, open_in
from tests.desktop.test_start import holds


def test_a_window_hears_the_ring_for_its_collection_and_for_no_other(window, qtbot, tmp_path):
    open_in(window, qtbot, tmp_path / "mine.redlantern", creates=True)
    heard = []
    window.door.single_instance.raise_wanted.connect(lambda: heard.append(True))
    # The ring waits for its answer, which this very thread gives: it is sent from another process.
    other = (
        "import sys; from pathlib import Path; from redlantern.desktop.single_instance import raise_running\n"
        "print(raise_running(Path(sys.argv[1])))"
    )
    for name, answered in (("mine", "True"), ("other", "False")):
        with subprocess.Popen(
            [sys.executable, "-c", other, str(tmp_path / f"{name}.redlantern")], stdout=subprocess.PIPE, text=True
        ) as caller:
            qtbot.waitUntil(lambda caller=caller: caller.poll() is not None, timeout=WAIT_MS)
            assert caller.stdout.read().strip() == answered
    assert heard == [True]


def test_after_locking_nobody_answers(window, qtbot, tmp_path):
    open_in(window, qtbot, tmp_path / "mine.redlantern", creates=True)
    assert _place_of(tmp_path / "mine.redlantern").exists()
    window.door.lock()
    assert not _place_of(tmp_path / "mine.redlantern").exists() and not raise_running(tmp_path / "mine.redlantern")


def test_what_a_killed_window_left_is_no_hindrance(qapp, tmp_path):
    place = _place_of(tmp_path / "mine.redlantern")
    with socket.socket(socket.AF_UNIX) as left:
        left.bind(str(place))
    assert place.exists() and not raise_running(tmp_path / "mine.redlantern")
    bell = SingleInstance(qapp)
    bell.listen(tmp_path / "mine.redlantern")
    assert bell._socket is not None
    bell.stop()
    assert not place.exists()


@pytest.mark.real_models
def test_a_second_start_ends_at_once_and_the_first_goes_on(tmp_path):
    """Takes seconds: two real processes, one of which is the whole program."""
    path = tmp_path / "a.redlantern"
    Collection.create(path).close()
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen", "DISPLAY": ":none"}
    command = [sys.executable, "-m", "redlantern", "open", str(path)]
    with subprocess.Popen(command, env=environment, stderr=subprocess.PIPE, text=True) as first:
        until = time.monotonic() + WAIT_MS / 1000
        while not (holds(path, first) and _place_of(path).exists()) and time.monotonic() < until:
            time.sleep(0.05)
        second = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=WAIT_MS / 1000)
        assert second.returncode == 0 and "is open already" in second.stderr
        assert first.poll() is None
        first.send_signal(signal.SIGTERM)
        first.wait(timeout=WAIT_MS / 1000)


def test_a_visitor_that_says_nothing_or_nonsense_does_not_hold_the_window_up(window, qtbot, tmp_path):
    open_in(window, qtbot, tmp_path / "mine.redlantern", creates=True)
    heard = []
    window.door.single_instance.raise_wanted.connect(lambda: heard.append(True))
    place = str(_place_of(tmp_path / "mine.redlantern"))
    with socket.socket(socket.AF_UNIX) as silent, socket.socket(socket.AF_UNIX) as loud:
        silent.connect(place)
        loud.connect(place)
        loud.sendall(b"erase everything " * 2_000)
        began = time.monotonic()
        qtbot.wait(300)
        window.bar.question.setText("still here")
        assert time.monotonic() - began < 3
    qtbot.wait(100)
    assert heard == [] and window.workspace.session is not None
