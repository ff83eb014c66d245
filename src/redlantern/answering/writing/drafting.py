# SPDX-License-Identifier: GPL-3.0-or-later
"""Drafts of a letter, a note or a list: what the documents say keeps its marks, and the rest stands out as the model's."""

from collections.abc import Sequence

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.sheet import DraftKind
from redlantern.answering.writing.grammars import every_line_grammar, free_draft_grammar
from redlantern.answering.writing.prompt import Prompt, fitted
from redlantern.models.protocols import LanguageModel
from redlantern.settings import Method

MOST_LINES = 6
_MOST_SENTENCES = 10
_ANSWER_TOKENS = 420
_SYSTEM = (
    "Write a {kind} from the numbered lines. Copy numbers, dates and names exactly. End each sentence that is from a line with "
    "the number of the line in brackets, and each sentence of your own with [-]."
)


def build_draft_prompt(
    kind: DraftKind, wish: str, lines: Sequence[Candidate], model: LanguageModel, method: Method
) -> Prompt:
    """Number the lines for a draft, in the user's own words `wish`.

    A small model says the lines, whole or cut short, and nothing of its own: let
    open and close a letter, it greets people whom no document knows.

    Raises
    ------
    NoRoomError
    """

    def grammar(kept: Sequence[Candidate], printed: Sequence[str]) -> str:
        if model.can_read:
            return free_draft_grammar(len(kept), _MOST_SENTENCES)
        return every_line_grammar(printed, [kept_one.least_said for kept_one in kept])

    return fitted(
        lines,
        model,
        method,
        system=_SYSTEM.format(kind=kind),
        request=wish,
        grammar=grammar,
        answer_tokens=_ANSWER_TOKENS,
    )
