# SPDX-License-Identifier: GPL-3.0-or-later
"""The written answer: what the language model makes of the documents' words, and every claim of it checked.

A model that can read is given excerpts of the passages (see `read_answer`). One
that cannot is given the found lines, and held to stretches of them.
"""

import time
from collections.abc import Iterator
from dataclasses import replace

from redlantern.answering import wording
from redlantern.answering.sheet import AnsweredSheet, Sheet
from redlantern.answering.writing.drafting import build_draft_prompt
from redlantern.answering.writing.grounds import Grounds, check_claims
from redlantern.answering.writing.instructions import is_to_a_model
from redlantern.answering.writing.prompt import NoRoomError, build_prompt
from redlantern.answering.writing.read_answer import read_answer
from redlantern.answering.writing.streams import WritingStep, drafts_with_marks, written_to
from redlantern.models.protocols import LanguageModel, LanguageModelError
from redlantern.progress import Cancel
from redlantern.retrieval.spelling import replaced_words
from redlantern.settings import Method


def write_answer(
    sheet: AnsweredSheet, grounds: Grounds, model: LanguageModel | None, method: Method, began: float, cancel: Cancel
) -> Iterator[WritingStep | Sheet]:
    """Write and check the answer: WritingSteps, then the sheet with its claims, or with the reason why there are none.

    A model that can read may find that the documents do not answer: then the sheet
    is a RefusedSheet. `began` is when the question came, by `time.perf_counter`.
    """
    if model is None:
        yield replace(sheet, no_prose_reason=wording.NO_MODEL)
        return
    try:
        if model.can_read and sheet.draft is None:
            yield from read_answer(sheet, grounds, model, method, began, cancel)
        else:
            yield from _write_of_lines(sheet, grounds, model, method, began, cancel)
    except (LanguageModelError, NoRoomError) as failure:
        yield replace(sheet, no_prose_reason=str(failure))


def _write_of_lines(
    sheet: AnsweredSheet, grounds: Grounds, model: LanguageModel, method: Method, began: float, cancel: Cancel
) -> Iterator[WritingStep | Sheet]:
    """Write a draft, or what a model that cannot read makes of the found lines."""
    written, first_word, n_read, n_written = "", None, 0, 0
    # What stands around an order may be part of it.
    lines = [line for line in grounds.lines if not is_to_a_model(line.passage.text)]
    if not lines:
        yield replace(sheet, no_prose_reason=wording.ONLY_ORDERS)
        return
    if sheet.draft:
        prompt = build_draft_prompt(sheet.draft.kind, sheet.question, lines, model, method)
    else:
        prompt = build_prompt(replaced_words(sheet.standalone_question, sheet.mended), lines, model, method)
    marks = [grounds.cite(line).mark for line in prompt.lines]
    for step in written_to(prompt, model, method, cancel):
        if not step.words:
            n_read, n_written = step.n_prompt_tokens, step.n_written_tokens
            continue
        first_word = first_word or time.perf_counter() - began
        written += step.words
        yield WritingStep(drafts_with_marks(written, marks))
    claims = check_claims(written, prompt.lines, grounds)
    n_outside = sum(claim.is_outside for claim in claims)
    if not method.keeps_outside_claims:
        claims = tuple(claim for claim in claims if not claim.is_outside)
    done = replace(
        sheet, claims=claims, models=sheet.models | {"language": model.name},
        left_out=wording.left_out(len(grounds.lines) - len(lines), prompt.n_left_out),
        n_prompt_tokens=n_read, n_written_tokens=n_written,
    )  # fmt: skip
    if not claims:
        reason = "nothing that is from the documents" if n_outside else "nothing that could be used"
        done = replace(done, no_prose_reason=f"The language model wrote {reason}.")
    yield replace(done, seconds=replace(done.seconds, first_word=first_word))
