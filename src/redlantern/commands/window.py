# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern` and `redlantern open`: open the window."""

import os
from pathlib import Path

from redlantern.errors import UsageError


def open_window(collection: Path | None) -> int:
    """Open the window, on a collection or on none."""
    if not has_display():
        raise UsageError("there is no display for a window; the headless commands are listed by: redlantern --help")
    return show_window(collection.absolute() if collection is not None else None)


def show_window(collection: Path | None, *, folder: Path | None = None, questions: Path | None = None) -> int:
    """Run the window; with `folder`, bring the collection up to date with it first, and ask the `questions` of a file then."""
    from redlantern.models.chosen import chosen_embedder
    from redlantern.models.preloading import Preloaded

    # Loading the model takes as long as loading Qt and drawing the window, and the other core has nothing to do.
    embedder = Preloaded(chosen_embedder)
    from redlantern.desktop.start import run_window

    return run_window(collection, embedder=embedder, folder=folder, questions=questions)


def has_display() -> bool:
    """Whether a window can be shown to anybody."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
