# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies beside a collection, made to be tried: asked like it, erased, moved and locked with it, and whole or not there."""

import contextlib
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from redlantern.application import trials, tried
from redlantern.application.tried import CopyWish
from redlantern.application.ways import ways
from redlantern.collection import upkeep
from redlantern.collection.opening import exchange_copies, files_of, tried_copies
from redlantern.collection.store import Collection
from redlantern.collection.upkeep.documents import erase_documents, remnants
from redlantern.indexing.tried import TriedCopyGoneError, open_tried
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.safety.keys import Holding
from redlantern.trials.lane_engines import LaneEngines
from redlantern.trials.values import NO_READER, Arrangement, QuestionSet, RightPage, TrialQuestion
from tests.conftest import SmallEmbedder

WET = TrialQuestion("wet", "At what relative humidity shall work cease?", right=(RightPage("contract.md", 1),))
WISH = CopyWish("english", 60)


class Other(SmallEmbedder):
    """Another stand-in, of other dimensions."""

    name, identity, dimensions = "other", "other 2", 32


@pytest.fixture
def tried_engine(engine):
    """The engine, with two embedding models to be had by their words."""
    engine.make_embedder = lambda word: Other() if word == "english" else SmallEmbedder()
    return engine


def make(engine, wish=WISH, **words):
    return tried.make_copy(engine, wish, report=words.pop("report", silent), cancel=words.pop("cancel", Cancel()))


def test_a_copy_is_made_with_another_model_and_shorter_passages_and_asked_beside_the_collection(tried_engine):
    engine = tried_engine
    made = make(engine)
    assert (made.name, made.word) == ("the English model, passages of 60 tokens", "tried-1")
    assert tried.present_wish(engine).passage_tokens == 200 and tried.seconds_to_make(engine, WISH) < 60
    with LaneEngines(engine) as engines:
        beside = engines.of("tried-1")
        assert (
            beside.embedder.name == "other" and beside.current_index().n_passages >= engine.current_index().n_passages
        )
        assert {each.key for each in beside.collection.documents()} == {
            each.key for each in engine.collection.documents()
        }
        # Only what questions need: no sheet, no journal, nothing that was tried.
        assert beside.collection.journal.entries() == [] and beside.collection.trials.sets() == {}
    arrangements = [Arrangement("own", NO_READER), Arrangement("beside", NO_READER, copy="tried-1")]
    questions = trials.keep_set(engine, QuestionSet("Set", (WET,)))
    state = trials.go_on_with(engine, trials.begin(engine, questions, arrangements), report=silent, cancel=Cancel())
    assert [cell.marked.is_cited for cell in state.answers.values()] == [True, True]
    sheets = [trials.sheet_of(engine, state.run.run_id, lane, "wet") for lane in "12"]
    assert [sheet.models["embedding"] for sheet in sheets] == ["small stand-in", "other"]
    assert sheets[1].found_lines[0].citation.document_id == sheets[0].found_lines[0].citation.document_id
    assert [way.arrangement.copy for way in ways(engine)][-2:] == ["tried-1", "tried-1"]
    assert [(kept.copy.word, kept.is_current) for kept in tried.copies(engine)] == [("tried-1", True)]


def test_a_copy_that_was_let_go_is_said_and_its_place_is_free(tried_engine):
    engine = tried_engine
    make(engine)
    second = make(engine, CopyWish("both", 120))
    assert second.word == "tried-2"
    tried.let_go(engine, "tried-1")
    assert [kept.copy.word for kept in tried.copies(engine)] == ["tried-2"]
    questions = trials.keep_set(engine, QuestionSet("Set", (WET,)))
    run_id = trials.begin(engine, questions, [Arrangement("beside", NO_READER, copy="tried-1")])
    [cell] = trials.go_on_with(engine, run_id, report=silent, cancel=Cancel()).answers.values()
    assert "it was let go" in cell.marked.problem
    assert make(engine).word == "tried-1"
    with pytest.raises(TriedCopyGoneError):
        open_tried(engine.collection, "tried-7")


