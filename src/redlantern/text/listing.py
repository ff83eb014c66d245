# SPDX-License-Identifier: GPL-3.0-or-later
"""Words as they are listed in a sentence, counts and times."""

from collections.abc import Sequence


def listed(parts: Sequence[str]) -> str:
    """`parts`, at least one, with commas and an "and"."""
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def quoted(words: Sequence[str]) -> str:
    """The same of words in quotation marks."""
    return listed([f"“{word}”" for word in words])


def counted(n: int, thing: str, things: str = "") -> str:
    """So many of a thing; `things` is its plural where that has no plain s."""
    return f"{n:,} {thing if n == 1 else things or thing + 's'}"


def seconds_words(seconds: float) -> str:
    """About how long something takes."""
    if seconds < 90:
        return f"about {max(1, round(seconds))} s"
    if seconds < 5400:
        return f"about {round(seconds / 60)} minutes"
    return f"about {seconds / 3600:.1f} hours"
