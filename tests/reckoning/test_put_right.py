# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables put right by hand: it is reckoned by that, it holds for the same words alone, and goes when they are erased."""

import pytest

from redlantern.answering.question.understanding import Question
from redlantern.application import documents
from redlantern.application.questions import ask
from redlantern.collection import upkeep
from redlantern.progress import Cancel, silent
from redlantern.reckoning.cells import printed_tables
from redlantern.reckoning.put_right import ColumnPutRight, PutRight, put_right_in, with_put_right
from redlantern.reckoning.tables import typed_table
from tests.reckoning.made import pages_of

ROWS = [["Part", "2024", "Code"], ["oak", "12", "7"], ["elm", "30", "9"], ["Reserve", "5", "1"]]


def table_of(change=None):
    [printed] = printed_tables(pages_of(ROWS))
    return typed_table(printed, 1, 1, "en", title="Parts", put_right=change)


def test_a_row_a_column_and_the_names_are_as_they_were_said():
    as_read = table_of()
    assert [row.is_item for row in as_read.rows] == [True, True, True] and as_read.columns[1].kind == "whole"
    change = PutRight(
        as_read.begins, columns=(ColumnPutRight(1, "money", "EUR"), ColumnPutRight(2, "identifier")),
        rows=((as_read.rows[2].place, False),),
    )  # fmt: skip
    table = table_of(change)
    assert [(column.kind, column.unit) for column in table.columns] == [
        ("text", ""),
        ("money", "EUR"),
        ("identifier", ""),
    ]
    assert [(row.values[1].kind, row.values[1].unit, row.values[2].number) for row in table.items] == [
        ("money", "EUR", None), ("money", "EUR", None),
    ]  # fmt: skip
    assert [row.role for row in table.rows] == ["item", "item", "aside"]
    plain = table_of(PutRight(as_read.begins, n_headers=0))
    assert len(plain.rows) == 4 and not plain.headers and plain.begins == as_read.begins


def test_what_is_kept_is_read_again_replaced_and_taken_back():
    begins = table_of().begins
    kept = with_put_right({}, "abc/", PutRight(begins, n_headers=2))
    kept = with_put_right(kept, "abc/", PutRight((9, 0), rows=(((9, 4), False),)))
    kept = with_put_right(kept, "abc/", PutRight(begins, columns=(ColumnPutRight(0, "date"),)))
    assert set(put_right_in(kept, "abc/")) == {
        PutRight(begins, columns=(ColumnPutRight(0, "date"),)), PutRight((9, 0), rows=(((9, 4), False),)),
    }  # fmt: skip
    assert put_right_in(kept, "other/") == ()
    kept = with_put_right(with_put_right(kept, "abc/", PutRight(begins)), "abc/", PutRight((9, 0)))
    assert kept == {}


@pytest.mark.parametrize("spoilt", [{"abc/": "?"}, {"abc/": [{"begins": "x"}]}, {"abc/": 7}])
def test_what_cannot_be_understood_leaves_the_table_as_it_was_read(spoilt):
    assert put_right_in(spoilt, "abc/") == ()


@pytest.mark.parametrize(
    "change",
    [
        {"n_headers": -3}, {"n_headers": 99}, {"columns": (ColumnPutRight(-1, "money", "EUR"), ColumnPutRight(9, "date"))},
        {"columns": (ColumnPutRight(1, "duration", "\u202ex"),)}, {"rows": (((1, -5), True),)},
    ],
)  # fmt: skip
def test_what_a_strange_collection_says_of_a_table_ends_nothing(change):
    table = table_of(PutRight(table_of().begins, **change))
    assert len(table.headers) + len(table.rows) == len(ROWS) and table.rows and table.columns[2].kind == "whole"


@pytest.fixture
def parts(engine, folder):
    path = folder / "parts.md"
    lines = [f"| {' | '.join(row)} |" for row in ROWS]
    path.write_text("# Parts\n\n" + "\n".join([lines[0], "|---|---|---|", *lines[1:]]) + "\n", encoding="utf-8")
    engine.update([folder], report=silent, cancel=Cancel())
    return next(document for document in engine.collection.documents() if document.title == "Parts")


def items_of(engine, document):
    [table] = documents.load_tables(engine, document).now
    return [row.cells[0].text for row in table.items]


def test_it_holds_after_the_document_is_read_again_and_not_for_another(engine, folder, parts):
    [as_read] = documents.load_tables(engine, parts).as_read
    documents.put_right(engine, parts, PutRight(as_read.begins, rows=((as_read.rows[2].place, False),)))
    assert items_of(engine, parts) == ["oak", "elm"]
    engine.update([], report=silent, cancel=Cancel(), again={parts.full_path: ""})
    again = next(document for document in engine.collection.documents() if document.title == "Parts")
    assert items_of(engine, again) == ["oak", "elm"]
    path = folder / "parts.md"
    path.write_text(path.read_text(encoding="utf-8").replace("12", "13"), encoding="utf-8")
    engine.update([folder], report=silent, cancel=Cancel())
    changed = next(document for document in engine.collection.documents() if document.title == "Parts")
    assert items_of(engine, changed) == ["oak", "elm", "Reserve"]


def test_it_goes_with_a_document_that_is_erased(engine, parts):
    [as_read] = documents.load_tables(engine, parts).as_read
    documents.put_right(engine, parts, PutRight(as_read.begins, n_headers=0))
    assert parts.key in engine.collection.facts.tables()
    upkeep.erase_documents(engine.collection, [parts])
    assert engine.collection.facts.tables() == {}


def test_a_figure_that_was_reckoned_goes_with_the_document_that_it_stands_on(engine, parts):
    sheet = ask(engine, Question("Sum up the column 2024 of the parts."), cancel=Cancel(), on_step=lambda step: None)
    assert sheet.is_reckoned and upkeep.remnants(engine.collection, {parts.key})
    upkeep.erase_documents(engine.collection, [parts])
    assert upkeep.remnants(engine.collection, {parts.key}) == []
    [(_, _, _, form)] = engine.collection.kept_sheets.all()
    assert form["reckoning"] is None and "47" not in form["answer"]
