# SPDX-License-Identifier: GPL-3.0-or-later
"""Walks through the window in the language of its environment and prints the words that are shown, as JSON. Run by a test."""

import json
import sys
from pathlib import Path

from tests.conftest import SmallEmbedder  # first: it chooses the language and puts the seal on

from PyQt6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QMenu, QWidget  # isort: skip
from redlantern.application.opening import Models
from redlantern.desktop.portrait import SIZE, is_settled, wait_until
from redlantern.desktop.rooms import ROOMS
from redlantern.desktop.start import application
from redlantern.desktop.window import Window
from tests.desktop.every_dialog import dialogs, read_in

_QUESTIONS = ("At what relative humidity in the loft shall work cease?", "Who won the chess tournament of 1894?")


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
    app = application()
    window = Window(Models(SmallEmbedder, lambda path=None: None))
    window.resize(*SIZE)
    window.show()
    said = {"first": words_of(window)}
    engine = read_in(place)
    for dialog in dialogs(engine, window):
        dialog.show()
        said[type(dialog).__name__] = words_of(dialog) | {dialog.windowTitle()}
        dialog.close()
    engine.close()
    window.door.open_collection(engine.collection.path)
    wait_until(lambda: window.workspace.session is not None and is_settled(window))
    for question in _QUESTIONS:
        window.bar.question.setText(question)
        window.ask()
        wait_until(lambda: is_settled(window))
        said[question] = words_of(window)
    for number, room in enumerate(ROOMS):
        window.go_to(number)
        wait_until(lambda: not window.workspace.is_busy)
        said[room.name] = words_of(window)
    window.close()
    wait_until(lambda: window.is_closed)
    print(json.dumps({name: sorted(words - {""}) for name, words in said.items()}))
    del app


if __name__ == "__main__":
    main(Path(sys.argv[1]))
