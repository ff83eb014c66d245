# SPDX-License-Identifier: GPL-3.0-or-later
"""The method: the settings that splitting, retrieval and answering run with, each declared once."""

import json
from dataclasses import Field, dataclass, field, fields, replace
from typing import Any

from redlantern.errors import RedlanternError
from redlantern.fitted import ANSWER_THRESHOLD, WORD_WEIGHT
from redlantern.translation import tr

WRITING = (
    "context_tokens", "prompt_tokens", "answer_tokens", "temperature", "seed", "threads", "keeps_outside_claims",
    "instruction",
)  # fmt: skip
"""The settings that the language model writes with, which a collection may keep as its own."""


class SettingOutOfRangeError(RedlanternError):
    """A setting was given a value outside its bounds."""

    def __init__(self, key: str, value: float, minimum: float, maximum: float) -> None:
        super().__init__(key, value, minimum, maximum)
        self.key, self.value, self.minimum, self.maximum = key, value, minimum, maximum

    def __str__(self) -> str:
        return tr("“{key}” must lie between {minimum:g} and {maximum:g}; {value:g} was given.").format(
            key=self.key, minimum=self.minimum, maximum=self.maximum, value=self.value
        )


class NoRoomInContextError(RedlanternError):
    """Evidence, answer and instruction together are more than the context window."""

    def __init__(self, n_context: int, n_needed: int) -> None:
        super().__init__(n_context, n_needed)
        self.n_context, self.n_needed = n_context, n_needed

    def __str__(self) -> str:
        return tr(
            "Evidence, answer and instruction need {n_needed:,} tokens together, and the context window has "
            "{n_context:,}. Make it longer, or one of them shorter."
        ).format(n_needed=self.n_needed, n_context=self.n_context)


INSTRUCTION = "Answer in one short sentence."
LONGEST_INSTRUCTION = 600
"""In characters."""
_AROUND_TOKENS = 150
"""About what the question, the fixed part of the instruction and the chat template need of the context window."""
_CHARS_PER_TOKEN = 3


def _choice(default: bool, words: str, meaning: str = "") -> Any:
    return _setting(default, words, "", 0, 1, meaning)


def _setting(default: Any, words: str, unit: str, minimum: float, maximum: float, meaning: str = "") -> Any:
    declared = {"words": tr(words), "unit": tr(unit), "minimum": minimum, "maximum": maximum, "meaning": tr(meaning)}
    return field(default=default, metadata=declared)


@dataclass(frozen=True)
class Method:
    """Named settings. Each field's metadata holds its words for people, unit and bounds, and what it does if that needs saying.

    The threshold of the refusal was chosen with `bench/fit_refusal.py` on the
    questions in bench/tuning, never on the questions that quality is measured with.
    """

    name: str = "standard"
    passage_tokens: int = _setting(200, "Longest passage", "tokens", 32, 256)
    overlap_tokens: int = _setting(40, "Longest overlap of whole sentences", "tokens", 0, 100)
    by_heading: bool = _choice(True, "Begin a passage at every heading")
    by_record: bool = _choice(False, "One passage for each row of a table")
    word_weight: float = _setting(WORD_WEIGHT, "What the question's words count beside its meaning", "", 0.0, 3.0)
    reranked: int = _setting(4, "Passages compared word by word, 0 for none", "passages", 0, 20)
    passages_kept: int = _setting(10, "Passages kept as evidence", "passages", 5, 50)
    found_lines: int = _setting(5, "Most found lines", "lines", 1, 12)
    answer_threshold: float = _setting(
        ANSWER_THRESHOLD, "Evidence needed before a question counts as answered", "", 0.0, 1.0
    )
    prompt_tokens: int = _setting(
        500,
        "Most evidence sent to the language model",
        "tokens",
        100,
        100_000,
        "A model that reads is sent less where this machine would not read it within about eight seconds.",
    )
    keeps_outside_claims: bool = _choice(
        True,
        "Keep sentences that are not from the documents, marked as such",
        "Without it, what next to nothing in the documents bears out is left out of an answer.",
    )
    answer_tokens: int = _setting(
        240, "Longest written answer", "tokens", 20, 4000, "An answer that is cut off loses its last sentence."
    )
    context_tokens: int = _setting(
        2048,
        "Context window",
        "tokens",
        512,
        131_072,
        "What the model reads and writes at once; more takes memory. A model made for less gets no more than that.",
    )
    temperature: float = _setting(
        0.0,
        "Temperature",
        "",
        0.0,
        1.5,
        "0 takes the likeliest word each time; more varies the wording, and errs more.",
    )
    seed: int = _setting(
        7, "Seed", "", 0, 2_147_483_647, "With the same seed, the same question is answered the same way again."
    )
    threads: int = _setting(
        0, "Threads", "threads", 0, 64, "0 for one on each core. Fewer leave the machine freer and write more slowly."
    )
    instruction: str = INSTRUCTION

    def __post_init__(self) -> None:
        for declared in declared_settings():
            value = getattr(self, declared.name)
            low, high = declared.metadata["minimum"], declared.metadata["maximum"]
            if not low <= value <= high:
                raise SettingOutOfRangeError(declared.metadata["words"], value, low, high)
        if self.overlap_tokens >= self.passage_tokens:
            raise SettingOutOfRangeError(
                "Longest overlap of whole sentences", self.overlap_tokens, 0, self.passage_tokens - 1
            )
        if len(self.instruction) > LONGEST_INSTRUCTION:
            raise SettingOutOfRangeError("Characters of the instruction", len(self.instruction), 0, LONGEST_INSTRUCTION)
        needed = self.prompt_tokens + self.answer_tokens + _AROUND_TOKENS + len(self.instruction) // _CHARS_PER_TOKEN
        if needed > self.context_tokens:
            raise NoRoomInContextError(self.context_tokens, needed)

    def writing_as_text(self) -> str:
        """Give what of its writing settings is not as it is by default, as JSON; see `with_writing`."""
        standard = Method()
        return json.dumps(
            {
                setting: getattr(self, setting)
                for setting in WRITING
                if getattr(self, setting) != getattr(standard, setting)
            }
        )

    def with_writing(self, text: str) -> "Method":
        """Give this method with writing settings that were kept; without them where they make no sense any more."""
        try:
            kept = json.loads(text or "{}")
            return replace(self, **{name: value for name, value in kept.items() if name in WRITING})
        except (ValueError, TypeError, AttributeError, RedlanternError):
            return self


def declared_settings() -> list[Field[Any]]:
    """Give every field of Method that is a setting, in order."""
    return [field for field in fields(Method) if "words" in field.metadata]
