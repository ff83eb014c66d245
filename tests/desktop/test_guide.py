# SPDX-License-Identifier: GPL-3.0-or-later
"""The guide within the program, and the check of an exported brief in the window."""

import re
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication

from redlantern.application.guide import guide_pages
from redlantern.desktop.brief.verify_dialog import VerifyDialog
from redlantern.desktop.guide import GuideDialog
from redlantern.desktop.rooms import ROOMS, room_number
from tests.desktop.conftest import WAIT_MS, ask, settle

ROOT = Path(__file__).parents[2]


def opened(window, qtbot, room):
    window.go_to(room)
    action = next(action for _, action in window._menu.actions if action.text() == "Guide")
    action.trigger()
    qtbot.waitUntil(
        lambda: any(isinstance(each, GuideDialog) for each in QApplication.topLevelWidgets()), timeout=WAIT_MS
    )
    return next(each for each in QApplication.topLevelWidgets() if isinstance(each, GuideDialog) and each.isVisible())


@pytest.mark.parametrize("room", range(len(ROOMS)))
def test_it_opens_at_the_room_one_is_in(window, qtbot, room):
    guide = opened(window, qtbot, room)
    assert guide.page is not None and ROOMS[room].name.split()[0].casefold() in guide.page.title.casefold()
    guide.close()


def test_it_is_searched_by_words(window, qtbot):
    guide = opened(window, qtbot, 0)
    guide.words.setText("secret store")
    shown = [guide.list.item(at).text() for at in range(guide.list.count()) if not guide.list.item(at).isHidden()]
    assert "The first hour" in shown and "Brief: from answers to work" not in shown
    assert guide.text.textCursor().selectedText().casefold() == "secret store"
    guide.words.setText("no such words anywhere")
    assert guide.page is None and guide.text.toPlainText() == ""
    guide.close()


def test_its_pictures_are_there_and_no_page_names_an_action_that_is_not(window):
    keys = {action.shortcut().toString() for _, action in window._menu.actions}
    assert len(guide_pages()) == 9
    for page in guide_pages():
        for picture in re.findall(r"!\[[^]]*\]\(([^)]+)\)", page.text):
            assert (page.folder / picture).resolve().is_file(), (page.title, picture)
        for named in re.findall(r"\b(Ctrl\+(?:Shift\+)?[A-Z]|F[0-9]+)\b", page.text):
            assert named in keys | {"F2", "Ctrl+Z"}, (page.title, named)


def exported(window, qtbot, target):
    ask(window, qtbot, "At what relative humidity in the loft shall work cease?")
    window.between_rooms.gather()
    settle(window, qtbot)
    window.go_to(room_number("Brief"))
    settle(window, qtbot)
    from redlantern.application import briefs

    engine = window.workspace.session.engine
    briefs.export(engine, briefs.briefs(engine)[-1], target, "marks")


def test_an_exported_brief_is_verified_and_a_changed_document_is_found(filled, qtbot, documents, tmp_path):
    target = tmp_path / "brief.html"
    exported(filled, qtbot, target)
    dialog = VerifyDialog(filled)
    dialog.show()
    assert not dialog.check_button.isEnabled()
    dialog.choose(export=target, folder=documents)
    dialog.check_button.click()
    qtbot.waitUntil(lambda: bool(dialog.found) and dialog.check_button.text() == "Check", timeout=WAIT_MS)
    assert dialog.said.text() == "All 1 citations stand on their pages."
    contract = next(path for path in documents.rglob("*.md"))
    contract.write_text(contract.read_text().replace("70 per cent", "80 per cent"))
    dialog.check_button.click()
    qtbot.waitUntil(lambda: dialog.said.text().startswith("0 of 1"), timeout=WAIT_MS)
    assert "file missing" in dialog.list.topLevelItem(0).text(2)
    dialog.choose(export=contract)
    dialog.check_button.click()
    qtbot.waitUntil(lambda: dialog.check_button.text() == "Check" and "0 of" not in dialog.said.text(), timeout=WAIT_MS)
    dialog.close()
