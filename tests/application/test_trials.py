# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs of questions with known answers: resumed, killed, broken off by a question; marked, mended, erased; grids."""

import contextlib
import io
import json
import os
import random
import signal
import subprocess
import sys
import threading
import time
from dataclasses import replace
from pathlib import Path

import openpyxl
import pytest

from redlantern.answering.question.understanding import Question
from redlantern.application import grids, marks, trials
from redlantern.application.questions import ask
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.upkeep import mending
from redlantern.collection.upkeep.documents import erase_documents, remnants
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.trials.question_files import QuestionFileError
from redlantern.trials.running import RunGoneError
from redlantern.trials.values import MEMORY, NO_READER, Arrangement, QuestionSet, RightPage, TrialQuestion
from tests.conftest import ReadingModel

WET = TrialQuestion(
    "wet",
    "At what relative humidity shall work cease?",
    expected=("70 per cent",),
    right=(RightPage("contract.md", 1),),
)
ABSENT = TrialQuestion("paint", "Which wallpaper hangs in Berlin?", is_absent=True)
LINES = Arrangement("found lines", NO_READER)
WORDS = Arrangement("words count more", NO_READER, {"word_weight": 2.5})


def kept(engine, *questions, name="First set"):
    return trials.keep_set(engine, QuestionSet(name, questions or (WET, ABSENT)))


def run(engine, run_id, **words):
    return trials.go_on_with(engine, run_id, report=silent, cancel=words.pop("cancel", Cancel()), **words)


def test_a_set_is_kept_changed_and_forgotten(engine):
    first = kept(engine)
    contract = next(each for each in engine.collection.documents() if each.path == "contract.md")
    assert first.questions[0].right == (RightPage("contract.md", 1, contract.key),)
    assert trials.sets(engine) == [first]
    renamed = trials.keep_set(engine, replace(first, name="Other"))
    assert renamed.set_id == first.set_id and [each.name for each in trials.sets(engine)] == ["Other"]
    trials.delete_set(engine, first.set_id)
    assert trials.sets(engine) == []


def test_a_run_marks_every_answer_and_says_what_it_was_made_with(engine):
    run_id = trials.begin(engine, kept(engine), [LINES, Arrangement("own model")])
    given = []
    state = run(engine, run_id, on_cell=given.append)
    assert state.is_done and len(given) == len(state.answers) == 4
    # Without a language model first, whatever the order of the ways.
    assert [cell.lane_id for cell in given] == ["1", "1", "2", "2"]
    wet, absent = state.answers["1", "wet"].marked, state.answers["1", "paint"].marked
    assert wet.is_cited and wet.is_said and wet.ranks.recall_at_1 == 1.0 and not wet.is_refused
    assert absent.is_refused and absent.ranks is None
    assert "70 per cent" in state.answers["1", "wet"].shown
    made = state.run.made
    assert made.language == {"found lines": NO_READER, "own model": "small stand-in"}
    assert made.n_documents == 2 and made.documents and made.ended_at and made.embedding == "small stand-in 1"
    sheet = trials.sheet_of(engine, run_id, "1", "wet")
    assert "70 per cent" in sheet.found_lines[0].citation.text and sheet.found_lines[0].citation.document_id
    # A run is no flood in the journal, nor among the sheets.
    assert [entry.words for entry in engine.collection.journal.entries() if entry.what == "asked"] == [
        "Trial of 2 questions: First set"
    ]
    assert engine.collection.kept_sheets.all() == []


def test_a_stopped_run_goes_on_and_one_that_was_deleted_says_so(engine):
    run_id = trials.begin(engine, kept(engine), [LINES, WORDS])
    cancel = Cancel()
    with pytest.raises(Cancelled):
        run(engine, run_id, cancel=cancel, on_cell=lambda _: cancel.now())
    before = trials.load(engine, run_id).answers
    assert len(before) == 1
    state = run(engine, run_id)
    assert state.is_done and before.items() <= state.answers.items()
    trials.delete_run(engine, run_id)
    assert trials.runs(engine) == [] and engine.collection.trials.cells(run_id) == []
    with pytest.raises(RunGoneError):
        run(engine, run_id)


