"""A sheet: one question with its found lines, written answer, evidence and timings."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from redlantern.collection.values import Citation
from redlantern.retrieval.explain import Why

Support = Literal["supported", "partly supported", "unsupported"]
DraftKind = Literal["letter", "note", "list"]
Outcome = Literal["answered", "partly answered", "not answered"]


def listed(words: Sequence[str]) -> str:
    """Words in quotation marks, as they are listed in a sentence."""
    quoted = [f"“{word}”" for word in words]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} and {quoted[-1]}"


@dataclass(frozen=True)
class Claim:
    """One sentence of a written answer. `doubt` says in plain words what the cited words do not bear out, `absent` are those
    words of the claim; `is_outside` says that next to nothing of it is from the documents.
    """

    text: str
    support: Support
    citations: tuple[Citation, ...]
    doubt: str = ""
    absent: tuple[str, ...] = ()
    is_outside: bool = False

    @property
    def marked_text(self) -> str:
        """The sentence with its call-marks."""
        marks = " ".join(f"[{one.mark}]" for one in self.citations)
        return f"{self.text} {marks}".strip()


@dataclass(frozen=True)
class Side:
    """One of several values that documents give: as it stands, the line, and the date of its document in words."""

    value: str
    citation: Citation
    dated: str = ""


@dataclass(frozen=True)
class Disagreement:
    """Different values for what was asked, from different documents; `kind` is date, sum or number."""

    kind: str
    sides: tuple[Side, ...]


@dataclass(frozen=True)
class FoundLine:
    """A verbatim line that answers, best first; the score has no unit."""

    citation: Citation
    score: float


@dataclass(frozen=True)
class Part:
    """One section of a summary, or one document of several: its lines word for word, and what was written of them.

    `rows` says how many rows of tables it has; empty if none.
    """

    title: str
    lines: tuple[FoundLine, ...]
    claims: tuple[Claim, ...] = ()
    rows: str = ""


@dataclass(frozen=True)
class Draft:
    """What was to be drafted, in the user's words: what kind of text, to whom (empty if to nobody) and about what."""

    kind: DraftKind
    to: str
    about: str

    @property
    def head(self) -> str:
        """The lines that stand above the draft: from the user's own words, none of a model."""
        return "\n".join(f"{label} {words}" for label, words in (("To", self.to), ("About", self.about)) if words)


@dataclass(frozen=True)
class Evidence:
    """A passage that was found: its whole text as a citation, and its scores."""

    rank: int
    citation: Citation
    heading: str
    words: float
    meaning: float
    fused: float
    why: Why | None = None
    """What brought it here; None in sheets kept before it was recorded."""
    is_pinned: bool = False


@dataclass(frozen=True)
class Seconds:
    """How long each step took, from the moment the question came; None for a step that was not taken."""

    search: float = 0.0
    first_line: float | None = None
    first_word: float | None = None
    total: float = 0.0


WEAK_EVIDENCE = 0.45
"""Of the tuning questions that are answered with a lower score, two in five have no answer in the documents (bench.fit_refusal)."""
_WEAK = (
    "The evidence is weak: of questions that score like this, two in five are not answered by what is found. Read the lines before "
    "you rely on them."
)


@dataclass(frozen=True)
class Sheet:
    """One question and everything that was found for it.

    `mended` maps misspelt words to the ones searched by. `no_prose_reason` says
    why there is no written answer when there are found lines but no claims.
    `page_strengths` maps (document id, page number) to 0..1, for the ribbons; it
    is not kept with the sheet. `asked_at` is when it was asked, for a kept one.
    """

    question: str
    standalone_question: str
    refused: bool
    refusal_reason: str
    found_lines: tuple[FoundLine, ...]
    passages: tuple[Evidence, ...]
    claims: tuple[Claim, ...] = ()
    mended: dict[str, str] = field(default_factory=dict)
    no_prose_reason: str = ""
    seconds: Seconds = Seconds()
    method: str = ""
    models: dict[str, str] = field(default_factory=dict)
    n_prompt_tokens: int = 0
    n_written_tokens: int = 0
    evidence_score: float = 0.0
    page_strengths: dict[tuple[int, int], float] = field(default_factory=dict, repr=False)
    asked_at: str = ""
    disagreement: Disagreement | None = None
    missing_words: tuple[str, ...] = ()
    """The question's words that no document has, of a question that was answered all the same, by meaning."""
    left_out: str = ""
    """Which found lines the language model was not given, in words; empty if it had them all."""
    parts: tuple[Part, ...] = ()
    """The sections of a summary, whose whole the found lines and claims then are; of a sheet that is none, nothing."""
    draft: Draft | None = None
    """What was to be drafted; None for what is no draft."""
    places: str = ""
    """How many places were found, in words, where phrases were looked for instead of a question asked."""

    @property
    def outcome(self) -> Outcome:
        """Whether the documents answer; partly, where some of the question's words stand in none of them."""
        if self.refused:
            return "not answered"
        return "partly answered" if self.missing_words else "answered"

    @property
    def is_weak(self) -> bool:
        """Whether the evidence is hardly enough: a question that was answered with little more than others are refused with."""
        is_judged = bool(self.passages) and self.draft is None and not self.refused
        return is_judged and self.evidence_score < WEAK_EVIDENCE

    @property
    def cautions(self) -> tuple[str, ...]:
        """What is to be known before the lines of an answered question are read: words that no document has, weak evidence."""
        said = []
        if self.missing_words:
            said.append(
                f"No document has {listed(self.missing_words)}: what follows was found by its meaning, and may be about something else."
            )
        if self.is_weak:
            said.append(_WEAK)
        return tuple(said)

    @property
    def answer(self) -> str:
        """The written answer with its call-marks; the reason where it was refused; empty without prose."""
        if self.refused:
            return self.refusal_reason
        return " ".join(claim.marked_text for claim in self.claims)
