# SPDX-License-Identifier: GPL-3.0-or-later
"""What is sent to the language model: the selected lines, numbered, within its context window, and a grammar for the answer.

A small model that is free to write invents, and one that may frame the documents'
words in its own says with them what they do not say; so a small model is held to
stretches of the lines, word for word: it chooses which lines answer and where
they may be cut short. A larger one writes sentences of its own, each ending in
the number of a line (docs/decisions/claims-of-small-models.md has the comparison).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.writing.grammars import BEST_LINES, stretch_grammar
from redlantern.answering.writing.instructions import as_material
from redlantern.errors import RedlanternError
from redlantern.models.protocols import LanguageModel
from redlantern.settings import Method
from redlantern.translation import tr

FIXED = (
    "Answer the question from the numbered lines only. Copy numbers, dates and names exactly. "
    "End with the number of the line in brackets."
)
"""The part of the instruction that keeps answers cited: always there, whatever the rest of it is."""
_NEAR_TIE = 0.85
"""A line whose score is at least this share of the best one's may not be kept from the reader: a small model cannot tell which
is right. Chosen on the tuning questions: the right page is among the first four of those for 98 of 125, and is the best line's
for 81.
"""
_ANSWER_SHARE = 4
_SPARE_TOKENS = 8
"""For what joins the lines: a whole prompt may have a few tokens more than its parts have singly."""


class NoRoomError(RedlanternError):
    """The model's context window does not hold what has to be in the prompt."""

    def __init__(self, window: int) -> None:
        super().__init__(window)
        self.window = window

    def __str__(self) -> str:
        return tr(
            "The question and its best line do not fit into the language model's context window of {window:,} "
            "tokens, so there is no written answer."
        ).format(window=self.window)


@dataclass(frozen=True)
class Prompt:
    """What a model is given: its instruction, the user's part, the grammar for the answer, and the lines in the order of
    their numbers; the answer has at most `answer_tokens`.
    """

    system: str
    user: str
    grammar: str
    lines: tuple[Candidate, ...]
    n_left_out: int
    answer_tokens: int


def build_prompt(question: str, lines: Sequence[Candidate], model: LanguageModel, method: Method) -> Prompt:
    """Number the lines, best first, for a model that is held to stretches of them; see `fitted`."""

    def grammar(kept: Sequence[Candidate], printed: Sequence[str]) -> str:
        # A line that holds no date when one is asked for is not let begin before one that does, nor forced on the reader.
        fitting = [number for number, kept_one in enumerate(kept) if kept_one.has_kind] or list(range(len(kept)))
        begins = [number for number in fitting if number < BEST_LINES] or [0]
        must = [number for number in fitting if kept[number].score >= _NEAR_TIE * kept[0].score]
        return stretch_grammar(printed, begins=begins, must=must, least=[kept_one.least_said for kept_one in kept])

    system = f"{FIXED} {method.instruction}".strip()
    return fitted(_page_by_page(lines), model, method, system=system, request=question, grammar=grammar)


def _page_by_page(lines: Sequence[Candidate]) -> list[Candidate]:
    """The best line of each page first, then the others: three lines of one page are one chance to be right."""
    seen: set[tuple[int, int]] = set()
    first, rest = list[Candidate](), list[Candidate]()
    for line in lines:
        page = (line.passage.document_id, line.passage.page_number)
        (rest if page in seen else first).append(line)
        seen.add(page)
    return first + rest


def fitted(
    lines: Sequence[Candidate],
    model: LanguageModel,
    method: Method,
    *,
    system: str,
    request: str,
    grammar: Callable[[Sequence[Candidate], Sequence[str]], str],
    answer_tokens: int = 0,
) -> Prompt:
    """Number as many lines as the budget and the context window hold; at least the first.

    Counted with the model's own tokenizer, in its own chat template.

    Parameters
    ----------
    lines : sequence of Candidate
        Most important first, at least one. None of them may speak to a model.
    model : LanguageModel
    method : Method
    system, request : str
        What stands before the lines, and after them.
    grammar : callable
        Makes the grammar from the lines that are kept and how they are printed.
    answer_tokens : int
        The longest answer, if it is not the method's; never more than a quarter of the context window.

    Raises
    ------
    NoRoomError
        If not even the first line fits into the context window.
    """
    window = min(method.context_tokens, model.window_tokens())
    answer_tokens = min(answer_tokens or method.answer_tokens, window // _ANSWER_SHARE)
    room = window - answer_tokens - model.count_prompt(system, f"\n\n{request}") - _SPARE_TOKENS
    kept: list[Candidate] = []
    printed: list[str] = []
    n_tokens = 0
    for candidate in lines:
        text = as_material(candidate)
        n_tokens += model.count_tokens(f"[{len(kept) + 1}] {text}\n")
        if n_tokens > room or (kept and n_tokens > method.prompt_tokens):
            break
        kept.append(candidate)
        printed.append(text)
    if not kept:
        raise NoRoomError(window)
    numbered = "\n".join(f"[{number}] {text}" for number, text in enumerate(printed, start=1))
    n_left_out = len(lines) - len(kept)
    return Prompt(
        system,
        f"{numbered}\n\n{request}",
        grammar(kept, printed),
        tuple(kept),
        n_left_out,
        answer_tokens,
    )
