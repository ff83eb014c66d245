# SPDX-License-Identifier: GPL-3.0-or-later
"""Words as they are listed in a sentence, counts and times."""

from collections.abc import Sequence

from redlantern.translation import language, tr, trn


def listed(parts: Sequence[str]) -> str:
    """`parts`, at least one, with commas and an "and"."""
    if len(parts) == 1:
        return parts[0]
    return tr("{before} and {last}").format(before=", ".join(parts[:-1]), last=parts[-1])


def quoted(words: Sequence[str]) -> str:
    """The same of words in quotation marks."""
    return listed([f"“{word}”" for word in words])


def counted(n: int, thing: str, things: str = "") -> str:
    """So many of a thing; `things` is its plural where that has no plain s."""
    return f"{n:,} {noun(n, thing, things)}"


def noun(n: int, thing: str, things: str = "") -> str:
    """The noun for so many of a thing, in the language that is spoken."""
    return trn(thing, things or thing + "s", n)


def ordinal(number: int) -> str:
    """A number, from 1, as the place that something stands at, in the language that is spoken."""
    if language() == "de":
        return f"{number}."
    if language() == "fr":
        return "1re" if number == 1 else f"{number}e"
    ending = {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th") if number % 100 not in (11, 12, 13) else "th"
    return f"{number:,}{ending}"


def seconds_words(seconds: float) -> str:
    """About how long something takes."""
    if seconds < 90:
        return tr("about {n} s").format(n=max(1, round(seconds)))
    if seconds < 5400:
        return tr("about {n} minutes").format(n=round(seconds / 60))
    return tr("about {n:.1f} hours").format(n=seconds / 3600)
