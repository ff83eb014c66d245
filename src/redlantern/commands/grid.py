# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern batch --each-document`: the same questions put to each document, as a grid; goes on where it was interrupted."""

import sys
from dataclasses import replace
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.application import trials
from redlantern.application.exporting import put_exported
from redlantern.application.grids import begin_grid, grid_as_file, grid_rows, put_form
from redlantern.commands.batch import read_or_refuse
from redlantern.commands.shared import ProgressLine, check_pattern, engine_on, stoppable
from redlantern.text.listing import counted
from redlantern.trials.values import NO_READER, Arrangement, QuestionSet


def grid(
    path: Path,
    questions: Path,
    results: Path,
    *,
    scope: str | None,
    lines_only: bool,
    model: Path | None,
    passphrase_source: str | None,
) -> int:
    """Put every question to every document in scope; each answer is kept in the collection before the next is asked."""
    check_pattern(scope)
    read_or_refuse(results)
    arrangement = Arrangement("found lines", NO_READER) if lines_only else Arrangement("written answers")
    progress = ProgressLine()
    with (
        engine_on(path, writes_prose=not lines_only, model=model, passphrase_source=passphrase_source) as engine,
        stoppable() as cancel,
    ):
        wanted = QuestionSet(questions.stem, tuple(trials.questions_from(engine, questions, cancel)))
        run_id = _run_to_go_on(engine, wanted, arrangement, scope)
        state = trials.go_on_with(engine, run_id, report=progress, cancel=cancel)
        progress.finish()
        rows = grid_rows(engine, state)
        put_exported(results, grid_as_file(wanted.name, rows, put_form(results)))
    asked = f"{counted(len(wanted.questions), 'question')} put to {counted(len(rows), 'document')}"
    print(f"{asked}; the grid is in {results}", file=sys.stderr)
    return 0


def _run_to_go_on(engine: Engine, wanted: QuestionSet, arrangement: Arrangement, scope: str | None) -> int:
    """The last grid of these questions and documents that is not done, or a new one."""
    documents = [each for each in engine.collection.documents() if scope is None or each.fits(scope)]
    keys = [each.key for each in documents if not each.is_refused]
    asked = trials.with_keys(engine, wanted.questions)
    for state in trials.runs(engine):
        run = state.run
        is_same = run.kind == "grid" and run.questions == asked and run.lanes[0].arrangement == arrangement
        if is_same and [lane.document_key for lane in run.lanes] == keys and not state.is_done:
            return run.run_id
    return begin_grid(engine, replace(wanted, questions=asked), arrangement, documents)
