# SPDX-License-Identifier: GPL-3.0-or-later
"""The tables of an index's documents, read and typed at first need, and those that a question may be about."""

import contextlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from itertools import chain
from types import MappingProxyType
from typing import Any

from redlantern.collection.values import Document
from redlantern.progress import Cancel
from redlantern.reading.values import Page
from redlantern.reckoning.candidates import TableCandidate
from redlantern.reckoning.cells import printed_tables
from redlantern.reckoning.plan import Plan, PlanError, TableKey, check
from redlantern.reckoning.put_right import put_right_in
from redlantern.reckoning.records import printed_records
from redlantern.reckoning.tables import Table, typed_table
from redlantern.text.question import ParsedQuestion
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

_MOST_FOUND = 12
_MOST_NAMED = 200
"""How many documents are looked into: of those that the search found, and of those that the question names by title or path."""


def tables_of(
    document: Document, pages: Iterable[Page], put_right: Mapping[str, Any] = MappingProxyType({})
) -> tuple[Table, ...]:
    """The tables of a document in order, then its lists of records and its form; `put_right` as it is kept, see put_right."""
    read = [*pages]
    changes = {change.begins: change for change in put_right_in(put_right, document.key)}
    sureness = {page.page_number: page.confidence for page in read}
    found = []
    for number, printed in enumerate(chain(printed_tables(read), printed_records(read)), start=1):
        change = changes.get((printed.rows[0][0].page_number, printed.rows[0][0].start))
        table = typed_table(
            printed, document.document_id, number, document.language, title=document.title, put_right=change
        )
        found.append(replace(table, sureness=min(sureness[row[0].page_number] for row in printed.rows)))
    return tuple(found)


class TableSource:
    """Typed tables by document. One for each state of an index: what was read of a document does not change within it."""

    def __init__(
        self,
        documents: Mapping[int, Document],
        pages_of: Callable[[int], Iterable[Page]],
        put_right: Mapping[str, Any] = MappingProxyType({}),
    ) -> None:
        self.documents = documents
        self._pages_of, self._put_right = pages_of, put_right
        self._tables: dict[int, tuple[Table, ...]] = {}
        self._names: dict[int, frozenset[str]] = {}

    def tables(self, document_id: int, cancel: Cancel | None = None) -> tuple[Table, ...]:
        """The tables of a document, in order."""
        if document_id not in self._tables:
            self._tables[document_id] = tables_of(
                self.documents[document_id], self._pages(document_id, cancel), self._put_right
            )
        return self._tables[document_id]

    def fitting(self, plan: Plan, scope: frozenset[int] | None) -> tuple[TableKey, ...]:
        """The tables of the documents in scope, None for all, over which a plan without tables can be carried out.

        Raises
        ------
        PlanError
            If it names no column, by which they could be told, or no table has those that it names.
        """
        if not plan.column and not plan.conditions:
            raise PlanError("Name a column or a condition: by these the tables are found.")
        found = []
        for document_id in self.documents:
            if scope is None or document_id in scope:
                for table in self.tables(document_id):
                    key = document_id, table.number
                    with contextlib.suppress(PlanError):
                        check(replace(plan, tables=(key,)), {key: table})
                        found.append(key)
        if not found:
            raise PlanError("No table in scope has these columns.")
        return tuple(found)

    def candidates(
        self,
        question: ParsedQuestion,
        found: Sequence[int],
        scope: frozenset[int] | None,
        cancel: Cancel,
    ) -> list[TableCandidate]:
        """The tables that a question may be about: of the documents that the search found, and of those that it names.

        `found` are the documents of the passages, best first; a document may stand there more than once.
        """
        chosen = list(dict.fromkeys(found))[:_MOST_FOUND]
        wanted = frozenset(stem(word) for word in question.content_words)
        named = [
            document_id
            for document_id in self.documents
            if (scope is None or document_id in scope)
            and document_id not in chosen
            and wanted & self._name(document_id)
        ]
        chosen += named[:_MOST_NAMED]
        candidates = []
        for place, document_id in enumerate(chosen):
            # One without a table is there all the same: of a list of documents it is said that it has none.
            title = self.documents[document_id].title
            for table in self.tables(document_id, cancel) or (Table(document_id, 0, "", (), (), title=title),):
                about = self._name(document_id) | frozenset(stem(token) for token in tokens(table.caption))
                candidates.append(TableCandidate(table, about, place))
        return candidates

    def _name(self, document_id: int) -> frozenset[str]:
        """The stems of what a document is called by: its title, its path, its call-mark."""
        if document_id not in self._names:
            document = self.documents[document_id]
            words = f"{document.title} {document.path} {document.call_mark}".replace("_", " ")
            self._names[document_id] = frozenset(stem(token) for token in tokens(words))
        return self._names[document_id]

    def _pages(self, document_id: int, cancel: Cancel | None) -> Iterable[Page]:
        for page in self._pages_of(document_id):
            if cancel is not None:
                cancel.check()
            yield page


class KeptTables:
    """The tables of the present state of an index, kept until it is another."""

    def __init__(self) -> None:
        self._kept: tuple[object, Mapping[str, Any], TableSource] | None = None

    def of(
        self,
        state: object,
        documents: Mapping[int, Document],
        pages_of: Callable[[int], Iterable[Page]],
        put_right: Mapping[str, Any] = MappingProxyType({}),
    ) -> TableSource:
        """Those of a state: the ones that were read for it before, else new ones of these documents and pages."""
        kept = self._kept
        if kept is None or kept[0] is not state or kept[1] != put_right:
            kept = self._kept = state, put_right, TableSource(documents, pages_of, put_right)
        return kept[2]
