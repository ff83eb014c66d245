# SPDX-License-Identifier: GPL-3.0-or-later
"""Files of questions: every form that is taken, and what is refused with a reason."""

import json

import pytest

from redlantern.trials.question_files import QuestionFileError, as_rows, question_of, questions_of_table, read_questions
from redlantern.trials.values import RightPage


def test_lines_are_questions():
    found = read_questions("asked.txt", b"When must work stop?\n\n  Who pays? \n")
    assert [(each.question_id, each.question) for each in found] == [("1", "When must work stop?"), ("2", "Who pays?")]


def test_jsonl_with_everything_comes_back_as_it_went():
    row = {
        "id": "d1", "kind": "several", "question": "Where?", "history": ["Who?"], "expected": ["a", "b"],
        "right": [{"file": "x/a.pdf", "page": 3}, {"file": "b.md", "page": 1, "pooled": True}], "tags": ["shared"],
    }  # fmt: skip
    [found] = read_questions("q.jsonl", (json.dumps(row) + "\n").encode())
    assert found.right == (RightPage("x/a.pdf", 3), RightPage("b.md", 1, is_pooled=True))
    assert (found.tags, found.wants_all, found.history) == (("several", "shared"), True, ("Who?",))
    [again] = [question_of(each, 1) for each in as_rows([found])]
    assert again.right == found.right and again.expected == found.expected and again.tags == found.tags


@pytest.mark.parametrize("separator", [",", ";", "\t"])
def test_a_table_has_its_columns_by_name(separator):
    names = ["id", "Question", "expected", "page", "absent"]
    rows = [["a", "How wet?", "70 per cent|70 %", "contract.md:1", ""], ["b", "Who paints?", "", "", "yes"]]
    cells = [[cell.replace("|", "; ") if separator != ";" else cell for cell in row] for row in [names, *rows]]
    content = "\n".join(separator.join(row) for row in cells).encode("utf-8-sig")
    wet, paints = read_questions("q.csv", content)
    assert (wet.question_id, wet.right) == ("a", (RightPage("contract.md", 1),))
    assert wet.expected == (("70 per cent|70 %",) if separator == ";" else ("70 per cent", "70 %"))
    assert paints.is_absent and not wet.is_absent


def test_a_table_without_names_has_its_questions_first():
    assert [each.question for each in questions_of_table("q.xlsx", [["When?", "x"], ["", ""], ["Who?"]])] == [
        "When?",
        "Who?",
    ]


@pytest.mark.parametrize(
    ("name", "content", "reason"),
    [
        ("a.txt", b"", "there is no question in it"),
        ("a.txt", b"\xff\xfe", "it is not UTF-8"),
        ("a.jsonl", b"{", "line 1 is not JSON"),
        ("a.jsonl", b"[1]", "line 1 is no object"),
        ("a.jsonl", b'{"id": 1}', "row 1 has no question"),
        ("a.jsonl", b'{"question": "a"}\n{"id": 1, "question": "b"}', "two questions have the id 1"),
        ("a.jsonl", b'{"question": "a", "right": [{"file": "x"}]}', "a page of row 1 is not given as a path and a number"),
        ("a.jsonl", b'{"question": "a", "right": "x"}', "\u201cright\u201d of row 1 is no list of pages"),
        ("a.csv", b"question,page\nWho?,contract.md", "a page of row 1 is not given as a path and a number"),
    ],
)  # fmt: skip
def test_what_cannot_be_taken_over_is_said(name, content, reason):
    with pytest.raises(QuestionFileError) as failure:
        read_questions(name, content)
    assert str(failure.value) == f"The questions in “{name}” cannot be taken over: {reason}. Nothing was changed."
