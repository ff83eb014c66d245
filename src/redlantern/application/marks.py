# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs that are the mark which later ones are held against: setting one, what was lost since, and when to ask again."""

from dataclasses import dataclass, replace

from redlantern import __version__
from redlantern.answering.engine import Engine
from redlantern.application.trials import RunState, begin, load, runs, sets
from redlantern.translation import tr
from redlantern.trials.comparing import Difference, losses
from redlantern.trials.running import state_of
from redlantern.trials.values import Lane, QuestionSet, TrialRun, as_values


@dataclass(frozen=True)
class Lost:
    """What a run lost against the mark: in which way, and the questions; the run that is the mark."""

    mark: TrialRun
    lane: Lane
    differences: tuple[Difference, ...]


def set_mark(engine: Engine, run_id: int, *, is_mark: bool) -> None:
    """Hold later runs of the same set against this one, and no longer against another."""
    chosen = load(engine, run_id).run
    with engine.collection.file.writing():
        for state in runs(engine):
            run = state.run
            wanted = is_mark if run.run_id == run_id else run.is_mark and run.set_id != chosen.set_id
            if run.is_mark != wanted:
                engine.collection.trials.keep_run(as_values(replace(run, is_mark=wanted)), run.run_id)


def lost_against_mark(engine: Engine, state: RunState) -> list[Lost]:
    """What a run lost against the mark of its set, way by way of the same name; nothing where there is no other mark."""
    marks = [other for other in runs(engine) if other.run.is_mark and other.run.set_id == state.run.set_id]
    marks = [other for other in marks if other.run.run_id != state.run.run_id]
    found = []
    for other in marks:
        for lane in state.run.lanes:
            twin = next((each for each in other.run.lanes if each.arrangement.name == lane.arrangement.name), None)
            lost = losses(state.run, other.run, state.marked, other.marked, lane, twin) if twin is not None else []
            if lost:
                found.append(Lost(other.run, lane, tuple(lost)))
    return found


def outdated_marks(engine: Engine) -> list[tuple[RunState, str]]:
    """The marks since which something changed that may cost pages, each with what did, in words."""
    documents, found = state_of(engine.collection.documents()), []
    for state in runs(engine):
        made = state.run.made
        changes = [
            words for words, is_other in (
                (tr("the documents changed"), made.documents != documents),
                (tr("the embedding model is another"), made.embedding != engine.embedder.identity),
                (tr("the program is another version"), made.version != __version__),
            ) if is_other
        ]  # fmt: skip
        later = [
            other
            for other in runs(engine)
            if other.run.set_id == state.run.set_id and other.run.made.documents == documents
        ]
        is_asked_since = any(other.is_done and other.run.began_at > state.run.began_at for other in later)
        if state.run.is_mark and changes and not is_asked_since:
            found.append((state, tr(" and ").join(changes)))
    return found


def ask_again(engine: Engine, run_id: int) -> int:
    """Begin a new run of a run's questions in the same ways; gives its id."""
    run = load(engine, run_id).run
    now = next(
        (each for each in sets(engine) if each.set_id == run.set_id), QuestionSet(run.name, run.questions, run.set_id)
    )
    return begin(engine, now, [lane.arrangement for lane in run.lanes])
