"""What is sent to the language model: the selected lines, numbered, and a grammar that holds every claim to a number.

Document text is material here, never instruction: it stands in numbered lines,
and whatever it says, the grammar lets the model write nothing but short
sentences that end in the number of a line.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from redlantern.answering.found import Candidate, in_words

SYSTEM = (
    "Answer the question in one or two short sentences, using only the numbered lines. "
    "Copy names, dates and numbers exactly. End each sentence with the number of its line, like [1]."
)
MOST_CLAIMS = 3


@dataclass(frozen=True)
class Prompt:
    """The user's part of the prompt, the grammar for the answer, and the lines in the order of their numbers."""

    user: str
    grammar: str
    lines: tuple[Candidate, ...]
    n_left_out: int


def build_prompt(
    question: str, lines: Sequence[Candidate], count_tokens: Callable[[str], int], most_tokens: int
) -> Prompt:
    """Number the lines, best first, as many as the budget holds; at least the best one.

    Parameters
    ----------
    question : str
    lines : sequence of Candidate
        Best first.
    count_tokens : callable
        The language model's own count.
    most_tokens : int
        For the numbered lines.
    """
    kept: list[Candidate] = []
    printed: list[str] = []
    n_tokens = 0
    for candidate in lines:
        text = f"[{len(kept) + 1}] {as_material(candidate)}"
        n_tokens += count_tokens(text)
        if kept and n_tokens > most_tokens:
            break
        kept.append(candidate)
        printed.append(text)
    user = "\n".join(printed) + f"\n\nQuestion: {question}"
    return Prompt(user, _grammar(len(kept)), tuple(kept), len(lines) - len(kept))


def as_material(candidate: Candidate) -> str:
    """A line as the model sees it: in words, without anything that looks like a mark."""
    return in_words(candidate).replace("[", "(").replace("]", ")")


def _grammar(n_lines: int) -> str:
    numbers = " | ".join(f'"{number}"' for number in range(1, n_lines + 1))
    return (
        f'root ::= claim (" " claim){{0,{MOST_CLAIMS - 1}}}\n'
        'claim ::= start rest " [" number "]"\n'
        'start ::= [A-Z0-9€£$“\\"]\n'
        "rest ::= [^\\[\\]\\n]{8,220}\n"
        f"number ::= {numbers}\n"
    )
