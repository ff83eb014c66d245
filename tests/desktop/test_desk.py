# SPDX-License-Identifier: GPL-3.0-or-later
"""A person at the desk: index a folder, ask, check a citation, stop, go back, and meet what can go wrong."""

import contextlib
import subprocess
import sys
import threading
import time

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QLabel

from redlantern.application.opening import Models
from redlantern.collection.errors import ClosedCollectionError
from redlantern.desktop.widgets.rows import ClaimRow, EvidenceRow, LineRow
from redlantern.desktop.window import Window
from redlantern.progress import Cancelled
from tests.conftest import SmallEmbedder, SmallLanguageModel
from tests.desktop.conftest import WAIT_MS, ask, close, open_in, settle

ANSWERED = "At what relative humidity in the loft shall work cease?"
ON_PAPER = "What would a new hatch cost?"


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def test_a_folder_is_indexed_and_asked_about(window, qtbot, documents, tmp_path):
    assert "Ask your own files" in words_of(window)
    assert not window.bar.question.isEnabled()
    open_in(window, qtbot, tmp_path / "new.redlantern", creates=True)
    assert "Add the first documents" in words_of(window)
    window.workspace.updates.add(documents)
    assert window.status.bar.isVisible()
    assert window.status.cancel_button.isVisible()
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    assert window.status.activity.text() == "Read: 3 documents, 4 pages"
    assert not window.status.bar.isVisible()
    assert "3 documents are ready" in words_of(window)
    qtbot.keyClicks(window.bar.question, ANSWERED)
    qtbot.keyClick(window.bar.question, Qt.Key.Key_Return)
    settle(window, qtbot)
    kinds = [type(row) for row in window.desk.view.rows]
    # The answer stands above the lines, and the evidence last.
    assert kinds[0] is ClaimRow and kinds[-1] is EvidenceRow
    assert LineRow in kinds
    assert "Work shall cease when the relative humidity in the loft exceeds 70 per cent" in words_of(window.desk.view)


def test_a_chosen_line_shows_its_page_with_the_very_words_marked(filled, qtbot):
    ask(filled, qtbot, ON_PAPER)
    row = next(row for row in filled.desk.view.rows if "2.150,00" in row.citation.text)
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
    facsimile = filled.desk.facsimile
    qtbot.waitUntil(lambda: facsimile.span == (row.citation.start, row.citation.end), timeout=WAIT_MS)
    assert (facsimile.document.path, facsimile.page.page_number) == ("survey.pdf", 2)
    assert facsimile.page.text[slice(*facsimile.span)] == row.citation.text
    assert facsimile.marked_boxes() == list(row.citation.boxes)
    assert facsimile.marked_boxes()
    qtbot.waitUntil(lambda: not facsimile.printed.picture.isNull(), timeout=WAIT_MS)


def test_a_call_mark_of_a_claim_opens_its_page_and_a_set_page_marks_the_words(filled, qtbot):
    ask(filled, qtbot, ANSWERED)
    claim = next(row for row in filled.desk.view.rows if isinstance(row, ClaimRow))
    [button] = [one for one in claim.findChildren(type(filled.bar.ask_button)) if one.objectName() == "mark"]
    assert button.text() == "CON p.1"
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    facsimile = filled.desk.facsimile
    qtbot.waitUntil(lambda: facsimile.span == (claim.citation.start, claim.citation.end), timeout=WAIT_MS)
    assert facsimile.set_page.marked_text() == claim.citation.text


def test_arrow_keys_walk_through_the_rows_and_the_facsimile_follows(filled, qtbot):
    ask(filled, qtbot, ANSWERED)
    view, facsimile = filled.desk.view, filled.desk.facsimile
    qtbot.keyClick(filled.bar.question, Qt.Key.Key_Down)
    for expected in range(1, len(view.rows)):
        assert view.chosen is view.rows[expected]
        citation = view.chosen.citation
        qtbot.waitUntil(lambda citation=citation: facsimile.span == (citation.start, citation.end), timeout=WAIT_MS)
        qtbot.keyClick(view.rows[expected], Qt.Key.Key_Down)
    qtbot.keyClick(view.rows[-1], Qt.Key.Key_Up)
    assert view.chosen is view.rows[-2]


