# SPDX-License-Identifier: GPL-3.0-or-later
from redlantern.answering.question.understanding import Question
from redlantern.collection.store import Collection
from redlantern.progress import Cancel, silent

QUESTION = "Where does the blower stand?"


def asked(engine, question=QUESTION, scope=None):
    *_, done = engine.ask(Question(question, scope=scope), Cancel())
    return done.sheet


def test_two_collections_are_asked_as_one_and_then_alone_again(engine, make_engine, tmp_path):
    place = tmp_path / "others"
    place.mkdir()
    (place / "contract.md").write_text(
        "# Contract for the blower\n\nThe blower stands in the passage under the north stairs."
    )
    other = make_engine("other.redlantern")
    other.collection.claim_writing()
    other.update([place], report=silent, cancel=Cancel())
    path = other.collection.path
    other.collection.close()
    assert not any("north stairs" in one.citation.text for one in asked(engine).passages)

    engine.ask_beside(Collection.open(path))
    documents = {one.call_mark: one for one in engine.asked.documents()}
    assert sorted(documents) == ["CON", "CON·2", "LET"]
    foreign = documents["CON·2"]
    assert (foreign.beside, foreign.path) == ("other", "other: contract.md")
    sheet = asked(engine)
    best = sheet.passages[0].citation
    assert "north stairs" in best.text and best.mark == "CON·2 p.1"
    assert engine.asked.page(best.document_id, best.page_number).text[best.start : best.end] == best.text
    assert {one.citation.document_id for one in asked(engine, scope=frozenset({foreign.document_id})).passages} == {
        foreign.document_id
    }
    # Its own documents are still found, and it alone has the question in its journal.
    assert "70 per cent" in asked(engine, "At what relative humidity shall work cease?").passages[0].citation.text
    engine.ask_alone()
    assert not any("north stairs" in one.citation.text for one in asked(engine).passages)
    again = Collection.open(path)
    assert "asked" not in {one.what for one in again.journal.entries()}
    again.close()
