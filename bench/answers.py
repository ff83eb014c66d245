# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures answers: right pages cited, expected words said, claims supported, refusals, with each packaged reader and without."""

import sys
import tempfile
from collections.abc import Iterator
from dataclasses import asdict
from functools import partial
from pathlib import Path
from typing import Any

from bench.asking import DEMO, answer, demo_questions, rows
from bench.collections import opened
from bench.open_documents import MEASURED, QUESTIONS
from redlantern.models.hosted import HostedModel
from redlantern.models.readers import reader_of
from redlantern.trials.counts import Counts, by_kind, table
from redlantern.trials.marking import mark
from redlantern.trials.question_files import question_of
from redlantern.trials.running import page_text
from redlantern.trials.values import Marked, TrialQuestion

READER_WORDS = ("close", "light", "none")


def measure(only: str = "", *, model: str = "") -> dict[str, dict[str, Counts]]:
    """Ask all questions of the three collections, or of one; gives counts by kind for each, with each reader and without, or with
    one.
    """
    found: dict[str, dict[str, Counts]] = {}
    for name, documents, questions, kept in _collections():
        if only not in ("", name):
            continue
        for word in [model] if model else READER_WORDS:
            answers: list[tuple[TrialQuestion, Marked]] = []
            reader = reader_of(word)
            if reader is None and word != "none":
                continue
            hosted = HostedModel(reader.place) if reader is not None else None
            with tempfile.TemporaryDirectory() as folder, opened(kept or Path(folder), documents, hosted) as engine:
                if hosted is not None:
                    hosted.start()
                for number, row in enumerate(questions, start=1):
                    print(f"\r{name}: {number} of {len(questions)} ", end="", file=sys.stderr, flush=True)
                    question = question_of(row, number)
                    answers.append((question, mark(question, answer(engine, row), partial(page_text, engine))))
            found[f"{name}, {f'{word} reader' if reader is not None else 'no model'}"] = by_kind(answers)
    return found


def _collections() -> Iterator[tuple[str, Path, list[dict[str, Any]], Path | None]]:
    yield "demo", DEMO / "documents", demo_questions(), None
    for one in MEASURED:
        if one.documents.exists():
            yield (
                one.name,
                one.documents,
                rows(one.questions) + rows(QUESTIONS / f"{one.name}-unanswered.jsonl"),
                one.kept_index(),
            )


def show(result: dict[str, dict[str, Counts]]) -> None:
    """Print the tables, and what their columns mean."""
    print(table(result))


def as_json(result: dict[str, dict[str, Counts]]) -> dict[str, Any]:
    """The result as plain values."""
    return {name: {kind: asdict(one) for kind, one in by_kind.items()} for name, by_kind in result.items()}
