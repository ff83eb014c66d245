# SPDX-License-Identifier: GPL-3.0-or-later
"""Answering as reading: the prompt with which a language model reads excerpts, and what its first word says of the answer."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from redlantern.answering.writing.excerpts import Excerpt
from redlantern.answering.writing.grammars import prose_grammar
from redlantern.answering.writing.prompt import NoRoomError, Prompt
from redlantern.models.protocols import LanguageModel
from redlantern.settings import INSTRUCTION, Method
from redlantern.text.answer_kind import Kind

SYSTEM = "You read passages of documents and answer from them alone. What they do not say, you do not know."
"""The same for every question, so that the runtime keeps it."""
_JUDGE = "Is the answer to this question stated in the passages? Answer Yes or No."
_COPY = "that copies numbers, dates and names exactly."
FIXED = f"{SYSTEM} {_JUDGE}"
"""What a model that reads is always told, and first asked, whatever its instruction is."""
_ASKED: dict[Kind, tuple[str, int]] = {
    "list": ("List all that is asked for, one short sentence a line,", 6),
    "procedure": ("Give the steps in their order, one short sentence a line,", 6),
    "comparison": ("Say what each side says, one short sentence a line,", 3),
}
"""What is asked for in another form than one sentence, and in how many lines at most."""
_ONE, _MOST_LINES = "Answer in one short, whole sentence", 1
FEWEST_WORDS = 4
"""A bare "41" says nothing of what it is, so nothing could be checked but that it stands there."""
_LONGEST_SENTENCE_TOKENS, _LONGEST_LIST_TOKENS = 90, 150
_FIRST_WORD_S = 8.0
"""So long it may take from the question to the first word."""
_TAIL_TOKENS = 80
"""About what question and instruction have, which are read after the excerpts."""
_FEWEST_TOKENS, _USUAL_TOKENS = 180, 220
_STEP = 4 / 3
_LINE_TOKENS, _MENDING_TOKENS = 120, 100
"""What a line under its heading may have, and a sentence that is written once more with the reason."""
_LEAST_CHANCE = 1e-4


def room_for_excerpts(model: LanguageModel, method: Method, question: str) -> int:
    """How many tokens of excerpts are read, by how fast this machine reads; never more than the method and the window allow.

    In coarse steps: a machine that is somewhat slower for a minute reads the same lines for the same question.

    Raises
    ------
    NoRoomError
        If the model's context window does not hold a line beside the question and an answer.
    """
    read_per_s = model.pace.read_per_s
    by_pace = max(_FEWEST_TOKENS, _FIRST_WORD_S * read_per_s - _TAIL_TOKENS) if read_per_s else _USUAL_TOKENS
    in_steps = _USUAL_TOKENS * _STEP ** round(math.log(by_pace / _USUAL_TOKENS, _STEP))
    window = min(method.context_tokens, model.window_tokens())
    around = model.count_prompt(SYSTEM, question) + _TAIL_TOKENS + _MENDING_TOKENS + _LONGEST_LIST_TOKENS
    if window - around < _LINE_TOKENS:
        raise NoRoomError(window)
    return min(window - around, method.prompt_tokens, max(_FEWEST_TOKENS, int(in_steps)))


def judging_user(question: str, excerpts: Sequence[Excerpt]) -> str:
    """The user's part of a prompt that asks only whether the excerpts answer a question; see `wants_to_answer`."""
    return f"{_material(question, excerpts)}\n{_JUDGE}"


def reading_prompt(
    question: str, kind: Kind, excerpts: Sequence[Excerpt], model: LanguageModel, method: Method, *, language: str = ""
) -> Prompt:
    """The excerpts, then the question and how it is to be answered, in this language if it is named.

    What is always the same stands first, and the question last: the excerpts are
    read once for the judgement and for the answer, and for every part of a question
    of several.
    """
    asked, most = _ASKED.get(kind, (_ONE, _MOST_LINES))
    own = "" if method.instruction == INSTRUCTION else f" {method.instruction}"
    asked = f"{asked} in {language}" if language else asked
    user = f"{_material(question, excerpts)}\n{asked} {_COPY}{own}"
    grammar = prose_grammar(most)
    most_tokens = _LONGEST_LIST_TOKENS if kind in _ASKED else _LONGEST_SENTENCE_TOKENS
    answer_tokens = min(method.answer_tokens, most_tokens, model.window_tokens() // 4)
    return Prompt(
        SYSTEM, user, grammar, tuple(line for excerpt in excerpts for line in excerpt.lines), 0, answer_tokens
    )


def is_line_by_line(kind: Kind) -> bool:
    """Whether an answer of this kind has a line for each thing: one that does not hold is left out, and the others stand."""
    return kind in _ASKED


def mending_prompt(prompt: Prompt, sentence: str, doubt: str) -> Prompt:
    """The same once more, with a sentence that did not hold and why."""
    return _once_more(prompt, sentence, f"That is wrong: {doubt}. Answer in the passages' own words.")


def whole_prompt(prompt: Prompt, words: str) -> Prompt:
    """The same once more, with what was answered in a few words and is to be a sentence."""
    return _once_more(prompt, words, "Say that in a whole sentence, with the words of the question.")


def _once_more(prompt: Prompt, said: str, wanted: str) -> Prompt:
    user = f"{prompt.user}\nAn earlier answer was: “{said}” {wanted}"
    return replace(prompt, user=user, grammar=prose_grammar(1, FEWEST_WORDS))


def _material(question: str, excerpts: Sequence[Excerpt]) -> str:
    read = "\n".join(excerpt.printed for excerpt in excerpts)
    return f"{read}\n\nQuestion: {question}"


def wants_to_answer(first_words: Mapping[str, float]) -> float | None:
    """The log-odds of Yes against No in the chances of a judgement's first words; None where these are not known."""
    if not first_words:
        return None
    chances = {"yes": _LEAST_CHANCE, "no": _LEAST_CHANCE}
    for word, chance in first_words.items():
        bare = word.strip().casefold()
        if bare in chances:
            chances[bare] += chance
    return math.log(chances["yes"] / chances["no"])
