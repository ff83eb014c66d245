# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern trials` and grids as commands: figures, conclusions, JSON, going on, wrong use."""

import json

import pytest

from redlantern.commands.line import run
from redlantern.commands.trials import arrangement_of

QUESTIONS = (
    {"id": "wet", "question": "At what relative humidity shall work cease?", "kind": "look-up", "expected": ["70 per cent"],
     "right": [{"file": "contract.md", "page": 1}]},
    {"id": "paper", "question": "Which wallpaper hangs in Berlin?", "kind": "off subject"},
)  # fmt: skip


@pytest.fixture
def path(folder, tmp_path, capsys):
    made = tmp_path / "file.redlantern"
    assert run(["index", str(made), str(folder)]) == 0
    capsys.readouterr()
    return made


@pytest.fixture
def questions(tmp_path):
    file = tmp_path / "asked.jsonl"
    file.write_text("".join(json.dumps(row) + "\n" for row in QUESTIONS), encoding="utf-8")
    return file


def test_a_set_from_a_file_is_run_in_two_ways_listed_and_compared(path, questions, capsys):
    ways = ["--way", "none", "--way", "none,reranked=0"]
    assert run(["trials", "run", str(path), "--questions", str(questions), *ways]) == 0
    said = capsys.readouterr().out
    assert "asked, no model\n" in said and "asked, no model, passages compared word by word 0\n" in said
    assert [line.split()[:4] for line in said.splitlines() if line.startswith("answerable")] == [
        ["answerable", "1", "1", "1"]
    ] * 2
    assert (
        "right page cited: “no model” and “no model, passages compared word by word 0” come out the same on each of 1 question."
        in said
    )
    assert run(["trials", "list", str(path)]) == 0
    said = capsys.readouterr().out
    assert "1  asked, 2 questions" in said and "no model, no model, passages compared word by word 0; done" in said
    assert run(["trials", "compare", str(path), "--json"]) == 0
    form = json.loads(capsys.readouterr().out)
    assert form["answers"] == form["of"] == 4
    assert form["ways"][0]["counts"]["unanswerable"]["refused"] == 1
    assert {row["figure"] for row in form["compared"]} >= {"right page first", "refused where the documents are silent"}
    assert run(["trials", "compare", str(path)]) == 0
    assert "no question came out otherwise" in capsys.readouterr().out


def test_the_same_file_is_the_same_set_and_a_done_run_is_not_gone_on_with(path, questions, capsys):
    for _ in range(2):
        assert (
            run(["trials", "run", str(path), "--questions", str(questions), "--way", "none", "--resume", "--json"]) == 0
        )
    assert run(["trials", "list", str(path), "--json"]) == 0
    form = json.loads(capsys.readouterr().out.splitlines()[-1])
    assert [each["questions"] for each in form["sets"]] == [2] and len(form["runs"]) == 2


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["run", "FILE", "--way", "best"], "“best” is no way of answering"),
        (["run", "FILE", "--way", "none,threads=3"], "“threads” is no setting that a way can change"),
        (["run", "FILE", "--way", "none,reranked=many"], "the value of reranked is no number: many"),
        (["run", "FILE", "--way", "none", "--set", "x"], "there is no set “x”; there are none"),
        (["run", "FILE", "--way", "none"], "name the set with --set"),
        (["compare", "FILE"], "no run is kept yet"),
        (["compare", "FILE", "--run", "4"], "there is no such run"),
    ],
)
def test_wrong_use_is_said(path, capsys, words, said):
    assert run(["trials", *[str(path) if word == "FILE" else word for word in words]]) == 2
    assert said in capsys.readouterr().err


def test_ways_have_names():
    assert arrangement_of("own").reader == ""
    assert arrangement_of("none, word_weight=0.5, reranked=0").name == (
        "no model, what the question's words count beside its meaning 0.5, passages compared word by word 0"
    )
    assert arrangement_of("none,reranked=0").settings == {"reranked": 0}


def test_the_same_questions_go_to_each_document(path, tmp_path, capsys):
    asked, grid = tmp_path / "asked.txt", tmp_path / "grid.json"
    asked.write_text("At what relative humidity shall work cease?\nWho has the key?\n", encoding="utf-8")
    words = ["batch", str(path), str(asked), str(grid), "--each-document", "--lines-only"]
    assert run(words) == 0
    assert f"2 questions put to 2 documents; the grid is in {grid}" in capsys.readouterr().err
    form = json.loads(grid.read_text(encoding="utf-8"))
    by_path = {row["path"].rpartition("/")[2]: row["answers"] for row in form["rows"]}
    assert "70 per cent" in by_path["contract.md"][0]["answer"] and by_path["contract.md"][0]["support"] == "found line"
    assert run([*words, "--scope", "letters/*"]) == 0
    assert len(json.loads(grid.read_text(encoding="utf-8"))["rows"]) == 1
