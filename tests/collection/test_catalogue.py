# SPDX-License-Identifier: GPL-3.0-or-later
"""Documents given again when nothing of them changed, against a catalogue that reads everything anew."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from redlantern.collection import upkeep
from redlantern.collection.catalogue import Catalogue
from redlantern.progress import Cancel, silent

STEPS = st.lists(st.sampled_from(["add", "change", "copy", "remove", "take out", "let in", "erase"]), max_size=6)


def act(engine, folder, step, number):
    # The folder is the same for all examples: one file is never removed, for a folder with nothing to read is refused.
    (folder / "kept.txt").write_text("The tower stands.\n")
    files = sorted(one for one in folder.rglob("*") if one.is_file() and one.name != "kept.txt")
    documents = engine.collection.documents()
    if step == "add":
        (folder / f"more{number}.txt").write_text(f"The bell number {number} rings at noon.\n")
    elif step == "change" and files:
        files[0].write_text(f"The gate was painted {number} times.\n")
    elif step == "copy" and files:
        (folder / f"copy{number}.txt").write_bytes(files[-1].read_bytes())
    elif step == "remove" and files:
        files[0].unlink()
    elif step == "take out" and documents:
        engine.collection.take_out([documents[0].full_path])
    elif step == "let in":
        engine.collection.let_in(engine.collection.taken_out())
    elif step == "erase" and documents:
        upkeep.erase_documents(engine.collection, documents[:1])
    engine.update([folder], report=silent, cancel=Cancel())


@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=STEPS)
def test_whatever_changes_the_documents_are_those_of_a_new_look(engine, folder, steps):
    for number, step in enumerate(steps):
        act(engine, folder, step, number)
        assert engine.collection.documents() == Catalogue(engine.collection.file).all()


def test_what_did_not_change_is_the_very_same_value(engine, folder):
    before = {one.document_id: one for one in engine.collection.documents()}
    (folder / "more.txt").write_text("The bell rings at noon.\n")
    engine.update([folder], report=silent, cancel=Cancel())
    after = engine.collection.documents()
    assert len(after) == len(before) + 1
    assert sum(before.get(one.document_id) is one for one in after) == len(before)


def test_a_call_mark_that_was_changed_is_seen(engine):
    [first, *_] = engine.collection.documents()
    with engine.collection.file.writing() as connection:
        connection.execute("UPDATE documents SET call_mark = 'NEW' WHERE id = ?", (first.document_id,))
    assert engine.collection.document(first.document_id).call_mark == "NEW"
