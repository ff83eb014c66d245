# SPDX-License-Identifier: GPL-3.0-or-later
"""The brief room, driven as a person would: gather from four rooms, order, write between, save in each form, verify."""

import io

import docx
import pypdfium2
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMessageBox

from redlantern.application import briefs, trials
from redlantern.brief.verifying import verify
from redlantern.progress import Cancel, silent
from redlantern.trials.values import NO_READER, Arrangement, QuestionSet, RightPage, TrialQuestion
from tests.conftest import ReadingModel
from tests.desktop.conftest import WAIT_MS, ask

WET = "At what relative humidity shall work cease?"


@pytest.fixture
def language_model():
    model = ReadingModel()
    model.writes = ["Work shall cease above 70 per cent. [1]"]
    return model


def settled(window, qtbot):
    qtbot.waitUntil(lambda: not window.workspace.is_busy, timeout=WAIT_MS)


def gather(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    settled(window, qtbot)


def kept(window):
    return briefs.briefs(window.workspace.session.engine)


@pytest.fixture
def gathered(filled, qtbot):
    """The room with a claim and a line from the desk in it."""
    ask(filled, qtbot, WET)
    filled.desk.view.choose(0)
    gather(filled, qtbot)
    filled.desk.view.choose(1)
    gather(filled, qtbot)
    filled.go_to(5)
    settled(filled, qtbot)
    return filled.brief_room


def test_nothing_chosen_is_told_and_the_empty_room_says_what_it_is_for(filled, qtbot):
    filled.go_to(1)
    gather(filled, qtbot)
    assert filled.status.activity.text() == "Choose a row first: what is chosen is gathered into the brief."
    filled.go_to(5)
    settled(filled, qtbot)
    room = filled.brief_room
    assert room.notice.text().startswith("Nothing is gathered yet.") and not room.save_button.isEnabled()


def test_own_words_go_into_the_brief_from_any_room(filled, gathered, qtbot, monkeypatch):
    filled.go_to(1)
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_, **__: ("  Ask the surveyor.  ", True))
    keys = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(filled, Qt.Key.Key_G, keys)
    settled(filled, qtbot)
    assert kept(filled)[0].entries[-1].kind == "own" and kept(filled)[0].entries[-1].text == "Ask the surveyor."
    assert filled.status.activity.text().startswith("Gathered into “")


def test_rows_of_four_rooms_are_gathered_by_one_key(filled, gathered, qtbot):
    assert [entry.kind for entry in kept(filled)[0].entries] == ["claim", "line"]
    assert kept(filled)[0].entries[0].support == "supported"
    filled.go_to(2)
    settled(filled, qtbot)
    room = filled.read_through_room
    room.begin("every page that speaks of the hatch", "", "lines")
    qtbot.waitUntil(
        lambda: room.view.through is not None and not room.view.is_running and room.view.hits.current is not None,
        timeout=WAIT_MS,
    )
    settled(filled, qtbot)
    gather(filled, qtbot)
    filled.go_to(3)
    settled(filled, qtbot)
    side = filled.side_by_side_room
    side.question.setText(WET)
    side.begin()
    qtbot.waitUntil(lambda: side._task is None and len(side.sheets) == 2, timeout=WAIT_MS)
    settled(filled, qtbot)
    side.columns.columns[0].rows[0].setFocus()
    gather(filled, qtbot)
    engine = filled.workspace.session.engine
    questions = trials.keep_set(
        engine, QuestionSet("Set", (TrialQuestion("1", WET, right=(RightPage("contract.md", 1),)),))
    )
    run_id = trials.begin(engine, questions, [Arrangement("lines", NO_READER)])
    trials.go_on_with(engine, run_id, report=silent, cancel=Cancel())
    filled.go_to(4)
    settled(filled, qtbot)
    filled.trials_room.open_run(run_id)
    settled(filled, qtbot)
    pages = filled.trials_room.runs
    pages.figures.question_opened.emit("1")
    qtbot.waitUntil(lambda: pages.currentWidget() is pages.question, timeout=WAIT_MS)
    settled(filled, qtbot)
    pages.question.columns.columns[0].rows[0].setFocus()
    gather(filled, qtbot)
    assert [entry.kind for entry in kept(filled)[0].entries] == ["claim", "line", "hit", "line", "line"]
    assert "which has 5 entries now" in filled.status.activity.text()


