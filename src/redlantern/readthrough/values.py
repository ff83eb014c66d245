# SPDX-License-Identifier: GPL-3.0-or-later
"""What a read-through is made of: what is looked for, and what each page gave."""

from dataclasses import dataclass, field
from typing import Any, Literal, get_args

import msgspec

from redlantern.collection.kept_read_throughs import KeptPage

Way = Literal["lines", "read", "all"]
"""How carefully: every line by words and meaning; the language model on every page that is not certainly silent; on every page."""
WAYS: tuple[Way, ...] = get_args(Way)
State = Literal["silent", "doubtful", "hit", "unreadable"]
Judged = Literal["", "accepted", "rejected"]
Place = tuple[str, int]
"""A page: the key of its document and its number."""


@dataclass(frozen=True)
class Example:
    """Words that a person pointed at, and whether they are what is looked for; `document_key` names where they stand."""

    text: str
    is_hit: bool
    document_key: str = ""


@dataclass(frozen=True)
class PageWish:
    """What is looked for on every page.

    `counts` says in own words what counts as a hit. `paths` are the full paths of the
    documents in scope, None for all: what is changed at its place stays in scope.
    """

    question: str
    counts: str = ""
    examples: tuple[Example, ...] = ()
    paths: tuple[str, ...] | None = None
    way: Way = "lines"

    def as_values(self) -> dict[str, Any]:
        """Plain values, to be kept; see `wish_from`."""
        return dict(msgspec.to_builtins(self))


def wish_from(values: dict[str, Any]) -> PageWish:
    """A wish that was kept.

    Raises
    ------
    msgspec.ValidationError
    """
    return msgspec.convert(values, PageWish)


@dataclass(frozen=True)
class FoundWords:
    """A stretch of a page, with its words: they stay readable when the document is gone."""

    start: int
    end: int
    text: str


@dataclass(frozen=True)
class PageRead:
    """What one page gave.

    `certainty` is the chance from 0 to 1 that it is a hit; `words` are the lines that
    speak for it, best first, also of a silent page; `how` says in words by what it was
    read; `reason` why it could not be. `features` are what the chance was made of.
    """

    place: Place
    state: State
    certainty: float
    words: tuple[FoundWords, ...] = ()
    how: str = ""
    reason: str = ""
    features: tuple[float, ...] = ()
    read_at: str = ""
    judged: Judged = ""
    note: str = ""

    @property
    def is_open(self) -> bool:
        """Whether it waits for a person's word."""
        return self.state in ("hit", "doubtful") and not self.judged

    @property
    def counts(self) -> bool:
        """Whether it is a hit, by a person's word where there is one."""
        return self.judged == "accepted" or (self.state == "hit" and self.judged != "rejected")


@dataclass(frozen=True)
class _Finding:
    words: tuple[FoundWords, ...] = ()
    how: str = ""
    reason: str = ""
    features: tuple[float, ...] = field(default=())


def kept(page: PageRead) -> KeptPage:
    """A page as a collection keeps it."""
    finding = msgspec.to_builtins(_Finding(page.words, page.how, page.reason, page.features))
    return KeptPage(*page.place, page.state, page.certainty, page.read_at, finding, page.judged, page.note)


def page_from(page: KeptPage) -> PageRead:
    """A page that was kept.

    Raises
    ------
    msgspec.ValidationError
    """
    finding = msgspec.convert(page.finding, _Finding)
    state, judged = msgspec.convert((page.state, page.judged), tuple[State, Judged])
    return PageRead(
        (page.document_key, page.page_number), state, page.certainty, finding.words, finding.how, finding.reason,
        finding.features, page.read_at, judged, page.note,
    )  # fmt: skip
