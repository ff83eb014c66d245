# SPDX-License-Identifier: GPL-3.0-or-later
"""How the room says what a page is and how far a read-through is."""

from redlantern.application.read_through import ReadThrough
from redlantern.readthrough.values import PageRead, Way
from redlantern.text.listing import counted

WAYS: dict[Way, tuple[str, str]] = {
    "lines": ("By lines", "Every line of every page compared by words and meaning. No language model; seconds."),
    "read": (
        "Read",
        "The language model also reads each page whose lines are not certainly silent, and says yes or no.",
    ),
    "all": ("Read all", "The language model reads every page, none left out. The slowest, for when it matters most."),
}
STATES = {"hit": "hit", "doubtful": "doubtful", "silent": "silent", "unreadable": "could not be read"}


def state_words(page: PageRead | None) -> str:
    """What a page is, in a word or two; None is one that was not read yet."""
    if page is None:
        return "not read yet"
    judged = f", {page.judged}" if page.judged else ", not judged" if page.is_open else ""
    return f"{STATES[page.state]}{judged}"


def how_far(through: ReadThrough) -> str:
    """How far a read-through is, in a sentence."""
    covered, states = through.covered, through.covered.by_state
    n_read = covered.n_pages - covered.n_unread
    read = "All" if not covered.n_unread else f"{n_read} of"
    parts = [
        f"{read} {counted(covered.n_pages, 'page')} read",
        counted(states["hit"], "hit"),
        f"{states['doubtful']} doubtful",
        f"{states['silent']} silent",
    ]
    if states["unreadable"] or covered.refused:
        parts.append(
            f"{counted(states['unreadable'], 'page')} and {counted(len(covered.refused), 'document')} could not be read"
        )
    return ", ".join(parts) + "."