def test_entries_are_ordered_written_between_taken_out_and_brought_back(filled, gathered, qtbot, monkeypatch):
    room = gathered
    assert [room.list.item(at).data(Qt.ItemDataRole.AccessibleTextRole).split(":")[0] for at in range(2)] == [
        "written",
        "a document's words",
    ]
    qtbot.waitUntil(lambda: room.facsimile.document is not None, timeout=WAIT_MS)
    assert room.facsimile.document.path == "contract.md"
    room.list.setCurrentRow(0)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Humidity", True))
    room._actions["Heading ..."].click()
    settled(filled, qtbot)
    assert [entry.kind for entry in kept(filled)[0].entries] == ["claim", "heading", "line"]
    qtbot.keyClick(room.list, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    settled(filled, qtbot)
    assert [entry.kind for entry in kept(filled)[0].entries] == ["heading", "claim", "line"]
    assert room.list.entry.kind == "heading"
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_: ("A thought.\nAnother.", True))
    room._actions["Own words ..."].click()
    settled(filled, qtbot)
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_: ("A better thought.", True))
    qtbot.keyClick(room.list, Qt.Key.Key_F2)
    settled(filled, qtbot)
    assert [entry.text for entry in kept(filled)[0].entries][1] == "A better thought."
    room.list.setCurrentRow(3)
    qtbot.keyClick(room.list, Qt.Key.Key_F2)
    assert room.notice.text().startswith("Words of documents, and what was checked against them, stay as they are.")
    qtbot.keyClick(room.list, Qt.Key.Key_Delete)
    settled(filled, qtbot)
    assert len(kept(filled)[0].entries) == 3
    room._actions["Undo"].click()
    settled(filled, qtbot)
    assert [entry.kind for entry in kept(filled)[0].entries] == ["heading", "own", "claim", "line"]
    room.list.ordered.emit([entry.entry_id for entry in reversed(kept(filled)[0].entries)])
    settled(filled, qtbot)
    assert [entry.kind for entry in kept(filled)[0].entries] == ["line", "claim", "own", "heading"]


@pytest.mark.parametrize("ending", ["docx", "odt", "pdf", "html", "md"])
def test_it_is_saved_and_a_colleague_can_verify_it(
    filled, gathered, qtbot, tmp_path, monkeypatch, readers, documents, ending
):
    target = tmp_path / f"brief.{ending}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), f"Form (*.{ending})"))
    gathered.with_pages.setChecked(True)
    gathered.save_button.click()
    qtbot.waitUntil(target.exists, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert gathered.notice.text() == (
        f"Saved as {target}. brief.{ending}.citations.json lets a colleague check every citation."
    )
    form = briefs.read_citations(target)
    assert [each.verdict for each in verify(form, documents, readers, report=silent, cancel=Cancel())] == ["stands"]
    words = " ".join(form.citations[0].words.split())[:40]
    if ending == "docx":
        assert any(words in each.text for each in docx.Document(io.BytesIO(target.read_bytes())).paragraphs)
    elif ending == "pdf":
        said = " ".join(
            " ".join(page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(target)).split()
        )
        assert words[:20] in said


def test_briefs_are_begun_renamed_and_deleted(filled, gathered, qtbot, monkeypatch):
    room = gathered
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Second", True))
    room._actions["New brief ..."].click()
    settled(filled, qtbot)
    assert [brief.name for brief in kept(filled)][1] == "Second" and room.choice.currentText() == "Second"
    assert room.list.count() == 0
    room.choice.setCurrentIndex(0)
    settled(filled, qtbot)
    assert room.list.count() == 2
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("First", True))
    room._actions["Rename ..."].click()
    settled(filled, qtbot)
    assert [brief.name for brief in kept(filled)] == ["First", "Second"]
    monkeypatch.setattr(QMessageBox, "exec", lambda box: None)
    monkeypatch.setattr(
        QMessageBox, "clickedButton", lambda box: next(each for each in box.buttons() if each.text() == "Delete it")
    )
    room._actions["Delete ..."].click()
    settled(filled, qtbot)
    assert [brief.name for brief in kept(filled)] == ["Second"]


def test_what_changed_since_is_said_and_its_words_are_found_anew(filled, gathered, qtbot, documents):
    contract = documents / "contract.md"
    contract.write_text("# Before\n\nNew words.\n\n" + contract.read_text(encoding="utf-8"), encoding="utf-8")
    filled.workspace.updates.add(documents)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating, timeout=WAIT_MS)
    filled.go_to(5)
    settled(filled, qtbot)
    assert (
        gathered.notice.text() == "1 of 1 quotes are of documents that changed or are gone since; 1 stand there still."
    )
    assert gathered.renew_button.isVisibleTo(gathered)
    gathered.renew_button.click()
    settled(filled, qtbot)
    assert gathered.notice.text().startswith("Alt") and not gathered.renew_button.isVisibleTo(gathered)
