"""The method: the settings that splitting, retrieval and answering run with, each declared once."""

from dataclasses import Field, dataclass, field, fields
from typing import Any

from redlantern.errors import RedlanternError


class SettingOutOfRangeError(RedlanternError):
    """A setting was given a value outside its bounds."""

    def __init__(self, key: str, value: float, minimum: float, maximum: float) -> None:
        super().__init__(key, value, minimum, maximum)
        self.key, self.value, self.minimum, self.maximum = key, value, minimum, maximum

    def __str__(self) -> str:
        return f"“{self.key}” must lie between {self.minimum:g} and {self.maximum:g}; {self.value:g} was given."


def _choice(default: bool, words: str) -> Any:
    return _setting(default, words, "", 0, 1)


def _setting(default: Any, words: str, unit: str, minimum: float, maximum: float) -> Any:
    return field(default=default, metadata={"words": words, "unit": unit, "minimum": minimum, "maximum": maximum})


@dataclass(frozen=True)
class Method:
    """Named settings. Each field's metadata holds its words for people, unit and bounds.

    The threshold of the refusal was chosen with `bench/fit_refusal.py` on the
    questions in bench/tuning, never on the questions that quality is measured with.
    """

    name: str = "standard"
    passage_tokens: int = _setting(200, "Longest passage", "tokens", 32, 256)
    overlap_tokens: int = _setting(40, "Longest overlap of whole sentences", "tokens", 0, 100)
    by_heading: bool = _choice(True, "Begin a passage at every heading")
    by_record: bool = _choice(False, "One passage for each row of a table")
    word_weight: float = _setting(0.75, "What the question's words count beside its meaning", "", 0.0, 3.0)
    reranked: int = _setting(4, "Passages compared word by word, 0 for none", "passages", 0, 20)
    passages_kept: int = _setting(10, "Passages kept as evidence", "passages", 5, 50)
    found_lines: int = _setting(5, "Most found lines", "lines", 1, 12)
    answer_threshold: float = _setting(0.35, "Evidence needed before a question counts as answered", "", 0.0, 1.0)
    prompt_tokens: int = _setting(300, "Most tokens of evidence sent to the language model", "tokens", 100, 4000)
    keeps_outside_claims: bool = _choice(True, "Keep sentences that are not from the documents, marked as such")
    answer_tokens: int = _setting(120, "Longest written answer", "tokens", 20, 2000)

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


def declared_settings() -> list[Field[Any]]:
    """Give every field of Method that is a setting, in order."""
    return [one for one in fields(Method) if "words" in one.metadata]
