# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo: its questions name pages that hold what they say, and its documents are what the README promises."""

import json
from collections import Counter
from pathlib import Path

import pytest

from redlantern.progress import Cancel

DEMO = Path(__file__).parent.parent / "demo"
QUESTIONS = [json.loads(line) for line in (DEMO / "questions.jsonl").read_text(encoding="utf-8").splitlines()]


@pytest.fixture(scope="module")
def pages():
    """Every page of the demo documents as read, by path and number."""
    from redlantern.reading.pool import ReaderPool

    pool = ReaderPool()
    found = {}
    for path in sorted(one for one in (DEMO / "documents").rglob("*") if one.is_file()):
        read, name = pool.read(path, Cancel()), path.relative_to(DEMO / "documents").as_posix()
        for inner, document in ((name, read), *((f"{name}/{part.name}", part.read) for part in read.parts)):
            for page in document.pages:
                found[inner, page.page_number] = page
    pool.close()
    return found


def test_there_are_as_many_documents_and_pages_as_promised(pages):
    assert len({path for path, _ in pages}) == 34
    assert len(pages) == 75
    assert sum(path == "contract/contract.pdf" for path, _ in pages) >= 12


def test_there_are_fifty_questions_of_every_kind():
    kinds = Counter(row["kind"] for row in QUESTIONS)
    assert sum(kinds.values()) == 50
    assert kinds["off subject"] + kinds["near"] == 10
    assert {"look-up", "number", "paraphrase", "misspelt", "follow-up"} <= set(kinds)
    assert len({row["id"] for row in QUESTIONS}) == 50


@pytest.mark.parametrize("row", [row for row in QUESTIONS if row["right"]], ids=lambda row: row["id"])
def test_the_right_pages_hold_the_right_words(row, pages):
    assert (row["file"], row["page"]) == (row["right"][0]["file"], row["right"][0]["page"])
    for right in row["right"]:
        text = pages[right["file"], right["page"]].text
        assert right["words"] in text
        # On no other page of the document, so that the question has one right page in it.
        others = [
            page.text for (path, number), page in pages.items() if path == right["file"] and number != right["page"]
        ]
        assert not any(right["words"] in other for other in others)
    assert any(expected in pages[one["file"], one["page"]].text for expected in row["expected"] for one in row["right"])


def test_the_printed_pages_know_where_their_words_are(pages):
    for (path, _), page in pages.items():
        if path.endswith(".pdf"):
            for block in page.blocks:
                boxes = page.boxes(block.start, block.end)
                assert boxes
                assert all(
                    0 <= box.left < box.right <= page.width_pt and 0 <= box.top < box.bottom <= page.height_pt
                    for box in boxes
                )


def test_the_tables_of_the_invoices_keep_their_columns(pages):
    text = pages["invoices/2026-037.pdf", 1].text
    assert "2\tAlum-tawed sheepskin\t46 skins\t118,00\t5.428,00" in text
    assert "\tNet\t\t\t38.940,00" in text


def test_running_headers_are_kept_apart_and_titles_are_not(pages):
    first = pages["condition-survey.pdf", 1]
    kinds = [(block.kind, first.text[block.start : block.end]) for block in first.blocks[:2]]
    assert kinds == [
        ("header", "Condition survey of the organ loft and roof"),
        ("heading", "Condition survey of the organ loft and roof"),
    ]
