# SPDX-License-Identifier: GPL-3.0-or-later
"""Walks through the window in the language of its environment and prints the words that are shown, as JSON. Run by a test."""

import json
import sys
from pathlib import Path

from tests.conftest import CONTRACT, LETTER, SmallEmbedder  # first: it chooses the language and puts the seal on

from PyQt6.QtCore import QEventLoop, QTimer  # isort: skip
from PyQt6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QMenu, QWidget  # isort: skip
from redlantern.answering.engine import Engine
from redlantern.application.opening import Models
from redlantern.collection.store import Collection
from redlantern.desktop.rooms import ROOMS
from redlantern.desktop.start import application
from redlantern.desktop.window import Window
from redlantern.progress import Cancel, silent
from tests.desktop.every_dialog import dialogs, read_in

_WAIT_MS = 20_000


def wait(condition) -> None:
    loop, left = QEventLoop(), [_WAIT_MS]

    def look() -> None:
        left[0] -= 20
        if condition() or left[0] < 0:
            loop.quit()

    timer = QTimer()
    timer.timeout.connect(look)
    timer.start(20)
    loop.exec()
    timer.stop()


def words_of(part: QWidget) -> set[str]:
    """What is shown in a part: words, hints, names for those who do not see."""
    found: set[str] = set()
    for widget in (part, *part.findChildren(QWidget)):
        if not widget.isVisibleTo(part):
            continue
        found |= {widget.toolTip(), widget.accessibleName()}
        if isinstance(widget, QLabel | QAbstractButton):
            found.add(widget.text())
        elif isinstance(widget, QLineEdit):
            found.add(widget.placeholderText())
    for menu in part.findChildren(QMenu):
        found |= {menu.title(), *(action.text() for action in menu.actions())}
    return found


def main(place: Path) -> None:
    folder = place / "documents"
    folder.mkdir()
    (folder / "contract.md").write_text(CONTRACT, encoding="utf-8")
    (folder / "key.txt").write_text(LETTER, encoding="utf-8")
    (folder / "broken.pdf").write_bytes(b"%PDF-1.4\n")
    collection = Collection.create(place / "a.redlantern")
    collection.claim_writing()
    engine = Engine(collection, SmallEmbedder(), None)
    engine.update([folder], report=silent, cancel=Cancel())
    engine.close()
    app = application()
    window = Window(Models(SmallEmbedder, lambda path=None: None))
    window.resize(1280, 800)
    window.show()
    said = {"first": words_of(window)}
    window.door.open_collection(place / "a.redlantern")
    wait(lambda: window.workspace.session is not None and not window.workspace.is_busy)
    for question in (
        "At what relative humidity in the loft shall work cease?",
        "Who won the chess tournament of 1894?",
    ):
        window.bar.question.setText(question)
        window.ask()
        wait(lambda: not (window.workspace.is_asking or window.workspace.is_busy or window.desk.view.is_building))
        said[question] = words_of(window)
    for number, room in enumerate(ROOMS):
        window.go_to(number)
        wait(lambda: not window.workspace.is_busy)
        said[room.name] = words_of(window)
    engine = read_in(place)
    for dialog in dialogs(engine, window):
        dialog.show()
        said[type(dialog).__name__] = words_of(dialog) | {dialog.windowTitle()}
        dialog.close()
    engine.close()
    window.close()
    wait(lambda: window.is_closed)
    print(json.dumps({name: sorted(words - {""}) for name, words in said.items()}))
    del app


if __name__ == "__main__":
    main(Path(sys.argv[1]))
