"""What is sent to the language model: the selected lines, numbered, and a grammar for the answer.

Document text is material here, never instruction. A small model that is free to
write invents, and one that may frame the documents' words in its own says with
them what they do not say; so a small model is held to stretches of the lines,
word for word: it chooses which lines answer and where they may be cut short. A
larger one writes sentences of its own, each ending in the number of a line
(docs/decisions/claims-of-small-models.md has the comparison).
"""

import json
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from redlantern.answering.found import Candidate, in_words

SYSTEM = (
    "Answer the question from the numbered lines only, in one short sentence. "
    "Copy numbers, dates and names exactly. End with the number of the line in brackets."
)
MOST_CLAIMS = 3
_BEST_LINES = 2
_NEAR_TIE = 0.93
"""When the second line's score is at least this share of the best one's, neither may be kept from the reader."""

# A stretch may end before these: what follows adds to it. Never before "unless" or "except", which take away.
_ADDING_WORDS = frozenset("and or but which who because as so while when".split())
_CLAUSE_NUMBER = re.compile(r"^(?:[A-Z]\.)?\d{1,3}(?:\.\d{1,3})*\.?\s+(?=\S)")


@dataclass(frozen=True)
class Prompt:
    """The user's part of the prompt, the grammar for the answer, and the lines in the order of their numbers."""

    user: str
    grammar: str
    lines: tuple[Candidate, ...]
    n_left_out: int


def build_prompt(
    question: str,
    lines: Sequence[Candidate],
    count_tokens: Callable[[str], int],
    most_tokens: int,
    *,
    is_small: bool,
) -> Prompt:
    """Number the lines, best first, as many as the budget holds; at least the best one.

    Parameters
    ----------
    question : str
    lines : sequence of Candidate
        Best first, at least one. None of them may speak to a model.
    count_tokens : callable
        The language model's own count.
    most_tokens : int
        For the numbered lines.
    is_small : bool
        Whether the model is too small to be let write sentences of its own.
    """
    kept: list[Candidate] = []
    printed: list[str] = []
    n_tokens = 0
    for candidate in lines:
        text = as_material(candidate)
        n_tokens += count_tokens(f"[{len(kept) + 1}] {text}\n")
        if kept and n_tokens > most_tokens:
            break
        kept.append(candidate)
        printed.append(text)
    numbered = "\n".join(f"[{number}] {text}" for number, text in enumerate(printed, start=1))
    are_tied = len(kept) > 1 and kept[1].score >= _NEAR_TIE * kept[0].score
    # A line that holds no date when one is asked for is not let begin before one that does.
    begins = [number for number, one in enumerate(kept[:_BEST_LINES]) if one.has_kind] or [0]
    grammar = stretch_grammar(printed, begins=begins, says_both=are_tied) if is_small else sentence_grammar(len(kept))
    return Prompt(f"{numbered}\n\n{question}", grammar, tuple(kept), len(lines) - len(kept))


def as_material(candidate: Candidate) -> str:
    """A line as the model sees it: without its clause number, in words where it is a row, and without brackets, which are for
    our own numbers.
    """
    text = in_words(candidate) if candidate.is_row else " ".join(candidate.text.split())
    text = _CLAUSE_NUMBER.sub("", text).replace("[", "(").replace("]", ")")
    return _TAG_BEGINS.sub("‹", _TAG_ENDS.sub("›", text))


# What a model's template separates the parts of a prompt with, such as <|im_end|> or </s>, must stay words.
_TAG_BEGINS, _TAG_ENDS = re.compile(r"<(?=[|/a-zA-Z])"), re.compile(r"(?<=[|/a-zA-Z0-9])>")

