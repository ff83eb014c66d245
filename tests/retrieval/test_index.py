# SPDX-License-Identifier: GPL-3.0-or-later
from redlantern.progress import Cancel, silent
from redlantern.retrieval.index import Index
from redlantern.text.question import parse_question
from tests.conftest import SmallEmbedder


def search(engine, question, scope=None, n_kept=10):
    return engine.current_index().search(
        parse_question(question), engine.embedder.embed_question(question), scope, n_kept
    )


def test_the_right_passage_comes_first_with_its_scores(engine):
    [best, *_] = search(engine, "relative humidity in the loft").hits
    [passage] = engine.collection.passages([best.passage_id])
    assert "relative humidity" in passage.text
    assert best.rank == 1
    assert best.words > 0
    assert best.meaning > 0
    assert len(best.line_scores) == len(passage.lines)


def test_only_documents_in_scope_are_found(engine):
    letter = next(one for one in engine.collection.documents() if one.path == "letters/key.txt")
    found = search(engine, "humidity key", {letter.document_id})
    assert {hit.document_id for hit in found.hits} == {letter.document_id}
    assert {document_id for document_id, _ in found.page_strengths} == {letter.document_id}
    assert search(engine, "humidity", set()).hits == []


def test_pages_are_lit_by_how_strongly_they_are_found(engine):
    strengths = search(engine, "relative humidity in the loft").page_strengths
    contract, letter = (one.document_id for one in engine.collection.documents())
    assert 0 <= strengths[letter, 1] < strengths[contract, 1] <= 1


def test_scope_patterns_fit_paths_names_and_call_marks(engine):
    contract, letter = engine.collection.documents()
    assert engine.current_index().scope_of("letters/*") == {letter.document_id}
    assert engine.current_index().scope_of("contract.md") == {contract.document_id}
    assert engine.current_index().scope_of(contract.call_mark) == {contract.document_id}
    assert engine.current_index().scope_of("nothing") == set()


def test_an_index_after_changes_equals_one_made_from_nothing(engine, folder, make_engine):
    (folder / "more.txt").write_text("The museum asks for the blower of 1961.")
    (folder / "letters" / "key.txt").unlink()
    engine.update([folder], report=silent, cancel=Cancel())
    fresh = make_engine("fresh.redlantern")
    fresh.collection.claim_writing()
    fresh.update([folder], report=silent, cancel=Cancel())
    for question in ("blower museum", "humidity", "deposit"):
        changed = [(hit.words, round(hit.meaning, 5)) for hit in search(engine, question).hits]
        rebuilt = [(hit.words, round(hit.meaning, 5)) for hit in search(fresh, question).hits]
        assert changed == rebuilt


def test_an_empty_collection_finds_nothing(make_engine):
    empty = make_engine("empty.redlantern")
    index = Index(empty.collection, SmallEmbedder.dimensions, SmallEmbedder.identity)
    assert index.search(parse_question("anything"), empty.embedder.embed_question("anything"), None, 5).hits == []
