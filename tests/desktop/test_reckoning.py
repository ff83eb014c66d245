"""A person who asks for figures: the working, a cell on its page, a plan changed in place, sums checked, and a sheet kept."""

import pytest
from PyQt6.QtCore import Qt

from redlantern.desktop.desk.reckoned_part import CellLabel, WorkingRowView
from tests.desktop.conftest import WAIT_MS, ask, settle
from tests.desktop.test_answers import button, words_of

LOG = """# Humidity log of the tower

| Date | RH | Read by | Remark |
|---|---|---|---|
| 02.03.2026 | 54 % | P. Orr | |
| 03.03.2026 | 71 % | P. Orr | gluing stopped |
| 04.03.2026 | 78 % | J. Wiek | buckets emptied |
| 01.04.2026 | 58 % | P. Orr | gluing resumed |
| 02.04.2026 | 79 % | J. Wiek | |
"""
BILL = """# Invoice 88

| Pos. | Description | Quantity | Unit price EUR | Total EUR |
|---|---|---|---|---|
| 1 | Netting | 3 | 10,00 | 30,00 |
| 2 | Straps | 4 | 12,50 | 55,00 |
| | Net | | | 85,00 |
"""
HIGHEST = "What was the highest RH in the humidity log in March?"


@pytest.fixture
def documents(documents):
    (documents / "log.md").write_text(LOG, encoding="utf-8")
    (documents / "invoice 88.md").write_text(BILL, encoding="utf-8")
    return documents


def rows(window):
    return [row for row in window.desk.view.rows if isinstance(row, WorkingRowView)]


def cell(row, text):
    return next(label for label in row.findChildren(CellLabel) if label.text() == text)


def test_a_figure_stands_first_with_the_rows_it_comes_from_and_no_model_is_asked(
    filled, qtbot, language_model, monkeypatch
):
    monkeypatch.setattr(language_model, "write", None)
    ask(filled, qtbot, HIGHEST)
    sheet = filled.desk.view.sheet
    assert sheet.reckoning.answer == "78 %: 04.03.2026 (RH, largest of 3 rows)."
    assert sheet.is_reckoned and not sheet.claims
    assert "RECKONED" in words_of(filled.desk.view)
    assert [row.citation.text for row in rows(filled)] == ["78 %", "71 %", "54 %"]
    # The first row is the chosen one: the page shows its cell marked.
    assert filled.desk.view.rows[0] is rows(filled)[0]
    assert filled.desk.view.chosen is rows(filled)[0]


def test_a_click_on_a_cell_shows_it_on_its_page(filled, qtbot):
    ask(filled, qtbot, HIGHEST)
    row = rows(filled)[1]
    qtbot.mouseClick(cell(row, "gluing stopped"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: filled.desk.view.chosen is row, timeout=WAIT_MS)
    assert row.citation.text == "gluing stopped"
    qtbot.waitUntil(
        lambda: filled.workspace.shown_document is not None and not filled.workspace.is_busy, timeout=WAIT_MS
    )
    assert filled.workspace.shown_document.title == "Humidity log of the tower"
    # From the keyboard, too: from cell to cell, and from row to row.
    qtbot.keyClick(row, Qt.Key.Key_Left)
    assert row.citation.text == "P. Orr"
    qtbot.keyClick(row, Qt.Key.Key_Down)
    assert filled.desk.view.chosen is rows(filled)[2]


def test_a_plan_is_changed_in_place_and_reckoned_again_and_stays_so(filled, qtbot):
    ask(filled, qtbot, HIGHEST)
    view = filled.desk.view
    qtbot.mouseClick(button(view, "Change ..."), Qt.MouseButton.LeftButton)
    editor = view.reckoned.editor
    [line] = editor.lines
    assert (line.column.currentText(), line.relation.currentText(), line.value.text()) == (
        "Date",
        "is in month number",
        "3",
    )
    line.value.setText("13")
    button(view, "Reckon again").click()
    qtbot.waitUntil(lambda: "no month" in words_of(editor), timeout=WAIT_MS)
    line.value.setText("4")
    qtbot.keyClick(line.value, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: view.sheet.reckoning.value == "79 %", timeout=WAIT_MS)
    settle(filled, qtbot)
    assert "Find the largest RH in Humidity log of the tower, where Date is in April" in words_of(view)
    # Kept with its plan: turned to again, it can still be changed.
    ask(filled, qtbot, "Check the sums of invoice 88")
    filled.desk.turn(-1)
    settle(filled, qtbot)
    assert view.sheet.reckoning.value == "79 %"
    assert view.reckoned.editor is not None


def test_rows_that_were_left_out_are_one_click_away(filled, qtbot):
    ask(filled, qtbot, "Which item on invoice 88 is the most expensive?")
    view = filled.desk.view
    assert view.sheet.reckoning.answer == (
        "Straps: 55,00 EUR (Total EUR, largest of 2 rows). By Unit price EUR it is Straps: 12,50 EUR."
    )
    qtbot.mouseClick(button(view, "Show 1 row left out"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "net sum" in words_of(rows(filled)[-1]), timeout=WAIT_MS)


def test_sums_that_do_not_agree_are_named(filled, qtbot):
    ask(filled, qtbot, "Check the sums of invoice 88")
    view = filled.desk.view
    assert view.sheet.reckoning.answer == "1 figure in 1 table does not agree with the others."
    assert "Straps: 4 × 12,50 is 50,00, printed 55,00." in words_of(view)
    [row] = rows(filled)
    assert row.citation.text == "55,00"
    # Of the document at the right, by its keys.
    filled.desk.ask_of_shown("Check the sums of this document")
    settle(filled, qtbot)
    assert view.sheet.question == "Check the sums of this document"
    assert view.sheet.reckoning.value == "1"


def test_a_doubtful_figure_stands_beside_what_was_found(filled, qtbot):
    ask(filled, qtbot, "What is the highest RH that P. Orr scribbled in the humidity log?")
    sheet, view = filled.desk.view.sheet, filled.desk.view
    assert sheet.reckoning.doubts == ("Nothing in the table was found for “scribbled”.",)
    assert "PERHAPS, RECKONED FROM A TABLE" in words_of(view)
    assert sheet.found_lines
