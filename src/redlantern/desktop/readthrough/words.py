# SPDX-License-Identifier: GPL-3.0-or-later
"""How the room says what a page is and how far a read-through is."""

from redlantern.application.read_through import ReadThrough
from redlantern.readthrough.learning import Learned
from redlantern.readthrough.values import PageRead, Way
from redlantern.text.listing import counted
from redlantern.translation import tr

WAYS: dict[Way, tuple[str, str]] = {
    "lines": (
        tr("By lines"),
        tr("Every line of every page compared by words and meaning. No language model; seconds."),
    ),
    "read": (
        tr("Read"),
        tr("The language model also reads each page whose lines are not certainly silent, and says yes or no."),
    ),
    "all": (
        tr("Read all"),
        tr("The language model reads every page, none left out. The slowest, for when it matters most."),
    ),
}
JUDGED = {"accepted": tr("accepted"), "rejected": tr("rejected")}
STATES = {"hit": tr("hit"), "doubtful": tr("doubtful"), "silent": tr("silent"), "unreadable": tr("could not be read")}


def state_words(page: PageRead | None) -> str:
    """What a page is, in a word or two; None is one that was not read yet."""
    if page is None:
        return tr("not read yet")
    judged = f", {JUDGED[page.judged]}" if page.judged else tr(", not judged") if page.is_open else ""
    return f"{STATES[page.state]}{judged}"


def certainty_words(page: PageRead) -> str:
    """What a page was judged to be, or what it is taken for and how certainly; nothing for a silent one."""
    if page.judged:
        return JUDGED[page.judged]
    return "" if page.state == "silent" else f"{STATES[page.state]}, {page.certainty:.0%}"


def how_far(through: ReadThrough) -> str:
    """How far a read-through is, in a sentence."""
    covered, states = through.covered, through.covered.by_state
    n_read = covered.n_pages - covered.n_unread
    read = tr("All") if not covered.n_unread else tr("{n_read} of").format(n_read=n_read)
    parts = [
        tr("{read} {page} read").format(read=read, page=counted(covered.n_pages, "page")),
        counted(states["hit"], "hit"),
        tr("{states} doubtful").format(states=states["doubtful"]),
        tr("{states} silent").format(states=states["silent"]),
    ]
    if states["unreadable"] or covered.refused:
        parts.append(
            tr("{page} and {document} could not be read").format(
                page=counted(states["unreadable"], "page"), document=counted(len(covered.refused), "document")
            )
        )
    return ", ".join(parts) + "."


def sample_words(through: ReadThrough) -> str:
    """What the sample of the silent pages says so far, in a sentence or two."""
    found = through.estimate
    if not through.drawn:
        return tr("No page is silent, so nothing can have been missed among them.")
    if not found.n_judged:
        return tr(
            "Drawn at random among the silent pages. Judge each: accept it if it is a hit after all, else reject it. The statement "
            "then says how much may have been missed."
        )
    return tr(
        "{n_judged} of {n_drawn} judged, {n_missed} of them hits after all: between {low} and {high} of the {n_silent} silent pages "
        "may be hits (95 %)."
    ).format(
        n_judged=found.n_judged, n_drawn=len(through.drawn), n_missed=found.n_missed, low=found.n_missed_low,
        high=found.n_missed_high, n_silent=found.n_silent,
    )  # fmt: skip


def learned_words(learned: Learned) -> str:
    """By what the pages to judge are ordered, and how sure that is."""
    said = (
        tr("Likeliest first, by your {n} judgements; each was told rightly by the others in {n_agreeing} of {n} cases.")
        if learned.is_worth_following
        else tr(
            "The most doubtful first: too little follows from your {n} judgements; each was told rightly by the others in "
            "{n_agreeing} of {n} cases."
        )
    )
    return said.format(n=learned.n_judged, n_agreeing=learned.n_agreeing)
