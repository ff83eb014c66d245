# SPDX-License-Identifier: GPL-3.0-or-later
"""The trials room, driven as a person would: write a set, ask it in two ways, compare, mend, hold against, and a grid."""

import json

import openpyxl
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QTableView,
)

from redlantern.application import trials as core
from redlantern.desktop.trials import question_view
from redlantern.desktop.trials.ask_dialog import AskDialog, GridDialog
from redlantern.desktop.trials.copies import CopyDialog
from redlantern.desktop.trials.expect_dialog import ExpectDialog
from redlantern.desktop.trials.run_view import ALL, NOT_RIGHT, conclusions
from redlantern.desktop.widgets.given_dialog import GivenDialog
from redlantern.desktop.widgets.way_settings import Chosen
from redlantern.trials.values import NO_READER, Arrangement, QuestionSet, RightPage, TrialQuestion
from tests.conftest import ReadingModel, SmallEmbedder
from tests.desktop.conftest import WAIT_MS, open_in

WET = "At what relative humidity shall work cease?"
LINES = Arrangement("Found lines", NO_READER)
MEANING = Arrangement("By meaning", NO_READER, {"word_weight": 0.0})


@pytest.fixture
def language_model():
    model = ReadingModel()
    model.writes = ["Work shall cease above 70 per cent. [1]"]
    return model


def settled(window, qtbot):
    qtbot.waitUntil(lambda: not window.workspace.is_busy, timeout=WAIT_MS)


def engine_of(window):
    return window.workspace.session.engine


@pytest.fixture
def trials(filled, qtbot):
    filled.go_to(4)
    settled(filled, qtbot)
    return filled.trials_room


@pytest.fixture
def kept(filled, trials, qtbot):
    """A set of three questions; the last one expects what is not so."""
    questions = (
        TrialQuestion("wet", WET, expected=("70 per cent",), right=(RightPage("contract.md", 1),)),
        TrialQuestion("slate", "When was the roof covered in slate?", expected=("1854",), right=(RightPage("survey.pdf", 1),)),
        TrialQuestion("paper", "Which wallpaper hangs in Berlin?", is_absent=True),
    )  # fmt: skip
    made = core.keep_set(engine_of(filled), QuestionSet("First set", questions))
    trials.show_home()
    settled(filled, qtbot)
    return made


def accept(monkeypatch, kind, change=lambda dialog: None):
    """Let a dialog be accepted at once, after `change` was made in it."""

    def run(dialog):
        change(dialog)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(kind, "exec", run)


def texts(tree):
    return [
        [tree.topLevelItem(row).text(column) for column in range(tree.columnCount())]
        for row in range(tree.topLevelItemCount())
    ]


def begun(trials, window, qtbot, arrangements, questions):
    run_id = core.begin(engine_of(window), questions, arrangements)
    trials._begin(run_id)
    qtbot.waitUntil(
        lambda: (
            trials.runs.figures.state is not None
            and trials.runs.figures.state.is_done
            and not trials.runs.runner.run_id
        ),
        timeout=WAIT_MS,
    )
    settled(window, qtbot)
    return run_id


def test_without_a_collection_nothing_can_be_begun(window, qtbot):
    window.go_to(4)
    assert not window.trials_room.home.new_button.isEnabled() and not window.trials_room.home.file_button.isEnabled()


