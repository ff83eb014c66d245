# SPDX-License-Identifier: GPL-3.0-or-later
import pytest

from redlantern.answering.asking import DoneStep, FoundStep
from redlantern.answering.question.understanding import Question
from redlantern.progress import Cancel
from redlantern.retrieval.phrases import phrases_in


def asked(engine, text, scope=None):
    found, done = engine.ask(Question(text, scope=scope), Cancel())
    assert isinstance(found, FoundStep)
    assert isinstance(done, DoneStep)
    return done.sheet


@pytest.mark.parametrize(
    ("text", "phrases"),
    [
        ('"relative humidity"', ["relative humidity"]),
        ("“loft” „key“", ["loft", "key"]),
        ('"loft", "key"', ["loft", "key"]),
        ('What does "loft" mean?', []),
        ("loft", []),
        ('""', []),
        ('"?"', []),
    ],
)
def test_only_phrases_alone_are_looked_for(text, phrases):
    assert phrases_in(text) == phrases


def test_every_place_of_a_phrase_is_found_with_its_line_and_page(engine):
    sheet = asked(engine, '"RELATIVE humidity"')
    assert sheet.places
    assert sheet.claims == ()
    assert all("relative humidity" in one.citation.text.casefold() for one in sheet.found_lines)
    assert set(sheet.page_strengths) == {
        (one.citation.document_id, one.citation.page_number) for one in sheet.found_lines
    }


def test_two_phrases_must_stand_on_one_page(engine):
    assert asked(engine, '"relative humidity" "zebra"').refused
    assert not asked(engine, '"relative humidity" "work"').refused


def test_a_scope_holds_for_looking_too(engine):
    letter = next(one for one in engine.collection.documents() if one.path == "letters/key.txt")
    sheet = asked(engine, '"relative humidity"', frozenset({letter.document_id}))
    assert sheet.refused
    assert sheet.refusal_reason == (
        "No document in scope has “relative humidity”, in any capitals. "
        "Ask in a sentence without quotation marks to find what is near it."
    )


def test_part_of_a_word_is_no_place(engine):
    assert asked(engine, '"humid"').refused


def test_a_place_is_shown_with_the_line_it_stands_in(engine):
    [page] = {(one.citation.document_id, one.citation.page_number) for one in asked(engine, '"work shall"').found_lines}
    passages = engine.collection.passages(list(engine.current_index().passages_of(page)))
    lines = {one.line_text(at) for one in passages for at in range(len(one.lines))}
    assert {one.citation.text for one in asked(engine, '"work shall"').found_lines} <= lines
