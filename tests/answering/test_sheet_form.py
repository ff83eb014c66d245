# SPDX-License-Identifier: GPL-3.0-or-later
"""The JSON form of every kind of sheet: as published, and the same after the way there and back."""

import json
import re
from pathlib import Path

import jsonschema
import msgspec
import pytest

from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import AnsweredSheet, PlacesSheet, RefusedSheet, SummarySheet
from redlantern.answering.sheet_form import relinked, sheet_as_json, sheet_from_json
from redlantern.answering.sheet_schema import SheetForm, schema
from redlantern.progress import Cancel

DOCS = Path(__file__).parents[2] / "docs"
PUBLISHED = json.loads((DOCS / "sheet.schema.json").read_text())
ASKED = {
    AnsweredSheet: "At what relative humidity in the loft shall work cease?",
    RefusedSheet: "Which planets have rings?",
    SummarySheet: "Summarise these documents",
    PlacesSheet: '"relative humidity"',
}


def asked(engine, text):
    *_, done = engine.ask(Question(text), Cancel())
    return done.sheet


@pytest.mark.parametrize("kind", ASKED, ids=lambda kind: kind.__name__)
def test_each_kind_of_sheet_has_the_published_form_and_comes_back_the_same(engine, kind):
    sheet = asked(engine, ASKED[kind])
    assert type(sheet) is kind
    # As it is kept and printed: through text.
    form = json.loads(json.dumps(sheet_as_json(sheet)))
    jsonschema.validate(form, PUBLISHED)
    ids = {document.key: document.document_id for document in engine.collection.documents()}
    again = sheet_from_json(form, ids)
    assert type(again) is kind
    assert json.loads(json.dumps(sheet_as_json(again))) == form
    assert [line.citation for line in again.found_lines] == [line.citation for line in sheet.found_lines]


def test_the_published_schema_is_the_one_of_the_form():
    assert schema() == PUBLISHED


def test_what_does_not_have_the_form_is_refused_by_schema_and_reader_alike(engine):
    form = json.loads(json.dumps(sheet_as_json(asked(engine, ASKED[AnsweredSheet]))))
    for broken in (form | {"refused": "no"}, {key: form[key] for key in form if key != "passages"}):
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate(broken, PUBLISHED)
        with pytest.raises(msgspec.ValidationError):
            sheet_from_json(broken, {})


def test_every_key_stands_in_the_document_and_no_other():
    text = (DOCS / "sheet-json.md").read_text()
    table = re.findall(r"^\| `(\w+)` \|", text, re.MULTILINE)
    assert table == list(SheetForm.__struct_fields__)


def test_citations_are_led_to_where_their_documents_are_now(engine):
    for text in ASKED.values():
        sheet = asked(engine, text)
        keys = {document.key: document.document_id + 100 for document in engine.collection.documents()}
        moved = relinked(sheet, keys)
        before = [line.citation.document_id for line in sheet.found_lines]
        assert [line.citation.document_id for line in moved.found_lines] == [number + 100 for number in before]
        assert relinked(moved, {}).passages == relinked(sheet, {}).passages
