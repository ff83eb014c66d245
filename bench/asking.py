"""The demo's questions, and how one is asked."""

import json
from pathlib import Path
from typing import Any

from redlantern.answering.asking import DoneStep, Question
from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.progress import Cancel

DEMO = Path(__file__).parent.parent / "demo"
UNANSWERABLE = ("off subject", "near")


def rows(path: Path) -> list[dict[str, Any]]:
    """Read a file of questions."""
    return [json.loads(line) for line in path.read_text(encoding="utf-8").splitlines()]


def demo_questions() -> list[dict[str, Any]]:
    """The questions of demo/questions.jsonl."""
    return rows(DEMO / "questions.jsonl")


def answer(engine: Engine, row: dict[str, Any]) -> Sheet:
    """Ask one question."""
    question = Question(row["question"], tuple(row["history"]))
    *_, done = engine.ask(question, Cancel())
    assert isinstance(done, DoneStep)
    return done.sheet
