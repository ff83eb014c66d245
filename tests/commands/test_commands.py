# SPDX-License-Identifier: GPL-3.0-or-later
"""The commands, run as a person runs them; the real embedding model, and the real language model once."""

import csv
import datetime
import json
import os
import subprocess
import sys
from pathlib import Path

import openpyxl
import pytest

from tests.conftest import LETTER, write_pdf

pytestmark = pytest.mark.real_models


def redlantern(*words, **more):
    command = [sys.executable, "-m", "redlantern", *map(str, words)]
    return subprocess.run(command, capture_output=True, text=True, check=False, **more)


@pytest.fixture
def collection(tmp_path, folder):
    path = tmp_path / "file.redlantern"
    (folder / "broken.pdf").write_bytes(b"%PDF-1.7\nnothing")
    done = redlantern("index", path, folder, "--json")
    assert done.returncode == 0, done.stderr
    return path


def test_index_prints_a_summary_and_goes_on_past_a_refused_file(collection, folder):
    again = redlantern("index", collection, folder, "--json")
    summary = json.loads(again.stdout)
    assert summary["documents"]["unchanged"] == 3
    assert summary["documents"]["read"] == 0
    (folder / "new.txt").write_text("A new note about the blower.")
    (folder / "letters" / "key.txt").unlink()
    done = redlantern("index", collection, folder)
    assert done.returncode == 0
    assert done.stdout.startswith(
        "1 document read (0 of them changed), 2 unchanged, 0 moved, 0 copies, 1 removed, 0 refused"
    )
    assert "Reading and indexing" in done.stderr


def test_ask_in_words_and_as_json(collection):
    done = redlantern("ask", collection, "How humid may the loft be before work stops?", "--lines-only")
    assert done.returncode == 0
    assert "“7.1 Work shall cease when the relative humidity in the loft exceeds 70 per cent" in done.stdout
    done = redlantern("ask", collection, "What does a new key cost?", "--json", "--scope", "letters/*")
    sheet = json.loads(done.stdout)
    assert not sheet["refused"]
    assert sheet["claims"][0]["citations"][0]["path"] == "letters/key.txt"
    assert "340 euros" in sheet["answer"]
    assert {one["path"] for one in sheet["passages"]} == {"letters/key.txt"}


def test_batch_goes_on_after_an_interruption(collection, tmp_path):
    questions, results = tmp_path / "q.jsonl", tmp_path / "r.jsonl"
    rows = [
        {"id": 1, "question": "What is the deposit?"},
        {"id": "two", "question": "And when is it due?", "history": ["What is the deposit?"]},
    ]
    questions.write_text("\n".join(map(json.dumps, rows)))
    assert redlantern("batch", collection, questions, results, "--lines-only").returncode == 0
    whole = results.read_text()
    first, second = whole.splitlines()
    assert json.loads(second)["standalone_question"].startswith("And when is it due (deposit")
    # As if the machine had gone down while the second was written.
    results.write_text(first + "\n" + second[:40])
    done = redlantern("batch", collection, questions, results, "--lines-only")
    assert "1 questions asked, 1 were answered before" in done.stderr
    assert [json.loads(line)["id"] for line in results.read_text().splitlines()] == [1, "two"]


def test_text_writes_what_was_read(collection, tmp_path):
    target = tmp_path / "out"
    assert redlantern("text", collection, target).returncode == 0
    assert sorted(str(path.relative_to(target)) for path in target.rglob("*.md")) == [
        "contract.md.md",
        "letters/key.txt.md",
    ]
    written = (target / "contract.md.md").read_text()
    assert written.startswith("<!-- page 1 -->\n\n# Contract for the restoration\n\n## 7 Humidity")
    assert "| Deposit | 12.400,00 EUR | 3 March 2026 |" in written


def test_tables_are_written_as_printed_or_with_types(collection, tmp_path):
    assert redlantern("tables", collection, tmp_path / "csv").stdout.startswith("1 table written to")
    [written] = (tmp_path / "csv").rglob("*.csv")
    assert written.name == "contract.md, table 1.csv"
    assert written.stat().st_mode & 0o777 == 0o600
    rows = list(csv.reader(written.read_text("utf-8-sig").splitlines()))
    assert rows[0] == ["Stage", "Sum", "Due", "row is"]
    assert ["Deposit", "12.400,00 EUR", "3 March 2026", "item"] in rows
    assert redlantern("tables", collection, tmp_path / "xlsx", "--form", "xlsx").returncode == 0
    [book] = (tmp_path / "xlsx").rglob("*.xlsx")
    values = [[cell.value for cell in row] for row in openpyxl.load_workbook(book).active.iter_rows()]
    assert ["Deposit", 12400, datetime.datetime(2026, 3, 3), "item"] in values


