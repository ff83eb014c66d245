# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet: one question with its found lines, written answer, evidence and timings."""

from dataclasses import dataclass, field, fields
from typing import Any, Literal, TypeVar

from redlantern.collection.values import Citation
from redlantern.fitted import WEAK_EVIDENCE
from redlantern.reckoning.plan import Plan
from redlantern.retrieval.explain import Why
from redlantern.splitting.headings import Headings

Support = Literal["supported", "partly supported", "unsupported"]
PromptPurpose = Literal["search", "judge", "write"]
DraftKind = Literal["letter", "note", "list"]
Outcome = Literal["answered", "partly answered", "not answered"]


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
        marks = " ".join(f"[{citation.mark}]" for citation in self.citations)
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
class SummarySection:
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
    headings: Headings
    words: float
    meaning: float
    fused: float
    why: Why | None = None
    """What brought it here; None in sheets kept before it was recorded."""
    is_pinned: bool = False


@dataclass(frozen=True)
class WorkingRow:
    """A row of a reckoning's working: a citation for each of its cells, None for an empty one. `figures` are the columns whose
    cells the figure is read from; `reason` says why it was left out, empty for one that counts; `note` is what is to be said
    of it.
    """

    cells: tuple[Citation | None, ...]
    figures: tuple[int, ...] = ()
    reason: str = ""
    note: str = ""


@dataclass(frozen=True)
class Reckoning:
    """What was reckoned from tables: the answer in a sentence, and the working it can be checked by.

    `value` is the figure alone as the documents print it, empty where rows are the answer; `unit` its unit. `plan_words` say
    what was done; `plan` is that as data, to be changed and carried out again, None for a sheet that was kept. `columns` name the
    working's; `rows` are the first of `n_rows` that count, the figure's own first, `left_out` those that do not, and `n_unfit`
    how many rows do not fit the conditions. `doubts` are sentences; without any it can be relied on. `check` says whether the
    rows bear out a printed sum, in words, and `is_borne_out` that nothing speaks against it.
    """

    answer: str
    value: str
    unit: str
    plan_words: str
    columns: tuple[str, ...]
    rows: tuple[WorkingRow, ...]
    n_rows: int
    left_out: tuple[WorkingRow, ...] = ()
    n_unfit: int = 0
    doubts: tuple[str, ...] = ()
    check: str = ""
    plan: Plan | None = None
    label: int = -1
    is_borne_out: bool = True

    @property
    def is_sure(self) -> bool:
        """Whether it stands without a doubt."""
        return not self.doubts

    @property
    def cells(self) -> tuple[Citation, ...]:
        """The cells that the figure is read from."""
        return tuple(cell for row in self.rows for index in row.figures if (cell := row.cells[index]) is not None)


@dataclass(frozen=True)
class GivenPrompt:
    """What a language model was given, word for word: the instruction, the user's part, and what came of it.

    To "search" it names words to search with once more; to "judge" it only begins: `came` has its likeliest first words with their
    chances, else what it wrote.
    """

    purpose: PromptPurpose
    system: str
    user: str
    came: str = ""


@dataclass(frozen=True)
class Seconds:
    """How long each step took, from the moment the question came; None for a step that was not taken."""

    search: float = 0.0
    first_line: float | None = None
    first_word: float | None = None
    total: float = 0.0


