# SPDX-License-Identifier: GPL-3.0-or-later
"""The files of questions that the benches read."""

import json

from bench.asking import demo_questions, rows

from redlantern.trials.question_files import question_of


def test_pages_that_were_judged_right_in_the_pool_can_be_left_out(tmp_path):
    path = tmp_path / "questions.jsonl"
    named, pooled = {"file": "a.md", "page": 2}, {"file": "b.md", "page": 1, "pooled": True}
    path.write_text(json.dumps({"right": [named, pooled]}), encoding="utf-8")
    assert rows(path)[0]["right"] == [named, pooled]
    assert rows(path, unpooled=True)[0]["right"] == [named]


def test_every_question_of_the_demo_says_what_is_expected():
    questions = [question_of(row, number) for number, row in enumerate(demo_questions(), start=1)]
    assert len(questions) == 50
    assert not [question.question for question in questions if question.expects_nothing]
    assert {question.tags[0] for question in questions if question.is_absent} <= {"off subject", "near"}
