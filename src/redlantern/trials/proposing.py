# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions that the language model thinks of: one of a passage, to be accepted, mended or dropped by a person."""

import random
import re
from collections.abc import Iterator, Sequence

from redlantern.answering.writing.instructions import is_to_a_model
from redlantern.collection.values import Document, StoredPassage
from redlantern.models.protocols import LanguageModel, Sampling
from redlantern.progress import Cancel
from redlantern.trials.values import RightPage, TrialQuestion

_SYSTEM = (
    "You write one question that a reader could answer from the text alone. Ask for something particular that it states: "
    "a number, a date, a person, a reason or a condition. Name what you ask about, so that the question can be understood "
    "without the text. Write the question alone."
)
_MOST_CHARS, _MOST_TOKENS = 900, 48
_LEAST_WORDS = 30
_QUESTION = re.compile(r"^\W*([A-ZÀ-Þ¿][^\n?]{10,240}\?)")
PROPOSED = "proposed"


def chosen_passages(passages: Sequence[StoredPassage], n: int, seed: str) -> list[StoredPassage]:
    """At most `n` passages with enough words to ask about, from as many documents as there are, drawn reproducibly by `seed`."""
    chance = random.Random(seed)
    by_document: dict[int, list[StoredPassage]] = {}
    for passage in passages:
        if len(passage.text.split()) >= _LEAST_WORDS and not is_to_a_model(passage.text):
            by_document.setdefault(passage.document_id, []).append(passage)
    for held in by_document.values():
        chance.shuffle(held)
    found: list[StoredPassage] = []
    while len(found) < n and any(by_document.values()):
        order = [document_id for document_id, held in by_document.items() if held]
        chance.shuffle(order)
        found += [by_document[document_id].pop() for document_id in order[: n - len(found)]]
    return found


def propose(
    passages: Sequence[StoredPassage], documents: dict[int, Document], model: LanguageModel, cancel: Cancel
) -> Iterator[TrialQuestion | None]:
    """A question of each passage, with its page as the right one; None where the model wrote none.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    for passage in passages:
        written = ""
        for step in model.write(
            _SYSTEM, f"{passage.text[:_MOST_CHARS]}\n\nQuestion:", grammar="", most_tokens=_MOST_TOKENS, cancel=cancel,
            sampling=Sampling(0.0, 1),
        ):  # fmt: skip
            written += step.words
        found = _QUESTION.match(written.strip())
        document = documents[passage.document_id]
        if found is None:
            yield None
            continue
        right = RightPage(document.path, passage.page_number, document.key)
        yield TrialQuestion(
            f"p{passage.passage_id}", found.group(1), right=(right,), tags=(PROPOSED,), is_proposed=True
        )
