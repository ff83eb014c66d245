# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern` and `redlantern open`: open the window."""

import os
from collections.abc import Sequence
from pathlib import Path

from redlantern.errors import UsageError


def open_window(paths: Sequence[Path]) -> int:
    """Open the window, on a collection, on files and folders that are to be read, or on nothing."""
    if not has_display():
        raise UsageError("there is no display for a window; the headless commands are listed by: redlantern --help")
    missing = [path for path in paths if not path.exists()]
    if missing:
        raise UsageError(f"there is no file or folder {missing[0]}")
    return show_window(paths=[path.absolute() for path in paths])


def show_window(
    collection: Path | None = None,
    *,
    paths: Sequence[Path] = (),
    folder: Path | None = None,
    questions: Path | None = None,
) -> int:
    """Run the window.

    With `folder`, bring the collection up to date with it first, and ask the `questions` of a file then; `paths` are taken
    in as if they were dropped on it.
    """
    from redlantern.models.chosen import chosen_embedder
    from redlantern.models.preloading import Preloaded

    # Loading the model takes as long as loading Qt and drawing the window, and the other core has nothing to do.
    embedder = Preloaded(chosen_embedder)
    from redlantern.desktop.start import run_window

    return run_window(collection, embedder=embedder, paths=paths, folder=folder, questions=questions)


def has_display() -> bool:
    """Whether a window can be shown to anybody."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
