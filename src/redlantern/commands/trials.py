# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern trials`: runs sets of questions with known answers, prints the figures, and says what to conclude."""

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from redlantern.answering.engine import Engine
from redlantern.application import marks, trials
from redlantern.application.trials import RunState
from redlantern.application.ways import setting_words
from redlantern.commands.shared import ProgressLine, engine_on, plain, stoppable
from redlantern.errors import UsageError
from redlantern.models.readers import reader_of
from redlantern.models.register import READERS
from redlantern.progress import Cancel
from redlantern.safety.names import json_line
from redlantern.text.listing import counted
from redlantern.trials.comparing import MAIN, conclusion, differences, versus
from redlantern.trials.counts import by_kind, table
from redlantern.trials.values import MEMORY, NO_READER, Arrangement, Lane, QuestionSet, changeable

_OWN = "own"
_NAMES = {_OWN: "the collection's own model", NO_READER: "no model", MEMORY: "own model, without documents"}


@dataclass(frozen=True)
class RunWish:
    """What is said of a run on the command line."""

    set_name: str | None = None
    questions: Path | None = None
    ways: Sequence[str] = ()
    goes_on: bool = False
    as_json: bool = False


def run(path: Path, wish: RunWish, *, passphrase_source: str | None) -> int:
    """Run a set, or go on with a run of it, until every question is answered; then print the figures."""
    arrangements = [arrangement_of(way) for way in wish.ways or (_OWN,)]
    progress = ProgressLine()
    with (
        engine_on(path, writes_prose=_needs_model(arrangements, wish), passphrase_source=passphrase_source) as engine,
        stoppable() as cancel,
    ):
        questions = _set_of(engine, wish, cancel)
        run_id = _run_to_go_on(engine, questions) if wish.goes_on else None
        if run_id is None:
            run_id = trials.begin(engine, questions, arrangements)
        state = trials.go_on_with(engine, run_id, report=progress, cancel=cancel)
        progress.finish()
        lost = marks.lost_against_mark(engine, state)
    if wish.as_json:
        print(json_line(json.dumps(as_json(state), ensure_ascii=False)))
        return 0
    print(figures(state))
    print("\n".join(["", *conclusions(state)]))
    for each in lost:
        names = [f"  {plain(difference.question.question)}" for difference in each.differences]
        said = f"\nSince the run that is the mark, “{plain(each.lane.arrangement.name)}” lost on:"
        print("\n".join([said, *dict.fromkeys(names)]))
    return 0


def list_kept(path: Path, *, as_json: bool, passphrase_source: str | None) -> int:
    """Print the sets and the runs."""
    with engine_on(path, writes_prose=False, passphrase_source=passphrase_source) as engine:
        sets, states = trials.sets(engine), trials.runs(engine)
    if as_json:
        form = {
            "sets": [
                {"number": each.set_id, "name": each.name, "questions": len(each.questions)} for each in sets
            ],
            "runs": [_run_json(state) for state in states],
        }  # fmt: skip
        print(json_line(json.dumps(form, ensure_ascii=False)))
        return 0
    print("SETS" if sets else "No set of questions is kept.")
    for each in sets:
        print(f"  {each.set_id:4}  {plain(each.name)}, {counted(len(each.questions), 'question')}")
    print("RUNS" if states else "No run is kept.")
    for state in states:
        run = state.run
        ways = plain(", ".join(lane.arrangement.name for lane in run.lanes[:4])) if run.kind == "trial" else ""
        ways = ways or counted(len(run.lanes), "row")
        done = "done" if state.is_done else f"{len(state.answers)} of {run.n_cells} answers"
        is_mark = "; the mark" if run.is_mark else ""
        print(f"  {run.run_id:4}  {run.began_at[:16]}  {run.kind}  {plain(run.name)}: {ways}; {done}{is_mark}")
    return 0


def compare(path: Path, number: int | None, *, as_json: bool, passphrase_source: str | None) -> int:
    """Print what a run says."""
    with engine_on(path, writes_prose=False, passphrase_source=passphrase_source) as engine:
        states = [state for state in trials.runs(engine) if state.run.kind == "trial"]
    chosen = [state for state in states if number in (None, state.run.run_id)]
    if not chosen:
        raise UsageError("there is no such run" if number is not None else "no run is kept yet")
    state = chosen[0]
    if as_json:
        print(json_line(json.dumps(as_json_with_wins(state), ensure_ascii=False)))
        return 0
    print(figures(state))
    print("\n".join(["", *conclusions(state), "", *_question_by_question(state)]))
    return 0


def arrangement_of(way: str) -> Arrangement:
    """A way of answering from its words on the command line.

    Raises
    ------
    UsageError
    """
    word, *pairs = [part.strip() for part in way.split(",")]
    known = [_OWN, NO_READER, MEMORY, *(reader.word for reader in READERS)]
    if word not in known:
        raise UsageError(f"“{word}” is no way of answering; there are {', '.join(known)}")
    if word in [reader.word for reader in READERS] and reader_of(word) is None:
        raise UsageError(f"the {word} reader is not on this machine; ./run setup fetches it")
    settings = dict(_setting(pair) for pair in pairs)
    name = _NAMES.get(word, f"{word} reader")
    name = ", ".join([name, *(f"{setting_words(key)} {value:g}" for key, value in settings.items())])
    return Arrangement(name, "" if word == _OWN else word, settings)


