# SPDX-License-Identifier: GPL-3.0-or-later
"""Queries that a language model writes over tables: what it is shown, what it may write, what it means."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reckoning import wording
from redlantern.reckoning.candidates import words_of
from redlantern.reckoning.plan import PlanError
from redlantern.reckoning.query import ShownTables, plan_of_query, shown_tables
from redlantern.reckoning.reckon import WRITTEN_BY_MODEL, reckon_written
from redlantern.reckoning.wishes import wishes_of
from redlantern.text.question import parse_question
from tests.reckoning.made import HUMIDITY, INVOICE, candidate

HOURS = [
    ["Name", "Day", "Hours", "Site"],
    ["Adler", "02.03.2026", "7.5", "hall"],
    ["Wiek", "02.03.2026", "8", "mill"],
    ["Adler", "03.03.2026", "9", "mill"],
]
TIMES = candidate(HOURS, "timesheet", document_id=1)
OTHERS = [
    candidate(HUMIDITY, "humidity log", document_id=2, place=1),
    candidate(INVOICE, "invoice", document_id=3, place=2),
]


def shown(question="Who was busiest on the timesheet?", candidates=(TIMES, *OTHERS)) -> ShownTables:
    parsed = parse_question(question)
    return shown_tables(question, words_of(parsed, wishes_of(question)), candidates)


def reckoned(query, question):
    return reckon_written(parse_question(question), plan_of_query(query, shown()), TIMES)


def test_a_model_is_shown_the_table_that_the_question_names_with_kinds_and_values():
    tables = shown()
    assert [each.key for each in tables.candidates] == [TIMES.key]
    assert '"Name" text -- Adler, Wiek' in tables.user and '"Day" date -- 2026-03-02' in tables.user
    assert tables.user.endswith("Question: Who was busiest on the timesheet?")


def test_no_table_is_shown_that_has_hardly_anything_of_the_question():
    assert shown("How many passengers did the ferry carry to the island?").candidates == ()


def test_only_columns_with_numbers_can_be_added_up():
    grammar = shown().grammar
    assert re.search(r'^num1 ::= "\\"Hours\\""$', grammar, re.MULTILINE)
    assert re.search(r"^any1 ::= .*Name.*Day.*Hours.*Site", grammar, re.MULTILINE)
    assert "WHERE" not in grammar


@pytest.mark.parametrize(
    ("query", "question", "answer"),
    [
        ('SELECT "Name" FROM t1 GROUP BY "Name" ORDER BY SUM("Hours") DESC LIMIT 1;', "Who was busiest on the timesheet?",
         "Adler: 16.5 hours (Hours, 2 rows)."),
        ('SELECT "Name" FROM t1 ORDER BY "Hours" ASC LIMIT 1;', "Who had the easiest hours on the timesheet?",
         "Adler: 7.5 hours (Hours, smallest of 3 rows)."),
        ('SELECT COUNT(*) FROM t1;', "How often were they at the mill?", "2 rows fit."),
        ('SELECT COUNT(DISTINCT "Name") FROM t1;', "How many people were on the timesheet?",
         "2 different values of Name: Adler and Wiek."),
        ('SELECT SUM("Hours") FROM t1;', "All hours of Adler", "16.5 hours in all (Hours, 2 rows added up)."),
        ('SELECT AVG("Hours") FROM t1;', "a usual day at the mill", "8.5 hours (mean of Hours over 2 rows)."),
    ],
)  # fmt: skip
def test_a_query_is_carried_out_for_the_rows_that_the_question_says_and_is_in_doubt(query, question, answer):
    found = reckoned(query, question)
    assert wording.sentence(found) == answer
    assert WRITTEN_BY_MODEL in found.doubts and not found.is_sure


def test_hostile_column_names_are_literals_of_the_grammar_or_left_out():
    names = ['a" | "b', "c\\", "x" * 500, "root ::= y", "Hours"]
    table = candidate([names, ["oak", "elm", "ash", "yew", "7"], ["fir", "bay", "box", "asp", "9"]], "timesheet")
    tables = shown("All hours of the timesheet", candidates=(table,))
    for rule in tables.grammar.splitlines():
        assert re.match(r"[a-z]+\d? ::= ", rule)
    assert '"\\"c\\\\\\""' in tables.grammar and "xxx" not in tables.grammar and "b" not in tables.user.split()


@pytest.mark.parametrize(
    "query",
    [
        'SELECT SUM("Wage") FROM t1;', 'SELECT SUM("Name") FROM t1;', 'SELECT COUNT(*) FROM t2;', "DROP TABLE t1;", "",
        'SELECT "Name" FROM t1; SELECT 1', 'SELECT MAX("Name") FROM t1;',
    ],
)  # fmt: skip
def test_what_is_no_query_of_these_tables_is_not_run(query):
    with pytest.raises(PlanError):
        plan_of_query(query, shown())


def test_a_list_of_all_rows_is_no_answer():
    assert reckoned('SELECT "Name" FROM t1;', "Who was busiest on the timesheet?") is None


@given(st.text(max_size=80))
def test_whatever_is_written_is_a_plan_or_an_error_in_words(text):
    for query in (text, f"SELECT {text} FROM t1;", f'SELECT "Name" FROM t1 GROUP BY {text}'):
        try:
            plan_of_query(query, shown())
        except PlanError as error:
            assert str(error)
