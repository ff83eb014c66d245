# SPDX-License-Identifier: GPL-3.0-or-later
"""A whole task by keyboard alone: from the first page to a verified brief, without the mouse."""

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit, QRadioButton

from redlantern.application.briefs import read_citations
from redlantern.desktop.rooms import room_number
from redlantern.desktop.widgets.import_dialog import ImportDialog
from redlantern.desktop.widgets.rows import CitedRow
from redlantern.safety.keys import Holding
from tests.desktop.conftest import WAIT_MS, settle, when_shown


@pytest.fixture(autouse=True)
def at_home(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("HOME", str(tmp_path))


def press(qtbot, window, keys):
    """Keys as they come from a keyboard: to whatever has the focus."""
    sequence = QKeySequence(keys)
    at = sequence[0]
    qtbot.keyClick(QApplication.focusWidget() or window, at.key(), at.keyboardModifiers())


def typed(qtbot, window, words):
    qtbot.keyClicks(QApplication.focusWidget() or window, words)


def tab_to(qtbot, window, wanted, most=60):
    """Go on by Tab until the wanted control has the focus."""
    for _ in range(most):
        if wanted(QApplication.focusWidget()):
            return
        qtbot.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Tab)
    raise AssertionError(f"Tab does not come there; it stands at {QApplication.focusWidget()}")


def test_from_a_folder_to_a_brief(window, qtbot, documents, tmp_path, monkeypatch):
    window.activateWindow()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(documents))

    def agree(dialog):
        # Whatever goes wrong in here must not leave the dialog open for ever.
        try:
            choose(dialog)
        except BaseException:
            dialog.reject()
            raise

    def choose(dialog):
        dialog.activateWindow()
        qtbot.waitUntil(lambda: dialog.survey is not None and dialog.isActiveWindow(), timeout=WAIT_MS)
        dialog.new_place.choice.first.setFocus()
        way = dialog.new_place.choice.buttons[Holding.FILE]
        tab_to(qtbot, dialog, lambda focus: isinstance(focus, QRadioButton))
        while not way.hasFocus():
            qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Down)
        qtbot.keyClick(way, Qt.Key.Key_Space)
        assert way.isChecked()
        tab_to(qtbot, dialog, lambda focus: focus is dialog.agree_button)
        qtbot.keyClick(dialog.agree_button, Qt.Key.Key_Space)

    when_shown(qtbot, ImportDialog, agree)
    press(qtbot, window, "Ctrl+N")
    qtbot.waitUntil(
        lambda: len(window.workspace.documents_in_scope.readable) == 3 and not window.workspace.is_updating,
        timeout=WAIT_MS,
    )
    settle(window, qtbot)

    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=WAIT_MS)
    press(qtbot, window, "Ctrl+L")
    assert isinstance(QApplication.focusWidget(), QLineEdit)
    typed(qtbot, window, "At what relative humidity in the loft shall work cease?")
    press(qtbot, window, "Return")
    qtbot.waitUntil(lambda: window.desk.view.sheet is not None and not window.workspace.is_asking, timeout=WAIT_MS)
    settle(window, qtbot)

    press(qtbot, window, "Ctrl+Down")
    settle(window, qtbot)
    assert isinstance(window.desk.view.chosen, CitedRow) and window.desk.facsimile.page is not None
    press(qtbot, window, "Ctrl+G")
    settle(window, qtbot)

    press(qtbot, window, f"Ctrl+{room_number('Brief') + 1}")
    settle(window, qtbot)
    target = tmp_path / "brief.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(target), ""))
    room = window.brief_room
    tab_to(qtbot, window, lambda focus: focus is room.save_button)
    QTimer.singleShot(0, lambda: None)
    qtbot.keyClick(room.save_button, Qt.Key.Key_Space)
    qtbot.waitUntil(target.exists, timeout=WAIT_MS)
    settle(window, qtbot)
    assert read_citations(target).citations


def test_every_room_is_gone_through_by_tab_and_comes_round(filled, qtbot):
    """From wherever one is, Tab leads on and back to where it began, and everything on the way has a name."""
    filled.activateWindow()
    for number in range(8):
        filled.go_to(number)
        settle(filled, qtbot)
        filled.bar.question.setFocus()
        seen = []
        for _ in range(200):
            qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
            focus = QApplication.focusWidget()
            assert focus is not None
            if focus is filled.bar.question:
                break
            seen.append(focus)
        else:
            raise AssertionError(f"room {number} does not come round: {seen[-3:]}")
        nameless = [one for one in seen if not (one.accessibleName() or getattr(one, "text", lambda: "")())]
        assert nameless == [], (number, [(type(one).__name__, one.objectName()) for one in nameless])
