# SPDX-License-Identifier: GPL-3.0-or-later
"""Takes a picture of the window at work, for a machine without a display and for the documentation."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from redlantern.desktop.start import application
from redlantern.desktop.window import Window

SIZE = (1280, 800)
_PATIENCE_MS = 240_000
_LOOK_AGAIN_MS = 50
_SETTLING_MS = 300


class NeverReadyError(RuntimeError):
    """The window did not come to the state that was waited for."""


def take_picture(collection: Path, question: str, target: Path) -> None:
    """Open the window on a collection, ask, wait for the whole sheet and its page, and write a PNG."""
    app = application()  # held: Qt ends with its last reference
    window = Window()
    try:
        window.resize(*SIZE)
        window.show()
        window.door.open_collection(collection)
        wait_until(lambda: window.workspace.session is not None)
        window.bar.question.setText(question)
        window.ask()
        wait_until(lambda: is_settled(window))
        save(window, target)
    finally:
        window.close()
        wait_until(lambda: window.is_closed)
        del app


def is_settled(window: Window) -> bool:
    """Whether nothing is being asked or fetched, and a printed page has its picture."""
    facsimile = window.desk.facsimile
    waits_for_picture = facsimile.page is not None and not facsimile.page.is_set and facsimile.printed.picture.isNull()
    return (
        not window.workspace.is_asking
        and not window.workspace.is_busy
        and not window.desk.view.is_building
        and not waits_for_picture
    )


def wait_until(condition: Callable[[], bool]) -> None:
    """Let the window work until a condition holds.

    Raises
    ------
    NeverReadyError
        If it does not within four minutes.
    """
    loop = QEventLoop()
    look, give_up = QTimer(), QTimer()
    look.timeout.connect(lambda: loop.exit(0) if condition() else None)
    give_up.setSingleShot(True)
    give_up.timeout.connect(lambda: loop.exit(1))
    look.start(_LOOK_AGAIN_MS)
    give_up.start(_PATIENCE_MS)
    if loop.exec():
        raise NeverReadyError


def save(window: QWidget, target: Path, *, over: QWidget | None = None, under: QWidget | None = None) -> None:
    """Write what the window shows as a PNG, once it has been laid out; with a menu over it, where it opens under a button."""
    loop = QEventLoop()
    QTimer.singleShot(_SETTLING_MS, loop.quit)
    loop.exec()
    target.parent.mkdir(parents=True, exist_ok=True)
    picture = window.grab()
    if over is not None and under is not None:
        painter = QPainter(picture)
        corner = under.mapTo(window, under.rect().bottomLeft())
        painter.drawPixmap(min(corner.x(), window.width() - over.width() - 8), corner.y() + 2, over.grab())
        painter.end()
    picture.save(str(target), "PNG")