_TO_A_MODEL = re.compile(
    r"\b(?:ignore|disregard|forget|override|bypass|skip)\b[^.]{0,40}"
    r"\b(?:above|previous|prior|earlier|preceding|instructions?|rules?|prompts?|guidelines?|lines|everything|all of (?:this|that))\b|"
    r"\b(?:system|developer|hidden) (?:prompt|message|instruction)|\bprompt injection\b|\bnew instructions?\b|"
    r"\byou are (?:now )?(?:an? |the )?(?:\w+ )?(?:ai|assistant|language model|chatbot|model|bot|machine)\b|"
    r"\b(?:as|to|dear|note to|attention) (?:an? |the |any |all )?(?:ai|llm|language models?|assistants?|chatbots?)\b|"
    r"\b(?:ai|llm|language models?|assistants?|chatbots?)\b[^.]{0,30}\b(?:must|should|shall|will|is to|are to|reading|processing)\b|"
    r"\b(?:respond|reply|answer|output|print|write|say|repeat)\b[^.]{0,20}\b(?:only|exactly|instead|nothing but|the following|verbatim)\b|"
    r"\b(?:only|instead|exactly|just) (?:respond|reply|answer|output|print|write|say|repeat)\b|"
    r"\b(?:answer|reply|respond)\b[^.]{0,25}\b(?:every|any|all) questions?\b[^.]{0,40}\bwith\b|"
    r"\bwhen asked\b[^.]{0,60}\b(?:say|answer|reply|respond|claim|state|tell)\b|"
    r"\bdo not (?:cite|mention|reveal|tell|use|answer|quote)\b[^.]{0,40}"
    r"\b(?:lines?|documents?|passages?|sources?|users?|questions?|readers?)\b|"
    r"\bend of (?:the )?(?:document|context|lines|prompt|material)\b|^\s*(?:system|assistant|user|human)\s*:",
    re.IGNORECASE | re.MULTILINE,
)


def is_to_a_model(text: str) -> bool:
    """Whether a text speaks to a machine that reads it, and not to a person: it is shown, and never given to one.

    Found by its wording; what it misses is still only material among numbered lines.
    """
    return bool(_TO_A_MODEL.search(text))


def sentence_grammar(n_lines: int) -> str:
    """Write the grammar (GBNF) of free sentences, each ending in the number of one of the lines."""
    return (
        f'root ::= claim (" " claim){{0,{MOST_CLAIMS - 1}}}\n'
        'claim ::= [^\\[\\]\\n ] [^\\[\\]\\n]{8,240} " [" number "]"\n'
        f"number ::= {' | '.join(_literal(str(number)) for number in range(1, n_lines + 1))}\n"
    )


def stretch_grammar(lines: Sequence[str], *, begins: Sequence[int] = (0, 1), says_both: bool = False) -> str:
    """Write the grammar (GBNF) that holds an answer to stretches of these lines.

    The first claim is from one of the lines that `begins` numbers (from 0), by
    default the two best: they are right more often than a small model's choice among
    all. Up to two more may follow, from other lines in their order; with
    `says_both` the two best must both be said. A stretch begins where its line begins and ends with it,
    or earlier where a clause ends.
    """
    rules = [rule for number, line in enumerate(lines) for rule in _line_rules(number, line.split())]
    answers = []
    for first in (number for number in begins if number < len(lines)):
        others = [number for number in range(min(MOST_CLAIMS, len(lines))) if number != first]
        parts = [f"plain{first}"]
        for other in others:
            may_be_left_out = not (says_both and other < _BEST_LINES)
            parts.append(f'(" " plain{other}){"?" if may_be_left_out else ""}')
        answers.append(" ".join(parts))
    return "\n".join([f"root ::= {' | '.join(answers)}", *rules]) + "\n"


def _line_rules(number: int, words: Sequence[str]) -> Iterator[str]:
    """Rules for one line: what may stand from each word on, and the claim that ends in the line's number."""
    last = len(words) - 1
    for at, word in enumerate(words):
        if at == last:
            yield f"from{number}x{at} ::= {_literal(word)}"
            continue
        may_end = word.endswith((",", ";", ":", ".")) or words[at + 1].casefold() in _ADDING_WORDS
        going_on = f'" " from{number}x{at + 1}'
        yield f"from{number}x{at} ::= {_literal(word)} ({going_on}){'?' if may_end and at >= _SHORTEST_STRETCH else ''}"
    yield f'plain{number} ::= from{number}x0 " [{number + 1}]"'


_SHORTEST_STRETCH = 3


def _literal(word: str) -> str:
    # GBNF and JSON quote strings alike.
    return json.dumps(word, ensure_ascii=False)
