# SPDX-License-Identifier: GPL-3.0-or-later
"""From a question to plans over the tables of many documents that it names together."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from redlantern.reckoning.across import NamedDocuments, TableGroup, documents_named, printed_sums, table_groups
from redlantern.reckoning.candidates import Account, AskedWord, TableCandidate
from redlantern.reckoning.conditions import bounds, values_named
from redlantern.reckoning.measuring import asked_nouns, common_column
from redlantern.reckoning.plan import DOCUMENT, Condition, Operation, Plan, PlanError
from redlantern.reckoning.planning import LEAST_COVERED, ONLY_ROWS, PRIOR, RankedPlan, plan_of, ranked
from redlantern.reckoning.totals import own_words, sum_asked_for
from redlantern.reckoning.vocabulary import speaks_of_money
from redlantern.reckoning.wishes import Wishes
from redlantern.text.listing import listed
from redlantern.text.question import ParsedQuestion
from redlantern.translation import tr

_PRIOR_OF_MANY = 2 * PRIOR
"""What is asked of many documents is not answered by one, wherever the search found it."""
_PRINTED = 0.1
_OF_SUMS: frozenset[Operation] = frozenset({"sum", "mean", "median", "largest", "smallest"})
_MOST_NAMED = 6


def plans_over_many(
    question: ParsedQuestion, wishes: Wishes, words: Sequence[AskedWord], candidates: Sequence[TableCandidate]
) -> Iterator[RankedPlan]:
    """Plans over the tables of all documents of the kind that the question names, for each operation it may want."""
    asked = frozenset[str]().union(*(asked_nouns(question.text, wish) for wish in wishes.operations or (ONLY_ROWS,)))
    named = documents_named(question.text, words, asked, candidates)
    if named is None:
        return
    having = [*table_groups(named)]
    for wish in wishes.operations or (ONLY_ROWS,):
        for group in having:
            account = Account(question, wishes, wish, words, group.merged)
            planned = _over_group(account, group, named)
            if planned is not None:
                yield planned
        planned = _over_sums(Account(question, wishes, wish, words, named.candidates[0]), named)
        if planned is not None:
            yield planned


def _over_group(account: Account, group: TableGroup, named: NamedDocuments) -> RankedPlan | None:
    try:
        plan, label = _group_plan(account, group, named)
        plan, without = group.over_members(plan)
    except PlanError:
        return None
    if account.covered < LEAST_COVERED:
        return None
    if without:
        more = len(without) - _MOST_NAMED
        names = (
            listed(without) if more <= 0 else f"{', '.join(without[:_MOST_NAMED])} {tr('and {n} more').format(n=more)}"
        )
        account.doubts.append(tr("Nothing of the kind was found in {names}.").format(names=names))
    return ranked(account, plan, label, _PRIOR_OF_MANY)


def _group_plan(account: Account, group: TableGroup, named: NamedDocuments) -> tuple[Plan, int]:
    """The plan for a group's merged table, and the column that says which row it is.

    Raises
    ------
    PlanError
        If it cannot answer.
    """
    wish, key = account.wish, account.candidate.key
    account.used |= named.words
    if wish.operation == "common":
        column = common_column(account)
        return Plan((key,), "common", account.column_name(column)), DOCUMENT
    asks_documents = bool(asked_nouns(account.question.text, wish) & named.stems)
    if asks_documents and wish.operation in ("rows", "count"):
        conditions = tuple(dict.fromkeys([*bounds(account), *values_named(account, set())]))
        if not conditions:
            raise PlanError("All documents are no answer.")
        return Plan((key,), "documents", conditions=conditions), DOCUMENT
    plan, label = plan_of(account)
    if not asks_documents and not group.is_of_forms:
        return plan, label
    if plan.pick:
        # The document is what is asked for, and a form says of itself what is compared.
        if not (group.is_of_forms and plan.column):
            raise PlanError("The documents themselves cannot be compared.")
        plan = replace(plan, operation=wish.operation, by="", pick="")
    return plan, DOCUMENT


def _over_sums(account: Account, named: NamedDocuments) -> RankedPlan | None:
    """A plan over the printed sums of many documents, where the question asks for such sums and names no row or column."""
    wish, text = account.wish, account.question.text
    says_total = any(other.is_total for other in account.wishes.operations)
    is_of_money = says_total or any(speaks_of_money(frozenset([word.stem])) for word in account.words)
    asks_documents = bool(asked_nouns(text, wish) & named.stems)
    of = sum_asked_for(text)
    is_of_bound = asks_documents and wish.operation in ("rows", "count", "sum") and bool(account.wishes.bounds)
    keys, column = printed_sums(named, of)
    if not keys or not (wish.operation in _OF_SUMS or is_of_bound):
        return None
    said = own_words(account.words, of)
    is_of_money = is_of_money or bool(said) or "money" in wish.kinds
    account.used |= named.words | said | {word for word in account.words if speaks_of_money(frozenset([word.stem]))}
    if not is_of_money and not is_of_bound:
        return None
    try:
        conditions = _on_sums(account, column)
    except PlanError:
        return None
    operation: Operation = "documents" if is_of_bound else wish.operation
    plan = Plan(keys, operation, column, conditions, n=wish.n, of=of)
    # What a document prints as its sum is likelier meant than a column of its rows that is called so, too.
    prior = _PRIOR_OF_MANY + _PRINTED * (says_total or bool(said) or asks_documents)
    return ranked(account, plan, DOCUMENT, prior) if account.covered >= LEAST_COVERED else None


def _on_sums(account: Account, column: str) -> tuple[Condition, ...]:
    """The question's bounds, put to the column of the sums.

    Raises
    ------
    PlanError
        If one is a date, or the sums stand in columns of several names.
    """
    for bound in account.wishes.bounds:
        if bound.is_date or not column:
            raise PlanError("The sums cannot be compared with that.")
    return tuple(Condition(column, bound.relation, bound.values) for bound in account.wishes.bounds)
