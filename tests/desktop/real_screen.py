# SPDX-License-Identifier: GPL-3.0-or-later
"""A real screen with a window manager, and what a screen reader is told there: the tree of the Assistive Technology
Service Provider Interface (AT-SPI), read over its bus.
"""

import contextlib
import os
import re
import shutil
import subprocess
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from jeepney import DBusAddress, MessageFlag, MessageType, new_method_call
from jeepney.io.blocking import open_dbus_connection

from tests.desktop.conftest import WAIT_MS

_LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")
_ATSPI = "org.a11y.atspi."
_ROOT = ("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")
# Numbers of states as AT-SPI's AtspiStateType has them.
STATES = {"checked": 4, "enabled": 8, "focusable": 11, "focused": 12, "showing": 25, "visible": 30}
# Kinds of key events as AT-SPI's AtspiKeySynthType has them; a modifier is pressed by its code, others by their X symbol.
_PRESSED, _RELEASED, _SYMBOL, _WORDS = 0, 1, 3, 4
_MODIFIERS = {"Ctrl": 37, "Shift": 50, "Alt": 64}
_NAMED = {
    "Return": 0xFF0D, "Esc": 0xFF1B, "Tab": 0xFF09, "Space": 0x20, "Home": 0xFF50, "Left": 0xFF51, "Up": 0xFF52,
    "Right": 0xFF53, "Down": 0xFF54, "F1": 0xFFBE, "F5": 0xFFC2, "Comma": 0x2C,
}  # fmt: skip


def needs(*programs: str) -> None:
    """Skip the test where a program of the desktop is not installed."""
    for name in programs:
        if shutil.which(name) is None:
            pytest.skip(f"{name} is not installed")


def until(what, *, wait_s=WAIT_MS / 1000):
    """Ask again until there is an answer; gives it."""
    deadline = time.monotonic() + wait_s
    while not (found := _unless_gone(what)):
        assert time.monotonic() < deadline, "it did not come to pass"
        time.sleep(0.05)
    return found


class GoneError(Exception):
    """What was asked about is no longer there: windows close while they are looked at."""


def _unless_gone(what):
    try:
        return what()
    except GoneError:
        return None


def start_screen(size: str = "1280x800") -> tuple[subprocess.Popen, str]:
    """Start a virtual screen; gives its process and its name."""
    read_end, write_end = os.pipe()
    command = ["Xvfb", "-displayfd", str(write_end), "-screen", "0", f"{size}x24", "-nolisten", "tcp", "-noreset"]
    screen = subprocess.Popen(command, pass_fds=(write_end,), stderr=subprocess.DEVNULL)
    os.close(write_end)
    # Whole with its line end: a screen that cannot write that ends.
    with os.fdopen(read_end) as told:
        return screen, f":{told.readline().strip()}"


class RealScreen:
    """A virtual screen with a window manager and a session bus; processes started on it end with it."""

    def __init__(self, folder: Path, size: str = "1280x800") -> None:
        self._folder = folder
        self._stack = contextlib.ExitStack()
        self.environment = os.environ | {"QT_QPA_PLATFORM": "xcb"}
        screen, self.environment["DISPLAY"] = start_screen(size)
        self._end_with_it(screen)
        # A bus lies at a path, and the path of a socket is short.
        self.environment["XDG_RUNTIME_DIR"] = str(folder)
        bus = self.start("dbus-daemon", "--session", "--nofork", "--print-address", f"--address=unix:path={folder}/bus")
        self.environment["DBUS_SESSION_BUS_ADDRESS"] = bus.stdout.readline().strip()
        self.start("openbox", "--sm-disable")

    def start(self, *command: str, stdin: bool = False) -> subprocess.Popen:
        """Start a program on the screen; with `stdin` it can be written to."""
        with (self._folder / "said.txt").open("a") as said:
            process = subprocess.Popen(
                command,
                env=self.environment,
                stdin=subprocess.PIPE if stdin else None,
                stdout=subprocess.PIPE,
                stderr=said,
                text=True,
            )
        self._end_with_it(process)
        return process

    def _end_with_it(self, process: subprocess.Popen) -> None:
        def end():
            if process.poll() is None:
                process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    pipe.close()

        self._stack.callback(end)

    def asked(self, *command: str) -> str:
        """What a short command says."""
        done = subprocess.run(command, env=self.environment, capture_output=True, text=True, timeout=WAIT_MS / 1000)
        return done.stdout

    def windows(self) -> list[tuple[str, str]]:
        """Class and title of each window that the window manager has in its hands."""
        numbers = self.asked("xprop", "-root", "_NET_CLIENT_LIST").partition("#")[2].split(",")
        told = [
            self.asked("xprop", "-id", each.strip(), "WM_CLASS", "_NET_WM_NAME") for each in numbers if each.strip()
        ]
        found = [re.findall(r'"([^"]*)"', each) for each in told]
        return [(words[-2], words[-1]) for words in found if len(words) >= 3]

    def close(self) -> None:
        """End everything."""
        self._stack.close()


