# SPDX-License-Identifier: GPL-3.0-or-later
"""What the rest of the application asks of a language model, whatever runs it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

from redlantern.errors import RedlanternError
from redlantern.progress import Cancel
from redlantern.translation import tr


class LanguageModelError(RedlanternError):
    """The language model cannot be used just now; the found lines still can."""

    def __init__(self, reason: str) -> None:
        super().__init__(reason)
        self.reason = reason

    def __str__(self) -> str:
        return tr(
            "The language model {reason}. The found lines are complete; ask again to get a written answer."
        ).format(reason=self.reason)


@dataclass(frozen=True)
class Sampling:
    """How the next token is chosen: at temperature 0 the likeliest; above it at random, the same way again for the same seed."""

    temperature: float = 0.0
    seed: int = 7


GREEDY = Sampling()


@dataclass(frozen=True)
class Written:
    """A step of writing: the new words, or at the end (words empty) the counts and speeds."""

    words: str = ""
    n_prompt_tokens: int = 0
    n_cached_tokens: int = 0
    n_written_tokens: int = 0
    is_cut_off: bool = False


@dataclass(frozen=True)
class Pace:
    """How many tokens a second a model reads and writes on this machine; 0 where it is not known."""

    read_per_s: float = 0.0
    written_per_s: float = 0.0


class LanguageModel(Protocol):
    """What the rest of the application asks of a language model."""

    name: str

    @property
    def pace(self) -> Pace:
        """How fast it reads and writes on this machine, as last seen."""

    @property
    def can_read(self) -> bool:
        """Whether it passed the reading test: one that did not is held to stretches of the documents' lines."""

    @property
    def can_judge(self) -> bool:
        """Whether its first word tells a question that is answered from one that is not."""

    def fit(self, n_context: int, n_threads: int) -> None:
        """Run from now on with a context window of at most so many tokens, on so many threads (0 for one a core)."""

    def start(self, cancel: Cancel) -> None:
        """Load it, unless it runs, so that the first question need not; stopping ends it again."""

    def window_tokens(self) -> int:
        """The context window that it really has, in tokens."""

    def count_tokens(self, text: str) -> int:
        """Count a text's tokens with the model's own tokenizer."""

    def count_prompt(self, system: str, user: str) -> int:
        """Count the tokens of a whole prompt, in the model's own chat template."""

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        """Write an answer, streaming; the last step carries the counts."""

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """Read a prompt, and give the likeliest tokens of an answer's beginning with their probabilities; empty where it cannot tell."""

    def close(self) -> None:
        """End it."""
