# SPDX-License-Identifier: GPL-3.0-or-later
"""What is to be reckoned as a small part of SQL, which language models know how to write: tables shown, a grammar, and its meaning.

Columns can only be named as they are, for the grammar lists them. There is no
WHERE: which rows count is told by the question's own words, for a small model
that may write conditions makes them of the values it was shown.
"""

import json
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import islice

from redlantern.reckoning.candidates import AskedWord, TableCandidate
from redlantern.reckoning.plan import Operation, Pick, Plan, PlanError, check, column_index
from redlantern.reckoning.tables import Table, TableColumn
from redlantern.reckoning.values import NUMERIC, ORDERED

SYSTEM = (
    "Write one SQL query that answers the question. Take the column that the question means, even if it is called otherwise. "
    "The rows are filtered already: write no WHERE."
)
MOST_TOKENS = 60
_MOST_TABLES = 2
_MOST_COLUMNS = 8
_MOST_VALUES, _MOST_FIGURES = 6, 2
_LEAST_KNOWN = 0.5
"""The share of a question's words that a table has at least to have something of, to be worth a language model's time."""
_LONGEST_VALUE, _LONGEST_NAME = 24, 60
_AGGREGATES: dict[str, Operation] = {"SUM": "sum", "AVG": "mean", "MAX": "largest", "MIN": "smallest"}
_QUERY = re.compile(
    r'^SELECT (?P<what>.+?) FROM t(?P<table>\d)(?: GROUP BY "(?P<by>[^"]+)" ORDER BY '
    r'(?P<figure>COUNT\(\*\)|SUM\("[^"]+"\)) (?P<pick>DESC|ASC) LIMIT 1| ORDER BY "(?P<order>[^"]+)" (?P<way>DESC|ASC) '
    r"LIMIT (?P<n>\d))?;?$"
)
_AGGREGATE = re.compile(r'^(?P<name>SUM|AVG|MAX|MIN)\("(?P<column>[^"]+)"\)$')


@dataclass(frozen=True)
class Query:
    """A plan that was written, and the column that says which row it is; -1 without one."""

    plan: Plan
    label: int


@dataclass(frozen=True)
class ShownTables:
    """The tables that a model is shown, and the user's part of its prompt with them and the question."""

    candidates: tuple[TableCandidate, ...]
    user: str

    @property
    def grammar(self) -> str:
        """The grammar (GBNF) of a query over one of them: columns by their names, and only those with numbers where it needs numbers."""
        rules = [f'root ::= "SELECT " ({" | ".join(f"q{at}" for at in range(1, len(self.candidates) + 1))}) ";"']
        for at, candidate in enumerate(self.candidates, start=1):
            rules += _rules(at, _shown(candidate.table))
        return "\n".join(rules) + "\n"


def shown_tables(question: str, words: Sequence[AskedWord], candidates: Sequence[TableCandidate]) -> ShownTables:
    """Show the tables that the question names most of, with their columns, kinds and a few values, then the question.

    None is shown that has hardly anything of the question.
    """
    least = _LEAST_KNOWN * sum(word.weight for word in words)

    def named(candidate: TableCandidate) -> float:
        return sum(word.weight for word in words if word.stem in candidate.about)

    def is_usable(candidate: TableCandidate) -> bool:
        is_table = not candidate.table.is_form and bool(candidate.table.items and _shown(candidate.table))
        return is_table and sum(word.weight for word in words if candidate.knows(word.stem)) >= least

    usable = [*filter(is_usable, candidates)]
    most = max(map(named, usable), default=0.0)
    chosen = tuple(islice((each for each in usable if named(each) == most), _MOST_TABLES))
    tables = [f"t{at} -- {_title(each.table)}\n{_described(each.table)}" for at, each in enumerate(chosen, start=1)]
    return ShownTables(chosen, "\n".join([*tables, f"Question: {question}"]))


def plan_of_query(words: str, shown: ShownTables) -> Query:
    """What a query means.

    Raises
    ------
    PlanError
        If it is none, or the table cannot answer it.
    """
    query = _QUERY.match(" ".join(words.split()))
    if query is None or not 1 <= int(query["table"]) <= len(shown.candidates):
        raise PlanError(f"“{words}” is no query.")
    candidate = shown.candidates[int(query["table"]) - 1]
    table = candidate.table
    plan = _operation(query, Plan((candidate.key,), "count"))
    check(plan, {candidate.key: table})
    name = query["what"].strip('"')
    label = column_index(table, name) if query["what"].startswith('"') and name != plan.column else -1
    return Query(plan, label)


