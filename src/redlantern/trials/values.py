# SPDX-License-Identifier: GPL-3.0-or-later
"""What trials are made of: questions with what is expected, ways to answer them, runs, and what each answer was marked with."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal, TypeVar

import msgspec

from redlantern.settings import Method, declared_settings
from redlantern.trials.ranks import RankFigures

NO_READER, MEMORY = "none", "memory"
"""Readers of an arrangement that are no model's word: found lines without a language model; the model without documents."""
RunKind = Literal["trial", "grid"]
_NOT_WHEN_ASKED = (
    "passage_tokens", "overlap_tokens", "by_heading", "by_record", "context_tokens", "threads", "seed",
)  # fmt: skip
"""Settings that a question cannot be asked with another value of: documents would have to be split anew, or models loaded."""
_Kept = TypeVar("_Kept")


@dataclass(frozen=True)
class RightPage:
    """A page that answers, by the document's path and number, and by its content where that is known.

    `is_pooled` says that it was judged right only when it was found, not named with the question.
    """

    path: str
    page_number: int
    key: str = ""
    is_pooled: bool = False


@dataclass(frozen=True)
class TrialQuestion:
    """A question with what is expected of its answer.

    `expected` are words of which any must be said, `right` the pages of which any answers; all of them where `wants_all`.
    `is_absent` says that the documents do not answer it. `is_proposed` marks for ever what a language model thought of:
    models ask easy questions.
    """

    question_id: str
    question: str
    history: tuple[str, ...] = ()
    expected: tuple[str, ...] = ()
    right: tuple[RightPage, ...] = ()
    is_absent: bool = False
    wants_all: bool = False
    tags: tuple[str, ...] = ()
    is_proposed: bool = False

    @property
    def expects_nothing(self) -> bool:
        """Whether nothing is said of what the answer should be."""
        return not (self.expected or self.right or self.is_absent)


@dataclass(frozen=True)
class QuestionSet:
    """Questions under a name, as a collection keeps them; `set_id` is 0 until it does."""

    name: str
    questions: tuple[TrialQuestion, ...]
    set_id: int = 0


@dataclass(frozen=True)
class Arrangement:
    """One way to have questions answered.

    `reader` is the word of a packaged language model, NO_READER or MEMORY; empty for the collection's own model.
    `settings` are those of the method that differ; `paths` the full paths of the documents in scope, None for all; `pattern`
    limits them to documents whose path, name or call-mark fits. Without the thread a follow-up stands alone. `copy` is the word
    of a copy beside the collection that is split or embedded otherwise.
    """

    name: str
    reader: str = ""
    settings: dict[str, Any] = field(default_factory=dict)
    has_thread: bool = True
    paths: tuple[str, ...] | None = None
    pattern: str = ""
    copy: str = ""

    @property
    def is_quick(self) -> bool:
        """Whether no language model takes part."""
        return self.reader == NO_READER


@dataclass(frozen=True)
class Lane:
    """What a run puts each question to: an arrangement, of a grid with one document alone, by its key and call-mark."""

    lane_id: str
    arrangement: Arrangement
    document_key: str = ""
    title: str = ""


@dataclass(frozen=True)
class RunConditions:
    """What a run was made with: program version, models by identity, and the collection's documents in a hash."""

    version: str = ""
    embedding: str = ""
    language: dict[str, str] = field(default_factory=dict)
    documents: str = ""
    n_documents: int = 0
    ended_at: str = ""


@dataclass(frozen=True)
class TrialRun:
    """Questions put to lanes. They are those of the set as it was then; `is_mark` says that later runs are held against it."""

    name: str
    kind: RunKind
    questions: tuple[TrialQuestion, ...]
    lanes: tuple[Lane, ...]
    began_at: str = ""
    made: RunConditions = RunConditions()
    set_id: int = 0
    is_mark: bool = False
    run_id: int = 0

    @property
    def n_cells(self) -> int:
        """How many answers it has when it is done."""
        return len(self.questions) * len(self.lanes)

    def question(self, question_id: str) -> TrialQuestion:
        """The question of this id."""
        return next(question for question in self.questions if question.question_id == question_id)


@dataclass(frozen=True)
class Marked:
    """How one answer compares with what was expected; None where that says nothing of it.

    `ranks` are of the passages' pages. `is_cited` and `is_cited_named` tell whether a right page is cited, and whether one that
    was named with the question; `is_said` whether the expected words are in the answer. `n_not_in_cited` are claims called
    supported of which a number, date or name is not in the cited words. Seconds as in a sheet.
    """

    is_refused: bool
    is_weak: bool = False
    ranks: RankFigures | None = None
    is_cited: bool | None = None
    is_cited_named: bool | None = None
    is_said: bool | None = None
    n_claims: int = 0
    n_supported: int = 0
    n_partly: int = 0
    n_not_in_cited: int = 0
    first_word_s: float | None = None
    total_s: float = 0.0
    is_written: bool = False
    problem: str = ""


@dataclass(frozen=True)
class Said:
    """An answer in words, and how it stands: the call-mark and the page of what it stands on first, and its support.

    `support` is that of its weakest claim, "reckoned", "found line", "refused", or "failed"; page 0 where there is none.
    """

    words: str = ""
    mark: str = ""
    page_number: int = 0
    support: str = ""


@dataclass(frozen=True)
class CellAnswer:
    """One answer of a run: its lane and question, how it was marked, what it says, and what a person put in its place."""

    lane_id: str
    question_id: str
    marked: Marked
    said: Said = Said()
    words: str = ""
    answered_at: str = ""

    @property
    def shown(self) -> str:
        """The answer, or what a person put in its place."""
        return self.words or self.said.words


def changeable() -> tuple[str, ...]:
    """The settings that an arrangement may change, by name."""
    return tuple(setting.name for setting in declared_settings() if setting.name not in _NOT_WHEN_ASKED)


def arranged_method(method: Method, settings: Mapping[str, Any]) -> Method:
    """A method with the settings of an arrangement; what is no such setting any more is left away.

    Raises
    ------
    SettingOutOfRangeError, NoRoomInContextError
    """
    known = changeable()
    return replace(method, **{name: value for name, value in settings.items() if name in known})


def as_values(kept: object) -> dict[str, Any]:
    """Plain values of a set, a run or what an answer was marked with, to be kept; see `from_values`."""
    return dict(msgspec.to_builtins(kept))


def from_values(kind: type[_Kept], values: Mapping[str, Any]) -> _Kept:
    """What was kept.

    Raises
    ------
    msgspec.ValidationError
    """
    return msgspec.convert(values, kind)


def in_order(lanes: Sequence[Lane]) -> list[Lane]:
    """The lanes as they are worked on: those without a language model first."""
    return sorted(lanes, key=lambda lane: not lane.arrangement.is_quick)
