# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern index`: makes a collection from files and folders, or brings it up to date."""

import json
from collections.abc import Sequence
from pathlib import Path

from redlantern.application.opening import NewKey
from redlantern.commands.shared import ProgressLine, engine_on, plain, stoppable
from redlantern.indexing.scanning import check_there_are_files
from redlantern.indexing.update import Summary
from redlantern.safety.names import json_line
from redlantern.text.listing import counted


def index(
    path: Path, sources: Sequence[Path], *, as_json: bool, new_key: NewKey | None, passphrase_source: str | None
) -> int:
    """Update a collection; progress goes to standard error, the summary to standard output."""
    progress = ProgressLine()
    # Before a collection is made: one that nothing can come into would only be in the way.
    if not path.exists():
        check_there_are_files(sources)
    with (
        engine_on(
            path, creates=new_key or NewKey(), writes=True, writes_prose=False, passphrase_source=passphrase_source
        ) as engine,
        stoppable() as cancel,
    ):
        try:
            summary = engine.update(sources, report=progress, cancel=cancel)
        finally:
            progress.finish()
    print(json_line(json.dumps(summary.as_json(), ensure_ascii=False)) if as_json else in_words(summary))
    return 0


def in_words(summary: Summary) -> str:
    """Say what an update did, for a terminal."""
    counts = (
        f"{counted(summary.read, 'document')} read ({summary.changed} of them changed), {summary.unchanged} unchanged, "
        f"{summary.moved} moved, {summary.copies} copies, {summary.removed} removed, {len(summary.refused)} refused"
    )
    lines = [counts, f"{counted(summary.pages, 'page')}, {counted(summary.passages, 'passage')}"]
    if summary.remade:
        lines.append(f"{counted(summary.remade, 'document')} made anew from their kept pages")
    lines += [f"  refused {plain(path)}: {plain(reason)}" for path, reason in summary.refused]
    lines.append("seconds: " + ", ".join(f"{step} {seconds:.1f}" for step, seconds in summary.seconds.items()))
    return "\n".join(lines)