def figures(state: RunState) -> str:
    """The table of each way."""
    questions = {question.question_id: question for question in state.run.questions}
    return plain_lines(
        table(
            {
                f"{state.run.name}, {lane.arrangement.name}": by_kind(
                    (questions[question_id], cell.marked)
                    for (lane_id, question_id), cell in state.answers.items()
                    if lane_id == lane.lane_id
                )
                for lane in state.run.lanes
            }
        )
    )


def conclusions(state: RunState) -> list[str]:
    """What to conclude of each pair of ways, by the main figures."""
    said = []
    for first, second in _pairs(state.run.lanes):
        for found in versus(state.run.questions, state.marked, first.lane_id, second.lane_id):
            if found.figure.name in MAIN:
                words = conclusion(found, first.arrangement.name, second.arrangement.name)
                said.append(plain(f"{found.figure.name}: {words}"))
    return said


def as_json(state: RunState) -> dict[str, Any]:
    """The form that is documented in docs/trials.md."""
    questions = {question.question_id: question for question in state.run.questions}
    return _run_json(state) | {
        "ways": [
            {
                "name": lane.arrangement.name,
                "counts": {
                    kind: asdict(counts)
                    for kind, counts in by_kind(
                        (questions[question_id], cell.marked)
                        for (lane_id, question_id), cell in state.answers.items()
                        if lane_id == lane.lane_id
                    ).items()
                },
            }
            for lane in state.run.lanes
        ],
    }


def as_json_with_wins(state: RunState) -> dict[str, Any]:
    """The same with the comparisons."""
    return as_json(state) | {
        "compared": [
            {
                "first": first.arrangement.name, "second": second.arrangement.name, "figure": found.figure.name,
                **asdict(found.compared), "may_be_chance": found.compared.may_be_chance,
            }
            for first, second in _pairs(state.run.lanes)
            for found in versus(state.run.questions, state.marked, first.lane_id, second.lane_id)
        ],
    }  # fmt: skip


def plain_lines(text: str) -> str:
    """Text with names of a user's that must not steer the terminal, line by line."""
    return "\n".join(plain(line) for line in text.split("\n"))


def _run_json(state: RunState) -> dict[str, Any]:
    run = state.run
    return {
        "number": run.run_id, "name": run.name, "kind": run.kind, "began_at": run.began_at, "is_mark": run.is_mark,
        "answers": len(state.answers), "of": run.n_cells, "made": asdict(run.made),
    }  # fmt: skip


def _question_by_question(state: RunState) -> list[str]:
    lines = []
    for first, second in _pairs(state.run.lanes):
        found = differences(state.run.questions, state.marked, first.lane_id, second.lane_id)
        lines.append(plain(f"“{second.arrangement.name}” against “{first.arrangement.name}”, question by question:"))
        for each in found:
            sign = "+" if each.is_gain else "-"
            lines.append(f"  {sign} {each.figure.name}: {plain(each.question.question)}")
        if not found:
            lines.append("  no question came out otherwise")
    return lines


def _pairs(lanes: Sequence[Lane]) -> list[tuple[Lane, Lane]]:
    """The first way with each other one."""
    return [(lanes[0], other) for other in lanes[1:]]


def _setting(pair: str) -> tuple[str, float]:
    name, _, value = pair.partition("=")
    if name not in changeable():
        raise UsageError(f"“{name}” is no setting that a way can change; there are {', '.join(changeable())}")
    try:
        number = float(value)
    except ValueError as failure:
        raise UsageError(f"the value of {name} is no number: {value}") from failure
    return name, int(number) if number.is_integer() else number


def _needs_model(arrangements: Sequence[Arrangement], wish: RunWish) -> bool:
    return wish.goes_on or not all(arrangement.is_quick for arrangement in arrangements)


def _set_of(engine: Engine, wish: RunWish, cancel: Cancel) -> QuestionSet:
    sets = {each.name: each for each in trials.sets(engine)}
    if wish.questions is not None:
        name = wish.set_name or wish.questions.stem
        questions = trials.questions_from(engine, wish.questions, cancel)
        before = sets.get(name)
        if before is not None and before.questions == trials.with_keys(engine, questions):
            return before
        return trials.keep_set(engine, QuestionSet(name, tuple(questions), before.set_id if before else 0))
    if wish.set_name is not None and wish.set_name not in sets:
        raise UsageError(f"there is no set “{wish.set_name}”; there are {', '.join(sets) or 'none'}")
    if wish.set_name is None and len(sets) != 1:
        raise UsageError("name the set with --set, or a file of questions with --questions")
    return sets[wish.set_name] if wish.set_name is not None else next(iter(sets.values()))


def _run_to_go_on(engine: Engine, questions: QuestionSet) -> int | None:
    """The last run of a set that is not done."""
    for state in trials.runs(engine):
        if state.run.set_id == questions.set_id and state.run.kind == "trial" and not state.is_done:
            return state.run.run_id
    return None
