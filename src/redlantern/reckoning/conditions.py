# SPDX-License-Identifier: GPL-3.0-or-later
"""Which rows a question means: words that stand in cells, bounds, what is missing, and what lies between two rows."""

import re
from collections.abc import Iterator, Sequence

from redlantern.reckoning.bounds import StatedBound
from redlantern.reckoning.candidates import Account, AskedWord, stems_of
from redlantern.reckoning.plan import Condition, PlanError
from redlantern.reckoning.values import CURRENCIES, ORDERED
from redlantern.reckoning.vocabulary import kind_of_unit, like
from redlantern.text.quantities import units_in
from redlantern.text.stems import stem

_EMPTY = re.compile(
    r"\b(?:un(paid|signed|answered|returned|settled|delivered|checked)|"
    r"(?:not|never|nicht|noch nicht|without an?|without|no)\s+(?:yet\s+)?(?:been\s+)?([^\W\d_]+))",
    re.IGNORECASE,
)
_TWO_SIDES = re.compile(r"\b(?:between|from|zwischen|entre)\b(.+?)\b(?:and|to|until|und|bis|et|y)\b(.+)", re.IGNORECASE)
_NAMED_BEFORE = 2
"""So many words before a bound may name its column."""


def bounds(account: Account) -> list[Condition]:
    """The question's bounds, each put to the column it is meant for.

    Raises
    ------
    PlanError
        If the table has none for one of them.
    """
    return [_bound(account, bound) for bound in account.wishes.bounds]


def _bound(account: Account, bound: StatedBound) -> Condition:
    before = [word.stem for word in account.words if word.end <= bound.span[0]][-_NAMED_BEFORE:]
    scores = [_bound_score(account, bound, before, index) for index in range(len(account.table.columns))]
    best = max(range(len(scores)), key=lambda index: (scores[index], -index))
    if scores[best] <= 0:
        raise PlanError("No column can be compared with that.")
    account.use(set(before) & like(account.candidate.names[best]))
    return Condition(account.column_name(best), bound.relation, bound.values)


def _bound_score(account: Account, bound: StatedBound, before: Sequence[str], index: int) -> float:
    """How much speaks for a column: words before the bound, its unit or the word after it, its kind. 0 if it cannot be compared."""
    column, names = account.table.columns[index], account.candidate.names[index]
    if (column.kind == "date") != bound.is_date or column.kind not in ORDERED:
        return 0.0
    kind = "date" if bound.is_date else kind_of_unit(bound.unit)
    score = 0.1 + (column.kind == kind) + 1.5 * bool(set(before) & like(names))
    score += 1.5 * bool(stems_of(bound.unit) & names)
    units = [CURRENCIES[bound.unit]] if bound.unit in CURRENCIES else units_in(bound.unit)
    if not units or not column.unit:
        return score
    return score + 1.0 if column.unit in units else score - 2.0


def emptiness(account: Account) -> Iterator[Condition]:
    """What is "unpaid": a column of payments that is empty, unless a cell says it in words."""
    match = _EMPTY.search(account.question.text)
    if match is None or stem(match.group().casefold()) in account.candidate.value_columns:
        return
    wanted = stems_of(match[1] or match[2])
    for index, names in enumerate(account.candidate.names):
        has_empty = any(row.values[index].kind == "empty" for row in account.table.items)
        if has_empty and wanted & like(names):
            account.use_between(*match.span())
            yield Condition(account.column_name(index), "is empty")
            return


def two_sides(account: Account) -> Iterator[Condition]:
    """For what lies between two rows: a condition that one or the other fits ("between stopping and resuming")."""
    match = _TWO_SIDES.search(account.question.text)
    known = account.candidate.value_columns
    sides = [
        [word for word in account.left if start <= word.start < end and word.stem in known]
        for start, end in ((match.span(1), match.span(2)) if match else ())
    ]
    if not sides or not all(sides):
        return
    common = set(known[sides[0][0].stem]) & set(known[sides[1][0].stem])
    if not common:
        return
    column = min(common)
    cells = [stems_of(row.cells[column].text) for row in account.table.items]
    phrases = [" ".join(word.text for word in side if column in known[word.stem]) for side in sides]
    if not any(stems_of(phrases[0]) <= cell for cell in cells):
        return
    if not any(stems_of(phrases[1]) <= cell for cell in cells):
        # The subject stands with one side and holds for both: "between stopping and resuming of leathering".
        phrases[1] = sides[1][0].text
    account.used |= {word for side in sides for word in side}
    yield Condition(account.column_name(column), "contains one of", tuple(phrases))


def values_named(account: Account, exclude: set[int]) -> Iterator[Condition]:
    """Words that stand in cells: those that stand together in cells of one column are one condition."""
    known = account.candidate.value_columns
    left = [word for word in account.left if word.stem in known]
    # "Hold" says nothing of rows, but where a cell has nothing else it is a place.
    left += [word for word in account.words if not word.weight and word not in account.used and _is_cell(account, word)]
    while left:
        column = max(
            {index for word in left for index in known[word.stem] if index not in exclude},
            key=lambda index: (sum(index in known[word.stem] for word in left), -index),
            default=-1,
        )
        if column < 0:
            return
        mine = [word for word in left if column in known[word.stem]]
        together = _together(account, mine, column)
        account.used |= set(together)
        left = [word for word in left if word not in mine]
        yield Condition(account.column_name(column), "contains", (" ".join(word.text for word in together),))


def _is_cell(account: Account, word: AskedWord) -> bool:
    """Whether a word alone is what a cell of words holds."""
    columns = account.candidate.value_columns.get(word.stem, ())
    return any(
        stems_of(text) == {word.stem}
        for index in columns
        for text in {row.cells[index].text for row in account.table.items}
    )


def _together(account: Account, words: Sequence[AskedWord], column: int) -> list[AskedWord]:
    """The most of these words, from the first on, that stand in one cell of the column."""
    cells = [stems_of(row.cells[column].text) for row in account.table.items]
    kept: list[AskedWord] = []
    for word in words:
        wanted = {other.stem for other in kept} | {word.stem}
        if any(wanted <= cell for cell in cells):
            kept.append(word)
    return kept
