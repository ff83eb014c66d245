"""The program as it is started: under a real display, where there is one to be had."""

import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.desktop.conftest import WAIT_MS


@pytest.fixture
def display(tmp_path):
    """A virtual screen."""
    if shutil.which("Xvfb") is None:
        pytest.skip("Xvfb is not installed")
    read_end, write_end = os.pipe()
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write_end), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=(write_end,),
        stderr=subprocess.DEVNULL,
    )
    os.close(write_end)
    number = os.read(read_end, 16).decode().strip()
    os.close(read_end)
    yield f":{number}"
    screen.terminate()
    screen.wait()


@pytest.mark.real_models
def test_the_window_opens_on_a_real_screen_and_ends_politely(display, engine):
    path = engine.collection.path
    engine.collection.close()
    environment = {name: value for name, value in os.environ.items() if name != "QT_QPA_PLATFORM"} | {
        "DISPLAY": display
    }
    command = [sys.executable, "-m", "redlantern", "open", str(path)]
    process = subprocess.Popen(command, env=environment, stderr=subprocess.PIPE, text=True)
    # Once it is open, the window has written its number into the lock.
    [lock] = (Path(os.environ["XDG_RUNTIME_DIR"]) / "redlantern" / "locks").glob("*.change")
    deadline = time.monotonic() + WAIT_MS / 1000
    while lock.read_text() != str(process.pid) and time.monotonic() < deadline and process.poll() is None:
        time.sleep(0.05)
    assert lock.read_text() == str(process.pid)
    process.terminate()
    _, said = process.communicate(timeout=WAIT_MS / 1000)
    assert process.returncode == 0, said
    assert "Traceback" not in said
