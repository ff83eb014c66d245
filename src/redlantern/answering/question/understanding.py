# SPDX-License-Identifier: GPL-3.0-or-later
"""From what was typed to what is searched for: a draft's subject, a follow-up completed, misspelt words mended."""

from collections.abc import Callable
from dataclasses import dataclass, field

from redlantern.answering.question.follow_up import standalone_question
from redlantern.answering.question.parts import parts_of
from redlantern.answering.question.requests import draft_wish
from redlantern.answering.sheet import Draft
from redlantern.retrieval.hybrid import Spot
from redlantern.retrieval.spelling import KnownWords, mend, mended_question
from redlantern.text.question import ParsedQuestion, parse_question


@dataclass(frozen=True)
class Question:
    """What to ask. `history` has the questions of the thread as they were searched for, `cited` the words that answered the
    last of them; `standalone` overrides the rules for follow-ups; `scope` None means every document.

    `as_typed` leaves misspelt words alone; `shown` is the document that "this document" means. Passages that were put aside
    are not found, pinned ones always are, each known by its stretch of a page. `reader` is the word of the packaged language
    model that is to read for this question alone; empty for the collection's.
    """

    text: str
    history: tuple[str, ...] = ()
    cited: tuple[str, ...] = ()
    scope: frozenset[int] | None = None
    standalone: str = ""
    lines_only: bool = False
    as_typed: bool = False
    put_aside: frozenset[Spot] = frozenset()
    pinned: frozenset[Spot] = frozenset()
    shown: int | None = None
    reader: str = ""


@dataclass(frozen=True)
class Understood:
    """A question as it is searched for: completed from its thread, mended, and parsed. `draft` is what is to be drafted, if so."""

    standalone: str
    searched: ParsedQuestion
    mended: dict[str, str] = field(default_factory=dict)
    draft: Draft | None = None

    @property
    def parts(self) -> tuple[ParsedQuestion, ...]:
        """What is searched for, each by itself; a draft has one subject."""
        return (self.searched,) if self.draft is not None else parts_of(self.searched)


def understand(question: Question, words: KnownWords, splits_word: Callable[[str], bool]) -> Understood:
    """Understand a question against the words of the collection; see `mend` for `splits_word`."""
    draft = draft_wish(question.text)
    typed = parse_question(question.text)
    # A draft is found by its subject: "letter" and "to the Trust" are not what its pages speak of.
    standalone = question.standalone or (
        draft.about if draft else standalone_question(typed, question.history, question.cited)
    )
    standing = typed if standalone == typed.text else parse_question(standalone)
    mended = {} if question.as_typed else mend(standing, words, splits_word)
    return Understood(standalone, mended_question(standing, mended), mended, draft)
