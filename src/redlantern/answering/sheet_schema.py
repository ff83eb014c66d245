# SPDX-License-Identifier: GPL-3.0-or-later
"""The published form of a sheet in JSON: docs/sheet-json.md explains its fields, docs/sheet.schema.json is made from them."""

from typing import Any, Literal

import msgspec

from redlantern.answering.sheet import DraftKind, Outcome, PromptPurpose, Support
from redlantern.reckoning.plan import Counted, Operation, Pick, Relation

Number = float | int


class CitationForm(msgspec.Struct, kw_only=True):
    """Where words stand, and the words."""

    document: str
    call_mark: str
    document_key: str = ""
    path: str
    page: int
    start: int
    end: int
    text: str
    boxes: list[list[Number]]


class ClaimForm(msgspec.Struct, kw_only=True):
    """A sentence of a written answer."""

    text: str
    support: Support
    doubt: str
    absent: list[str] = []
    outside: bool = False
    citations: list[CitationForm]


class LineForm(msgspec.Struct, kw_only=True):
    """A found line."""

    text: str = ""
    citation: CitationForm
    score: Number


class SectionForm(msgspec.Struct, kw_only=True):
    """A section of a summary."""

    title: str
    lines: list[LineForm]
    claims: list[ClaimForm]
    rows: str


class DraftForm(msgspec.Struct, kw_only=True):
    """What was to be drafted."""

    kind: DraftKind
    to: str
    about: str


class ScoresForm(msgspec.Struct, kw_only=True):
    """What a passage is ranked by."""

    words: Number
    meaning: Number
    fused: Number


class WhyForm(msgspec.Struct, kw_only=True):
    """What brought a passage to its rank."""

    found: list[tuple[str, list[str]]]
    missing: list[str]
    share: Number
    meaning: Number
    best_line: Number
    max_sim: Number | None = msgspec.field(name="echo")
    proximity: Number = msgspec.field(name="closeness")
    before: int
    repeats: int = 0
    is_contents: bool = False
    n_joined: int = 0
    after: int = 0


class PassageForm(msgspec.Struct, kw_only=True):
    """A passage that was found."""

    rank: int
    document: str = ""
    path: str = ""
    page: int = 0
    heading: str
    text: str = ""
    scores: ScoresForm
    why: WhyForm | None = None
    pinned: bool = False
    citation: CitationForm


class SideForm(msgspec.Struct, kw_only=True):
    """One of several values."""

    value: str
    dated: str
    citation: CitationForm


class DisagreementForm(msgspec.Struct, kw_only=True):
    """Different values in different documents."""

    kind: Literal["date", "sum", "number"]
    sides: list[SideForm]


class WorkingRowForm(msgspec.Struct, kw_only=True):
    """A row of a reckoning's working; an empty cell is null."""

    cells: list[CitationForm | None]
    figures: list[int] = []
    reason: str = ""
    note: str = ""


class ConditionForm(msgspec.Struct, kw_only=True):
    """Which rows count, by one column."""

    column: str
    relation: Relation
    values: list[str]


class PlanTableForm(msgspec.Struct, kw_only=True):
    """A table: its document, and its number among the document's tables, from 1."""

    document_key: str
    path: str
    table: int


class PlanForm(msgspec.Struct, kw_only=True):
    """What was done, as data."""

    tables: list[PlanTableForm]
    operation: Operation
    column: str
    conditions: list[ConditionForm]
    by: str
    pick: Pick
    n: int
    of: Counted


class ReckoningForm(msgspec.Struct, kw_only=True):
    """What was reckoned from tables; a plan is null where a document of it is gone."""

    answer: str
    value: str
    unit: str
    plan: PlanForm | None
    plan_words: str
    label: int
    columns: list[str]
    cells: list[CitationForm] = []
    rows: list[WorkingRowForm]
    n_rows: int
    left_out: list[WorkingRowForm]
    n_unfit: int
    doubts: list[str]
    check: str
    is_borne_out: bool = True


class SecondsForm(msgspec.Struct, kw_only=True):
    """Seconds from the moment of the question."""

    search: Number
    first_line: Number | None
    first_word: Number | None
    total: Number


class TokensForm(msgspec.Struct, kw_only=True):
    """Tokens of the language model."""

    read: int
    written: int


class GivenForm(msgspec.Struct, kw_only=True):
    """What a language model was given, word for word, and what came of it."""

    purpose: PromptPurpose
    system: str
    user: str
    came: str


class SheetForm(msgspec.Struct, kw_only=True):
    """A sheet. What has a default was not kept from the beginning."""

    question: str
    standalone_question: str
    mended: dict[str, str]
    searched_also: list[str] = []
    refused: bool
    refusal_reason: str
    answer: str = ""
    no_prose_reason: str
    outcome: Outcome = "answered"
    missing_words: list[str] = []
    unanswered: list[str] = []
    left_out: str = ""
    claims: list[ClaimForm]
    found_lines: list[LineForm]
    parts: list[SectionForm] = []
    draft: DraftForm | None = None
    passages: list[PassageForm]
    disagreement: DisagreementForm | None = None
    places: str = ""
    reckoning: ReckoningForm | None = None
    evidence_score: Number
    weak: bool = False
    seconds: SecondsForm
    tokens: TokensForm
    method: str
    models: dict[str, str]
    given: list[GivenForm] = []


def schema() -> dict[str, Any]:
    """The JSON Schema of the form, as docs/sheet.schema.json holds it."""
    return msgspec.json.schema(SheetForm)
