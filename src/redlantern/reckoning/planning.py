# SPDX-License-Identifier: GPL-3.0-or-later
"""From a question to plans over the tables there are, by rules: each word is given its part, and what has none is named."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from redlantern.reckoning.candidates import Account, AskedWord, TableCandidate
from redlantern.reckoning.conditions import bounds, emptiness, two_sides, values_named
from redlantern.reckoning.measuring import (
    asked_nouns,
    counted_column,
    counts_rows,
    grouping,
    label_column,
    measured_column,
    told_column,
)
from redlantern.reckoning.plan import Condition, Plan, PlanError, check, column_index
from redlantern.reckoning.query import Query
from redlantern.reckoning.totals import printed_total
from redlantern.reckoning.vocabulary import PEOPLE, like, speaks_of_money
from redlantern.reckoning.wishes import Wish, Wishes
from redlantern.text.question import ParsedQuestion
from redlantern.translation import tr

PRIOR = 0.25
"""What a table gains that the search found first; half of it for the second, and so on."""
LEAST_COVERED = 0.5
_STRAIN, _NAME, _LATER_WISH = 0.2, 0.05, 0.02
"""What a plan loses for a column that was hardly meant, gains for one that is named, loses for each operation named before."""
ONLY_ROWS = Wish("rows", (0, 0))


@dataclass(frozen=True)
class RankedPlan:
    """A plan, the share of the question that it uses, and the words that it does not use.

    `score` orders plans: that share, and what speaks for its table and column beside. `label` is the column that says which
    row it is ("which part", "on what day"); -1 without one. `is_named` says that the question names the measured column,
    `is_strained` that hardly anything speaks for it.
    """

    plan: Plan
    score: float
    covered: float
    unused: tuple[str, ...]
    label: int = -1
    is_named: bool = False
    is_strained: bool = False
    doubts: tuple[str, ...] = ()


def plans_over_one(
    question: ParsedQuestion, wishes: Wishes, words: Sequence[AskedWord], candidates: Sequence[TableCandidate]
) -> Iterator[RankedPlan]:
    """Plans over one table each, for each operation that the question may want. A form has one row and tells nothing alone."""
    for candidate in candidates:
        if candidate.table.is_form or not candidate.table.columns:
            continue
        for wish in wishes.operations or (ONLY_ROWS,):
            planned = _planned(Account(question, wishes, wish, words, candidate))
            if planned is not None:
                yield planned


def _planned(account: Account) -> RankedPlan | None:
    """The plan of one operation over one table; None where the table cannot answer."""
    candidate = account.candidate
    try:
        plan, label = plan_of(account)
        check(plan, {candidate.key: candidate.table})
    except PlanError:
        return None
    if account.covered < LEAST_COVERED:
        return None
    return ranked(account, plan, label, PRIOR / (1 + candidate.place))


def ranked(account: Account, plan: Plan, label: int, prior: float) -> RankedPlan:
    """A plan with what speaks for it; `prior` is what its tables gain by their place."""
    wishes, wish = account.wishes, account.wish
    score = account.covered + prior + _NAME * account.is_named
    score -= _STRAIN * (account.is_strained or bool(account.doubts))
    if wish in wishes.operations:
        # Of two operations the one that was named first, unless it explains less.
        score -= _LATER_WISH * wishes.operations.index(wish)
    unused = tuple(word.text for word in account.left)
    return RankedPlan(
        plan, score, account.covered, unused, label, account.is_named, account.is_strained, tuple(account.doubts)
    )


def plan_of(account: Account) -> tuple[Plan, int]:
    """The plan, and the column that says which row it is.

    Raises
    ------
    PlanError
        If the table cannot answer.
    """
    candidate, wish = account.candidate, account.wish
    account.use(candidate.about)
    printed = printed_total(account) if wish.is_total else None
    if printed is not None:
        return printed, -1
    conditions = bounds(account)
    operation, column = wish.operation, -1
    if operation == "count":
        column = counted_column(account, conditions)
        operation = "sum" if column >= 0 else "count"
    elif operation == "common":
        raise PlanError("That is asked of several documents.")
    elif operation == "rows":
        column = told_column(account)
    elif not counts_rows(account) and operation != "share":
        column = measured_column(account)
    label = label_column(account, column)
    conditions += _conditions(account, label)
    if operation == "rows":
        _check_list(account, conditions, label)
    _use_verbs(account)
    by, pick = grouping(account, operation, column, label)
    if by:
        operation = "sum" if column >= 0 else "count"
    name = account.column_name(column) if column >= 0 else ""
    kept = tuple(dict.fromkeys(conditions))
    return Plan((candidate.key,), operation, name, kept, by, wish.n, pick=pick), label


def completed(account: Account, written: Query) -> tuple[Plan, int]:
    """What a language model wrote, with the conditions that the question's words set, and the column that says which row it is.

    Raises
    ------
    PlanError
        If the table has nothing for a bound of the question, or all rows would be listed.
    """
    plan, table = written.plan, account.table
    account.use(account.candidate.about)
    conditions = bounds(account)
    column = column_index(table, plan.column) if plan.column else -1
    by = column_index(table, plan.by) if plan.by else -1
    for index in {column, by} - {-1}:
        account.use(account.candidate.names[index] | like(account.candidate.names[index]))
    label = next((index for index in (written.label, by) if index >= 0), None)
    label = label_column(account, column) if label is None else label
    if label >= 0 and account.candidate.names_people(label):
        account.use(PEOPLE)
    conditions += _conditions(account, label)
    if plan.operation == "rows" and not conditions:
        raise PlanError("All rows are no answer.")
    _use_verbs(account)
    return replace(plan, conditions=tuple(dict.fromkeys(conditions))), label


def _check_list(account: Account, conditions: list[Condition], label: int) -> None:
    """See that a list is one of rows: those of a bound or of empty cells, or of a column that the question asks for by its name.

    Raises
    ------
    PlanError
        If it would be all rows.
    """
    if not conditions:
        raise PlanError("All rows are no answer.")
    is_named = label >= 0 and bool(account.stems & account.candidate.names[label])
    if not is_named and all(condition.relation == "contains" for condition in conditions):
        account.doubts.append(tr("The rows were found by their words alone."))


def _conditions(account: Account, label: int) -> list[Condition]:
    """The conditions that words set. A column that the question asks for has no condition of its own."""
    asks_for_label = label >= 0 and bool(
        asked_nouns(account.question.text, account.wish) & account.candidate.names[label]
    )
    sides = list(two_sides(account)) if account.wish.operation == "difference" else []
    return [*sides, *emptiness(account), *values_named(account, {label} if asks_for_label else set())]


def _use_verbs(account: Account) -> None:
    """Words that go with what the columns hold: "drove" with Driver, "stored" with Place, "charged" with sums of money."""
    for names in account.candidate.names:
        account.use(like(names))
    if any(column.kind == "money" for column in account.table.columns):
        account.use(word.stem for word in account.words if speaks_of_money(frozenset([word.stem])))
