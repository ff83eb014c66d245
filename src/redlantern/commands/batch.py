# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern batch`: asks every question of a file; goes on where it was interrupted."""

import contextlib
import errno
import json
import os
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TextIO

from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.collection.errors import DiskFullError
from redlantern.commands.ask import answer
from redlantern.commands.shared import ProgressLine, check_text, engine_on, stoppable
from redlantern.errors import UsageError
from redlantern.progress import Progress
from redlantern.safety.names import json_line
from redlantern.translation import tr

_BEGINNING = b'{"id": '


def batch(
    path: Path, questions: Path, results: Path, *, lines_only: bool, model: Path | None, passphrase_source: str | None
) -> int:
    """Ask all questions that have no result yet; each result is on disk before the next is asked."""
    rows = _read(questions)
    done = _finished(results, read_or_refuse(results))
    waiting = [row for row in rows if str(row["id"]) not in done.ids]
    progress = ProgressLine()
    with (
        engine_on(path, writes_prose=not lines_only, model=model, passphrase_source=passphrase_source) as engine,
        stoppable() as cancel,
        _opened_to_go_on(results, done) as file,
    ):
        for row in waiting:
            progress(Progress(tr("Asking"), len(done.ids), len(rows), "questions"))
            question = Question(row["question"], tuple(row.get("history") or ()), lines_only=lines_only)
            sheet = answer(engine, question, cancel)
            form = {"id": row["id"], **sheet_as_json(sheet)}
            file.write(json_line(json.dumps(form, ensure_ascii=False)) + "\n")
            file.flush()
            os.fsync(file.fileno())
            done.ids.add(str(row["id"]))
    progress.finish()
    print(f"{len(waiting)} questions asked, {len(rows) - len(waiting)} were answered before", file=sys.stderr)
    return 0


def _read(questions: Path) -> list[dict[str, Any]]:
    try:
        lines = questions.read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError) as failure:
        why = failure.strerror if isinstance(failure, OSError) else "it is not UTF-8"
        raise UsageError(f"the questions {questions} cannot be read: {why}") from failure
    rows = []
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            row = json.loads(line)
        except (ValueError, RecursionError) as failure:
            raise UsageError(f"line {number} of {questions} is not JSON") from failure
        if not isinstance(row, dict) or "id" not in row or not isinstance(row.get("question"), str):
            raise UsageError(f"line {number} of {questions} needs an id and a question")
        if not isinstance(row["id"], str | int):
            raise UsageError(f"the id on line {number} of {questions} is neither a text nor a whole number")
        history = row.get("history") or []
        if not isinstance(history, list) or not all(isinstance(earlier, str) for earlier in history):
            raise UsageError(f"the history on line {number} of {questions} is no list of questions")
        if not row["question"].strip():
            raise UsageError(f"the question on line {number} of {questions} is empty")
        check_text(row["question"], *history)
        rows.append(row)
    return rows


def read_or_refuse(results: Path) -> bytes:
    """What stands in the results already; nothing where there are none yet. Nothing is touched.

    Raises
    ------
    UsageError
        If it cannot be written there.
    """
    if results.is_dir():
        raise UsageError(f"the results {results} cannot be written: it is a folder")
    if not results.parent.is_dir():
        raise UsageError(f"the results {results} cannot be written: their folder does not exist")
    try:
        return results.read_bytes() if results.exists() else b""
    except OSError as failure:
        raise UsageError(f"the results {results} cannot be read: {failure.strerror}") from failure


@dataclass(frozen=True)
class Finished:
    """The ids that have a whole result, and how many bytes of the file those take."""

    ids: set[str]
    n_bytes: int


def _finished(results: Path, raw: bytes) -> Finished:
    """Look what is there already: only results of ours are gone on with, and only their last line may be cut short.

    Raises
    ------
    UsageError
        If there is anything else; nothing was touched.
    """
    whole = raw[: raw.rfind(b"\n") + 1]
    ids = set()
    for number, line in enumerate(whole.split(b"\n")[:-1], start=1):
        try:
            row = json.loads(line)
            if not isinstance(row, dict) or "id" not in row or "found_lines" not in row:
                raise ValueError("no result")
        except (ValueError, RecursionError) as failure:
            raise UsageError(
                f"line {number} of {results} is no result of an earlier run, so nothing was written; name another file"
            ) from failure
        ids.add(str(row["id"]))
    if len(whole) != len(raw) and not raw[len(whole) :].startswith(_BEGINNING):
        raise UsageError(
            f"the last line of {results} is no result of an earlier run, so nothing was written; name another file"
        )
    return Finished(ids, len(whole))


@contextlib.contextmanager
def _opened_to_go_on(results: Path, done: Finished) -> Iterator[TextIO]:
    """Open the results, for this login alone, after the last whole one; a line that was cut short goes."""
    try:
        handle = os.open(results, os.O_WRONLY | os.O_CREAT | os.O_NOFOLLOW, 0o600)
    except OSError as failure:
        raise UsageError(f"the results {results} cannot be written: {failure.strerror}") from failure
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        os.ftruncate(handle, done.n_bytes)
        file.seek(done.n_bytes)
        try:
            yield file
        except OSError as failure:
            if failure.errno == errno.ENOSPC:
                raise DiskFullError(str(results)) from failure
            raise