def test_nothing_to_ask_and_no_way_are_said(engine):
    with pytest.raises(trials.EmptySetError, match="The set “None yet” has no question yet"):
        trials.begin(engine, QuestionSet("None yet", ()), [LINES])
    with pytest.raises(trials.NothingToCompareError):
        trials.begin(engine, kept(engine), [])
    with pytest.raises(Exception, match="must lie between"):
        trials.begin(engine, kept(engine), [Arrangement("odd", settings={"word_weight": 900})])


def test_what_fails_keeps_its_place_with_the_reason(engine, folder):
    contract = next(each for each in engine.collection.documents() if each.path == "contract.md")
    run_id = grids.begin_grid(engine, kept(engine, WET), LINES, engine.collection.documents())
    engine.collection.claim_writing()
    (folder / "contract.md").unlink()
    engine.update([folder], report=silent, cancel=Cancel())
    state = run(engine, run_id)
    gone = state.answers[contract.key, "wet"]
    assert gone.said.support == "failed" and "is no longer in the collection" in gone.marked.problem
    rows = grids.grid_rows(engine, state)
    assert "is no longer in the collection" in rows[0].cells[0].words


def test_a_question_that_somebody_waits_for_goes_first(make_engine, folder):
    model = ReadingModel()
    model.says_yes = {"humidity": 0.99}
    engine = make_engine(language_model=model)
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    run_id = trials.begin(engine, kept(engine, WET), [Arrangement("own model")])
    model.waits_after = 2  # in the midst of writing, until it is broken off
    worker = threading.Thread(target=lambda: run(engine, run_id))
    worker.start()
    while not model.prompts:
        time.sleep(0.005)
    asked = Question("When shall work cease?", lines_only=True)
    *_, done = engine.ask(asked, Cancel())
    assert done.sheet.found_lines
    model.waits_after = None
    worker.join(20)
    assert not worker.is_alive()
    # It was written twice: broken off the first time.
    assert len(model.prompts) == 2
    assert trials.load(engine, run_id).is_done and trials.load(engine, run_id).answers["1", "wet"].marked.is_written


def test_what_is_erased_while_it_is_being_answered_is_not_kept(make_engine, folder):
    model = ReadingModel()
    engine = make_engine(language_model=model)
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    run_id = trials.begin(engine, kept(engine, WET), [Arrangement("own model")])
    model.waits_after = 1
    worker = threading.Thread(target=lambda: run(engine, run_id))
    worker.start()
    while not model.prompts:
        time.sleep(0.005)
    contract = next(each for each in engine.collection.documents() if each.path == "contract.md")
    erase_documents(engine.collection, [contract])
    model.waits_after = None
    engine.has_changed()
    worker.join(20)
    assert not worker.is_alive() and trials.load(engine, run_id).is_done
    engine.collection.file.settle()
    assert remnants(engine.collection, {contract.key}) == []


def test_a_sheet_that_is_being_answered_loses_the_words_of_what_is_erased(make_engine, folder):
    model = ReadingModel()
    engine = make_engine(language_model=model)
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    model.waits_after = 1
    asked = Question("At what relative humidity in the loft shall work cease?")

    def answer():
        # Its document may be gone before it is cited again: then that is said, and the sheet is kept all the same.
        with contextlib.suppress(DocumentChangedError):
            ask(engine, asked, cancel=Cancel(), on_step=lambda step: None)

    worker = threading.Thread(target=answer)
    worker.start()
    while not model.prompts:
        time.sleep(0.005)
    contract = next(each for each in engine.collection.documents() if each.path == "contract.md")
    erase_documents(engine.collection, [contract])
    model.waits_after = None
    worker.join(20)
    assert not worker.is_alive() and len(engine.collection.kept_sheets.all()) == 1
    engine.collection.file.settle()
    assert remnants(engine.collection, {contract.key}) == []


def test_without_documents_nothing_is_cited(engine):
    run_id = trials.begin(engine, kept(engine, WET), [Arrangement("memory", MEMORY)])
    state = run(engine, run_id)
    [cell] = state.answers.values()
    assert cell.marked.n_claims == 1 and cell.marked.n_supported == 0 and not cell.marked.is_cited
    sheet = trials.sheet_of(engine, run_id, "1", "wet")
    assert sheet.claims[0].is_outside and sheet.claims[0].citations == ()


