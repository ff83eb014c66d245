# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo's questions, and how one is asked."""

import json
from pathlib import Path
from typing import Any

from redlantern.answering.asking import DoneStep
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import Sheet
from redlantern.progress import Cancel

DEMO = Path(__file__).parent.parent / "demo"
UNANSWERABLE = ("off subject", "near")


def rows(path: Path, *, unpooled: bool = False) -> list[dict[str, Any]]:
    """Read a file of questions; `unpooled` leaves out the right pages that were found by judging a pool (see bench.pool)."""
    read = [json.loads(line) for line in path.read_text(encoding="utf-8").splitlines()]
    if unpooled:
        for row in read:
            row["right"] = [one for one in row["right"] if not one.get("pooled")]
    return read


def demo_questions() -> list[dict[str, Any]]:
    """The questions of demo/questions.jsonl."""
    return rows(DEMO / "questions.jsonl")


def answer(engine: Engine, row: dict[str, Any]) -> Sheet:
    """Ask one question."""
    question = Question(row["question"], tuple(row["history"]))
    *_, done = engine.ask(question, Cancel())
    assert isinstance(done, DoneStep)
    return done.sheet
