# SPDX-License-Identifier: GPL-3.0-or-later
"""What a language model writes, as it comes: with the call-marks of its claims, or without any document."""

import contextlib
from collections.abc import Generator, Iterator, Sequence
from dataclasses import dataclass

from redlantern.answering.writing.claims import drafts_of
from redlantern.answering.writing.prompt import Prompt
from redlantern.models.protocols import LanguageModel, Sampling, Written
from redlantern.progress import Cancel
from redlantern.settings import Method

_ALONE = "Answer the question in one to three short sentences."


@dataclass(frozen=True)
class WritingStep:
    """More of the answer was written: (text, call-mark) of each claim so far; no mark while one is unfinished. None at all once
    it is decided that the documents answer.
    """

    claims: tuple[tuple[str, str], ...]


def drafts_with_marks(written: str, marks: Sequence[str]) -> tuple[tuple[str, str], ...]:
    """What was written so far as (text, call-mark) of each claim; no mark while one is unfinished, or where it is the model's
    own.
    """
    return tuple(
        (written_claim.text, marks[written_claim.number - 1] if written_claim.number else "")
        for written_claim in drafts_of(written)
    )


def written_to(prompt: Prompt, model: LanguageModel, method: Method, cancel: Cancel) -> Generator[Written]:
    """What a model writes to a prompt, with the method's own sampling."""
    steps = model.write(
        prompt.system, prompt.user, grammar=prompt.grammar, most_tokens=prompt.answer_tokens, cancel=cancel,
        sampling=Sampling(method.temperature, method.seed),
    )  # fmt: skip
    with contextlib.closing(steps):  # type: ignore[type-var]
        yield from steps


def write_without_documents(question: str, model: LanguageModel, method: Method, cancel: Cancel) -> Iterator[str]:
    """What the model says of a question by itself: all that it has written so far, again and again.

    Nothing of it stands on any document.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    written = ""
    with contextlib.closing(
        model.write(
            _ALONE, question, grammar="", most_tokens=method.answer_tokens, cancel=cancel,
            sampling=Sampling(method.temperature, method.seed),
        )
    ) as steps:  # type: ignore[type-var]  # fmt: skip
        for step in steps:
            if step.words:
                written += step.words
                yield written.strip()
