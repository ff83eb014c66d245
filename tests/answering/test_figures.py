# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures on a sheet where the rules know no plan: the language model writes a query, and may fail at it."""

import pytest

from redlantern.answering.asking import DoneStep, FoundStep, ReckonedStep
from redlantern.answering.question.understanding import Question
from redlantern.models.hosted import HostedModel
from redlantern.models.register import LIGHT_READER
from redlantern.progress import Cancel, silent
from redlantern.reckoning.candidates import words_of
from redlantern.reckoning.query import MOST_TOKENS, SYSTEM, plan_of_query, shown_tables
from redlantern.reckoning.wishes import wishes_of
from redlantern.text.question import parse_question
from tests.conftest import ReadingModel
from tests.reckoning.made import candidate

TIMES = """# Timesheet of the mill

| Name | Day | Hours | Site |
|---|---|---|---|
| Adler | 02.03.2026 | 7.5 | hall |
| Wiek | 02.03.2026 | 8 | mill |
| Adler | 03.03.2026 | 9 | mill |
"""
BUSIEST = "Who was the busiest on the timesheet of the mill?"
QUERY = 'SELECT "Name" FROM t1 GROUP BY "Name" ORDER BY SUM("Hours") DESC LIMIT 1;'


@pytest.fixture
def reading():
    return ReadingModel()


@pytest.fixture
def engine(make_engine, folder, reading):
    (folder / "times.md").write_text(TIMES, encoding="utf-8")
    engine = make_engine(language_model=reading)
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    return engine


def ask(engine, question=BUSIEST, **more):
    return list(engine.ask(Question(question, **more), Cancel()))


def test_a_query_gives_the_figure_in_doubt_before_the_answer_is_written(engine, reading):
    reading.writes = [QUERY, "Adler and Wiek worked at the mill."]
    steps = ask(engine)
    assert [type(step) for step in steps[:2]] == [FoundStep, ReckonedStep] and isinstance(steps[-1], DoneStep)
    assert reading.systems[0] == SYSTEM
    assert steps[0].sheet.reckoning is None
    for step in (steps[1], steps[-1]):
        assert step.sheet.reckoning.answer == "Adler: 16.5 hours (Hours, 2 rows)."
        assert not step.sheet.reckoning.is_sure
    assert [cell.text for cell in steps[-1].sheet.reckoning.cells] == ["7.5", "9"]
    assert steps[-1].sheet.found_lines


@pytest.mark.parametrize("written", ["SELECT nothing", 'SELECT SUM("Wages") FROM t1;'])
def test_what_is_no_query_leaves_the_answer_to_the_lines(engine, reading, written):
    reading.writes = [written, "Adler and Wiek worked at the mill."]
    sheet = ask(engine)[-1].sheet
    assert sheet.reckoning is None and sheet.found_lines


def test_a_model_that_fails_at_the_query_leaves_the_found_lines(engine, reading):
    reading.fails_after = 1
    sheet = ask(engine)[-1].sheet
    assert sheet.reckoning is None and sheet.found_lines and sheet.no_prose_reason


@pytest.mark.parametrize(
    "question",
    ["At what relative humidity shall work cease?", "How many passengers did the ferry carry to the island?"],
)
def test_no_query_is_asked_for_where_no_table_has_the_question(engine, reading, question):
    ask(engine, question)
    assert SYSTEM not in reading.systems


def test_a_sure_figure_needs_no_model(engine, reading):
    sheet = ask(engine, "How many hours did Adler work on the timesheet of the mill?")[-1].sheet
    assert sheet.reckoning.value == "16.5 hours" and sheet.is_reckoned
    assert reading.systems == []


def test_nothing_is_asked_of_a_model_where_lines_alone_are_wanted(engine, reading):
    assert ask(engine, lines_only=True)[-1].sheet.reckoning is None
    assert reading.systems == []


def test_a_line_that_states_the_figure_confirms_it(engine, folder):
    (folder / "note.md").write_text("# Note of the mill\n\nIn all Adler worked 16.5 hours.\n", encoding="utf-8")
    (folder / "bill.md").write_text(
        "# Bill of the mill\n\n| Item | Amount EUR |\n|---|---|\n| oak | 1.200,00 |\n| elm | 300,50 |\n\n"
        "The amounts of the bill come to 1.500,50 EUR in all.\n",
        encoding="utf-8",
    )
    engine.update([folder], report=silent, cancel=Cancel())
    sheet = ask(engine, "What do the amounts of the bill come to in all?")[-1].sheet
    assert sheet.is_reckoned and sheet.reckoning.value == "1.500,50 EUR"
    assert "states it, too: “The amounts of the bill come to 1.500,50 EUR in all.”" in sheet.reckoning.check


@pytest.mark.real_models
def test_what_the_light_reader_writes_under_the_grammar_is_a_query():
    """Takes ten seconds, on a busy machine a minute: nothing but the runtime itself tells whether it takes the grammar."""
    table = candidate(
        [["Name", "Höhe “m”", "Paid, EUR"], ["Adler", "12.5", "100.00"], ["Wiek", "8", "20.50"]],
        "heights of the towers",
    )
    question = parse_question("Which of the towers has the greatest height?")
    shown = shown_tables(question.text, words_of(question, wishes_of(question.text)), [table])
    model = HostedModel(LIGHT_READER.place)
    try:
        steps = model.write(SYSTEM, shown.user, grammar=shown.grammar, most_tokens=MOST_TOKENS, cancel=Cancel())
        written = "".join(step.words for step in steps)
    finally:
        model.close()
    assert plan_of_query(written, shown).plan.tables == (table.key,)
