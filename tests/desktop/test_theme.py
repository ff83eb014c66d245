# SPDX-License-Identifier: GPL-3.0-or-later
"""Contrast, voices, names for every control, and shortcuts."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFontDatabase
from PyQt6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QPushButton, QWidget

from redlantern.desktop.action_finder import ActionFinder
from redlantern.desktop.seal.proof_pane import table_rows
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.rows import LineRow
from tests.desktop.conftest import ask

C = theme.LAMPLIGHT
PAIRS = [
    (C.text, C.ground), (C.text, C.panel), (C.text, C.raised), (C.quiet, C.ground), (C.quiet, C.panel), (C.quiet, C.raised),
    (C.amber, C.ground), (C.amber, C.panel), (C.amber, C.raised), (C.ember, C.panel), (C.ink, C.paper), (C.ink, C.paper_chosen),
    (C.faded_ink, C.paper), (C.faded_ink, C.paper_chosen), (C.ink, C.marked), (C.on_ask, C.ask),
]  # fmt: skip


def luminance(colour):
    parts = [value / 255 for value in QColor(colour).getRgb()[:3]]
    red, green, blue = (part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


@pytest.mark.parametrize(("text", "ground"), PAIRS)
def test_text_can_be_read_on_its_ground(text, ground):
    lighter, darker = sorted((luminance(text), luminance(ground)), reverse=True)
    assert (lighter + 0.05) / (darker + 0.05) >= 4.5


def test_both_voices_are_shipped(dressed):
    assert {theme.SERIF, theme.SANS} <= set(QFontDatabase.families())


def test_the_documents_words_are_in_serif_and_ours_in_sans(filled, qtbot):
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    for row in filled.desk.view.rows:
        families = {
            label.fontInfo().family() for label in row.findChildren(QLabel) if label.text() == row.citation.text
        }
        if isinstance(row, LineRow):
            assert families == {theme.SERIF}
    assert filled.bar.question.fontInfo().family() == theme.SANS


def test_every_control_has_a_name(filled, qtbot):
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    for widget in filled.findChildren(QWidget):
        if (
            widget.focusPolicy() != Qt.FocusPolicy.NoFocus
            and widget.isVisible()
            and type(widget).__module__.startswith("redlantern")
        ):
            assert widget.accessibleName(), widget
        if isinstance(widget, QPushButton | QLineEdit) and widget.isVisible():
            assert widget.accessibleName() or (isinstance(widget, QAbstractButton) and len(widget.text()) > 1), widget


def menus_of(menu):
    """A menu with those within it."""
    within = [inner for action in menu.actions() if action.menu() is not None for inner in menus_of(action.menu())]
    return [menu, *within]


def test_every_action_has_a_name_a_shortcut_and_a_place_in_a_menu_that_fits_a_small_screen(window):
    menus = [
        menu for menu in menus_of(window.bar.collection_button.menu()) if menu.title() != "Collections of this login"
    ]
    actions = [action for menu in menus for action in menu.actions() if not action.isSeparator() and not action.menu()]
    shortcuts = [action.shortcut().toString() for action in actions]
    assert len(actions) > 30 and all(action.text() for action in actions)
    assert all(shortcuts)
    assert len(set(shortcuts)) == len(shortcuts)
    assert max(menu.sizeHint().height() for menu in menus) <= 700


def test_an_action_is_found_by_its_words_and_done(window, qtbot, monkeypatch):
    def find(finder):
        qtbot.keyClicks(finder.words, "room se")
        assert finder.list.count() == 0
        finder.words.clear()
        qtbot.keyClicks(finder.words, "SUMS scope")
        assert [finder.list.item(at).text() for at in range(finder.list.count())] == [
            "Check the sums of what is in scope    Ctrl+Shift+K"
        ]
        finder.words.clear()
        qtbot.keyClicks(finder.words, "seal")
        qtbot.keyClick(finder.words, Qt.Key.Key_Down)
        qtbot.keyClick(finder.words, Qt.Key.Key_Up)
        qtbot.keyClick(finder.words, Qt.Key.Key_Return)
        return finder.result()

    monkeypatch.setattr(ActionFinder, "exec", find)
    qtbot.keyClick(window, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert window.rooms.currentWidget() is window.seal_room


def test_every_label_shows_plain_text_where_documents_speak(filled, qtbot):
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    for row in filled.desk.view.rows:
        for label in row.findChildren(QLabel):
            if len(label.text()) > 12:
                assert label.textFormat() == Qt.TextFormat.PlainText


def test_the_seal_room_tries_and_tells(window, qtbot):
    window.go_to(7)
    qtbot.mouseClick(window.seal_room.proof_pane.test_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.seal_room.proof_pane.proof is not None, timeout=20_000)
    assert window.seal_room.proof_pane.verdict.text().startswith("All 116 tries by 4 processes ended as they must.")
    assert "OPEN" not in {cell for row in table_rows(window.seal_room.proof_pane.proof.attempts) for cell in row}
