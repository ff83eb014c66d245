# SPDX-License-Identifier: GPL-3.0-or-later
"""How the room says what an answer came to, how far a run is, and what a question expects."""

from collections.abc import Sequence

from redlantern.application.trials import RunState
from redlantern.text.listing import counted
from redlantern.translation import tr
from redlantern.trials.values import Marked, RightPage, TrialQuestion

MANY = ";"
"""What parts several in one field."""


def outcome_words(question: TrialQuestion, marked: Marked | None) -> str:
    """What an answer came to, in a few words."""
    if marked is None:
        return tr("not asked yet")
    if marked.problem:
        return tr("failed")
    if question.is_absent:
        return tr("rightly refused") if marked.is_refused else tr("answered, but the documents do not say")
    said = [tr("refused")] if marked.is_refused else []
    if marked.is_said is not None and not marked.is_refused:
        said.append(tr("says it") if marked.is_said else tr("does not say it"))
    if marked.is_cited is not None and not marked.is_refused:
        said.append(tr("right page cited") if marked.is_cited else tr("another page cited"))
    if marked.ranks is not None and not marked.is_cited:
        rank = marked.ranks.reciprocal_rank
        said.append(
            tr("right page at place {rank}").format(rank=round(1 / rank)) if rank else tr("right page not found")
        )
    return ", ".join(said) or tr("answered")


def is_right(question: TrialQuestion, marked: Marked | None) -> bool | None:
    """Whether an answer is as expected; None where nothing says so."""
    if marked is None or question.expects_nothing:
        return None
    if question.is_absent:
        return marked.is_refused
    return not marked.is_refused and marked.is_said is not False and marked.is_cited is not False


def expected_words(question: TrialQuestion) -> str:
    """What is expected of a question, in a few words."""
    if question.is_absent:
        return tr("not in the documents")
    return tr(" or ").join(f"“{words}”" for words in question.expected)


def page_words(page: RightPage) -> str:
    """A right page as it is shown and typed."""
    return f"{page.path}:{page.page_number}"


def pages_words(question: TrialQuestion) -> str:
    """The right pages of a question."""
    return ", ".join(f"{page.path.rpartition('/')[2]} p.{page.page_number}" for page in question.right)


def how_far_words(state: RunState) -> str:
    """What a run is and how far, in a sentence."""
    run = state.run
    if run.kind == "grid":
        what = tr("{question} put to {document}").format(
            question=counted(len(run.questions), "question"), document=counted(len(run.lanes), "document")
        )
    else:
        ways = tr(" and ").join(f"“{lane.arrangement.name}”" for lane in run.lanes)
        what = f"{counted(len(run.questions), 'question')}, {ways}"
    done = (
        tr("done")
        if state.is_done
        else tr("{n_answers} of {n_cells} answers").format(n_answers=len(state.answers), n_cells=run.n_cells)
    )
    return f"{run.began_at[:10]} {run.began_at[11:16]}: {what}; {done}"


def parts_of(text: str) -> list[str]:
    """The several things that stand in one field."""
    return [part.strip() for part in text.split(MANY) if part.strip()]


def page_from(words: str, known: Sequence[RightPage]) -> RightPage:
    """A page from what was typed; what was known of it before stays.

    Raises
    ------
    ValueError
        If it is no path, colon and number.
    """
    path, _, number = words.rpartition(":")
    if not path:
        raise ValueError(words)
    page = RightPage(path.strip(), int(number))
    return next((each for each in known if (each.path, each.page_number) == (page.path, page.page_number)), page)
