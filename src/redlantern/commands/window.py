"""`redlantern` and `redlantern open`: open the window."""

import os
from pathlib import Path

from redlantern.errors import UsageError


def open_window(collection: Path | None) -> int:
    """Open the window, on a collection or on none."""
    if not has_display():
        raise UsageError("there is no display for a window; the headless commands are listed by: redlantern --help")
    from redlantern.desktop.start import run_window

    return run_window(collection.absolute() if collection is not None else None)


def has_display() -> bool:
    """Whether a window can be shown to anybody."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
