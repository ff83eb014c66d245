# SPDX-License-Identifier: GPL-3.0-or-later
"""Documents that give different values for what was asked, and those that only seem to."""

import json
from dataclasses import replace

import pytest

from redlantern.answering.changes import source_changes
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet_form import sheet_as_json, sheet_from_json
from redlantern.collection import upkeep
from redlantern.progress import Cancel, silent

ONE = "# Letter of the mason of 3 May 2026\n\nThe completion date of the tower shall be moved by 41 working days.\n"
OTHER = "# Letter of the parish of 9 May 2026\n\nThe parish accepts that the completion date of the tower is moved by 18 working days.\n"


def sheet_of(make_engine, folder, question, **files):
    return asked(make_engine, folder, question, **files)[1]


def asked(make_engine, folder, question, **files):
    for name, text in files.items():
        (folder / f"{name}.md").write_text(text, encoding="utf-8")
    engine = make_engine()
    engine.update([folder], report=silent, cancel=Cancel())
    return engine, list(engine.ask(Question(question, lines_only=True), Cancel()))[-1].sheet


QUESTION = "By how many working days is the completion date of the tower moved?"


def test_two_values_stand_side_by_side_with_their_documents_dates(make_engine, tmp_path):
    sheet = sheet_of(make_engine, tmp_path, QUESTION, one=ONE, other=OTHER)
    assert sheet.disagreement is not None
    assert {side.value for side in sheet.disagreement.sides} == {"41 days", "18 days"}
    assert {side.dated for side in sheet.disagreement.sides} == {"3 May 2026", "9 May 2026"}
    ids = {side.citation.path: side.citation.document_id for side in sheet.disagreement.sides}
    assert sheet_from_json(sheet_as_json(sheet), ids).disagreement == sheet.disagreement


@pytest.mark.parametrize(
    "other",
    [
        OTHER.replace("18 working days", "41 working days"),
        OTHER.replace("18 working days", "18 per cent"),
        OTHER.replace("completion date of the tower", "wall of the garden"),
        OTHER.replace("18 working days", "the first 18 working days"),
    ],
)
def test_one_value_another_unit_another_thing_or_a_part_is_no_disagreement(make_engine, tmp_path, other):
    assert sheet_of(make_engine, tmp_path, QUESTION, one=ONE, other=other).disagreement is None


def test_within_one_document_nothing_is_set_against_itself(make_engine, tmp_path):
    assert sheet_of(make_engine, tmp_path, QUESTION, one=ONE + OTHER.split("\n\n")[1]).disagreement is None


def test_dates_may_differ_too(make_engine, tmp_path):
    texts = {
        "one": "The key of the tower was lost on 12 March 2026.\n",
        "other": "The key of the tower was lost on 14 March 2026.\n",
    }
    sheet = sheet_of(make_engine, tmp_path, "When was the key of the tower lost?", **texts)
    assert {side.value for side in sheet.disagreement.sides} == {"12 March 2026", "14 March 2026"}


def test_an_erased_document_leaves_no_value_behind_even_where_nothing_else_of_it_was_shown(make_engine, tmp_path):
    engine, sheet = asked(make_engine, tmp_path, QUESTION, one=ONE, other=OTHER)
    form = sheet_as_json(sheet)
    # As if its line and its passage had not been among the few that are kept.
    form["found_lines"] = [one for one in form["found_lines"] if one["citation"]["path"] != "one.md"]
    form["passages"] = [one for one in form["passages"] if one["path"] != "one.md"]
    engine.collection.kept_sheets.keep("now", QUESTION, form)
    one = next(document for document in engine.collection.documents() if document.path == "one.md")
    assert upkeep.remnants(engine.collection, {one.key}) != []
    upkeep.erase_documents(engine.collection, [one])
    [(_, _, _, kept)] = engine.collection.kept_sheets.all()
    assert kept["disagreement"] is None
    assert "41 days" not in json.dumps(kept)
    assert upkeep.remnants(engine.collection, {one.key}) == []


def test_a_document_behind_a_value_that_changed_is_told(make_engine, tmp_path):
    engine, sheet = asked(make_engine, tmp_path, QUESTION, one=ONE, other=OTHER)
    (tmp_path / "one.md").write_text(ONE.replace("41", "43"), encoding="utf-8")
    engine.update([tmp_path], report=silent, cancel=Cancel())
    alone = replace(sheet, found_lines=(), claims=())
    [change] = source_changes(alone, engine.collection.documents())
    assert change.what == "changed"
