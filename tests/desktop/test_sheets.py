# SPDX-License-Identifier: GPL-3.0-or-later
"""The list of all sheets: searched, named, starred, deleted, asked again; threads; printing."""

import pypdfium2
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtWidgets import QInputDialog, QMessageBox

from redlantern.application.sheets import list_sheets
from redlantern.desktop.desk.sheets_dialog import SheetsDialog
from redlantern.desktop.widgets import printing
from tests.desktop.conftest import WAIT_MS, ask, settle, when_shown

ANSWERED = "At what relative humidity in the loft shall work cease?"
OTHER = "What would a new hatch cost?"
FOLLOWED = "And when is the deposit due?"


@pytest.fixture
def asked(filled, qtbot):
    """Three sheets in two threads."""
    ask(filled, qtbot, ANSWERED)
    ask(filled, qtbot, FOLLOWED)
    filled.desk.sheet_history.begin_thread(len(filled.desk.sheets))
    ask(filled, qtbot, OTHER)
    return filled


def with_list(window, qtbot, act):
    has_acted = []

    def shown(dialog):
        try:
            act(dialog)
        finally:
            has_acted.append(True)
            if dialog.isVisible():
                dialog.reject()

    when_shown(qtbot, SheetsDialog, shown)
    window.desk.sheet_history.show_list()
    qtbot.waitUntil(lambda: bool(has_acted) and window.desk.sheet_history._dialog is None, timeout=WAIT_MS)
    settle(window, qtbot)


def rows(dialog):
    return [dialog.list.topLevelItem(at).text(1) for at in range(dialog.list.topLevelItemCount())]


def choose(dialog, words):
    for at in range(dialog.list.topLevelItemCount()):
        if words in dialog.list.topLevelItem(at).text(1):
            dialog.list.setCurrentItem(dialog.list.topLevelItem(at))
            return
    raise AssertionError(words)


def kept(window):
    return list_sheets(window.workspace.session.engine)


def test_all_are_listed_the_latest_first_by_thread_with_what_they_cite(asked, qtbot):
    seen = {}

    def look(dialog):
        seen["rows"], seen["count"] = rows(dialog), dialog._count.text()
        dialog.filter.setText("contract")
        seen["by document"] = rows(dialog)
        dialog.filter.setText("hatch cost")
        seen["by words"] = rows(dialog)

    with_list(asked, qtbot, look)
    assert seen["rows"] == [OTHER, f"↳ {FOLLOWED}", ANSWERED]
    assert seen["count"] == "3 sheets in 2 threads"
    assert ANSWERED in seen["by document"] and OTHER not in seen["by document"]
    assert seen["by words"] == [OTHER]


def test_one_is_opened_by_enter(asked, qtbot):
    def open_it(dialog):
        choose(dialog, ANSWERED)
        qtbot.keyClick(dialog.list, Qt.Key.Key_Return)

    with_list(asked, qtbot, open_it)
    qtbot.waitUntil(
        lambda: asked.desk.view.sheet is not None and asked.desk.view.sheet.question == ANSWERED, timeout=WAIT_MS
    )
    assert asked.desk.view.place_button.text() == "Sheet 1 of 3"


def test_names_and_stars_are_kept(asked, qtbot, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("The humidity clause", True))

    def name_and_star(dialog):
        choose(dialog, ANSWERED)
        qtbot.keyClick(dialog.list, Qt.Key.Key_F2)
        qtbot.waitUntil(lambda: "The humidity clause" in rows(dialog), timeout=WAIT_MS)
        qtbot.keyClick(dialog.list, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda: dialog.chosen is not None and dialog.chosen.is_starred, timeout=WAIT_MS)

    with_list(asked, qtbot, name_and_star)
    first = kept(asked)[0]
    assert (first.name, first.is_starred) == ("The humidity clause", True)


def press(words):
    def act(box):
        next(button for button in box.buttons() if button.text().startswith(words)).click()

    return act


@pytest.mark.parametrize(
    ("button", "left"), [("Delete it", [ANSWERED, OTHER]), ("Delete its thread", [OTHER]), ("Leave it", None)]
)
def test_one_or_its_thread_is_deleted_and_only_that(asked, qtbot, button, left):
    def delete(dialog):
        choose(dialog, FOLLOWED)
        when_shown(qtbot, QMessageBox, press(button))
        qtbot.keyClick(dialog.list, Qt.Key.Key_Delete)
        n_left = 3 if left is None else len(left)
        qtbot.waitUntil(lambda: len(rows(dialog)) == n_left, timeout=WAIT_MS)

    with_list(asked, qtbot, delete)
    assert [each.question for each in kept(asked)] == (left or [ANSWERED, FOLLOWED, OTHER])
    assert [sheet.question for sheet in asked.desk.sheets] == [each.question for each in kept(asked)]
    notes = asked.workspace.session.engine.collection.kept_sheets.notes.all()
    assert set(notes) <= {each.sheet_id for each in kept(asked)}, "nothing is noted of what is gone"


def test_what_was_asked_often_is_offered_and_asked_by_a_click(asked, qtbot):
    ask(asked, qtbot, OTHER)

    def click(dialog):
        next(one for one in dialog.findChildren(type(dialog.buttons["Open"])) if one.text() == OTHER).click()

    with_list(asked, qtbot, click)
    qtbot.waitUntil(lambda: len(asked.desk.sheets) == 5, timeout=WAIT_MS)
    settle(asked, qtbot)


def test_a_new_thread_goes_on_from_nothing(asked, qtbot):
    assert asked.desk.sheets[1].standalone_question != FOLLOWED
    asked.desk.sheet_history.begin_thread(len(asked.desk.sheets))
    ask(asked, qtbot, FOLLOWED)
    assert asked.desk.sheets[-1].standalone_question == FOLLOWED


def test_a_sheet_is_printed_with_its_lines_and_documents(asked, qtbot, tmp_path, monkeypatch):
    target = tmp_path / "sheet.pdf"

    def agree(dialog):
        dialog.printer().setOutputFormat(printing.QPrinter.OutputFormat.PdfFormat)
        dialog.printer().setOutputFileName(str(target))
        return QPrintDialog.DialogCode.Accepted

    monkeypatch.setattr(QPrintDialog, "exec", agree)
    asked.desk.turn(-2)
    asked.desk.sheet_history.print_sheet()
    qtbot.waitUntil(target.exists, timeout=WAIT_MS)
    settle(asked, qtbot)
    with pypdfium2.PdfDocument(target) as document:
        text = " ".join(page.get_textpage().get_text_bounded() for page in document)
    assert "relative humidity" in text and "Contract" in text
