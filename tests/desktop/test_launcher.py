# SPDX-License-Identifier: GPL-3.0-or-later
"""Started from its launcher, as a click on it does, on a real screen with a window manager."""

import configparser
import subprocess
import sys
from pathlib import Path

import pytest
from shipping.icons import NAME

from redlantern.collection.store import Collection
from tests.desktop.real_screen import RealScreen, needs, until

ROOT = Path(__file__).parents[2]


@pytest.mark.real_models
def test_a_click_opens_the_window_and_the_desktop_knows_whose_it_is(tmp_path, tmp_path_factory):
    """Takes seconds: installed for a login, then started twice, once with a collection that was clicked."""
    needs("Xvfb", "openbox", "dbus-daemon", "gio", "xprop")
    Collection.create(tmp_path / "clicked.redlantern").close()
    screen = RealScreen(tmp_path_factory.mktemp("s"))
    try:
        screen.environment["HOME"] = str(tmp_path / "a home")
        subprocess.run(
            [sys.executable, "-m", "shipping.install"], cwd=ROOT, check=True, capture_output=True,
            env=screen.environment | {"QT_QPA_PLATFORM": "offscreen"},
        )  # fmt: skip
        launcher = Path(screen.environment["XDG_DATA_HOME"], "applications", f"{NAME}.desktop")
        read = configparser.ConfigParser(interpolation=None)
        read.read(launcher, encoding="utf-8")
        screen.start("gio", "launch", str(launcher))
        assert until(screen.windows) == [(read["Desktop Entry"]["StartupWMClass"], "Red Lantern")]
        screen.start("gio", "launch", str(launcher), str(tmp_path / "clicked.redlantern"))
        until(lambda: "clicked - Red Lantern" in [title for _, title in screen.windows()])
    finally:
        screen.close()