@dataclass(frozen=True)
class Sheet:
    """One question and everything that was found for it: one of the kinds below. How it is worded stands in `wording`.

    `mended` maps misspelt words to the ones searched by. `no_prose_reason` says
    why there is no written answer when there are found lines but no claims.
    `page_strengths` maps (document id, page number) to 0..1, for the ribbons; it
    is not kept with the sheet. `asked_at` is when it was asked, for a kept one.
    What a kind has not is empty.
    """

    question: str
    standalone_question: str
    passages: tuple[Evidence, ...] = ()
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
    draft: Draft | None = None
    """What was to be drafted; None for what is no draft."""
    reckoning: Reckoning | None = None
    """What was reckoned; None for a question that nothing is reckoned for."""
    searched_also: tuple[str, ...] = ()
    """Words of the language model's that were searched with as well, where the question's own found little."""
    given: tuple[GivenPrompt, ...] = field(default=(), repr=False)
    """What the language model was given for it, in order; none in sheets kept before it was recorded."""

    @property
    def is_reckoned(self) -> bool:
        """Whether the figure that was reckoned is the answer."""
        return self.reckoning is not None and self.reckoning.is_sure

    @property
    def refused(self) -> bool:
        """Whether it is a refusal."""
        return isinstance(self, RefusedSheet)

    @property
    def found_lines(self) -> tuple[FoundLine, ...]:
        """The lines that answer, word for word, best first."""
        return ()

    @property
    def claims(self) -> tuple[Claim, ...]:
        """What was written of them."""
        return ()

    @property
    def sections(self) -> tuple[SummarySection, ...]:
        """The sections of a summary, whose whole the found lines and claims then are."""
        return ()

    @property
    def disagreement(self) -> Disagreement | None:
        """Different values in different documents."""
        return None

    @property
    def missing_words(self) -> tuple[str, ...]:
        """The question's words that no document has, of a question that was answered all the same, by meaning."""
        return ()

    @property
    def unanswered(self) -> tuple[str, ...]:
        """The parts of a question of several that the documents do not answer."""
        return ()

    @property
    def left_out(self) -> str:
        """Which found lines the language model was not given, in words; empty if it had them all."""
        return ""

    @property
    def places(self) -> str:
        """How many places there are, in words, where phrases were looked for."""
        return ""

    @property
    def refusal_reason(self) -> str:
        """Why it was refused, in words."""
        return ""

    @property
    def outcome(self) -> Outcome:
        """Whether the documents answer; partly, where some of the question's words stand in none of them."""
        if self.refused:
            return "not answered"
        return "partly answered" if self.missing_words or self.unanswered else "answered"

    @property
    def is_read(self) -> bool:
        """Whether a language model's reading decided, too, whether it is answered."""
        return any(prompt.purpose == "judge" for prompt in self.given)

    @property
    def is_weak(self) -> bool:
        """Whether the evidence is hardly enough: a question that was answered with little more than others are refused with."""
        is_judged = bool(self.passages) and self.draft is None and not self.refused
        if self.is_reckoned:
            return False
        return is_judged and self.evidence_score < WEAK_EVIDENCE


@dataclass(frozen=True)
class AnsweredSheet(Sheet):
    """A question that the documents answer, or what a draft is made from."""

    found_lines: tuple[FoundLine, ...] = ()
    claims: tuple[Claim, ...] = ()
    disagreement: Disagreement | None = None
    missing_words: tuple[str, ...] = ()
    unanswered: tuple[str, ...] = ()
    left_out: str = ""


@dataclass(frozen=True)
class RefusedSheet(Sheet):
    """A question that the documents in scope do not answer; its passages and found lines are the nearest."""

    refusal_reason: str = ""
    found_lines: tuple[FoundLine, ...] = ()


@dataclass(frozen=True)
class SummarySheet(Sheet):
    """A summary: its found lines and claims are the whole, its sections the documents or their parts."""

    found_lines: tuple[FoundLine, ...] = ()
    claims: tuple[Claim, ...] = ()
    sections: tuple[SummarySection, ...] = ()


@dataclass(frozen=True)
class PlacesSheet(Sheet):
    """All places of phrases that were looked for instead of a question asked."""

    found_lines: tuple[FoundLine, ...] = ()
    places: str = ""


_SheetKind = TypeVar("_SheetKind", bound=Sheet)


def made_into(kind: type[_SheetKind], sheet: Sheet, **more: Any) -> _SheetKind:
    """A sheet of another kind with what all kinds have of this one, and more."""
    common = {member.name: getattr(sheet, member.name) for member in fields(Sheet)}
    return kind(**(common | more))
