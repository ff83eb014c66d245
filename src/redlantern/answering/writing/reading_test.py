# SPDX-License-Identifier: GPL-3.0-or-later
"""The reading test that any language model brought in must pass before it is let write sentences of its own.

Short passages, and of each something that it says and something that it does not:
does the model answer what stands there, and does its judgement tell the two
apart? A small model fails, and is held to stretches of the documents' lines.
"""

from collections.abc import Callable
from dataclasses import dataclass

from redlantern.answering.writing.excerpts import Excerpt
from redlantern.answering.writing.reading import SYSTEM, judging_user, reading_prompt, wants_to_answer
from redlantern.answering.writing.streams import written_to
from redlantern.models.abilities import Ability
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel
from redlantern.settings import Method

_LEAST_RIGHT = 0.75
_LEAST_AREA = 0.85
_MOST_TOKENS = 60


@dataclass(frozen=True)
class _Exercise:
    """A passage under its heading, a question that it answers with the words that must be said, and one that it does not."""

    head: str
    text: str
    answered: str
    expected: str
    unanswered: str


_EXERCISES = (
    _Exercise(
        "Minutes of the garden society · Treasurer",
        "The treasurer, Ms. Abara, reported a surplus of 412 crowns. The dues stay at 30 crowns a year and fall due on 1 May.",
        "When do the dues have to be paid?",
        "1 May",
        "How many members does the society have?",
    ),
    _Exercise(
        "Lease of the workshop · Notice",
        "Either side may end the lease with six months' notice to the end of a quarter. The landlord keeps the deposit until the "
        "keys are handed back.",
        "How much notice has to be given?",
        "six months",
        "How high is the deposit?",
    ),
    _Exercise(
        "Service log of the lift · April",
        "On 9 April the door sensor of the lift was exchanged by Mr. Oduya. The ropes were greased, and the lift ran again at noon.",
        "Who replaced the sensor?",
        "Oduya",
        "What did the repair cost?",
    ),
    _Exercise(
        "Travel report · Second day",
        "We drove from Arlen to the reservoir, 86 kilometres, in heavy rain. The dam keeper showed us the spillway, which had been "
        "closed since the storm.",
        "How far did they drive?",
        "86",
        "What is the name of the dam keeper?",
    ),
)


def reading_test(model: LanguageModel, cancel: Cancel, report: Callable[[str], None]) -> Ability:
    """Put the test to a model; takes about a minute with a large one.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    method = Method(answer_tokens=_MOST_TOKENS)
    n_right = 0
    answered, unanswered = list[float](), list[float]()
    for number, exercise in enumerate(_EXERCISES, start=1):
        report(f"reading test, passage {number} of {len(_EXERCISES)} ...")
        excerpts = (Excerpt(exercise.head, (), exercise.text),)
        for question, chances in ((exercise.answered, answered), (exercise.unanswered, unanswered)):
            wants = wants_to_answer(model.first_words(SYSTEM, judging_user(question, excerpts), cancel))
            chances += [wants] if wants is not None else []
            if chances is answered:
                prompt = reading_prompt(question, "anything", excerpts, model, method)
                written = "".join(step.words for step in written_to(prompt, model, method, cancel))
                n_right += exercise.expected.casefold() in written.casefold()
    return Ability(n_right >= _LEAST_RIGHT * len(_EXERCISES), area_under(answered, unanswered) >= _LEAST_AREA)


def area_under(answered: list[float], unanswered: list[float]) -> float:
    """The chance that an answered question has the higher value of a pair (the area under the ROC curve); 0 without any."""
    pairs = [(yes, no) for yes in answered for no in unanswered]
    return sum((yes > no) + (yes == no) / 2 for yes, no in pairs) / len(pairs) if pairs else 0.0
