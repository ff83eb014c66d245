# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo's own tables, as a visitor asks of them on the first day."""

from pathlib import Path

import pytest

from redlantern.collection.values import Document
from redlantern.progress import Cancel
from redlantern.reading.material import Material
from redlantern.reading.read import read_material
from redlantern.reckoning import wording
from redlantern.reckoning.checks import check_table
from redlantern.reckoning.reckon import reckon
from redlantern.reckoning.source import KeptTables, TableSource
from redlantern.text.question import parse_question

DOCUMENTS = Path(__file__).parents[2] / "demo" / "documents"
READ = (
    "invoices/2026-014.pdf", "invoices/2026-037.pdf", "invoices/roofer-5521.pdf", "records/humidity-log.pdf",
    "records/inventory.pdf", "records/journeys.xlsx",
)  # fmt: skip


@pytest.fixture(scope="module")
def source():
    documents, pages = {}, {}
    for number, path in enumerate(READ, start=1):
        read = read_material(Material(Path(path).name, data=(DOCUMENTS / path).read_bytes()))
        pages[number] = read.pages
        documents[number] = Document(
            number, "", read.title, read.kind, path, path, "", 0, len(read.pages), 1, language=read.language
        )
    return TableSource(documents, lambda document_id: pages[document_id])


@pytest.mark.parametrize(
    ("question", "answer"),
    [
        (
            "Which item on invoice 2026-037 is the most expensive?",
            "Leather workers, removing and gluing anew: 19.188,00 EUR (Total EUR, largest of 7 rows). "
            "By Unit price EUR it is Replacement of six warped ribs, poplar: 465,00 EUR.",
        ),
        ("How many line items does invoice 5521 have?", "4 rows."),
        (
            "What is the total of all invoices?",
            "198.853,08 EUR in all: the printed sums of 3 documents added up.",
        ),
        ("What was the highest humidity in the loft in March?", "78 %: 11.03.2026 (RH, largest of 22 rows)."),
        (
            "How many days lay between the stopping and the resuming of the leathering?",
            "23 days: from 16.03.2026 to 08.04.2026 (Date).",
        ),
        ("How much do the parts in the north vestry weigh in total?", "933 kg in all (Weight, 9 rows added up)."),
        ("Who drove the most kilometres?", "Halloran: 969 km (Kilometres, 4 rows)."),
    ],
)
def test_the_demo_is_reckoned_without_a_doubt(source, question, answer):
    asked = parse_question(question)
    found = reckon(asked, source.candidates(asked, [*source.documents], None, Cancel()))
    assert wording.sentence(found) == answer
    assert found.is_sure


def test_the_one_row_of_the_invoices_that_does_not_multiply_out(source):
    checks = [check_table(table) for number in (1, 2, 3) for table in source.tables(number)]
    assert [mismatch.words for check in checks for mismatch in check.mismatches] == [
        "Securing hatch, battens and screws: 6 h × 64,00 is 384,00, printed 320,00"
    ]
    assert wording.checked(checks) == "1 figure in 3 tables does not agree with the others."


def test_a_question_is_put_to_documents_in_scope_alone(source):
    asked = parse_question("What is the total of all invoices?")
    within = source.candidates(asked, [], frozenset({1, 3}), Cancel())
    assert {candidate.table.document_id for candidate in within} == {1, 3}


def test_tables_are_read_once_for_each_state_of_an_index(source):
    calls = []

    def pages_of(document_id):
        calls.append(document_id)
        return ()

    kept, before, after = KeptTables(), object(), object()
    for state in (before, before, after):
        kept.of(state, source.documents, pages_of).tables(4)
        kept.of(state, source.documents, pages_of).tables(4)
    assert calls == [4, 4]
