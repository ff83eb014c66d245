# SPDX-License-Identifier: GPL-3.0-or-later
"""A question put beside a table: its words, the parts of the table that they may name, and which of them have found their part."""

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from redlantern.reckoning.plan import TableKey
from redlantern.reckoning.tables import Table
from redlantern.reckoning.values import ORDERED
from redlantern.reckoning.vocabulary import GENERIC, PEOPLE, like
from redlantern.reckoning.wishes import Wish, Wishes
from redlantern.text.question import QUESTION_WORDS, ParsedQuestion
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

_WORD = re.compile(r"\d+(?:[.,:/]\d+)*|[^\W\d_]+(?:['’][^\W\d_]+)*")
_KEPT_SMALL_WORDS = ("who", "when", "where")
_NUMBER_WEIGHT = 1.5


def stems_of(text: str) -> frozenset[str]:
    """The stems of a text's words."""
    return frozenset(map(stem, tokens(text)))


@dataclass(frozen=True)
class AskedWord:
    """A word of the question that may name a table, a column or a value."""

    text: str
    stem: str
    start: int
    end: int

    @property
    def weight(self) -> float:
        """How much it tells: figures more, words such as "item" and "sum" nothing, unless a column is named by them."""
        if self.stem in GENERIC:
            return 0.0
        return _NUMBER_WEIGHT if self.text[0].isdigit() else 1.0


@dataclass(frozen=True)
class TableCandidate:
    """A table that a question may be about. `about` are the stems of what names it: its caption, its document's title and path;
    `place` is where the search found its document among the others, from 0.
    """

    table: Table
    about: frozenset[str]
    place: int

    @property
    def key(self) -> TableKey:
        """What a plan names it by."""
        return self.table.document_id, self.table.number

    @cached_property
    def names(self) -> tuple[frozenset[str], ...]:
        """For each column the stems of its name."""
        return tuple(map(stems_of, self.table.names))

    @cached_property
    def value_columns(self) -> Mapping[str, Sequence[int]]:
        """From the stem of a word in a cell to the columns of words that have it."""
        columns: dict[str, set[int]] = defaultdict(set)
        for index, column in enumerate(self.table.columns):
            if column.kind in ORDERED:
                continue
            for text in {row.cells[index].text for row in self.table.items}:
                for word in stems_of(text):
                    columns[word].add(index)
        return {key: sorted(found) for key, found in columns.items()}

    def knows(self, word: str) -> bool:
        """Whether the stem of a word stands in the table's name, in a column's, in a cell, or goes with a column."""
        return word in self.about or word in self.value_columns or any(word in like(names) for names in self.names)

    def names_people(self, index: int) -> bool:
        """Whether a column holds persons, by its name."""
        return bool(self.names[index] & like(PEOPLE))


def words_of(question: ParsedQuestion, wishes: Wishes) -> list[AskedWord]:
    """The words of a question that have still to find their part: not those that say what is to be done, or next to nothing."""
    small = question.language.function_words | QUESTION_WORDS
    found = []
    for match in _WORD.finditer(question.text):
        folded = tokens(match.group())
        # "Bay A" names something by a letter that is else an article.
        is_letter = len(match.group()) == 1 and match.group().isupper() and match.start() > 0
        if not folded or (folded[0] in small and not is_letter and folded[0] not in _KEPT_SMALL_WORDS):
            continue
        word = AskedWord(match.group(), stem(folded[0]), *match.span())
        if not wishes.is_used(*match.span()):
            found.append(word)
    return found


@dataclass
class Account:
    """One wish of a question and one table: which of the words have found their part in it.

    `is_named` says that the question names the column that is measured, `is_strained` that hardly anything speaks for it;
    `doubts` are sentences about what was made of it.
    """

    question: ParsedQuestion
    wishes: Wishes
    wish: Wish
    words: Sequence[AskedWord]
    candidate: TableCandidate
    used: set[AskedWord] = field(default_factory=set)
    is_named: bool = False
    is_strained: bool = False
    doubts: list[str] = field(default_factory=list)

    @property
    def table(self) -> Table:
        """The table."""
        return self.candidate.table

    @property
    def stems(self) -> frozenset[str]:
        """The stems of all words."""
        return frozenset(word.stem for word in self.words)

    @property
    def left(self) -> list[AskedWord]:
        """The words that tell something and have not found their part."""
        return [word for word in self.words if word not in self.used and word.weight]

    @property
    def covered(self) -> float:
        """The share of the words that have, by their weight; 1 where there are none."""
        whole = sum(word.weight for word in self.words)
        return sum(word.weight for word in self.used) / whole if whole else 1.0

    def use(self, stems: Iterable[str]) -> None:
        """Say that these words have found their part."""
        wanted = frozenset(stems)
        self.used |= {word for word in self.words if word.stem in wanted}

    def use_between(self, start: int, end: int) -> None:
        """Say so of the words of a stretch of the question."""
        self.used |= {word for word in self.words if start <= word.start < end}

    def column_name(self, index: int) -> str:
        """The name of a column as printed."""
        return self.table.columns[index].name
