# SPDX-License-Identifier: GPL-3.0-or-later
"""Lets the language model read a page: its most promising lines in their order, and a yes or no to what is looked for."""

import math
from collections.abc import Sequence
from dataclasses import replace

from redlantern import fitted
from redlantern.answering.writing.excerpts import Excerpt
from redlantern.answering.writing.instructions import is_to_a_model
from redlantern.answering.writing.reading import wants_to_answer
from redlantern.models.protocols import LanguageModel
from redlantern.models.wire import neutral
from redlantern.progress import Cancel
from redlantern.readthrough.lines import LineRead, PageLines, chance_by_lines, subject_of
from redlantern.readthrough.values import PageRead, PageWish, State

SYSTEM = "You look through documents page by page and say whether a page has what is looked for."
"""The same for every page, so that the runtime keeps it."""
BY_MODEL = "read by the language model"
_MOST_TOKENS = 200
_MOST_EXAMPLES = 2
_MOST_EXAMPLE_CHARS = 200
_MOST_HEAD_CHARS = 90
_GAP = " … "


def asked_of(wish: PageWish) -> str:
    """What is asked of every page: behind its words, where a small model heeds it best."""
    parts = []
    for is_hit, words in ((True, "This would be it"), (False, "This would not be it")):
        chosen = [example for example in wish.examples if example.is_hit == is_hit][:_MOST_EXAMPLES]
        parts += [f"{words}: “{neutral(example.text[:_MOST_EXAMPLE_CHARS])}”" for example in chosen]
    if wish.counts:
        parts.append(f"What counts: {neutral(wish.counts)}")
    parts.append(f"Looked for: {neutral(subject_of(wish.question))}")
    parts.append("Is that stated or mentioned in the passage above? Answer Yes or No.")
    return "\n".join(parts)


def prompt_of(lines: PageLines, wish: PageWish, model: LanguageModel) -> tuple[str, str]:
    """What the model is given of a page: its instruction, and the user's part."""
    excerpt = _excerpt(lines, model)
    return SYSTEM, f"{excerpt.printed}\n\n{asked_of(wish)}"


def read_by_model(page: PageRead, lines: PageLines, wish: PageWish, model: LanguageModel, cancel: Cancel) -> PageRead:
    """A page that was read by its lines, read by the model as well: its chance is made of both.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    says_yes = wants_to_answer(model.first_words(*prompt_of(lines, wish, model), cancel))
    if says_yes is None:
        return page
    chance = chance_by_both(page.features, says_yes)
    return replace(page, certainty=round(chance, 4), state=state_by_both(chance), how=BY_MODEL)


def chance_by_both(features: Sequence[float], says_yes: float) -> float:
    """The chance by a page's lines and the log-odds of the model's yes together."""
    by_lines = min(1 - 1e-4, max(1e-4, chance_by_lines(features)))
    intercept, lines, reading = fitted.PAGE_READING
    total = intercept + lines * math.log(by_lines / (1 - by_lines)) + reading * says_yes
    return 1 / (1 + math.exp(-max(-30.0, min(30.0, total))))


def state_by_both(chance: float) -> State:
    """What a page is taken for that the model has read."""
    return "hit" if chance >= fitted.PAGE_READ_HIT else "doubtful" if chance >= fitted.PAGE_READ_DOUBT else "silent"


def _excerpt(lines: PageLines, model: LanguageModel) -> Excerpt:
    chosen: list[LineRead] = []
    spent = 0
    for line in lines.lines:
        # Words that speak to a machine are shown to people and given to none.
        if is_to_a_model(line.said):
            continue
        n_tokens = model.count_tokens(line.said)
        if chosen and spent + n_tokens > _MOST_TOKENS:
            break
        chosen.append(line)
        spent += n_tokens
    chosen.sort(key=lambda line: line.start)
    text = ""
    for at, line in enumerate(chosen):
        words = neutral(" ".join(line.said.split()))
        is_next = at and line.start - chosen[at - 1].end <= 1
        text += (" " if is_next else _GAP if at else "") + words
    return Excerpt(neutral(lines.title)[:_MOST_HEAD_CHARS], (), text)
