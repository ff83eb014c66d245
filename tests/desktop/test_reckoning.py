# SPDX-License-Identifier: GPL-3.0-or-later
"""A person who asks for figures: the working, a cell on its page, a plan changed in place, sums checked, and a sheet kept."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QPushButton

from redlantern.desktop.desk.reckoned_part import CellLabel, ReckonedPart, WorkingRowView
from redlantern.desktop.shelf.table_put_right import TablePutRight
from redlantern.models.protocols import Written
from redlantern.progress import Cancel, silent
from tests.desktop.conftest import WAIT_MS, ask, open_in, settle
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


@pytest.mark.parametrize(("is_borne_out", "name"), [(True, "quiet"), (False, "problem")])
def test_a_printed_sum_that_its_rows_do_not_bear_out_is_shown_as_a_problem_in_any_words(
    filled, qtbot, is_borne_out, name
):
    ask(filled, qtbot, HIGHEST)
    said = "Das stimmt nicht mit den Zeilen überein"
    reckoning = replace(filled.desk.view.sheet.reckoning, check=said, is_borne_out=is_borne_out)
    part = ReckonedPart(reckoning, lambda row: None)
    qtbot.addWidget(part)
    [label] = [label for label in part.findChildren(QLabel) if label.text() == said]
    assert label.objectName() == name


def test_a_doubtful_figure_stands_beside_what_was_found(filled, qtbot):
    ask(filled, qtbot, "What is the highest RH that P. Orr scribbled in the humidity log?")
    sheet, view = filled.desk.view.sheet, filled.desk.view
    assert sheet.reckoning.doubts == ("Nothing in the table was found for “scribbled”.",)
    assert "PERHAPS, RECKONED FROM A TABLE" in words_of(view)
    assert sheet.found_lines


def put_right(window, qtbot, monkeypatch, act):
    """Open the dialog of the bill's table in the reading report, do something in it, and leave it as `act` says."""
    window.go_to(1)
    room = window.shelf_room
    document = next(one for one in room.model.documents if one.path == "invoice 88.md")
    room.table.choose(document.document_id)
    settle(window, qtbot)
    monkeypatch.setattr(TablePutRight, "exec", lambda dialog: act(dialog) or TablePutRight.DialogCode.Accepted)
    [wanted] = [found for found in room.report.findChildren(QPushButton) if found.text().startswith("Put right")]
    wanted.click()
    settle(window, qtbot)
    return room


def test_a_row_put_aside_and_a_column_put_right_count_from_the_next_question_on(filled, qtbot, monkeypatch):
    ask(filled, qtbot, "How many items does invoice 88 have?")
    assert filled.desk.view.sheet.reckoning.answer == "2 rows."

    def act(dialog):
        dialog.rows.item(4, 0).setCheckState(Qt.CheckState.Unchecked)
        dialog.kinds[2].setCurrentText("quantity")
        dialog.units[2].setText("m")

    room = put_right(filled, qtbot, monkeypatch, act)
    read_as = words_of(room.report)
    assert "Straps (put aside by hand)" in read_as and "Quantity: quantity in m" in read_as
    assert "Put right by hand." in read_as
    filled.go_to(0)
    ask(filled, qtbot, "How many items does invoice 88 have?")
    sheet = filled.desk.view.sheet
    assert sheet.reckoning.answer == "1 row."
    assert "put aside by hand" in [row.reason for row in sheet.reckoning.left_out]


def _click_as_read(dialog):
    next(found for found in dialog.findChildren(QPushButton) if found.text() == "As it was read").click()


def test_as_it_was_read_takes_everything_back(filled, qtbot, monkeypatch):
    put_right(filled, qtbot, monkeypatch, lambda dialog: dialog.headers.setValue(0))
    assert filled.workspace.session.engine.collection.facts.tables()
    room = put_right(filled, qtbot, monkeypatch, _click_as_read)
    assert filled.workspace.session.engine.collection.facts.tables() == {}
    assert "Put right by hand." not in words_of(room.report)


def test_other_rows_that_name_the_columns_leave_the_boxes_as_they_were(filled, qtbot, monkeypatch):
    seen = []

    def act(dialog):
        dialog.rows.item(4, 0).setCheckState(Qt.CheckState.Unchecked)
        dialog.headers.setValue(2)
        seen.append([dialog.rows.item(row, 0).text() for row in (2, 3)])
        seen.append(dialog.rows.item(4, 0).checkState())
        seen.append(dialog.change.n_headers)

    put_right(filled, qtbot, monkeypatch, act)
    assert seen == [["names", "names"], Qt.CheckState.Unchecked, 2]