def test_words_stream_in_while_the_answer_is_written(filled, qtbot, language_model):
    language_model.waits_after = 6
    ask(filled, qtbot, ANSWERED, waits=False)
    qtbot.waitUntil(lambda: "Work shall cease when the relative" in words_of(filled.desk.view), timeout=WAIT_MS)
    assert filled.bar.ask_button.text() == "Stop"
    assert filled.workspace.is_asking
    qtbot.keyClick(filled, Qt.Key.Key_Escape)
    assert not filled.workspace.is_asking
    assert filled.bar.ask_button.text() == "Ask"
    stopped = "The writing was stopped. The found lines are complete."
    qtbot.waitUntil(lambda: stopped in words_of(filled.desk.view), timeout=WAIT_MS)
    assert isinstance(filled.desk.view.rows[0], LineRow)
    settle(filled, qtbot)
    language_model.waits_after = None
    ask(filled, qtbot, ANSWERED)
    assert any(isinstance(row, ClaimRow) for row in filled.desk.view.rows)


def test_a_model_that_crashes_leaves_the_lines_and_says_so(filled, qtbot, language_model):
    language_model.fails_after = 2
    ask(filled, qtbot, ANSWERED)
    assert isinstance(filled.desk.view.rows[0], LineRow)
    assert "stopped unexpectedly and will be started again" in words_of(filled.desk.view)


def test_a_refusal_says_what_is_missing_and_offers_the_nearest(filled, qtbot):
    ask(filled, qtbot, "Which planets have rings?")
    said = words_of(filled.desk.view)
    assert "The documents in scope do not answer this. “planets” and “rings” do not appear in any of them." in said
    assert "NEAREST PASSAGES" in said
    assert all(isinstance(row, EvidenceRow) for row in filled.desk.view.rows)


