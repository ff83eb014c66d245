# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern read-through` as a command: hits, statement, JSON, going on, wrong use."""

import json

import pytest

from redlantern.application import read_through as throughs
from redlantern.commands.line import run
from redlantern.commands.parser import WAYS, make_parser
from redlantern.readthrough import values

QUESTION = "every page that speaks of humidity"


@pytest.fixture
def path(folder, tmp_path, capsys):
    made = tmp_path / "file.redlantern"
    (folder / "broken.pdf").write_bytes(b"%PDF-1.4 nothing")
    assert run(["index", str(made), str(folder)]) == 0
    capsys.readouterr()
    return made


def test_the_ways_of_the_command_line_are_those_there_are():
    assert values.WAYS == WAYS
    given = make_parser().parse_args(["read-through", "file", QUESTION])
    assert (given.how, given.resume, given.json) == ("lines", False, False)


def test_json_has_hits_pages_estimate_method_and_models(path, capsys):
    assert run(["read-through", str(path), QUESTION, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert set(found) == {"question", "hits", "pages", "estimate", "method", "models", "seconds"}
    first = max(found["hits"], key=lambda hit: hit["certainty"])
    assert first["path"] == "contract.md" and first["page"] == 1 and "umidity" in first["text"]
    assert set(first) == {"document", "path", "page", "start", "end", "text", "certainty", "state", "how"}
    assert found["pages"]["in_scope"] == found["pages"]["read"] > 0
    assert [row["path"] for row in found["pages"]["unread"]] == ["broken.pdf"]
    assert found["estimate"] == {"silent": found["pages"]["silent"], "judged": 0, "missed": 0, "interval": None}
    assert found["method"]["how"] == "lines" and found["models"]["language"] is None


def test_in_words_with_the_statement_and_only_what_is_in_scope(path, capsys):
    assert run(["read-through", str(path), QUESTION, "--statement", "--scope", "contract.md"]) == 0
    said = capsys.readouterr().out
    assert "LOOKED FOR" in said and "CON p.1" in said and "LET" not in said
    assert "Statement of a read-through" in said and "Complete: every page in scope was read." in said
    assert run(["read-through", str(path), QUESTION, "--statement"]) == 0
    said = capsys.readouterr().out
    assert "Complete" not in said and "broken.pdf: the whole document." in said


def test_resumed_it_is_the_same_one_and_reads_nothing_twice(path, capsys, make_engine):
    assert run(["read-through", str(path), QUESTION, "--json"]) == 0
    before = json.loads(capsys.readouterr().out)
    assert run(["read-through", str(path), QUESTION, "--json", "--resume"]) == 0
    after = json.loads(capsys.readouterr().out)
    assert after["hits"] == before["hits"]
    assert len(throughs.read_throughs(make_engine(path.name))) == 1
    assert run(["read-through", str(path), QUESTION]) == 0
    assert len(throughs.read_throughs(make_engine(path.name))) == 2


def test_wrong_use_and_what_cannot_be_done_are_told(path, capsys):
    assert run(["read-through", str(path), "  "]) == 1
    assert "Nothing is looked for yet" in capsys.readouterr().err
    assert run(["read-through", str(path), QUESTION, "--scope", "nothing*"]) == 1
    assert "No document in scope" in capsys.readouterr().err
    with pytest.raises(SystemExit):
        run(["read-through", str(path), QUESTION, "--how", "quickly"])


def test_words_of_a_document_do_not_steer_the_terminal(folder, tmp_path, capsys):
    (folder / "hostile.txt").write_text(
        "Note\n\nThe humidity \x1b]0;owned\x07 rose \x1b[2J in the loft at once.\n", encoding="utf-8"
    )
    made = tmp_path / "hostile.redlantern"
    assert run(["index", str(made), str(folder)]) == 0
    assert run(["read-through", str(made), QUESTION, "--statement"]) == 0
    said = capsys.readouterr().out
    assert "hostile.txt" in said and not any(sign in said for sign in "\x1b\x07")