@pytest.mark.parametrize(
    "word", ["../contract.md", "tried-1/../../x", "", ".", "version-1", "tried-1-wal", "\x00", "tried-９x"]
)
def test_a_word_that_names_anything_else_opens_and_removes_nothing(tried_engine, folder, word):
    make(tried_engine)
    before = {path: path.stat().st_size for path in tried_engine.collection.path.parent.rglob("*") if path.is_file()}
    with pytest.raises(TriedCopyGoneError):
        open_tried(tried_engine.collection, word)
    tried.let_go(tried_engine, word)
    assert {path for path in before if not path.exists()} == set()
    questions = trials.keep_set(tried_engine, QuestionSet("Set", (WET,)))
    run_id = trials.begin(tried_engine, questions, [Arrangement("odd", NO_READER, copy=word or "x")])
    [cell] = trials.go_on_with(tried_engine, run_id, report=silent, cancel=Cancel()).answers.values()
    assert cell.said.support == "failed"


def test_copies_go_with_what_is_erased_and_with_another_key_and_move_along(tried_engine, tmp_path):
    engine, collection = tried_engine, tried_engine.collection
    make(engine)
    (tmp_path / "place").mkdir()
    upkeep.move(collection, tmp_path / "place" / "other.redlantern")
    assert [kept.copy.word for kept in tried.copies(engine)] == ["tried-1"]
    assert set(tried_copies(collection.path)) <= set(files_of(collection.path))
    contract = next(each for each in collection.documents() if each.path == "contract.md")
    assert "There are copies that were made to be tried." in remnants(collection, {contract.key})
    erase_documents(collection, [contract])
    assert tried_copies(collection.path) == [] and remnants(collection, {contract.key}) == []
    make(engine)
    upkeep.change_key(collection, Holding.PASSPHRASE, "six words that nobody guesses here")
    assert tried_copies(collection.path) == []


def test_what_is_broken_off_leaves_no_copy_and_what_changed_meanwhile_is_said(tried_engine, folder):
    engine = tried_engine
    cancel = Cancel()
    with pytest.raises(Cancelled):
        make(engine, cancel=cancel, report=lambda progress: cancel.now())
    assert tried.copies(engine) == [] and exchange_copies(engine.collection.path) == []
    make(engine)
    (folder / "contract.md").write_text("# Contract\n\nNothing.\n", encoding="utf-8")
    engine.update([folder], report=silent, cancel=Cancel())
    assert [kept.is_current for kept in tried.copies(engine)] == [False]


_KILLED = """
import sys
from pathlib import Path
from redlantern.safety import seal
seal.put_on()
from redlantern.answering.engine import Engine
from redlantern.application import tried
from redlantern.collection.store import Collection
from redlantern.progress import Cancel
from tests.conftest import SmallEmbedder
engine = Engine(Collection.open(Path(sys.argv[1])), SmallEmbedder(), None)
engine.make_embedder = lambda word: SmallEmbedder()
print("begins", flush=True)
wish = tried.CopyWish("english", 40)
tried.make_copy(engine, wish, report=lambda progress: print(progress.done, flush=True), cancel=Cancel())
print("whole", flush=True)
"""


def test_killed_while_one_is_made_the_collection_is_whole_and_the_next_opening_clears_away(
    tried_engine, folder, is_long
):
    """Real processes are killed; slow, for each of them starts anew."""
    for number in range(20):
        (folder / f"note-{number}.txt").write_text(
            f"Note {number}\n\nIt was {40 + number} per cent wet.\n", encoding="utf-8"
        )
    tried_engine.update([folder], report=silent, cancel=Cancel())
    path = tried_engine.collection.path
    n_documents = len(tried_engine.collection.documents())
    tried_engine.close()
    chance = random.Random(9)
    for _ in range(40 if is_long else 3):
        with subprocess.Popen(
            [sys.executable, "-c", _KILLED, str(path)], stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2]
        ) as process:
            assert process.stdout is not None
            assert process.stdout.readline() == "begins\n"
            for _ in range(chance.randrange(0, 20)):
                process.stdout.readline()
            time.sleep(chance.random() * 0.01)
            process.send_signal(signal.SIGKILL)
        collection = Collection.open(path)
        collection.claim_writing()
        upkeep.tidy(collection)
        assert exchange_copies(path) == []
        assert len(collection.documents()) == n_documents
        for copy in tried_copies(path):
            # Whole, where it came to its name.
            with contextlib.closing(open_tried(collection, copy.name.rpartition(".")[2])) as beside:
                assert len(beside.documents()) == n_documents
            copy.unlink()
        collection.close()