def test_earlier_questions_are_sheets_to_go_back_to_and_are_kept(filled, qtbot, tmp_path):
    ask(filled, qtbot, ANSWERED)
    ask(filled, qtbot, ON_PAPER)
    assert filled.desk.view.place_button.text() == "Sheet 2 of 2"
    qtbot.keyClick(filled, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    settle(filled, qtbot)
    assert filled.desk.view.sheet.question == ANSWERED
    open_in(filled, qtbot, tmp_path / "shown.redlantern")
    assert filled.desk.view.sheet.question == ON_PAPER
    assert len(filled.desk.sheets) == 2
    settle(filled, qtbot)
    assert filled.desk.facsimile.page is not None


def test_a_follow_up_shows_what_was_searched_and_can_be_edited(filled, qtbot):
    ask(filled, qtbot, ANSWERED)
    ask(filled, qtbot, "And for how many hours?")
    assert "searched as: And for how many hours (relative humidity loft work cease)?" in words_of(filled.desk.view)
    [edit] = [one for one in filled.desk.view.findChildren(type(filled.bar.ask_button)) if one.text() == "edit"]
    qtbot.mouseClick(edit, Qt.MouseButton.LeftButton)
    assert filled.bar.question.text() == "And for how many hours (relative humidity loft work cease)?"
    filled.ask()
    settle(filled, qtbot)
    assert filled.desk.view.sheet.standalone_question == filled.bar.question.text()


def test_the_shelf_decides_the_scope(filled, qtbot):
    shelf = filled.desk.shelf
    assert filled.workspace.scope is None
    index = shelf.model.index(1)
    shelf.list.setCurrentIndex(index)
    qtbot.keyClick(shelf.list, Qt.Key.Key_Space)
    assert len(filled.workspace.scope) == 2
    assert filled.bar.scope_button.text() == "2 of 3"
    qtbot.mouseClick(shelf.none_button, Qt.MouseButton.LeftButton)
    ask(filled, qtbot, ANSWERED)
    qtbot.waitUntil(lambda: "Tick at least one on the shelf" in words_of(filled.desk.view), timeout=WAIT_MS)
    qtbot.mouseClick(shelf.all_button, Qt.MouseButton.LeftButton)
    assert filled.workspace.scope is None


def test_a_tick_of_the_ribbon_opens_its_page(filled, qtbot):
    from redlantern.desktop.widgets.ribbons import ribbon_of

    ask(filled, qtbot, ON_PAPER)
    shelf = filled.desk.shelf.list
    row = next(row for row in range(3) if "survey" in filled.workspace.documents_in_scope._documents[row].path)
    area = ribbon_of(shelf.visualRect(filled.workspace.documents_in_scope.index(row)))
    qtbot.mouseClick(
        shelf.viewport(), Qt.MouseButton.LeftButton, pos=area.topLeft() + area.center() * 0 + type(area.center())(11, 8)
    )
    facsimile = filled.desk.facsimile
    qtbot.waitUntil(
        lambda: facsimile.page is not None and facsimile.page.page_number == 2 and facsimile.span is None,
        timeout=WAIT_MS,
    )


def test_cancelling_an_indexing_keeps_what_was_finished(window, qtbot, folder, tmp_path):
    for number in range(40):
        (folder / f"note{number:02d}.txt").write_text(f"Note {number}. " + "Some words of prose stand here. " * 60)
    open_in(window, qtbot, tmp_path / "new.redlantern", creates=True)
    window.workspace.updates.add(folder)
    qtbot.waitUntil(lambda: len(window.workspace.documents_in_scope.readable) >= 3, timeout=WAIT_MS)
    qtbot.mouseClick(window.status.cancel_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    assert window.status.activity.text() == "Stopped. Every document finished before is kept."
    n_kept = len(window.workspace.documents_in_scope.readable)
    assert 3 <= n_kept < 42
    window.plan_update()
    pane = window.shelf_room.update_pane
    qtbot.waitUntil(lambda: pane.isVisible() and pane.plan is not None, timeout=WAIT_MS)
    pane.agree_button.click()
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    assert len(window.workspace.documents_in_scope.readable) == 42


def test_a_broken_file_stands_on_the_shelf_with_its_reason(window, qtbot, documents, tmp_path):
    (documents / "broken.pdf").write_bytes(b"%PDF-1.7\nnothing")
    open_in(window, qtbot, tmp_path / "new.redlantern", creates=True)
    window.workspace.updates.add(documents)
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    assert window.status.activity.text() == "Read: 3 documents, 4 pages, 1 refused (see the shelf)"
    [refused] = [one for one in window.workspace.documents_in_scope._documents if one.is_refused]
    assert refused.reason.startswith("The PDF is damaged or cut short.")
    assert "3 documents, 1 refused" in window.desk.shelf._count.text()


@pytest.mark.parametrize("case", ["missing", "bare"])
def test_a_folder_that_gives_nothing_is_told(filled, qtbot, tmp_path, case):
    place = tmp_path / case
    if case == "bare":
        place.mkdir()
    filled.workspace.updates.add(place)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating and not filled.workspace.is_busy, timeout=WAIT_MS)
    said = words_of(filled.desk.view)
    assert ("There is no file or folder" if case == "missing" else "holds no files") in said
    assert len(filled.workspace.documents_in_scope.readable) == 3


def test_a_file_that_is_no_collection_is_told(window, qtbot, tmp_path):
    (tmp_path / "letter.redlantern").write_text("Dear Sir, this is only a letter.")
    window.door.open_collection(tmp_path / "letter.redlantern")
    qtbot.waitUntil(lambda: not window.door.is_opening, timeout=WAIT_MS)
    assert "is not a collection of Red Lantern" in words_of(window)
    assert not window.bar.question.isEnabled()


def test_an_empty_question_is_told_and_changes_nothing(filled, qtbot):
    ask(filled, qtbot, "   ")
    assert filled.status.activity.text() == "The question is empty. Type what you want to know."
    assert filled.desk.sheets == []


def test_a_file_changed_since_shows_the_text_as_read_and_says_why(filled, qtbot, documents):
    (documents / "survey.pdf").write_bytes((documents / "survey.pdf").read_bytes() + b"\n")
    ask(filled, qtbot, ON_PAPER)
    facsimile = filled.desk.facsimile
    row = next(row for row in filled.desk.view.rows if "2.150,00" in row.citation.text)
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "The file was changed since it was read" in words_of(facsimile), timeout=WAIT_MS)
    assert facsimile.set_page.marked_text() == row.citation.text


