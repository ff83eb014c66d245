# SPDX-License-Identifier: GPL-3.0-or-later
"""Printed sums as answers: the net sum, tax or total of a table."""

import re
from collections.abc import Sequence

from redlantern.reckoning.candidates import Account, AskedWord
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


def printed_total(account: Account) -> Plan | None:
    """The printed sum of a table, where the question asks for one and names no row or column of its own."""
    of = sum_asked_for(account.question.text)
    if not any(row.role == of for row in account.table.rows) or account.wishes.bounds:
        return None
    said = own_words(account.words, of)
    left = [word for word in account.left if word not in said]
    column = sum_column(account.table)
    if not column or any(word.stem in account.candidate.value_columns for word in left):
        return None
    account.used |= said | {word for word in left if speaks_of_money(frozenset([word.stem]))}
    return Plan((account.candidate.key,), "sum", column, of=of)


def sum_asked_for(text: str) -> Counted:
    """Which printed sum a question asks for."""
    return next((of for of, pattern in _ASKED if pattern.search(text)), "total")


def own_words(words: Sequence[AskedWord], of: Counted) -> set[AskedWord]:
    """The words that say no more than that."""
    return {word for word in words if _OWN_WORDS[of].match(word.text)}


def sum_column(table: Table) -> str:
    """The last column of money, in which the printed sums stand; of plain numbers where there is none of money."""
    for kinds in (("money",), ("decimal", "whole", "quantity", "duration")):
        names = [column.name for column in table.columns if column.kind in kinds]
        if names:
            return names[-1]
    return ""
