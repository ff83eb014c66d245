# SPDX-License-Identifier: GPL-3.0-or-later
"""A language model whose prompts are noted: what it was given for a sheet, word for word."""

from collections.abc import Iterator

from redlantern.answering.sheet import GivenPrompt, PromptPurpose
from redlantern.answering.writing.second_search import asks_for_words
from redlantern.models.protocols import GREEDY, LanguageModel, Pace, Sampling, Written
from redlantern.progress import Cancel


class RecordedModel:
    """Passes everything on to a model; `given` has what it was asked to judge and to write, in order."""

    def __init__(self, model: LanguageModel, given: list[GivenPrompt]) -> None:
        self._model, self.given = model, given
        self.name = model.name

    @property
    def pace(self) -> Pace:
        """See LanguageModel."""
        return self._model.pace

    @property
    def can_read(self) -> bool:
        """See LanguageModel."""
        return self._model.can_read

    @property
    def can_judge(self) -> bool:
        """See LanguageModel."""
        return self._model.can_judge

    def fit(self, n_context: int, n_threads: int) -> None:
        """See LanguageModel."""
        self._model.fit(n_context, n_threads)

    def start(self, cancel: Cancel) -> None:
        """See LanguageModel."""
        self._model.start(cancel)

    def window_tokens(self) -> int:
        """See LanguageModel."""
        return self._model.window_tokens()

    def count_tokens(self, text: str) -> int:
        """See LanguageModel."""
        return self._model.count_tokens(text)

    def count_prompt(self, system: str, user: str) -> int:
        """See LanguageModel."""
        return self._model.count_prompt(system, user)

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        """See LanguageModel; noted with what was written, also where it is broken off."""
        words: list[str] = []
        steps = self._model.write(
            system, user, grammar=grammar, most_tokens=most_tokens, cancel=cancel, sampling=sampling
        )
        try:
            for step in steps:
                words.append(step.words)
                yield step
        finally:
            purpose: PromptPurpose = "search" if asks_for_words(user) else "write"
            self.given.append(GivenPrompt(purpose, system, user, "".join(words)))

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """See LanguageModel; noted with the first words and their probabilities."""
        found = self._model.first_words(system, user, cancel)
        likely = sorted(found.items(), key=lambda each: -each[1])[:3]
        said = ", ".join(f"{word.strip()} {chance:.0%}" for word, chance in likely)
        self.given.append(GivenPrompt("judge", system, user, said))
        return found

    def close(self) -> None:
        """See LanguageModel."""
        self._model.close()