def test_markup_in_documents_is_shown_as_text(window, qtbot, tmp_path):
    place = tmp_path / "docs"
    place.mkdir()
    (place / "trap.txt").write_text("The <b>blower</b> &amp; <img src=x> stands in the basement passage of the hall.")
    open_in(window, qtbot, tmp_path / "trap.redlantern", creates=True)
    window.workspace.updates.add(place)
    qtbot.waitUntil(lambda: not window.workspace.is_updating and not window.workspace.is_busy, timeout=WAIT_MS)
    ask(window, qtbot, "Where does the blower stand in the basement passage?")
    # The row becomes visible with the next layout.
    qtbot.waitUntil(lambda: "The <b>blower</b> &amp; <img src=x> stands" in words_of(window.desk.view), timeout=WAIT_MS)
    assert "<b>blower</b>" in window.desk.facsimile.set_page.toPlainText()


# Beats as the window does, beside it, and says how late it was.
BYSTANDER = """
import select, sys, time
late, last = [], time.perf_counter()
while not select.select([sys.stdin], [], [], 0.005)[0]:
    now = time.perf_counter()
    late.append(max(0.0, now - last - 0.005))
    last = now
print(sorted(late)[int(len(late) * 0.995)])
"""


@pytest.mark.real_models
def test_the_interface_thread_is_never_held_up(dressed, qtbot, documents, folder, tmp_path):
    """A timer in the real window, with the real models, beats while a folder is indexed and a question answered."""
    filled = Window()
    filled.show()
    open_in(filled, qtbot, tmp_path / "beats.redlantern", creates=True)

    for number in range(10):
        (folder / f"note{number:02d}.txt").write_text(f"Note {number}. " + "Some words of prose stand here. " * 80)
    gaps, last = [], [time.perf_counter()]

    def beat():
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    timer = QTimer()
    timer.setTimerType(Qt.TimerType.PreciseTimer)
    timer.timeout.connect(beat)
    timer.start(5)
    bystander = subprocess.Popen(
        [sys.executable, "-c", BYSTANDER], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    last[0] = time.perf_counter()
    filled.workspace.updates.add(folder)
    qtbot.waitUntil(lambda: len(filled.workspace.documents_in_scope.readable) > 6, timeout=WAIT_MS)
    ask(filled, qtbot, ANSWERED, waits=False)
    qtbot.waitUntil(lambda: not filled.workspace.is_asking and not filled.workspace.is_updating, timeout=9 * WAIT_MS)
    qtbot.waitUntil(lambda: not filled.workspace.is_busy, timeout=9 * WAIT_MS)
    timer.stop()
    close(filled, qtbot)
    held_up_by_the_machine = float(bystander.communicate("", timeout=30)[0])
    gaps.sort()
    # One beat in two hundred is let off: a slow step of ours would come with every document and every word written, and
    # so more often. What the machine takes from a process that does nothing else is not ours.
    assert len(gaps) > 400
    assert gaps[int(len(gaps) * 0.995)] < 0.05 + held_up_by_the_machine


class Loading(SmallLanguageModel):
    """A model whose loading takes for ever, unless it is stopped."""

    def __init__(self):
        super().__init__()
        self.began, self.was_stopped = threading.Event(), False

    def start(self, cancel):
        self.began.set()
        with contextlib.suppress(Cancelled):
            while True:
                cancel.check()
        self.was_stopped = True
        raise Cancelled


def test_closing_answers_while_a_model_is_loaded_and_stops_that(dressed, qtbot, documents, tmp_path):
    model = Loading()
    window = Window(Models(SmallEmbedder, lambda path=None: model))
    window.show()
    window.door.open_collection(tmp_path / "slow.redlantern", creates=True)
    qtbot.waitUntil(model.began.is_set, timeout=WAIT_MS)
    window.close()
    # It is still there, and says what it is doing; then it goes.
    assert window.isVisible() and window.status.activity.text() == "Closing ..."
    qtbot.waitUntil(lambda: window.is_closed, timeout=WAIT_MS)
    assert model.was_stopped and model.is_closed
    window.deleteLater()


def test_another_collection_is_opened_once_the_first_is_closed(filled, qtbot, tmp_path):
    first = filled.workspace.session.engine.collection
    open_in(filled, qtbot, tmp_path / "second.redlantern", creates=True)
    assert filled.workspace.session.engine.collection.name == "second"
    with pytest.raises(ClosedCollectionError):
        first.documents()
