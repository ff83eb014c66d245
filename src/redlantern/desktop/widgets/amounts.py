# SPDX-License-Identifier: GPL-3.0-or-later
"""Sizes and times in a few letters."""

from redlantern.translation import tr


def size_words(n_bytes: int) -> str:
    """A size in bytes."""
    for unit, size in (("GB", 2**30), ("MB", 2**20), ("kB", 2**10)):
        if n_bytes >= size:
            return f"{n_bytes / size:.1f} {unit}" if n_bytes < 10 * size else f"{n_bytes / size:.0f} {unit}"
    return f"{n_bytes} B"


def duration_words(seconds: float) -> str:
    """A time in seconds."""
    if seconds < 90:
        return f"{max(1, round(seconds))} s"
    return (
        tr("{seconds} min").format(seconds=round(seconds / 60))
        if seconds < 5400
        else tr("{seconds:.1f} hours").format(seconds=seconds / 3600)
    )
