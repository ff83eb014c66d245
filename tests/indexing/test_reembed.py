# SPDX-License-Identifier: GPL-3.0-or-later
"""Another embedding model for a whole collection: the old index until the new one is whole, and nothing lost on the way."""

import threading

import pytest

from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.application import read_through, trials
from redlantern.application.models import seconds_to_embed
from redlantern.collection import upkeep
from redlantern.collection.check import find_faults
from redlantern.collection.opening import exchange_copies, files_of
from redlantern.models.chosen import EMBEDDING_MODEL
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.readthrough.values import PageWish
from redlantern.trials.values import NO_READER, Arrangement, QuestionSet, TrialQuestion
from tests.conftest import SmallEmbedder, change_embedder

ASKED = "At what relative humidity in the loft shall work cease?"


class Other(SmallEmbedder):
    """Another stand-in, of other dimensions, whose passages are shorter."""

    name, identity, dimensions, most_tokens = "other", "other 2", 32, 40


def ask(engine):
    *_, done = engine.ask(Question(ASKED), Cancel())
    engine.collection.kept_sheets.keep("2026-11-01T10:00:00+00:00", ASKED, sheet_as_json(done.sheet))
    return done.sheet


def made_by(engine):
    return {one.embedding for one, _ in engine.collection.made_with().values()}


def test_everything_is_embedded_anew_and_found_with_the_other_model(engine):
    before = ask(engine)
    n_sheets = len(list(engine.collection.kept_sheets.all()))
    assert change_embedder(engine, Other(), "/models/other", report=silent, cancel=Cancel()) == 2
    assert made_by(engine) == {"other 2"}
    after = ask(engine)
    assert after.models["embedding"] == "other"
    assert [one.citation.text for one in after.found_lines] == [one.citation.text for one in before.found_lines]
    assert after.passages[0].meaning > 0
    collection = engine.collection
    assert find_faults(collection, Other.dimensions, report=silent, cancel=Cancel()) == []
    assert collection.facts.get(EMBEDDING_MODEL) == "/models/other"
    assert len(list(collection.kept_sheets.all())) == n_sheets + 1
    assert exchange_copies(collection.path) == []
    # And it goes on as a collection does: new files, and back to the model before.
    change_embedder(engine, SmallEmbedder(), "", report=silent, cancel=Cancel())
    assert find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel()) == []
    assert ask(engine).found_lines


def test_questions_work_with_the_old_index_until_the_new_one_is_whole(engine):
    seen = []

    class Watching(Other):
        def embed(self, texts, spans):
            seen.append((engine.embedder.name, ask(engine).passages[0].meaning > 0))
            yield from super().embed(texts, spans)

    change_embedder(engine, Watching(), "/models/other", report=silent, cancel=Cancel())
    assert seen and set(seen) == {("small stand-in", True)}
    # What was asked meanwhile was not lost with the file that the copy replaced.
    assert len(list(engine.collection.kept_sheets.all())) == len(seen)


def test_what_is_read_through_and_tried_meanwhile_is_not_lost(engine):
    through = read_through.begin(engine, PageWish("every page that speaks of humidity"))
    questions = trials.keep_set(engine, QuestionSet("Set", (TrialQuestion("1", ASKED),)))
    run_id = trials.begin(engine, questions, [Arrangement("lines", NO_READER)])

    class Watching(Other):
        def embed(self, texts, spans):
            read_through.go_on(engine, through, report=silent, cancel=Cancel())
            trials.go_on_with(engine, run_id, report=silent, cancel=Cancel())
            yield from super().embed(texts, spans)

    change_embedder(engine, Watching(), "/models/other", report=silent, cancel=Cancel())
    assert read_through.load(engine, through).covered.n_unread == 0
    assert trials.load(engine, run_id).is_done


def test_what_is_broken_off_leaves_the_collection_as_it_was(engine):
    cancel = Cancel()

    class Slow(Other):
        def embed(self, texts, spans):
            cancel.now()
            yield from super().embed(texts, spans)

    with pytest.raises(Cancelled):
        change_embedder(engine, Slow(), "/models/other", report=silent, cancel=cancel)
    assert made_by(engine) == {"small stand-in 1"}
    assert engine.embedder.name == "small stand-in"
    assert ask(engine).passages[0].meaning > 0
    assert exchange_copies(engine.collection.path) == []


def test_what_an_interruption_leaves_of_the_copy_is_removed_and_erased(engine):
    left = engine.collection.path.with_name(engine.collection.path.name + ".other-model-wal")
    left.write_bytes(b"x")
    assert left in files_of(engine.collection.path)
    upkeep.tidy(engine.collection)
    assert not left.exists()


def test_the_time_is_estimated_by_a_few_passages(engine):
    assert 0 < seconds_to_embed(engine, Other()) < 60


def test_a_question_in_the_midst_of_its_answer_keeps_the_collection_it_began_with(engine):
    asking = engine.ask(Question(ASKED), Cancel())
    next(asking)
    exchange = threading.Thread(
        target=change_embedder, args=(engine, Other(), "/models/other"), kwargs={"report": silent, "cancel": Cancel()}
    )
    exchange.start()
    exchange.join(1)
    assert exchange.is_alive()
    assert made_by(engine) == {"small stand-in 1"}
    *_, done = asking
    assert done.sheet.claims[0].support == "supported"
    exchange.join(20)
    assert not exchange.is_alive()
    assert made_by(engine) == {"other 2"}
