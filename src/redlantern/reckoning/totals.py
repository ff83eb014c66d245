"""Printed sums as answers: the net sum, tax or total of a table, and those of many documents added up."""

import re
from collections.abc import Sequence

from redlantern.reckoning.candidates import Account, AskedWord, TableCandidate
from redlantern.reckoning.plan import Counted, Plan
from redlantern.reckoning.tables import Table
from redlantern.reckoning.vocabulary import speaks_of_money

_ASKED: tuple[tuple[Counted, re.Pattern[str]], ...] = (
    (
        "net",
        re.compile(
            r"\bnet(?:to)?\b|\bexcl|\bwithout (?:vat|tax)|\bbefore tax|\bhors taxes?\b|\bsin iva\b|\bohne (?:mwst|steuer)",
            re.IGNORECASE,
        ),
    ),
    (
        "tax",
        re.compile(
            r"\b(?:vat|value[- ]added tax|sales tax|how much tax|mwst|mehrwertsteuer|umsatzsteuer|tva|iva)\b",
            re.IGNORECASE,
        ),
    ),
)
_OWN_WORDS: dict[Counted, re.Pattern[str]] = {
    "net": re.compile(r"net", re.IGNORECASE),
    "tax": re.compile(r"tax|vat|value|added|sales|mwst|tva|iva", re.IGNORECASE),
    "total": re.compile(r"total|payable|gross|due", re.IGNORECASE),
}
"""Words of the question that say no more than which sum is wanted."""
_ALL = re.compile(r"\b(?:all|every|each|aller?|toutes?|todas?|todos)\b", re.IGNORECASE)


def printed_total(account: Account) -> Plan | None:
    """The printed sum of a table, where the question asks for one and names no row or column of its own."""
    of = _asked_of(account.question.text)
    if not any(row.role == of for row in account.table.rows) or account.wishes.bounds:
        return None
    said = _own_words(account.words, of)
    left = [word for word in account.left if word not in said]
    column = _sum_column(account.table)
    if not column or any(word.stem in account.candidate.value_columns for word in left):
        return None
    account.used |= said | {word for word in left if speaks_of_money(frozenset([word.stem]))}
    return Plan((account.candidate.key,), "sum", column, of=of)


def sum_across(
    text: str, words: Sequence[AskedWord], candidates: Sequence[TableCandidate]
) -> tuple[Plan, tuple[AskedWord, ...]] | None:
    """One sum over many documents, and the words it does not use: of "all invoices" the total of each, where several print one.

    None where fewer than two do, or in columns of different names.
    """
    if not _ALL.search(text):
        return None
    of = _asked_of(text)
    said = _own_words(words, of)
    subject = [word for word in words if word.weight and word not in said and not word.text[0].isdigit()]
    chosen = [
        candidate
        for candidate in candidates
        if all(word.stem in candidate.about for word in subject) and any(row.role == of for row in candidate.table.rows)
    ]
    columns = {_sum_column(candidate.table).casefold() for candidate in chosen}
    if not subject or len(chosen) < 2 or len(columns) != 1 or "" in columns:
        return None
    keys = tuple(sorted(candidate.key for candidate in chosen))
    unused = tuple(word for word in words if word.weight and word not in subject and word not in said)
    return Plan(keys, "sum", _sum_column(chosen[0].table), of=of), unused


def _asked_of(text: str) -> Counted:
    return next((of for of, pattern in _ASKED if pattern.search(text)), "total")


def _own_words(words: Sequence[AskedWord], of: Counted) -> set[AskedWord]:
    return {word for word in words if _OWN_WORDS[of].match(word.text)}


def _sum_column(table: Table) -> str:
    """The last column of money, in which the printed sums stand; of plain numbers where there is none of money."""
    for kinds in (("money",), ("decimal", "whole", "quantity", "duration")):
        names = [column.name for column in table.columns if column.kind in kinds]
        if names:
            return names[-1]
    return ""
