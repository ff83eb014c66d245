# SPDX-License-Identifier: GPL-3.0-or-later
"""What a question wants reckoned, by its words alone: the operations, what kind of column they are about, and its bounds."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from redlantern.reckoning.bounds import StatedBound, bounds_in
from redlantern.reckoning.operation_words import OPERATIONS, SUPERLATIVES, TIMES, OperationWords
from redlantern.reckoning.plan import Operation
from redlantern.reckoning.values import ValueKind

_NUMBER_WORDS = {
    word: number for number, word in enumerate("two three four five six seven eight nine ten".split(), start=2)
}
_TOP = re.compile(rf"\b(?:top|the)\s+(\d{{1,2}}|{'|'.join(_NUMBER_WORDS)})\s+$", re.IGNORECASE)


@dataclass(frozen=True)
class Wish:
    """One operation that a question may want.

    `kinds` are those that the measured column is likely of, `hints` words that such a column is named by ("humidity" for
    "wettest"); `noun` is what is counted ("how many skins"); `span` is where the words stand that said so. `is_total` says
    that a total printed in the document would answer; `n` is how many of the largest are wanted.
    """

    operation: Operation
    span: tuple[int, int]
    kinds: frozenset[ValueKind] = frozenset()
    hints: tuple[str, ...] = ()
    noun: str = ""
    is_total: bool = False
    n: int = 1


@dataclass(frozen=True)
class Wishes:
    """What a question wants reckoned: its operations, the likelier first, and its bounds. False where it wants nothing."""

    operations: tuple[Wish, ...]
    bounds: tuple[StatedBound, ...] = field(default=())

    def __bool__(self) -> bool:
        return bool(self.operations or self.bounds)

    def is_used(self, start: int, end: int) -> bool:
        """Whether a word of the question has said its part already."""
        spans = [*(wish.span for wish in self.operations), *(bound.span for bound in self.bounds)]
        return any(first <= start and end <= last for first, last in spans)


def wishes_of(text: str) -> Wishes:
    """Say what a question wants reckoned."""
    bounds = tuple(bounds_in(text))
    taken = [bound.span for bound in bounds]
    superlatives = list(_superlatives(text))
    # "The largest sum": there the sum is what a column holds, and nothing is to be added up.
    ends = {wish.span[1] + 1 for wish in superlatives}
    others = [wish for wish in _operations(text) if wish.span[0] not in ends]
    operations = tuple(
        wish
        for wish in (*superlatives, *others)
        if not any(first < wish.span[1] and wish.span[0] < last for first, last in taken)
    )
    # What is added up or compared is no list: "the total of all invoices", "which days were the wettest".
    figures = tuple(wish for wish in operations if wish.operation not in ("rows", "common"))
    return Wishes(figures or operations, bounds)


def _superlatives(text: str) -> Iterator[Wish]:
    taken: list[tuple[int, int]] = []
    for superlative in SUPERLATIVES:
        for match in superlative.pattern.finditer(text):
            if any(first <= match.start() < last for first, last in taken) or _is_a_bound(text, match):
                continue
            taken.append(match.span())
            top = _TOP.search(text[: match.start()])
            n = 1 if top is None else _NUMBER_WORDS.get(top[1].casefold()) or int(top[1])
            span = (top or match).start(), match.end()
            yield Wish(superlative.operation, span, superlative.kinds, superlative.hints, n=n)


def _is_a_bound(text: str, match: re.Match[str]) -> bool:
    """Whether "most" and "least" are of "at most", "at least", or of "most of the"."""
    return bool(re.search(r"\bat\s+$", text[: match.start()])) or text[match.end() :].casefold().startswith(" of the")


def _operations(text: str) -> Iterator[Wish]:
    found: dict[Operation, Wish] = {}
    for words in OPERATIONS:
        match = words.pattern.search(text)
        if match is not None and words.operation not in found:
            found[words.operation] = _wish(words, match)
    if "distinct" in found:
        found.pop("count", None)
    yield from found.values()


def _wish(words: OperationWords, match: re.Match[str]) -> Wish:
    noun = match.groupdict().get("noun") or ""
    # The noun itself goes on to be looked for among columns and units, and so does what a list is to be of.
    end = match.start("noun") if noun else match.end()
    if words.operation in ("rows", "common"):
        end = match.start() + len(match.group().split(maxsplit=1)[0])
    is_of_time = words.operation == "difference" and re.search(r"day|long|time|tage", match.group(), re.IGNORECASE)
    kinds = TIMES if is_of_time else frozenset()
    return Wish(words.operation, (match.start(), end), kinds, noun=noun, is_total=words.is_total)
