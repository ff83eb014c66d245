# SPDX-License-Identifier: GPL-3.0-or-later
"""The program as it is started: under a real display, where there is one to be had."""

import os
import subprocess
import sys
import time

import pytest

from redlantern.collection.process_lock import lock_path
from tests.desktop.conftest import WAIT_MS
from tests.desktop.real_screen import needs, start_screen


@pytest.fixture
def new_display():
    """Starts virtual screens; gives the name of each."""
    needs("Xvfb")
    screens = []

    def start():
        screen, name = start_screen()
        screens.append(screen)
        return name

    yield start
    for screen in screens:
        screen.terminate()
        screen.wait()


def holds(path, process):
    """Whether a process has claimed a collection, by what stands in its lock."""
    lock = lock_path(path)
    return lock.exists() and str(process.pid).encode() in lock.read_bytes()


def window_on(display, path):
    """Open the window on a screen and wait until it has claimed the collection, or has ended."""
    environment = {name: value for name, value in os.environ.items() if name != "QT_QPA_PLATFORM"} | {
        "DISPLAY": display
    }
    command = [sys.executable, "-m", "redlantern", "open", str(path)]
    process = subprocess.Popen(command, env=environment, stderr=subprocess.PIPE, text=True)
    deadline = time.monotonic() + WAIT_MS / 1000
    while not holds(path, process) and time.monotonic() < deadline and process.poll() is None:
        time.sleep(0.05)
    return process


@pytest.mark.real_models
def test_the_window_opens_on_a_real_screen_and_ends_politely(new_display, engine):
    path = engine.collection.path
    engine.collection.close()
    # Once it is open, the window has written its number into the lock.
    process = window_on(new_display(), path)
    has_opened = holds(path, process)
    process.terminate()
    _, said = process.communicate(timeout=WAIT_MS / 1000)
    assert (has_opened, process.returncode) == (True, 0), said
    assert "Traceback" not in said


_CHOOSING = """
import sys
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QDialogButtonBox, QFileDialog
from redlantern.collection.process_lock import lock_path
from redlantern.desktop.start import application
app = application()
def choose():
    dialog = QApplication.activeModalWidget()
    if dialog is None:
        QTimer.singleShot(50, choose)
        return
    dialog.setDirectory(sys.argv[1])
    dialog.findChild(QDialogButtonBox).buttons()[0].click()
QTimer.singleShot(200, choose)
print(QFileDialog.getExistingDirectory(None, "Choose", "/"))
"""


def test_a_file_dialog_keeps_no_list_of_folders(tmp_path):
    place = tmp_path / "secret folder"
    place.mkdir()
    (tmp_path / "config").mkdir()
    environment = os.environ | {"XDG_CONFIG_HOME": str(tmp_path / "config"), "HOME": str(tmp_path / "config")}
    done = subprocess.run(
        [sys.executable, "-c", _CHOOSING, str(place)],
        env=environment,
        capture_output=True,
        text=True,
        timeout=60,
        check=True,
    )
    assert done.stdout.strip() == str(place)
    assert [one for one in (tmp_path / "config").rglob("*") if one.is_file() and b"secret" in one.read_bytes()] == []
