# SPDX-License-Identifier: GPL-3.0-or-later
"""What the right button, or the keyboard's own key, offers on rows, pages and documents."""

import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import QApplication, QMenu

from redlantern.desktop.widgets.context import PAGES, ROWS, menu_of
from tests.desktop.conftest import WAIT_MS, ask, settle

ANSWERED = "At what relative humidity in the loft shall work cease?"


@pytest.fixture
def answered(filled, qtbot):
    ask(filled, qtbot, ANSWERED)
    return filled


def words(menu):
    return [action.text() for action in menu.actions() if not action.isSeparator()]


def act(menu, name):
    next(action for action in menu.actions() if action.text() == name).trigger()


def test_a_row_offers_its_page_its_words_and_what_the_window_does_with_rows(answered, qtbot):
    row = answered.desk.view.rows[-1]
    menu = menu_of(row, row.offers(), ROWS)
    assert words(menu) == [
        "Show its page", "Copy the words, with their mark", "Gather what is chosen into the brief",
        "Put this question to every page", "Look at this question side by side",
    ]  # fmt: skip
    act(menu, "Copy the words, with their mark")
    copied = QApplication.clipboard().text()
    assert copied.startswith("“") and copied.endswith(f"[{row.citation.call_mark} p.{row.citation.page_number}]")
    act(menu, "Gather what is chosen into the brief")
    qtbot.waitUntil(lambda: answered.status.activity.text().startswith("Gathered"), timeout=WAIT_MS)
    settle(answered, qtbot)


def test_a_page_offers_its_text_and_its_size(answered):
    facsimile = answered.desk.facsimile
    menu = menu_of(facsimile, facsimile.offers(), PAGES)
    assert words(menu) == ["Copy the text of this page", "Larger page", "Smaller page", "Page fitted to its column"]
    act(menu, "Copy the text of this page")
    assert QApplication.clipboard().text() == facsimile.page.text


def test_a_document_of_the_shelf_is_shown_left_out_or_asked_alone(answered, qtbot):
    shelf = answered.desk.shelf.list
    index = shelf.model().index(0, 0)
    menu = menu_of(shelf, shelf.offers(index))
    assert words(menu) == ["Show its first page", "Leave it out of questions", "Ask this document alone"]
    act(menu, "Ask this document alone")
    assert len(answered.workspace.scope) == 1
    act(menu, "Show its first page")
    settle(answered, qtbot)
    act(menu_of(shelf, shelf.offers(index)), "Leave it out of questions")
    assert answered.workspace.scope == frozenset()


def test_the_list_of_the_shelf_room_offers_what_its_buttons_do(answered, qtbot):
    answered.go_to(1)
    settle(answered, qtbot)
    answered.shelf_room.table.selectRow(0)
    actions = answered.shelf_room.row_actions
    menu = menu_of(answered.shelf_room.table, actions.offers())
    assert words(menu) == ["Leave out / take in", "Read again", "Take out", "Erase ...", "Open the file"]
    act(menu, "Leave out / take in")
    assert len(answered.workspace.scope) == 2


def test_the_keyboards_own_key_opens_the_menu_of_the_row_it_stands_on(answered, qtbot):
    row = answered.desk.view.rows[0]
    row.setFocus()
    seen = []

    def look():
        menu = QApplication.activePopupWidget()
        if isinstance(menu, QMenu):
            seen.append(words(menu))
            qtbot.keyClick(menu, Qt.Key.Key_Escape)
        else:
            QTimer.singleShot(20, look)

    QTimer.singleShot(20, look)
    QApplication.sendEvent(
        row, QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(1, 1), row.mapToGlobal(QPoint(1, 1)))
    )
    assert seen and seen[0][0] == "Show its page"
    assert answered.desk.view.chosen is row
