# SPDX-License-Identifier: GPL-3.0-or-later
"""No page is passed over: what cannot be compared is a person's to look at, and words count where vectors are missing."""

from dataclasses import replace

import numpy as np

from redlantern.reading.values import Block, Page
from redlantern.readthrough.lines import NOT_COMPARED, LineReader, PageLines, page_by_lines
from redlantern.readthrough.values import PageWish

TEXT = "The humidity rose."


def reader_of(engine, question):
    engine.reload_index()
    return LineReader(PageWish(question), engine.current_index(), engine.collection, engine.embedder)


def pages_of(engine, reader, path):
    document = next(each for each in engine.collection.documents() if each.path == path)
    return document, list(reader.pages(document, frozenset(range(1, document.n_pages + 1))))


def test_a_page_with_words_and_nothing_to_compare_is_doubtful_and_an_empty_one_silent(engine):
    document = engine.collection.documents()[0]
    page = Page(1, TEXT, (Block("paragraph", 0, len(TEXT)),))
    unread = page_by_lines(document, PageLines(page, (), (0.0,) * 12, "t"), "now")
    assert (unread.state, unread.how, unread.words[0].text) == ("doubtful", NOT_COMPARED, TEXT)
    for blocks, text in (((), ""), ((Block("header", 0, len(TEXT)),), TEXT)):
        empty = page_by_lines(document, PageLines(Page(1, text, blocks), (), (0.0,) * 12, "t"), "now")
        assert (empty.state, empty.how) == ("silent", "nothing stands on it")


def test_a_document_that_the_index_does_not_hold_is_not_silent(engine, monkeypatch):
    reader = reader_of(engine, "every page that speaks of humidity")
    monkeypatch.setattr(engine.current_index(), "lines_of", lambda document_id: ([], []))
    document, [read] = pages_of(engine, reader, "contract.md")
    assert page_by_lines(document, read, "now").how == NOT_COMPARED


def test_words_count_where_vectors_are_missing(engine, monkeypatch):
    reader = reader_of(engine, "every page that speaks of humidity")
    index = engine.current_index()
    whole = index.lines_of
    monkeypatch.setattr(
        index, "lines_of", lambda key: (whole(key)[0], [np.zeros((0, 64), np.float32) for _ in whole(key)[1]])
    )
    document, [read] = pages_of(engine, reader, "contract.md")
    assert read.lines and read.lines[0].coverage == 1.0 and read.lines[0].meaning == 0.0
    assert page_by_lines(document, read, "now").state != "silent"


def test_one_thing_or_another_is_found_by_either(engine):
    reader = reader_of(engine, "every page that mentions humidity or a lost key")
    for path in ("contract.md", "letters/key.txt"):
        document, [read] = pages_of(engine, reader, path)
        assert read.lines[0].coverage > 0.9
        assert replace(page_by_lines(document, read, "now")).state != "silent"


def test_an_example_draws_near_and_another_keeps_away(engine):
    from redlantern.readthrough.values import Example

    question = "every page that speaks of work"
    plain, near = (
        LineReader(PageWish(question, examples=examples), engine.current_index(), engine.collection, engine.embedder)
        for examples in ((), (Example("the key of the yard door was lost", True),))
    )
    away = LineReader(
        PageWish(question, examples=(Example("the key of the yard door was lost", False),)),
        engine.current_index(), engine.collection, engine.embedder,
    )  # fmt: skip
    best = [
        max(line.meaning for line in pages_of(engine, reader, "letters/key.txt")[1][0].lines)
        for reader in (away, plain, near)
    ]
    assert best[2] > max(best[:2])