def _operation(query: re.Match[str], plan: Plan) -> Plan:
    """The plan with what is done, by what, and how much of it."""
    what, figure = query["what"], _AGGREGATE.match(query["what"])
    if query["by"]:
        summed = _AGGREGATE.match(query["figure"])
        pick: Pick = "largest" if query["pick"] == "DESC" else "smallest"
        column = summed["column"] if summed else ""
        return replace(plan, operation="sum" if summed else "count", column=column, by=query["by"], pick=pick)
    if query["order"]:
        way: Operation = "largest" if query["way"] == "DESC" else "smallest"
        return replace(plan, operation=way, column=query["order"], n=int(query["n"]))
    if figure is not None:
        return replace(plan, operation=_AGGREGATES[figure["name"]], column=figure["column"])
    if what.startswith("COUNT(DISTINCT"):
        return replace(plan, operation="distinct", column=what.split('"')[1])
    if what == "COUNT(*)":
        return plan
    return replace(plan, operation="rows")


def _shown(table: Table) -> list[TableColumn]:
    """The columns that a query can name: of two with one name the first, and none whose name is a text or ends its quotation marks."""
    named = {column.name.casefold(): column for column in reversed(table.columns) if column.name.strip()}
    kept = [column for column in table.columns if named.get(column.name.casefold()) is column]
    return [
        column
        for column in kept
        if '"' not in column.name and len(column.name) <= _LONGEST_NAME and column.kind != "empty"
    ][:_MOST_COLUMNS]


def _title(table: Table) -> str:
    return table.title if table.caption in ("", table.title) else f"{table.title}, {table.caption}"


def _described(table: Table) -> str:
    return "\n".join(f'  "{column.name}" {_kind(column)} -- {_values(table, column)}' for column in _shown(table))


def _kind(column: TableColumn) -> str:
    return "date" if column.kind == "date" else "number" if column.kind in ORDERED else "text"


def _values(table: Table, column: TableColumn) -> str:
    """A few values: dates as a query writes them, figures as they are worth, words as they stand."""
    index = column_index(table, column.name)
    if column.kind in ORDERED:
        values = [row.values[index] for row in islice(table.items, _MOST_FIGURES)]
        return ", ".join(str(value.date or value.number) for value in values if value.number is not None)
    texts = dict.fromkeys(row.cells[index].text.strip() for row in table.items)
    shown = [text[:_LONGEST_VALUE] for text in islice(filter(None, texts), _MOST_VALUES)]
    return ", ".join(shown) + (", ..." if len(texts) > len(shown) else "")


def _rules(at: int, columns: Sequence[TableColumn]) -> list[str]:
    """The rules of a query over one table."""
    ordered = [column.name for column in columns if column.kind in ORDERED]
    numeric = [column.name for column in columns if column.kind in NUMERIC]
    figures = ['"COUNT(*)"', f'"COUNT(DISTINCT " any{at} ")"']
    sums = ['"COUNT(*)"']
    rules = [f"any{at} ::= {_names(column.name for column in columns)}"]
    orders = []
    if numeric:
        rules.append(f"num{at} ::= {_names(numeric)}")
        figures.append(f'("SUM(" | "AVG(") num{at} ")"')
        sums.append(f'"SUM(" num{at} ")"')
    if ordered:
        rules.append(f"ord{at} ::= {_names(ordered)}")
        figures.append(f'("MAX(" | "MIN(") ord{at} ")"')
        orders.append(f'" ORDER BY " ord{at} (" DESC" | " ASC") " LIMIT " [1-9]')
    orders.append(f'" GROUP BY " any{at} " ORDER BY " sums{at} (" DESC" | " ASC") " LIMIT 1"')
    return [
        *rules,
        f"figures{at} ::= {' | '.join(figures)}",
        f"sums{at} ::= {' | '.join(sums)}",
        f"order{at} ::= {' | '.join(orders)}",
        f'q{at} ::= figures{at} " FROM t{at}" | any{at} " FROM t{at}" order{at}?',
    ]


def _names(names: Iterable[str]) -> str:
    # GBNF and JSON quote strings alike.
    return " | ".join(json.dumps(f'"{name}"', ensure_ascii=False) for name in names)
