# SPDX-License-Identifier: GPL-3.0-or-later
"""What tables give for a question, on its sheet: by rules, by a query that the language model writes, or changed by hand."""

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from redlantern.answering.question.understanding import Understood
from redlantern.answering.reckoned import CiteCell, checked_sums, reckoning_of
from redlantern.answering.sheet import FoundLine, Reckoning
from redlantern.collection.values import Document
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel
from redlantern.reading.values import CELL_SEPARATOR
from redlantern.reckoning import query
from redlantern.reckoning.candidates import TableCandidate, words_of
from redlantern.reckoning.checks import check_table
from redlantern.reckoning.plan import DOCUMENT, Plan, PlanError
from redlantern.reckoning.reckon import Reckoned, reckon, reckon_again, reckon_written
from redlantern.reckoning.source import TableSource
from redlantern.reckoning.wishes import wishes_of
from redlantern.text.question import ParsedQuestion, parse_question

_SUPERLATIVE = re.compile(
    r"\bthe (?!(?:inter|re|fo|har|prot?|con|man|sugg|gu|ch|w|t|n|b|j|v|z)est\b|request|bequest|protest|contest|latest)\w{2,}est\b",
    re.IGNORECASE,
)
"""A word such as "busiest", for which the rules know no column."""
_LEAST_DIGITS = 3
"""A shorter figure stands in many lines that mean something else."""


@dataclass(frozen=True)
class Figures:
    """The tables of an index, and how their cells are cited."""

    tables: TableSource
    documents: Mapping[int, Document]
    cite: CiteCell

    def by_rules(
        self, understood: Understood, found: Sequence[int], scope: frozenset[int] | None, cancel: Cancel
    ) -> Reckoning | None:
        """What tables give for a question; None where it asks for nothing of the kind, or what is to be drafted.

        `found` are the documents of the passages, best first.
        """
        if understood.draft is not None:
            return None
        # Words that were mended may be the ones that say what is to be done: then it is read as it was typed.
        for asked in _readings(understood):
            if wishes_of(asked.text):
                reckoned = reckon(asked, self.tables.candidates(asked, found, scope, cancel))
                if reckoned is not None:
                    return self._shown(reckoned)
        return None

    def by_model(
        self,
        understood: Understood,
        found: Sequence[int],
        scope: frozenset[int] | None,
        *,
        model: LanguageModel,
        cancel: Cancel,
    ) -> Reckoning | None:
        """What tables give for a query that the language model writes; None where the question names no table, or nothing comes out.

        Raises
        ------
        LanguageModelError, Cancelled
        """
        asked = parse_question(understood.standalone)
        wishes = wishes_of(asked.text)
        if understood.draft is not None or not (wishes or _SUPERLATIVE.search(asked.text)):
            return None
        words = words_of(asked, wishes)
        shown = query.shown_tables(asked.text, words, self.tables.candidates(asked, found, scope, cancel))
        if not shown.candidates:
            return None
        steps = model.write(
            query.SYSTEM, shown.user, grammar=shown.grammar, most_tokens=query.MOST_TOKENS, cancel=cancel
        )
        try:
            written = query.plan_of_query("".join(step.words for step in steps), shown)
        except PlanError:
            return None
        reckoned = reckon_written(asked, written, _of(shown.candidates, written.plan))
        return self._shown(reckoned) if reckoned is not None else None

    def again(self, plan: Plan, label: int, scope: frozenset[int] | None = None) -> Reckoning:
        """Carry out a plan that was changed by hand; one without tables over all in scope that have its columns.

        Raises
        ------
        PlanError
            If it cannot be carried out.
        """
        if not plan.tables:
            plan = replace(plan, tables=self.tables.fitting(plan, scope))
            label = DOCUMENT
        tables = {key: table for key in plan.tables for table in self.tables.tables(key[0]) if table.number == key[1]}
        return self._shown(reckon_again(plan, tables, label))

    def checked(self, documents: Collection[int], cancel: Cancel) -> Reckoning:
        """What the tables of these documents print, checked against itself."""
        tables = [table for document_id in sorted(documents) for table in self.tables.tables(document_id, cancel)]
        return checked_sums([check_table(table) for table in tables], self.cite)

    def _shown(self, reckoned: Reckoned) -> Reckoning:
        return reckoning_of(reckoned, lambda document_id: self.documents[document_id].title, self.cite)


def _readings(understood: Understood) -> list[ParsedQuestion]:
    return list(dict.fromkeys([understood.searched, parse_question(understood.standalone)]))


def _of(candidates: Sequence[TableCandidate], plan: Plan) -> TableCandidate:
    return next(candidate for candidate in candidates if candidate.key == plan.tables[0])


def stated(reckoning: Reckoning, lines: Sequence[FoundLine]) -> Reckoning:
    """A figure with the line beside the tables that states it, too, if one of the found lines does."""
    figure = reckoning.value.split(" ")[0]
    if sum(letter.isdigit() for letter in figure) < _LEAST_DIGITS:
        return reckoning
    as_whole = re.compile(rf"(?<![\d.,]){re.escape(figure)}(?![.,]?\d)")
    for line in lines:
        citation = line.citation
        if CELL_SEPARATOR not in citation.text and as_whole.search(citation.text):
            words = f"{citation.mark} states it, too: “{citation.text.strip()}”"
            return replace(reckoning, check=f"{reckoning.check} {words}".strip())
    return reckoning
