# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern update`: brings a collection up to date with the folders it follows, or says what that would do."""

import json
from pathlib import Path

from redlantern.application.documents import plan_update
from redlantern.commands.index import in_words
from redlantern.commands.shared import ProgressLine, duration, engine_on, plain, stoppable
from redlantern.indexing.plan import UpdatePlan
from redlantern.safety.names import json_line

_GROUPS = (
    ("new", "new"), ("changed", "changed"), ("moved", "moved"), ("gone", "gone"), ("made_anew", "to be made anew"),
    ("refused_before", "refused before and unchanged"), ("not_there", "followed folders that are not there, left as they are"),
)  # fmt: skip


def update(path: Path, *, only_plan: bool, as_json: bool, passphrase_source: str | None) -> int:
    """Carry out an update, or with `only_plan` print what it would do and change nothing."""
    progress = ProgressLine()
    is_changing = not only_plan
    with (
        engine_on(path, writes=is_changing, writes_prose=False, passphrase_source=passphrase_source) as engine,
        stoppable() as cancel,
    ):
        plan, seconds = plan_update(engine, cancel)
        if only_plan:
            form = plan.as_json() | {"seconds": round(seconds, 1)}
            print(json_line(json.dumps(form, ensure_ascii=False)) if as_json else _plan_in_words(plan, seconds))
            return 0
        try:
            summary = engine.carry_out(plan, report=progress, cancel=cancel)
        finally:
            progress.finish()
    print(json_line(json.dumps(summary.as_json(), ensure_ascii=False)) if as_json else in_words(summary))
    return 0


def _plan_in_words(plan: UpdatePlan, seconds: float) -> str:
    form = plan.as_json()
    lines = []
    for key, words in _GROUPS:
        if form[key]:
            lines.append(f"{len(form[key])} {words}")
            lines += [f"  {plain(entry)}" for entry in form[key]]
    lines.append(f"{plan.n_unchanged} unchanged")
    lines.append(
        f"An update would take about {duration(seconds)}." if plan.has_work else "An update would change nothing."
    )
    return "\n".join(lines)
