# SPDX-License-Identifier: GPL-3.0-or-later
"""Plans over the tables of many documents: the total of all invoices, which offers have scaffolding, who came to every meeting."""

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from redlantern.reckoning.candidates import AskedWord, TableCandidate
from redlantern.reckoning.cells import Cell
from redlantern.reckoning.plan import Counted, Plan, PlanError, TableKey, check
from redlantern.reckoning.tables import Row, Table
from redlantern.reckoning.totals import sum_column
from redlantern.reckoning.values import EMPTY

_ALL = re.compile(
    r"\b(?:all|every|each|across|aller?|alle[ns]?|jede[nrsm]?|toutes?|tous|chaque|todas?|todos|cada)\b", re.IGNORECASE
)
_PLURAL = re.compile(r"\w{3,}(?:s|n)$", re.IGNORECASE)
_LEAST_DOCUMENTS = 2
_MERGED_ID = -1


@dataclass(frozen=True)
class TableGroup:
    """Tables of several documents of one kind, and the one that is made of them for planning.

    `merged` has the columns that they have in common, of forms those that most have, and the rows of all. `without` are the
    titles of the documents of that kind that have none.
    """

    members: tuple[Table, ...]
    merged: TableCandidate
    without: tuple[str, ...]

    @property
    def is_of_forms(self) -> bool:
        """Whether each document says it once."""
        return self.members[0].is_form

    def over_members(self, plan: Plan) -> tuple[Plan, tuple[str, ...]]:
        """A plan for the merged table as one over those members for which it can be carried out; and the titles of the others.

        Raises
        ------
        PlanError
            If these are fewer than two.
        """
        keys, others = [], []
        for table in self.members:
            key = table.document_id, table.number
            try:
                check(replace(plan, tables=(key,)), {key: table})
            except PlanError:
                others.append(table.title)
            else:
                keys.append(key)
        if len({document_id for document_id, _ in keys}) < _LEAST_DOCUMENTS:
            raise PlanError("Fewer than two documents have these columns.")
        return replace(plan, tables=tuple(sorted(keys))), (*others, *self.without)


@dataclass(frozen=True)
class NamedDocuments:
    """Documents that a question names together: "invoices". `words` are those that name them, `candidates` their tables."""

    words: frozenset[AskedWord]
    candidates: tuple[TableCandidate, ...]

    @property
    def stems(self) -> frozenset[str]:
        """The stems of those words."""
        return frozenset(word.stem for word in self.words)

    @property
    def documents(self) -> frozenset[int]:
        """The documents' ids."""
        return frozenset(candidate.table.document_id for candidate in self.candidates)


def documents_named(
    text: str, words: Sequence[AskedWord], asked: frozenset[str], candidates: Sequence[TableCandidate]
) -> NamedDocuments | None:
    """The documents that a question is about together; None where it is about one, or about no kind of document.

    They are named in the plural, with "all" or "every", or asked for ("which permit"): `asked` are the stems of what is. No other
    word of the question may single one of them out.
    """
    is_of_all = bool(_ALL.search(text))
    named = [
        word
        for word in words
        if not word.text[0].isdigit()
        and (is_of_all or _PLURAL.match(word.text) or word.stem in asked)
        and len({candidate.table.document_id for candidate in candidates if word.stem in candidate.about})
        >= _LEAST_DOCUMENTS
    ]
    if not named:
        return None
    # The word that most documents are called by names their kind; others narrow it.
    first = max(named, key=lambda word: (sum(word.stem in candidate.about for candidate in candidates), -word.start))
    chosen, used = [candidate for candidate in candidates if first.stem in candidate.about], {first}
    for word in words:
        inside = [candidate for candidate in chosen if word.stem in candidate.about]
        if word is not first and inside:
            used.add(word)
            chosen = inside
    used |= {word for word in words if _ALL.fullmatch(word.text)}
    documents = NamedDocuments(frozenset(used), tuple(chosen))
    return documents if len(documents.documents) >= _LEAST_DOCUMENTS else None


def table_groups(named: NamedDocuments) -> Iterator[TableGroup]:
    """The tables of these documents that have the same columns, and their forms."""
    alike: dict[tuple[str, ...], list[Table]] = defaultdict(list)
    for candidate in named.candidates:
        table = candidate.table
        if table.columns:
            alike[("",) if table.is_form else tuple(map(str.casefold, table.names))].append(table)
    titles = {candidate.table.document_id: candidate.table.title for candidate in named.candidates}
    for tables in alike.values():
        having = {table.document_id for table in tables}
        if len(having) >= _LEAST_DOCUMENTS:
            without = tuple(title for document_id, title in titles.items() if document_id not in having)
            yield TableGroup(tuple(tables), _merged(tables, named), without)


def printed_sums(named: NamedDocuments, of: Counted) -> tuple[tuple[TableKey, ...], str]:
    """The tables of these documents that print such a sum, and the column that it stands in; "" where that has several names.

    No tables where fewer than two documents print one.
    """
    chosen = [candidate for candidate in named.candidates if any(row.role == of for row in candidate.table.rows)]
    if len({candidate.table.document_id for candidate in chosen}) < _LEAST_DOCUMENTS:
        return (), ""
    columns = {sum_column(candidate.table).casefold(): sum_column(candidate.table) for candidate in chosen}
    column = next(iter(columns.values())) if len(columns) == 1 else ""
    return tuple(sorted(candidate.key for candidate in chosen)), column


def _merged(tables: Sequence[Table], named: NamedDocuments) -> TableCandidate:
    """One table of the rows of all, under the columns that more than half of them have, in the order in which they are met."""
    counts = Counter(name for table in tables for name in set(map(str.casefold, table.names)))
    columns = {
        column.name.casefold(): column
        for table in reversed(tables)
        for column in table.columns
        if 2 * counts[column.name.casefold()] > len(tables)
    }
    rows = tuple(row for table in tables for row in _rows_under(table, [*columns]))
    merged = Table(_MERGED_ID, 0, tables[0].caption, tuple(columns.values()), rows)
    # What stands in the title of some of them alone is no name of all.
    about = frozenset.intersection(*(candidate.about for candidate in named.candidates)) | named.stems
    return TableCandidate(merged, about, min(candidate.place for candidate in named.candidates))


def _rows_under(table: Table, names: Sequence[str]) -> Iterator[Row]:
    """A table's rows under these columns; empty cells where it has none of that name."""
    at = {name.casefold(): index for index, name in reversed([*enumerate(table.names)])}
    for row in table.rows:
        last = row.cells[-1]
        missing = Cell("", last.page_number, last.end, last.end)
        yield replace(
            row,
            cells=tuple(row.cells[at[name]] if name in at else missing for name in names),
            values=tuple(row.values[at[name]] if name in at else EMPTY for name in names),
        )