def test_what_was_reckoned_is_printed_with_its_rows(collection):
    said = redlantern("ask", collection, "Which stage has the largest sum?", "--lines-only").stdout
    assert "RECKONED" in said
    assert "Find the largest Sum" in said
    form = json.loads(
        redlantern("ask", collection, "Which stage has the largest sum?", "--lines-only", "--json").stdout
    )
    assert form["reckoning"]["plan"]["operation"] == "largest"
    assert form["answer"].startswith(form["reckoning"]["answer"])
    [cell] = form["reckoning"]["cells"]
    assert cell["text"] == form["reckoning"]["value"]


def test_check_tells_a_whole_collection_from_a_damaged_one(collection):
    assert "is whole: 3 documents" in redlantern("check", collection).stdout
    raw = bytearray(collection.read_bytes())
    raw[-2000] ^= 1
    collection.write_bytes(raw)
    assert redlantern("check", collection).returncode == 1


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (["ask", "{none}", "What?"], 1, "There is no collection at"),
        (["check", "{letter}"], 1, "is not a collection of Red Lantern"),
        (["index", "{file}", "{none}"], 1, "There is no file or folder"),
        (["index", "{file}", "{bare}"], 1, "holds no files"),
        (["index", "{file}"], 2, "required: PATH"),
        (["fly"], 2, "invalid choice"),
        (["batch", "{file}", "{none}", "{none}"], 2, "cannot be read"),
        (["ask", "{file}", "  "], 1, "The question is empty"),
        (["ask", "{file}", "What?", "--model", "{none}"], 2, "there is no model file"),
    ],
)
def test_bad_input_has_a_clear_answer_and_no_trace(collection, tmp_path, words, code, said):
    (tmp_path / "letter").write_text(LETTER)
    (tmp_path / "bare").mkdir()
    places = {"none": tmp_path / "none", "letter": tmp_path / "letter", "bare": tmp_path / "bare", "file": collection}
    done = redlantern(*[word.format(**places) for word in words])
    assert done.returncode == code
    assert said in done.stderr
    assert "Traceback" not in done.stderr


def test_a_window_without_a_display_is_refused_in_words(collection):
    hidden = {name: value for name, value in os.environ.items() if name not in ("DISPLAY", "WAYLAND_DISPLAY")}
    done = redlantern("open", collection, env=hidden)
    assert done.returncode == 2
    assert "there is no display for a window" in done.stderr


def test_control_characters_of_a_document_do_not_reach_the_terminal(tmp_path):
    from redlantern.commands.shared import plain

    assert plain("a\x1b]0;title\x07b\u202ec\td") == "a‹1B›]0;title‹07›b‹202E›c | d"
    folder = tmp_path / "docs"
    folder.mkdir()
    (folder / "trap.txt").write_text("The blower is kept \x1b[31mred\x1b[0m in the museum of the waterworks.")
    write_pdf(folder / "x\x1b[2Jy.pdf", [[(72, 72, "Some words about a blower.")]])
    done = redlantern("index", tmp_path / "c.redlantern", folder)
    asked = redlantern("ask", tmp_path / "c.redlantern", "Where is the blower kept?", "--lines-only")
    assert "\x1b" not in done.stdout + done.stderr + asked.stdout
    assert "museum of the waterworks" in asked.stdout


def test_every_command_explains_itself():
    for name in ("index", "ask", "batch", "text", "check", "seal-test", "open", "demo"):
        done = redlantern(name, "--help")
        assert done.returncode == 0
        assert f"redlantern {name}" in done.stdout


def test_the_documentation_names_every_command_and_option():
    said = (Path(__file__).parents[2] / "docs" / "commands.md").read_text()
    for name in ("index", "ask", "batch", "text", "check", "seal-test", "open", "demo"):
        for word in redlantern(name, "--help").stdout.split():
            if word.strip("[],").startswith("--") and "help" not in word:
                assert word.strip("[],") in said
        assert f"redlantern {name}" in said
