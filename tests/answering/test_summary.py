# SPDX-License-Identifier: GPL-3.0-or-later
"""Summaries and drafts: what they say, that every claim is cited and checked, how they end when something is amiss."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering import asking
from redlantern.answering.asking import DoneStep, FoundStep
from redlantern.answering.evidence.centrality import mmr
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet_form import sheet_as_json, sheet_from_json
from redlantern.answering.wording import as_text
from redlantern.answering.writing.grammars import every_line_grammar, free_draft_grammar
from redlantern.answering.writing.summary import PartStep
from redlantern.models.protocols import Written
from redlantern.progress import Cancel, Cancelled, silent
from tests.conftest import SmallLanguageModel

REPORT = """# Report on the tower

## The bells

The five bells hang in a frame of oak that was made in 1788.
The clapper of the tenor bell is cracked and must not be used.
The ropes were renewed in May 2025 by the ringers themselves.
The frame has worm in its two lower beams on the north side.
The bells were last raise_wanted on Easter Sunday for a quarter of an hour.

## The stair

The stair has eighty-four steps of sandstone, most of them worn.
Twelve steps are so worn that they must be replaced before visitors come.
The handrail of rope is loose at the third landing of the stair.
The mason offers the twelve steps for 9.400,00 EUR with fitting.
The light of the stair works on the lower two landings only.
"""


class Repeats(SmallLanguageModel):
    """Says every numbered line of its prompt."""

    def write(self, system, user, **rest):
        self.prompts.append(user)
        self.systems.append(system)
        lines = [line for line in user.split("\n") if line.startswith("[")]
        for line in lines:
            number, _, words = line.partition("] ")
            yield Written(f"{words} {number}] ")
        yield Written("", 10, 0, len(lines))


@pytest.fixture
def tower(make_engine, tmp_path):
    def make(model=None):
        folder = tmp_path / "tower"
        folder.mkdir()
        (folder / "report.md").write_text(REPORT, encoding="utf-8")
        (folder / "note.md").write_text("# Note of the verger\n\nThe key of the tower hangs in the vestry.\n")
        engine = make_engine(language_model=model)
        engine.collection.claim_writing()
        engine.update([folder], report=silent, cancel=Cancel())
        return engine

    return make


def steps_of(engine, text, **more):
    return list(engine.ask(Question(text, **more), Cancel()))


def test_a_document_is_summarised_section_by_section_and_then_the_whole(tower):
    model = Repeats()
    first, *parts, done = steps_of(tower(model), "What is the report on the tower about?")
    assert isinstance(first, FoundStep)
    assert [part.title for part in first.sheet.sections] == ["The bells", "The stair"]
    assert all(part.lines and not part.claims for part in first.sheet.sections)
    steps = [one for one in parts if isinstance(one, PartStep)]
    assert [(one.done, one.total) for one in steps] == [(1, 2), (2, 2)]
    assert isinstance(done, DoneStep)
    for part in done.sheet.sections:
        assert part.claims
        assert all(claim.support == "supported" and claim.citations for claim in part.claims)
    assert {claim.text for claim in done.sheet.claims} <= {
        claim.text for one in done.sheet.sections for claim in one.claims
    }
    # The lines of a section come in the order of the document.
    starts = [line.citation.start for part in done.sheet.sections for line in part.lines]
    assert starts == sorted(starts)
    assert "bells" not in model.prompts[1]


def test_the_length_is_what_was_asked_for(tower):
    engine = tower(Repeats())
    short, long = (
        steps_of(engine, text)[-1].sheet
        for text in ("Summarise the report briefly", "Give me a detailed summary of the report")
    )
    assert [len(part.lines) for part in short.sections] == [1, 1]
    assert all(len(part.lines) == 4 for part in long.sections)


def test_several_documents_are_one_part_each(tower):
    sheet = steps_of(tower(Repeats()), "Summarise all documents")[-1].sheet
    assert [part.title for part in sheet.sections] == ["Note of the verger", "Report on the tower"]
    assert {line.citation.path for line in sheet.found_lines} == {"note.md", "report.md"}


def test_without_a_model_the_lines_stand_for_themselves(tower):
    sheet = steps_of(tower(), "Summarise the report")[-1].sheet
    assert sheet.no_prose_reason == "No language model is set up, so the lines stand as they are in the documents."
    assert all(part.lines and not part.claims for part in sheet.sections)


def test_a_stopped_summary_keeps_what_was_written(tower):
    engine, cancel = tower(Repeats()), Cancel()
    kept = []
    with pytest.raises(Cancelled):
        for step in engine.ask(Question("Summarise the report"), cancel):
            kept.append(step)
            if isinstance(step, PartStep):
                cancel.now()
    assert kept[-1].sheet.sections[0].claims
    assert not kept[-1].sheet.sections[1].claims


def test_a_host_that_fails_leaves_the_lines(tower):
    model = SmallLanguageModel()
    model.fails_after = 0
    sheet = steps_of(tower(model), "Summarise the report")[-1].sheet
    assert "stopped unexpectedly" in sheet.no_prose_reason
    assert all(part.lines for part in sheet.sections)


def test_a_summary_survives_json_and_is_plain_text_with_its_marks(tower):
    engine = tower(Repeats())
    sheet = steps_of(engine, "Summarise the report")[-1].sheet
    ids = {one.path: one.document_id for one in engine.collection.documents()}
    again = sheet_from_json(sheet_as_json(sheet), ids)
    assert sheet_as_json(again) == sheet_as_json(sheet)
    text = as_text(sheet)
    assert "\nThe bells\n" in text
    assert sheet.sections[0].claims[0].marked_text in text


def test_a_draft_says_the_lines_under_the_users_own_words(tower):
    sheet = steps_of(tower(Repeats()), "Draft a letter to the mason about the worn steps of the stair")[-1].sheet
    assert sheet.draft.head == "To the mason\nAbout the worn steps of the stair"
    assert sheet.claims
    assert all(claim.citations and claim.support == "supported" for claim in sheet.claims)
    assert as_text(sheet).startswith("To the mason\nAbout the worn steps of the stair\n\n")


class Free(SmallLanguageModel):
    """A larger model that greets, and then says its first line."""

    can_read = True

    def write(self, system, user, **rest):
        assert '"-"' in rest["grammar"]
        first = user.split("\n")[0].removeprefix("[1] ")
        yield Written(f"Dear mason, I hope that you are well. [-] {first} [1]")
        yield Written("", 10, 0, 10)


def test_what_a_larger_model_adds_to_a_draft_stands_out(tower):
    sheet = steps_of(tower(Free()), "Draft a letter to the mason about the worn steps of the stair")[-1].sheet
    own, said = sheet.claims
    assert own.is_outside and own.support == "unsupported" and not own.citations
    assert said.support == "supported"
    assert "Dear mason, I hope that you are well. [not from the documents]" in as_text(sheet)
    ids = {line.citation.path: line.citation.document_id for line in sheet.found_lines}
    assert sheet_from_json(sheet_as_json(sheet), ids).draft == sheet.draft


def test_grammars_of_all_lines_and_of_free_drafts():
    said = every_line_grammar(["The roof leaks badly, and the gutter is blocked.", "It rains."])
    assert said.startswith('root ::= plain0 " " plain1\n')
    free = free_draft_grammar(2, 5)
    assert 'number ::= "-" | "1" | "2"' in free
    assert "claim){0,4}" in free


@given(st.lists(st.floats(-1, 1), min_size=1, max_size=12), st.integers(1, 6), st.integers(0, 99))
def test_lines_that_are_spread_are_distinct_and_begin_with_the_best(scores, most, seed):
    vectors = np.random.default_rng(seed).normal(size=(len(scores), 4)).astype(np.float32)
    vectors /= np.linalg.norm(vectors, axis=1, keepdims=True)
    words = [str(number % 5) for number in range(len(scores))]
    chosen = mmr(np.array(scores), vectors, most, words)
    assert chosen[0] == int(np.argmax(scores))
    assert len({words[at] for at in chosen}) == len(chosen) == min(most, len(set(words)))


def test_more_documents_than_anybody_reads_are_not_summarised_at_once(tower, monkeypatch):
    monkeypatch.setattr(asking, "_MOST_SUMMARISED", 1)
    sheet = steps_of(tower(Repeats()), "Summarise all documents")[-1].sheet
    assert sheet.refused
    assert sheet.refusal_reason == (
        "That is 2 documents; a summary takes at most 1 at once. Tick fewer on the shelf, or ask for one of them by its name."
    )
