# SPDX-License-Identifier: GPL-3.0-or-later
"""A long document can be found by its words before the embedding model has come to it."""

import pytest

from redlantern.application.documents import plan_update
from redlantern.indexing import update
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.text.question import parse_question
from tests.conftest import SmallEmbedder

QUESTION = "relative humidity"


@pytest.fixture(autouse=True)
def every_document_is_long(monkeypatch):
    monkeypatch.setattr(update, "_WORDS_FIRST", 1)


class Watching(SmallEmbedder):
    """Calls a function before it embeds passages."""

    def __init__(self, before):
        super().__init__()
        self._before = before

    def embed(self, texts, spans):
        if any(spans):
            self._before()
        return super().embed(texts, spans)


def found(engine):
    engine.has_changed()
    vector = SmallEmbedder().embed_question(QUESTION)
    return [
        (one.words > 0, one.meaning != 0)
        for one in engine.current_index().search(parse_question(QUESTION), vector, None, 3).hits[:1]
    ]


def test_words_are_found_while_the_meaning_is_still_to_come(make_engine, folder):
    engine = make_engine()
    engine.collection.claim_writing()
    seen = []

    def look():
        seen.append((found(engine), [one.has_meaning for one in engine.collection.documents()]))

    engine.exchange(embedder=Watching(look))
    engine.update([folder], report=silent, cancel=Cancel())
    assert ([(True, False)], [False]) in seen
    assert found(engine) == [(True, True)]
    assert all(one.has_meaning for one in engine.collection.documents())
    assert plan_update(engine, Cancel())[0].to_remake == []


def test_what_was_broken_off_keeps_its_words_and_is_finished_by_the_next_update(make_engine, folder):
    engine = make_engine()
    engine.collection.claim_writing()
    cancel = Cancel()
    engine.exchange(embedder=Watching(cancel.now))
    with pytest.raises(Cancelled):
        engine.update([folder], report=silent, cancel=cancel)
    assert [is_near for _, is_near in found(engine)] == [False]
    [document] = engine.collection.documents()
    assert not document.has_meaning
    engine.exchange(embedder=SmallEmbedder())
    engine.update([folder], report=silent, cancel=Cancel())
    assert all(one.has_meaning for one in engine.collection.documents())
    assert found(engine) == [(True, True)]


def test_a_message_and_its_attachment_each_get_their_own_vectors(make_engine, tmp_path):
    place = tmp_path / "mail"
    place.mkdir()
    (place / "one.eml").write_text(
        "From: a@b.example\nTo: c@d.example\nSubject: Loft\nMIME-Version: 1.0\n"
        'Content-Type: multipart/mixed; boundary="x"\n\n--x\nContent-Type: text/plain\n\nThe blower stands in the loft.\n'
        '--x\nContent-Type: text/plain; name="log.txt"\nContent-Disposition: attachment; filename="log.txt"\n\n'
        "The relative humidity was 74 per cent on Monday.\n--x--\n"
    )
    engine = make_engine()
    engine.collection.claim_writing()
    engine.update([place], report=silent, cancel=Cancel())
    assert [one.has_meaning for one in engine.collection.documents()] == [True, True]
    assert found(engine) == [(True, True)]
