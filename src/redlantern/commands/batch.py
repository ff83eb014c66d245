"""`redlantern batch`: asks every question of a file; goes on where it was interrupted."""

import json
import os
import sys
from pathlib import Path
from typing import Any

from redlantern.answering.asking import Question
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.commands.ask import answer
from redlantern.commands.shared import ProgressLine, engine_on, stoppable
from redlantern.errors import UsageError
from redlantern.progress import Progress


def batch(
    path: Path, questions: Path, results: Path, *, lines_only: bool, model: Path | None, passphrase_source: str | None
) -> int:
    """Ask all questions that have no result yet; each result is on disk before the next is asked."""
    rows = _read(questions)
    done = _finished(results)
    waiting = [row for row in rows if str(row["id"]) not in done]
    progress = ProgressLine()
    with (
        engine_on(path, writes_prose=not lines_only, model=model, passphrase_source=passphrase_source) as engine,
        stoppable() as cancel,
        results.open("a", encoding="utf-8") as file,
    ):
        for row in waiting:
            progress(Progress("Asking", len(done), len(rows), "questions"))
            question = Question(row["question"], tuple(row.get("history") or ()), lines_only=lines_only)
            sheet = answer(engine, question, cancel)
            file.write(json.dumps({"id": row["id"], **sheet_as_json(sheet)}, ensure_ascii=False) + "\n")
            file.flush()
            os.fsync(file.fileno())
            done.add(str(row["id"]))
    progress.finish()
    print(f"{len(waiting)} questions asked, {len(rows) - len(waiting)} were answered before", file=sys.stderr)
    return 0


def _read(questions: Path) -> list[dict[str, Any]]:
    try:
        lines = questions.read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError) as failure:
        raise UsageError(f"the questions {questions} cannot be read ({failure})") from failure
    rows = []
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            row = json.loads(line)
        except json.JSONDecodeError as failure:
            raise UsageError(f"line {number} of {questions} is not JSON") from failure
        if not isinstance(row, dict) or "id" not in row or not isinstance(row.get("question"), str):
            raise UsageError(f"line {number} of {questions} needs an id and a question")
        if not row["question"].strip():
            raise UsageError(f"the question on line {number} of {questions} is empty")
        rows.append(row)
    return rows


def _finished(results: Path) -> set[str]:
    """The ids that have a whole result; a last line cut short by an interruption is taken off the file."""
    if not results.exists():
        return set()
    raw = results.read_bytes()
    whole = raw[: raw.rfind(b"\n") + 1]
    if whole != raw:
        with results.open("r+b") as file:
            file.truncate(len(whole))
    return {str(json.loads(line)["id"]) for line in whole.splitlines() if line.strip()}