def test_what_is_expected_can_be_mended_and_is_marked_anew_without_asking(engine):
    wrong = replace(WET, expected=("90 per cent",))
    run_id = trials.begin(engine, kept(engine, wrong), [LINES])
    assert run(engine, run_id).answers["1", "wet"].marked.is_said is False
    state = trials.mend_question(engine, run_id, WET)
    assert state.answers["1", "wet"].marked.is_said is True
    assert trials.sets(engine)[0].questions[0].expected == ("70 per cent",)


def test_a_later_run_is_held_against_the_mark(engine, folder):
    questions = kept(engine)
    first = run(engine, trials.begin(engine, questions, [LINES]))
    marks.set_mark(engine, first.run.run_id, is_mark=True)
    (folder / "contract.md").write_text("# Contract\n\nNothing is said of dampness here.\n", encoding="utf-8")
    engine.update([folder], report=silent, cancel=Cancel())
    later = run(engine, trials.begin(engine, questions, [LINES]))
    assert later.run.made.documents != first.run.made.documents
    [lost] = marks.lost_against_mark(engine, later)
    assert {each.question.question_id for each in lost.differences} == {"wet"}
    assert marks.lost_against_mark(engine, first) == []
    marks.set_mark(engine, later.run.run_id, is_mark=True)
    assert [state.run.is_mark for state in trials.runs(engine)] == [True, False]


def test_a_right_sheet_becomes_a_question(engine):
    *_, done = engine.ask(Question(WET.question, lines_only=True), Cancel())
    made = trials.question_from(done.sheet, [])
    assert made.right[0].path == "contract.md" and made.right[0].page_number == 1 and not made.is_absent
    *_, refused = engine.ask(Question(ABSENT.question, lines_only=True), Cancel())
    assert trials.question_from(refused.sheet, [made]).is_absent
    assert trials.question_from(refused.sheet, [made]).question_id == "q2"


def test_proposed_questions_are_marked_for_ever(make_engine, folder):
    model = ReadingModel()
    model.writes = ["When must the work on the leather cease? And so on"]
    engine = make_engine(language_model=model)
    engine.collection.claim_writing()
    (folder / "long.txt").write_text("The leather is worked at rest. " * 12, encoding="utf-8")
    engine.update([folder], report=silent, cancel=Cancel())
    given = []
    n = trials.propose_questions(engine, 5, report=silent, cancel=Cancel(), on_question=given.append)
    assert n == len(given) >= 1
    assert given[0].question == "When must the work on the leather cease?"
    assert all(each.is_proposed and each.right[0].key for each in given)
    model.writes = ["No question comes of this."]
    assert trials.propose_questions(engine, 5, report=silent, cancel=Cancel(), on_question=given.append) == 0


def test_a_grid_asks_each_document_alone_is_corrected_and_exported(engine):
    documents = engine.collection.documents()
    run_id = grids.begin_grid(engine, kept(engine), LINES, documents)
    state = run(engine, run_id)
    contract, letter = (
        next(each for each in documents if each.path == path) for path in ("contract.md", "letters/key.txt")
    )
    assert "70 per cent" in state.answers[contract.key, "wet"].shown
    assert state.answers[letter.key, "wet"].said.mark in ("", f"{letter.call_mark} p.1")
    grids.correct(engine, run_id, letter.key, "wet", "  not said  ")
    rows = grids.grid_rows(engine, trials.load(engine, run_id))
    corrected = next(row for row in rows if row.document == letter).cells[0]
    assert (corrected.words, corrected.is_corrected) == ("not said", True)
    book = openpyxl.load_workbook(io.BytesIO(grids.grid_as_file("First: set", rows, "xlsx")))
    sheet = book.active
    at = next(row for row in sheet.iter_rows() if row[0].value == contract.title)
    assert "70 per cent" in at[1].value and at[2].value == f"{contract.call_mark} p.1, found line"
    assert at[2].hyperlink.target == f"{Path(contract.full_path).as_uri()}#page=1"
    form = json.loads(grids.grid_as_file("First set", rows, "json"))
    assert [row["sha256"] for row in form["rows"]] == [each.sha256 for each in documents]
    page = grids.grid_as_file("<b>", rows, "html").decode()
    assert "<b>" not in page and "corrected by hand" in page and "#page=1" in page
    assert grids.grid_as_file("x", rows, "csv").decode("utf-8-sig").count("stands on") == 2
    grids.correct(engine, run_id, letter.key, "wet", "")
    assert trials.load(engine, run_id).answers[letter.key, "wet"].words == ""


