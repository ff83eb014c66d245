# SPDX-License-Identifier: GPL-3.0-or-later
"""A question reckoned: the best plan carried out, the other thing that was perhaps meant, and whether it can be relied on."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from redlantern.reckoning.candidates import Account, TableCandidate, words_of
from redlantern.reckoning.carrying_out import Result, carry_out
from redlantern.reckoning.checks import TableCheck, check_table
from redlantern.reckoning.plan import Plan, PlanError, TableKey, column_index
from redlantern.reckoning.planning import RankedPlan, completed, plans_over_one
from redlantern.reckoning.planning_across import plans_over_many
from redlantern.reckoning.query import Query
from redlantern.reckoning.tables import Table
from redlantern.reckoning.wishes import Wish, wishes_of
from redlantern.text.listing import quoted
from redlantern.text.question import ParsedQuestion
from redlantern.translation import marked, tr

_SURE = 0.95
_LEAST = 0.75
"""From this share of the question's words on that a plan uses, it is shown; from the one above on without a doubt."""
_LEAST_WRITTEN = 0.62
"""The share for what a language model wrote: its columns need not have the question's words."""
_MOST_TRIED = 6
_CLOSE = 0.02
WRITTEN_BY_MODEL = marked("The language model chose table, column and rows: see whether they are what you asked for.")
_WHICH = re.compile(
    r"\b(?:which|who|whose|when|where|on what|welche\w*|wer|wann|wo|quel\w*|qui|quand|quién|cuál\w*|cuándo)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Reckoned:
    """What was reckoned. `label` is the column that says which row; -1 without one. `also` is the other meaning that a word of
    the question may have: the dearest by unit price. `asks_which` says that a row is asked for, not its figure. `doubts` are
    sentences; without any, it can be relied on. `check` is of the table whose printed sum is the answer.
    """

    result: Result
    label: int
    doubts: tuple[str, ...] = ()
    also: Result | None = None
    asks_which: bool = False
    check: TableCheck | None = None

    @property
    def plan(self) -> Plan:
        """What was carried out."""
        return self.result.plan

    @property
    def is_sure(self) -> bool:
        """Whether it stands without a doubt."""
        return not self.doubts


def reckon(question: ParsedQuestion, candidates: Sequence[TableCandidate]) -> Reckoned | None:
    """Reckon what a question asks of these tables; None where it asks for nothing that they could give.

    Of plans that use as much of the question the first that finds rows is taken.
    """
    tables = {candidate.key: candidate.table for candidate in candidates}
    prior = {candidate.key: candidate.place for candidate in candidates}
    tried: list[tuple[RankedPlan, Result]] = []
    for planned in ranked_plans(question, candidates)[:_MOST_TRIED]:
        result = _carried_out(planned.plan, tables)
        if result is not None and result.rows:
            tried.append((planned, result))
    if not tried or tried[0][0].covered < _LEAST:
        return None
    planned, result = tried[0]
    if planned.is_strained and planned.unused:
        return None
    doubts = [*result.doubts, *planned.doubts]
    if planned.unused:
        doubts.append(_not_found(planned.unused))
    elif planned.covered < _SURE:
        doubts.append(tr("Not every word of the question was found in the table."))
    if planned.is_strained:
        said = tr("The question does not name the column; “{column}” was taken.")
        doubts.append(said.format(column=planned.plan.column))
    rival = _rival(tried, prior)
    if rival is not None:
        said = tr("Another table fits the question as well: {where}.")
        doubts.append(said.format(where=_where(tables[rival.plan.tables[0]])))
    is_printed = planned.plan.of != "item" and len(planned.plan.tables) == 1
    check = check_table(tables[planned.plan.tables[0]]) if is_printed else None
    asks_which = bool(_WHICH.search(question.text))
    return Reckoned(result, planned.label, tuple(doubts), _also(planned, tables), asks_which, check)


def ranked_plans(question: ParsedQuestion, candidates: Sequence[TableCandidate]) -> list[RankedPlan]:
    """Plans for a question, best first; none where it asks for nothing that could be reckoned from these tables.

    Ties go to the table that the search found first.
    """
    wishes = wishes_of(question.text)
    if not wishes:
        return []
    words = words_of(question, wishes)
    found = [
        *plans_over_one(question, wishes, words, candidates),
        *plans_over_many(question, wishes, words, candidates),
    ]
    order = {candidate.key: candidate.place for candidate in candidates}
    return sorted(found, key=lambda planned: (-planned.score, order[planned.plan.tables[0]]))


def reckon_written(question: ParsedQuestion, written: Query, candidate: TableCandidate) -> Reckoned | None:
    """Carry out what a language model wrote for a question, for the rows that the question's words say; None where no row fits.

    It is always in doubt.
    """
    wishes = wishes_of(question.text)
    account = Account(question, wishes, Wish(written.plan.operation, (0, 0)), words_of(question, wishes), candidate)
    try:
        plan, label = completed(account, written)
    except PlanError:
        return None
    result = _carried_out(plan, {candidate.key: candidate.table})
    if result is None or not result.rows or account.covered < _LEAST_WRITTEN:
        return None
    unused = [word.text for word in account.left]
    doubts = [*result.doubts, tr(WRITTEN_BY_MODEL)]
    doubts += [_not_found(unused)] if unused else []
    return Reckoned(result, label, tuple(doubts), asks_which=bool(_WHICH.search(question.text)))


def reckon_again(plan: Plan, tables: Mapping[TableKey, Table], label: int) -> Reckoned:
    """Carry out a plan that the user has changed.

    Raises
    ------
    PlanError
        If it cannot be carried out.
    """
    return Reckoned(carry_out(plan, tables), label, asks_which=label >= 0)


def _carried_out(plan: Plan, tables: Mapping[TableKey, Table]) -> Result | None:
    try:
        return carry_out(plan, tables)
    except PlanError:
        return None


def _rival(tried: Sequence[tuple[RankedPlan, Result]], prior: Mapping[TableKey, int]) -> RankedPlan | None:
    """A plan over another document's table that uses as much of the question, and gives another figure."""
    first, result = tried[0]
    for planned, other in tried[1:]:
        if planned.plan.tables[0] == first.plan.tables[0] or len(first.plan.tables) > 1:
            continue
        is_close = first.score - planned.score < _CLOSE and first.covered - planned.covered < _CLOSE
        figures = [[(amount.number, amount.unit) for amount in each.amounts] for each in (result, other)]
        is_behind = prior[planned.plan.tables[0]] > prior[first.plan.tables[0]]
        if is_close and not is_behind and figures[0] != figures[1]:
            return planned
    return None


def _where(table: Table) -> str:
    if table.caption:
        return f"“{table.caption}”"
    return tr("the one with {names}").format(names=", ".join(table.names[:3]))


def _also(planned: RankedPlan, tables: Mapping[TableKey, Table]) -> Result | None:
    """By the other column of money, where the largest of them was asked for and not which: unit price beside total."""
    plan = planned.plan
    if (
        plan.operation not in ("largest", "smallest")
        or plan.by
        or plan.n > 1
        or planned.is_named
        or len(plan.tables) > 1
    ):
        return None
    table = tables[plan.tables[0]]
    measured = table.columns[column_index(table, plan.column)]
    others = [column.name for column in table.columns if column.kind == "money" and column.name != measured.name]
    if measured.kind != "money" or len(others) != 1:
        return None
    other = _carried_out(replace(plan, column=others[0]), tables)
    return other if other is not None and other.cells else None


def _not_found(unused: Sequence[str]) -> str:
    """The doubt that words of the question were met nowhere in the table."""
    return tr("Nothing in the table was found for {words}.").format(words=quoted(unused))
