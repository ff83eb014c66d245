# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern models`: which packaged models are here, and how others come in from a folder."""

import json
from pathlib import Path

from redlantern.commands.shared import ProgressLine, stoppable
from redlantern.models.adding import add_from, names, packaged_files


def add(folder: Path) -> int:
    """Put in place what the folder has of what is missing; 0 where nothing is missing any more."""
    progress = ProgressLine()
    with stoppable() as cancel:
        added = add_from(folder, report=progress, cancel=cancel)
    progress.finish()
    print(f"Added: {names(added.added)}. Here already: {names(added.present)}.")
    if added.missing:
        print(f"Still missing: {names(added.missing)}.")
    return 1 if added.missing else 0


def list_models(*, as_json: bool) -> int:
    """Say which files of the packaged models are here, and where."""
    rows = [(each, each.found()) for each in packaged_files()]
    if as_json:
        print(
            json.dumps(
                [
                    {
                        "name": each.name,
                        "file": each.file_name,
                        "sha256": each.sha256,
                        "place": str(found) if found else None,
                    }
                    for each, found in rows
                ]
            )
        )
    else:
        print("\n".join(f"{each.file_name:26} {found or 'not here'}" for each, found in rows))
    return 0 if all(found for _, found in rows) else 1