def test_nothing_of_an_erased_document_is_left_in_trials(engine):
    documents = engine.collection.documents()
    contract = next(each for each in documents if each.path == "contract.md")
    questions = kept(engine)
    run(engine, trials.begin(engine, questions, [LINES]))
    grid_id = grids.begin_grid(engine, questions, LINES, documents)
    run(engine, grid_id)
    assert "A trial has words of it." in remnants(engine.collection, {contract.key})
    erase_documents(engine.collection, [contract])
    assert remnants(engine.collection, {contract.key}) == []
    [kept_set] = trials.sets(engine)
    assert (kept_set.questions[0].right, kept_set.questions[0].expected) == ((), ())
    for state in trials.runs(engine):
        assert "70 per cent" not in json.dumps([cell.shown for cell in state.answers.values()])
    assert contract.key not in [lane.document_key for lane in trials.load(engine, grid_id).run.lanes]


def test_mending_keeps_sets_and_runs(engine):
    run_id = trials.begin(engine, kept(engine), [LINES])
    before = run(engine, run_id)
    mending.mend(engine.collection)
    assert trials.load(engine, run_id) == before
    assert len(trials.sets(engine)) == 1


_KILLED = """
import sys
from pathlib import Path
from redlantern.safety import seal
seal.put_on()
from redlantern.answering.engine import Engine
from redlantern.application import trials
from redlantern.collection.store import Collection
from redlantern.progress import Cancel
from tests.conftest import SmallEmbedder
collection = Collection.open(Path(sys.argv[1]))
engine = Engine(collection, SmallEmbedder(), None)
print("begins", flush=True)
trials.go_on_with(engine, int(sys.argv[2]), report=lambda progress: print(progress.done, flush=True), cancel=Cancel())
print("whole", flush=True)
"""


def test_killed_at_random_moments_a_grid_goes_on_with_nothing_asked_twice_or_lost(engine, folder, is_long):
    """Real processes are killed while they ask; slow, for each of them starts anew."""
    for number in range(12):
        (folder / f"note-{number}.txt").write_text(
            f"Note {number}\n\nThe humidity was {40 + number} per cent.\n", encoding="utf-8"
        )
    engine.update([folder], report=silent, cancel=Cancel())
    run_id = grids.begin_grid(engine, kept(engine), LINES, engine.collection.documents())
    chance, answered_at = random.Random(3), {}
    for _ in range(60 if is_long else 3):
        command = [sys.executable, "-c", _KILLED, str(engine.collection.path), str(run_id)]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2]) as process:
            assert process.stdout is not None
            assert process.stdout.readline() == "begins\n"
            for _ in range(chance.randrange(0, 8)):
                process.stdout.readline()
            time.sleep(chance.random() * 0.02)
            process.send_signal(signal.SIGKILL)
        now = {at: cell.answered_at for at, cell in trials.load(engine, run_id).answers.items()}
        assert answered_at.items() <= now.items()
        answered_at = now
    state = run(engine, run_id)
    assert state.is_done
    assert answered_at.items() <= {at: cell.answered_at for at, cell in state.answers.items()}.items()


def test_a_first_set_is_taken_once_and_an_unfinished_run_of_it_gone_on_with(engine, tmp_path):
    path = tmp_path / "asked.jsonl"
    path.write_text(json.dumps({"id": "wet", "question": WET.question}) + "\n", encoding="utf-8")
    run_id = trials.begin_first(engine, path, [LINES], Cancel())
    assert trials.begin_first(engine, path, [LINES], Cancel()) == run_id
    assert run(engine, run_id).is_done
    assert trials.begin_first(engine, path, [LINES], Cancel()) is None
    assert len(trials.sets(engine)) == len(trials.runs(engine)) == 1


def test_what_is_no_file_of_questions_is_not_read(engine, tmp_path):
    pipe, large = tmp_path / "pipe.jsonl", tmp_path / "large.csv"
    os.mkfifo(pipe)
    with large.open("wb") as file:
        file.truncate(10**11)
    for path in (pipe, large, tmp_path, tmp_path / "gone.txt"):
        with pytest.raises(QuestionFileError, match="it is no file of at most 20 MB"):
            trials.questions_from(engine, path, Cancel())