def test_a_query_of_the_language_model_shows_its_figure_while_the_answer_is_written(filled, qtbot, language_model):
    language_model.can_read = language_model.can_judge = True
    language_model.first_words = lambda *_: {"Yes": 0.9, "No": 0.1}
    query = 'SELECT "Read by" FROM t1 GROUP BY "Read by" ORDER BY COUNT(*) DESC LIMIT 1;'
    pieces = [query, "P. Orr read the log."]
    language_model.write = lambda *_, **__: iter([Written(pieces.pop(0) if pieces else ""), Written("", 1, 0, 1)])
    ask(filled, qtbot, "Who is the busiest that read the humidity log of the tower?")
    sheet = filled.desk.view.sheet
    assert sheet.reckoning.answer == "P. Orr: 3 rows." and not sheet.is_reckoned
    assert "PERHAPS" in words_of(filled.desk.view).upper()


OFFERS = {
    "Adler": "| oak | 12,00 |\n| slates | 40,00 |", "Brandt": "| slates | 38,00 |", "Corvin": "| oak | 11,00 |\n| glue | 3,00 |",
}  # fmt: skip


@pytest.fixture
def offers(window, qtbot, folder, make_engine, tmp_path):
    for name, lines in OFFERS.items():
        text = f"# Offer {name}\n\n| Item | Price EUR |\n|---|---|\n{lines}\n"
        (folder / f"offer {name}.md").write_text(text, encoding="utf-8")
    engine = make_engine("shown.redlantern")
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    engine.collection.close()
    open_in(window, qtbot, tmp_path / "shown.redlantern")
    return window


def test_offers_that_include_something_are_listed_and_the_plan_over_all_of_them_is_changed(offers, qtbot):
    window = offers
    ask(window, qtbot, "Which offers include oak?")
    view = window.desk.view
    assert view.sheet.reckoning.answer == "2 documents: Offer Adler and Offer Corvin."
    assert view.sheet.is_reckoned and len(rows(window)) == 2
    qtbot.mouseClick(button(view, "Change ..."), Qt.MouseButton.LeftButton)
    editor = view.reckoned.editor
    [line] = editor.lines
    line.value.setText("slates")
    button(view, "Reckon again").click()
    qtbot.waitUntil(lambda: "Offer Brandt" in view.sheet.reckoning.answer, timeout=WAIT_MS)
    assert view.sheet.reckoning.answer == "2 documents: Offer Adler and Offer Brandt."
    settle(window, qtbot)
    editor = view.reckoned.editor
    editor.operation.setCurrentText("add up")
    editor.column.setCurrentText("Price EUR")
    qtbot.mouseClick(button(view, "Change ..."), Qt.MouseButton.LeftButton)
    button(view, "Reckon again").click()
    qtbot.waitUntil(lambda: view.sheet.reckoning.value == "78,00 EUR", timeout=WAIT_MS)


def test_a_plan_of_one_offer_is_reckoned_over_all_in_scope(offers, qtbot):
    window = offers
    ask(window, qtbot, "What do the prices of the offer of Adler add up to?")
    view = window.desk.view
    assert view.sheet.reckoning.value == "52,00 EUR"
    qtbot.mouseClick(button(view, "Change ..."), Qt.MouseButton.LeftButton)
    view.reckoned.editor.tables.setCurrentIndex(1)
    button(view, "Reckon again").click()
    qtbot.waitUntil(lambda: view.sheet.reckoning.value == "104,00 EUR", timeout=WAIT_MS)
    settle(window, qtbot)
    # What is not ticked on the shelf is out of scope.
    corvin = next(document for document in window.workspace.documents if document.title == "Offer Corvin")
    window.workspace.documents_in_scope.set_in_scope([corvin], False)
    qtbot.mouseClick(button(view, "Change ..."), Qt.MouseButton.LeftButton)
    view.reckoned.editor.tables.setCurrentIndex(1)
    button(view, "Reckon again").click()
    qtbot.waitUntil(lambda: view.sheet.reckoning.value == "90,00 EUR", timeout=WAIT_MS)