def test_a_set_is_written_by_hand_and_kept(filled, trials, qtbot):
    qtbot.mouseClick(trials.home.new_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    editor = trials.set_page.editor
    assert not editor.run_button.isEnabled() and not editor.question.isEnabled()
    editor.name.setFocus()
    editor.name.selectAll()
    qtbot.keyClicks(editor.name, "Dampness")
    qtbot.keyClick(editor.name, Qt.Key.Key_Return)
    qtbot.mouseClick(editor.add_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(editor.question, WET)
    qtbot.keyClick(editor.question, Qt.Key.Key_Return)
    assert editor.notice.text() == "1 question of 1 expect nothing yet: asked, but not marked."
    qtbot.keyClicks(editor.expected, "70 per cent; 70 %")
    qtbot.keyClick(editor.expected, Qt.Key.Key_Return)
    qtbot.mouseClick(editor.find_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    page, box = next((page, box) for page, box in editor._found if page.path == "contract.md")
    box.click()
    settled(filled, qtbot)
    [made] = core.sets(engine_of(filled))
    assert made.name == "Dampness"
    [question] = made.questions
    assert (question.question, question.expected) == (WET, ("70 per cent", "70 %"))
    assert question.right == (page,) and editor.pages.text() == "contract.md:1"
    # What is no page is said, and changes nothing.
    editor.pages.setText("somewhere")
    editor.pages.editingFinished.emit()
    assert editor.notice.text().startswith("A page is given as its path")
    editor.absent.click()
    settled(filled, qtbot)
    assert core.sets(engine_of(filled))[0].questions[0].is_absent is False
    editor.pages.setText("")
    editor.pages.editingFinished.emit()
    settled(filled, qtbot)
    assert core.sets(engine_of(filled))[0].questions[0].is_absent and not editor.expected.isEnabled()
    qtbot.mouseClick(editor.remove_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert core.sets(engine_of(filled))[0].questions == ()


def test_a_sheet_that_is_right_becomes_a_question_by_one_key(filled, qtbot):
    filled.between_rooms.trial_question()
    assert "Ask something first" in filled.status.activity.text()
    filled.bar.question.setText(WET)
    filled.ask()
    qtbot.waitUntil(lambda: filled.desk.view.sheet is not None and not filled.workspace.is_asking, timeout=WAIT_MS)
    settled(filled, qtbot)
    qtbot.keyClick(filled, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    settled(filled, qtbot)
    [made] = core.sets(engine_of(filled))
    assert (made.name, made.questions[0].question) == ("From sheets", WET)
    assert filled.trials_room.set_page.editor.question.text() == WET
    assert made.questions[0].right[0].path == "contract.md"


def test_questions_come_from_a_file_and_a_bad_one_is_said(filled, trials, qtbot, tmp_path, monkeypatch):
    good, bad = tmp_path / "asked.jsonl", tmp_path / "bad.jsonl"
    good.write_text(json.dumps({"id": "a", "question": WET}) + "\n", encoding="utf-8")
    bad.write_text("{", encoding="utf-8")
    chosen = [str(bad), str(good)]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (chosen.pop(0), ""))
    qtbot.mouseClick(trials.home.file_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert "line 1 is not JSON" in trials.home.notice.text()
    qtbot.mouseClick(trials.home.file_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: trials.set_page.editor.set.name == "asked", timeout=WAIT_MS)
    book = openpyxl.Workbook()
    book.active.append(["Question", "Expected"])
    book.active.append(["Who has the key?", "the warden"])
    book.save(tmp_path / "more.xlsx")
    trials.set_page.take_file(tmp_path / "more.xlsx")
    qtbot.waitUntil(lambda: len(trials.set_page.editor.set.questions) == 2, timeout=WAIT_MS)
    assert trials.set_page.editor.set.questions[1].expected == ("the warden",)


def test_a_set_is_saved_and_taken_over_again(filled, trials, kept, qtbot, tmp_path, monkeypatch):
    trials.open_set(kept)
    target = tmp_path / "saved.jsonl"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    trials.set_page.editor.saving_wanted.emit()
    qtbot.waitUntil(lambda: trials.set_page.editor.notice.text() == f"Saved as {target}", timeout=WAIT_MS)
    settled(filled, qtbot)
    trials.take_file(target)
    qtbot.waitUntil(lambda: trials.set_page.editor.set.name == "saved", timeout=WAIT_MS)
    assert trials.set_page.editor.set.questions == kept.questions
    settled(filled, qtbot)


def test_questions_are_pasted(filled, trials, qtbot, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_: (f"{WET}\n\nWho pays?\n", True))
    trials.home.paste_button.click()
    qtbot.waitUntil(lambda: len(trials.set_page.editor.set.questions) == 2, timeout=WAIT_MS)
    assert trials.set_page.editor.set.name == "Pasted questions"
    settled(filled, qtbot)


def test_the_ways_are_chosen_with_what_they_take_and_the_run_is_compared(filled, trials, kept, qtbot, monkeypatch):
    said = []

    def choose(dialog):
        said.append([box.text() for box in dialog.boxes])
        dialog.boxes[1].setChecked(False)
        dialog.boxes[0].setChecked(False)
        said.append((dialog.said.text(), dialog.begin_button.isEnabled()))
        dialog.boxes[0].setChecked(True)
        dialog.boxes[1].setChecked(True)
        dialog.other.setChecked(True)
        said.append(dialog.said.text())
        dialog.choice.set_differing(Chosen({"word_weight": 0.0}))
        said.append(dialog.said.text())

    accept(monkeypatch, AskDialog, choose)
    trials.begin_run(kept.set_id)
    figures = trials.runs.figures
    qtbot.waitUntil(lambda: figures.state is not None and figures.state.is_done, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert said[0][0] == "Found lines" and said[0][1] == "As it is" and said[0][-1] == "Without documents"
    assert said[1] == ("Tick at least one way. With two they can be compared.", False)
    assert said[2] == "The last way is the same as another one: change one of its settings."
    assert said[3].startswith("Takes about")
    names = [lane.arrangement.name for lane in figures.state.run.lanes]
    assert names[:2] == ["Found lines", "As it is"] and names[2].startswith("Found lines (what the question's words")
    assert "of 3" not in figures.bar.state.text() and figures.bar.state.text().endswith("done")
    said = figures.plot.accessibleDescription()
    assert "right page cited" in said and said.count(";") == 2
    figures.filter.setCurrentText(ALL)
    rows = texts(figures.list)
    assert rows[0][0] == WET and rows[0][1].startswith("✓ says it, right page cited")
    assert rows[2][1].startswith("✓ rightly refused")
    figures.filter.setCurrentText(NOT_RIGHT)
    assert "When was the roof covered in slate?" in [row[0] for row in texts(figures.list)]


def test_what_to_conclude_is_said_without_statistics(filled, trials, kept, qtbot):
    begun(trials, filled, qtbot, [LINES, MEANING], kept)
    figures = trials.runs.figures
    said = conclusions(figures.state, figures.questions)
    assert said[0][1].startswith("Nothing here speaks clearly for “Found lines” or for “By meaning”")
    assert {heading for heading, _ in said[1:]} >= {"right page cited", "refused where the documents are silent"}
    alone = begun(trials, filled, qtbot, [LINES], kept)
    assert conclusions(core.load(engine_of(filled), alone), kept.questions)[0][1].startswith("There is one way only")


def test_a_lost_question_is_opened_its_expectation_mended_and_all_marked_anew(filled, trials, kept, qtbot, monkeypatch):
    run_id = begun(trials, filled, qtbot, [LINES, Arrangement("As it is")], kept)
    figures, view = trials.runs.figures, trials.runs.question
    figures.filter.setCurrentText(NOT_RIGHT)
    figures.list.itemActivated.emit(figures.list.topLevelItem(0), 0)
    qtbot.waitUntil(lambda: trials.runs.currentWidget() is view, timeout=WAIT_MS)
    assert view.expected.text() == "Expected: “1854”; right page: survey.pdf p.1"
    assert [column.accessibleName() for column in view.columns.columns] == [
        "Answered by: Found lines",
        "Answered by: As it is",
    ]
    accept(monkeypatch, ExpectDialog, lambda dialog: dialog.expected.setText("1954"))
    view.expect_wanted.emit(view.question)
    qtbot.waitUntil(lambda: "1954" in view.expected.text(), timeout=WAIT_MS)
    settled(filled, qtbot)
    assert core.load(engine_of(filled), run_id).answers["1", "slate"].marked.is_said
    assert core.sets(engine_of(filled))[0].questions[1].expected == ("1954",)
    # The rows open their pages on the desk; steps go on to the other questions.
    view.step_wanted.emit(-1)
    qtbot.waitUntil(lambda: view.question.question_id == "wet", timeout=WAIT_MS)
    settled(filled, qtbot)
    shown = []
    monkeypatch.setattr(
        question_view, "GivenDialog", lambda sheet, parent: type("D", (), {"exec": lambda self: shown.append(sheet)})()
    )
    view.columns.given_wanted.emit(core.sheet_of(engine_of(filled), run_id, "2", "wet"))
    assert shown[0].given[0].purpose == "judge"
    row = view.columns.columns[0].rows[0]
    row.setFocus()
    qtbot.keyClick(row, Qt.Key.Key_Return)
    assert filled.rooms.currentWidget() is filled.desk
    qtbot.waitUntil(lambda: filled.desk.facsimile.document is not None, timeout=WAIT_MS)
    assert filled.desk.facsimile.document.path == "contract.md"


def test_a_later_run_says_what_it_lost_against_the_mark(filled, trials, kept, qtbot, documents):
    begun(trials, filled, qtbot, [LINES], kept)
    trials.runs.figures.mark_button.click()
    settled(filled, qtbot)
    assert trials.runs.figures.mark_button.text() == "No longer the mark"
    (documents / "contract.md").write_text("# Contract\n\nNothing of the kind.\n", encoding="utf-8")
    filled.workspace.updates.add(documents)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert "Trials can ask it again" in filled.status.activity.text()
    trials.show_home()
    settled(filled, qtbot)
    [warning] = trials.home.findChildren(object, "notice")
    assert "that is the mark the documents changed: ask it again" in warning.accessibleName()
    trials.home.again_wanted.emit(trials.runs.figures.state.run.run_id)
    qtbot.waitUntil(lambda: len(core.runs(engine_of(filled))) == 2 and not trials.runs.runner.run_id, timeout=WAIT_MS)
    settled(filled, qtbot)
    notices = [widget.accessibleName() for widget in trials.runs.figures.findChildren(object, "notice")]
    assert any("that is the mark, “Found lines” lost on 1 question." in words for words in notices)


def test_a_run_is_stopped_gone_on_with_and_deleted(filled, trials, kept, qtbot, monkeypatch):
    language_model = engine_of(filled).language_model
    language_model.waits_after = 1
    run_id = core.begin(engine_of(filled), kept, [Arrangement("As it is")])
    trials._begin(run_id)
    bar = trials.runs.figures.bar
    qtbot.waitUntil(lambda: bar.is_running and bool(language_model.prompts), timeout=WAIT_MS)
    assert bar.stop_button.isVisibleTo(trials) and not bar.go_on_button.isVisibleTo(trials)
    bar.stop_button.click()
    qtbot.waitUntil(lambda: not bar.is_running, timeout=WAIT_MS)
    settled(filled, qtbot)
    language_model.waits_after = None
    trials.show_home()
    settled(filled, qtbot)
    assert "0 of 3 answers" in trials.home._runs.itemAt(0).widget().findChildren(object, "quiet")[0].text()
    trials.open_run(run_id)
    settled(filled, qtbot)
    bar.go_on_button.click()
    qtbot.waitUntil(lambda: core.load(engine_of(filled), run_id).is_done and not bar.is_running, timeout=WAIT_MS)
    settled(filled, qtbot)
    monkeypatch.setattr(QMessageBox, "exec", lambda box: None)
    monkeypatch.setattr(
        QMessageBox, "clickedButton", lambda box: next(each for each in box.buttons() if each.text() == "Delete it")
    )
    trials.home.run_deleted.emit(run_id)
    settled(filled, qtbot)
    assert core.runs(engine_of(filled)) == []
    trials.home.set_deleted.emit(kept.set_id)
    settled(filled, qtbot)
    assert core.sets(engine_of(filled)) == []


def test_a_grid_is_made_opened_corrected_and_saved(filled, trials, kept, qtbot, tmp_path, monkeypatch):
    accept(monkeypatch, GridDialog, lambda dialog: dialog.combo.setCurrentIndex(0))
    trials.begin_grid(kept.set_id)
    grid = trials.runs.grid
    qtbot.waitUntil(lambda: grid.state is not None and grid.state.is_done and not grid.bar.is_running, timeout=WAIT_MS)
    settled(filled, qtbot)
    titles = [grid.table.verticalHeaderItem(row).text() for row in range(grid.table.rowCount())]
    assert len(titles) == 3 and grid.table.columnCount() == 3
    row = next(row for row in range(3) if "70 per cent" in grid.table.item(row, 0).text())
    assert grid.table.item(row, 0).text().endswith("CON p.1, found line")
    grid.table.setCurrentCell(row, 0)
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_: ("above 70 %", True))
    qtbot.keyClick(grid.table, Qt.Key.Key_F2)
    qtbot.waitUntil(lambda: grid.table.item(row, 0).text() == "above 70 %\nCON p.1, corrected by hand", timeout=WAIT_MS)
    settled(filled, qtbot)
    target = tmp_path / "grid.xlsx"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), "Workbook with links (*.xlsx)"))
    grid.save_button.click()
    settled(filled, qtbot)
    assert grid.said.text() == f"Saved as {target}"
    assert openpyxl.load_workbook(target).active.cell(row + 2, 2).value == "above 70 %"
    qtbot.keyClick(grid.table, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: trials.runs.currentWidget() is trials.runs.question, timeout=WAIT_MS)
    assert len(trials.runs.question.columns.columns) == 1
    trials.runs.question.back_wanted.emit()
    assert trials.runs.currentWidget() is grid


def test_the_model_thinks_of_questions_that_are_marked_as_its_own(filled, trials, kept, qtbot, monkeypatch):
    engine_of(filled).language_model.writes = ["How many slates have slipped on the south slope?"]
    trials.open_set(kept)
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_: (3, True))
    trials.set_page.editor.propose_wanted.emit()
    settled(filled, qtbot)
    notice = trials.set_page.editor.notice.text()
    n = len(trials.set_page.editor.set.questions) - 3
    assert notice == (f"{n} question{'s' * (n != 1)} came. Read each: mend it, or remove it.")
    settled(filled, qtbot)


def test_another_index_is_made_chosen_as_a_way_and_let_go(filled, trials, kept, qtbot, monkeypatch):
    engine_of(filled).make_embedder = lambda word=None: SmallEmbedder()
    said = []

    def choose(dialog):
        said.append((dialog.said.text(), dialog.make_button.isEnabled()))
        dialog.tokens.setValue(64)
        said.append(dialog.make_button.isEnabled())

    accept(monkeypatch, CopyDialog, choose)
    trials.home.copy_button.click()
    qtbot.waitUntil(lambda: "Made: it can be chosen" in trials.home.copying.text(), timeout=WAIT_MS)
    settled(filled, qtbot)
    assert (
        said[0][1] is False and said[0][0].startswith("That is how the collection itself is made") and said[1] is True
    )
    offered = []
    accept(monkeypatch, AskDialog, lambda dialog: offered.extend(box.text() for box in dialog.boxes))
    trials.begin_run(kept.set_id)
    qtbot.waitUntil(lambda: trials.runs.figures.state is not None and not trials.runs.runner.run_id, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert any(name.startswith("Found lines by ") and name.endswith("passages of 64 tokens") for name in offered)
    trials.show_home()
    settled(filled, qtbot)
    row = trials.home._copies.itemAt(0).widget()
    next(button for button in row.findChildren(QAbstractButton) if button.text() == "Let it go").click()
    settled(filled, qtbot)
    assert "None. Another embedding model" in trials.home._copies.itemAt(0).widget().text()


def test_the_rooms_pages_have_names_for_every_control(filled, trials, kept, qtbot):
    begun(trials, filled, qtbot, [LINES, MEANING], kept)
    for widget in trials.findChildren((QAbstractButton, QComboBox, QLineEdit)):
        if isinstance(widget.parent(), QTableView):
            continue  # the corner that Qt draws itself
        assert widget.accessibleName() or getattr(widget, "text", str)() or widget.toolTip(), widget


def test_what_the_model_was_given_can_be_copied(filled, trials, kept, qtbot):
    run_id = begun(trials, filled, qtbot, [Arrangement("As it is")], kept)
    dialog = GivenDialog(core.sheet_of(engine_of(filled), run_id, "1", "wet"), filled)
    assert "TO SEE WHETHER THE PASSAGES ANSWER" in dialog.text.toPlainText() and "Yes 95%" in dialog.text.toPlainText()
    dialog._copy()
    assert QApplication.clipboard().text() == dialog.text.toPlainText()


def test_another_collection_finds_the_room_empty(filled, trials, kept, qtbot, tmp_path):
    trials.open_set(kept)
    open_in(filled, qtbot, tmp_path / "other.redlantern", creates=True)
    filled.go_to(4)
    settled(filled, qtbot)
    now = filled.trials_room
    assert now.set_page.editor.set.questions == () and now._stack.currentWidget() is now.home
