# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures saving a brief of five hundred citations, in each format and each style of citing."""

import time
from dataclasses import dataclass
from typing import Any

from redlantern.brief.rendering import STYLES, render
from redlantern.brief.values import Brief, BriefEntry, Quote
from redlantern.brief.writing.forms import FORMS, write

_N = 500
_WORDS = (
    "The Builder shall stop all work in the loft when the relative humidity exceeds 70 per cent for more than a day."
)


@dataclass(frozen=True)
class Saved:
    """One file: how long it took, and how large it is."""

    form: str
    style: str
    seconds: float
    n_bytes: int


def measure() -> list[Saved]:
    """Write the brief in every format and style."""
    brief = _brief()
    found = []
    for style in STYLES:
        for form in FORMS:
            began = time.perf_counter()
            content = write(render(brief, style), form)
            found.append(Saved(form, style, time.perf_counter() - began, len(content)))
    return found


def show(found: list[Saved]) -> None:
    """Print the figures: a row a style, a column a format."""
    print(f"{_N} citations, seconds to write" + "".join(f"{form:>8}" for form in FORMS))
    for style in STYLES:
        cells = [next(each.seconds for each in found if (each.form, each.style) == (form, style)) for form in FORMS]
        print(f"  citations as {style:<15}" + "".join(f"{seconds:8.2f}" for seconds in cells))


def as_json(found: list[Saved]) -> list[dict[str, Any]]:
    """The figures as plain values."""
    return [
        {"form": each.form, "style": each.style, "seconds": round(each.seconds, 3), "bytes": each.n_bytes}
        for each in found
    ]


def _brief() -> Brief:
    """Sentences of ours and lines of documents by turns, each citing words of its own."""
    entries = []
    for number in range(_N):
        quote = Quote(
            "ab" * 32, "CON", "Contract for the restoration", "contract.pdf", number // 4 + 1, number, number + 9,
            f"{number}.1 {_WORDS}", "2 May 2026", f"clause {number}.1",
        )  # fmt: skip
        is_ours = number % 2 == 0
        entries.append(BriefEntry(0, "claim" if is_ours else "line", "Work stops." if is_ours else "", (quote,)))
    return Brief("Five hundred citations").with_entries(*entries)
