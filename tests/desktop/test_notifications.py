# SPDX-License-Identifier: GPL-3.0-or-later
"""What the desktop is told of long work: that it has ended, and nothing of what it was about."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.desktop import notifications
from redlantern.desktop.notifications import Notifications
from redlantern.desktop.preferences import Preferences
from tests.desktop.conftest import WAIT_MS

SECRET = "Oriel Hall against the Builder"


class Part(QObject):
    """What the telling watches of an update or of upkeep."""

    began, ended, changed = pyqtSignal(), pyqtSignal(str), pyqtSignal(str)


class Place(QObject):
    """What it watches of the workspace."""

    reading_through_changed = pyqtSignal(bool)

    def __init__(self):
        super().__init__()
        self.updates, self.upkeep = Part(), Part()


class Bus:
    def __init__(self):
        self.calls = []

    def call(self, service, path, method, *words):
        self.calls.append((method, words))
        return 7


@pytest.fixture
def watched(window, monkeypatch):
    """A place, the bus, the clock and the preferences; the window is not the active one."""
    monkeypatch.setattr(window, "isActiveWindow", lambda: False)
    place, bus, now, preferences = Place(), Bus(), [0.0], [Preferences()]
    watching = Notifications(window, place, lambda: preferences[0], bus, clock=lambda: now[0])
    yield place, bus, now, preferences
    watching.deleteLater()


def told(bus):
    return [words[4] for method, words in bus.calls if method == "Notify"]


def test_the_end_of_long_work_is_told(watched):
    place, bus, now, _ = watched
    place.updates.began.emit()
    now[0] = 60
    place.updates.ended.emit("")
    place.reading_through_changed.emit(True)
    now[0] = 120
    place.reading_through_changed.emit(False)
    place.upkeep.changed.emit(f"{SECRET} is being moved")
    now[0] = 180
    place.upkeep.changed.emit("")
    assert told(bus) == [notifications.READ, notifications.READ_THROUGH, notifications.KEPT_UP]


def test_why_it_stopped_stays_in_the_window(watched):
    place, bus, now, _ = watched
    place.updates.began.emit()
    now[0] = 60
    place.updates.ended.emit(f"{SECRET} cannot be read")
    assert told(bus) == [notifications.READ_TO_ITS_END]
    assert SECRET not in repr(bus.calls)


def test_short_work_is_not_told_nor_any_where_it_is_not_wished_or_seen(watched, window, monkeypatch):
    place, bus, now, preferences = watched
    place.updates.began.emit()
    now[0] = 2
    place.updates.ended.emit("")
    preferences[0] = Preferences(tells=False)
    place.updates.began.emit()
    now[0] = 100
    place.updates.ended.emit("")
    preferences[0] = Preferences()
    monkeypatch.setattr(window, "isActiveWindow", lambda: True)
    place.updates.began.emit()
    now[0] = 200
    place.updates.ended.emit("")
    assert bus.calls == []


def test_sleep_is_held_off_only_while_files_are_read_and_only_where_that_is_wished(watched):
    place, bus, _, preferences = watched
    place.updates.began.emit()
    place.updates.ended.emit("")
    assert bus.calls == []
    preferences[0] = Preferences(stays_awake=True)
    place.updates.began.emit()
    place.updates.ended.emit("")
    assert [method for method, _ in bus.calls] == ["Inhibit", "UnInhibit"]
    assert bus.calls[1][1][0].value() == 7


_DESKTOP = """
import json, sys
from jeepney import DBusAddress, new_method_call, new_method_return
from jeepney.io.blocking import open_dbus_connection
from jeepney.bus_messages import message_bus
bus = open_dbus_connection(sys.argv[1])
for name in ("org.freedesktop.Notifications", "org.freedesktop.ScreenSaver"):
    bus.send_and_get_reply(message_bus.RequestName(name))
print("ready", flush=True)
while True:
    message = bus.receive()
    fields = {key.name: value for key, value in message.header.fields.items()}
    if fields.get("member") in ("Notify", "Inhibit", "UnInhibit"):
        body = [list(each) if isinstance(each, tuple) else each for each in message.body]
        print(json.dumps([fields["member"], fields["signature"], body]), flush=True)
        signature, reply = ("", ()) if fields["member"] == "UnInhibit" else ("u", (9,))
        bus.send(new_method_return(message, signature, reply))
"""
_TELLS = """
import sys
from pathlib import Path
sys.path.insert(0, sys.argv[1])
from PyQt6.QtCore import QCoreApplication
app = QCoreApplication([])
from tests.desktop.test_notifications import Place, Preferences, Notifications
from redlantern.desktop.notifications import SessionBus
from PyQt6.QtCore import QObject
class Window(QObject):
    def isActiveWindow(self):
        return False
place, now, window = Place(), [0.0], Window()
watching = Notifications(window, place, lambda: Preferences(stays_awake=True), SessionBus(), clock=lambda: now[0])
place.updates.began.emit()
now[0] = 60
place.updates.ended.emit("")
"""


def test_a_real_desktop_understands_it(tmp_path):
    """A real bus, and on it a desktop that writes down what it is asked: kinds of values that are wrong are not even sent."""
    try:
        daemon = subprocess.Popen(
            ["dbus-daemon", "--session", "--nofork", "--print-address", f"--address=unix:path={tmp_path}/bus"],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
    except FileNotFoundError:
        pytest.skip("dbus-daemon is not installed")
    started = [daemon]
    try:
        address = daemon.stdout.readline().strip()
        desktop = subprocess.Popen([sys.executable, "-c", _DESKTOP, address], stdout=subprocess.PIPE, text=True)
        started.append(desktop)
        assert desktop.stdout.readline() == "ready\n"
        subprocess.run(
            [sys.executable, "-c", _TELLS, str(Path.cwd())], env=os.environ | {"DBUS_SESSION_BUS_ADDRESS": address},
            check=True, timeout=WAIT_MS / 1000,
        )  # fmt: skip
    finally:
        # Also where something went wrong: nobody waits for them for ever.
        for process in reversed(started):
            process.kill()
        asked = [json.loads(line) for line in started[-1].stdout.read().splitlines()] if len(started) > 1 else []
        for process in started:
            process.stdout.close()
            process.wait()
    assert [(name, signature) for name, signature, _ in asked] == [
        ("Inhibit", "ss"), ("UnInhibit", "u"), ("Notify", "susssasa{sv}i")
    ]  # fmt: skip
    assert asked[1][2] == [9] and asked[2][2][4] == notifications.READ