@dataclass(frozen=True)
class Seen:
    """An object as a screen reader is told of it."""

    tree: "Tree"
    bus_name: str
    path: str

    def _get(self, name: str, interface: str = "Accessible") -> Any:
        return self.tree.call(self, "org.freedesktop.DBus.Properties", "Get", "ss", (_ATSPI + interface, name))[0][1]

    def _ask(self, method: str, interface: str = "Accessible", signature: str | None = None, *words: Any) -> Any:
        return self.tree.call(self, _ATSPI + interface, method, signature, words)[0]

    @property
    def name(self) -> str:
        return self._get("Name")

    @property
    def description(self) -> str:
        return self._get("Description")

    @property
    def role(self) -> str:
        return self._ask("GetRoleName")

    @property
    def children(self) -> list["Seen"]:
        return [Seen(self.tree, *child) for child in self._ask("GetChildren")]

    @property
    def interfaces(self) -> list[str]:
        return [each.removeprefix(_ATSPI) for each in self._ask("GetInterfaces")]

    @property
    def actions(self) -> list[str]:
        if "Action" not in self.interfaces:
            return []
        return [action[0] for action in self._ask("GetActions", "Action")]

    @property
    def text(self) -> str:
        if "Text" not in self.interfaces:
            return ""
        return self._ask("GetText", "Text", "ii", 0, -1)

    def has(self, state: str) -> bool:
        words = self._ask("GetState")
        return bool(words[STATES[state] // 32] >> STATES[state] % 32 & 1)

    def do(self, action: str) -> None:
        """Do one of its actions, without waiting: what opens a dialog answers only when that is closed."""
        number = self.actions.index(action)
        self.tree.send(self, _ATSPI + "Action", "DoAction", "i", (number,))

    def walk(self, *, showing: bool = True) -> list["Seen"]:
        """The object and all below it, in the order in which they are told; only what is on the screen, if so wished."""
        found = [self]
        for child in self.children:
            if not showing or child.has("showing"):
                found += child.walk(showing=showing)
        return found

    def first(self, role: str, name: str) -> "Seen | None":
        """The first object below of a role and a name."""
        return next((each for each in self.walk() if each.role == role and each.name == name), None)


class Tree:
    """What is told on the bus of a screen."""

    def __init__(self, screen: RealScreen) -> None:
        if not _LAUNCHER.exists():
            pytest.skip("at-spi2-core is not installed")
        screen.environment |= {"QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1", "NO_AT_BRIDGE": "0"}
        screen.start(str(_LAUNCHER), "--launch-immediately")
        session = open_dbus_connection(screen.environment["DBUS_SESSION_BUS_ADDRESS"])
        asked = new_method_call(DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus"), "GetAddress")
        address = until(lambda: session.send_and_get_reply(asked).body[0])
        session.close()
        self._bus = open_dbus_connection(address)

    def call(self, seen: Seen, interface: str, method: str, signature: str | None, words: tuple) -> Any:
        address = DBusAddress(seen.path, seen.bus_name, interface)
        reply = self._bus.send_and_get_reply(new_method_call(address, method, signature, words), timeout=WAIT_MS / 1000)
        if reply.header.message_type is MessageType.error:
            raise GoneError(reply.body)
        return reply.body

    def send(self, seen: Seen, interface: str, method: str, signature: str, words: tuple) -> None:
        message = new_method_call(DBusAddress(seen.path, seen.bus_name, interface), method, signature, words)
        message.header.flags = MessageFlag.no_reply_expected
        self._bus.send(message)

    def windows(self) -> list[Seen]:
        """The windows of the program, those of dialogs and menus among them."""
        programs = Seen(self, *_ROOT).children
        return [window for program in programs for window in program.children if window.has("showing")]

    def press(self, keys: str) -> None:
        """Press keys as a keyboard does, such as `Ctrl+Shift+A`; what has the focus gets them."""
        *held, last = keys.split("+")
        for name in held:
            self._key(_MODIFIERS[name], "", _PRESSED)
        self._key(_NAMED[last] if last in _NAMED else ord(last.lower()), "", _SYMBOL)
        for name in reversed(held):
            self._key(_MODIFIERS[name], "", _RELEASED)

    def typed(self, words: str) -> None:
        """Type words."""
        self._key(0, words, _WORDS)

    def _key(self, number: int, words: str, kind: int) -> None:
        keyboard = Seen(self, _ROOT[0], "/org/a11y/atspi/registry/deviceeventcontroller")
        self.call(keyboard, _ATSPI + "DeviceEventController", "GenerateKeyboardEvent", "isu", (number, words, kind))

    def close(self) -> None:
        self._bus.close()
