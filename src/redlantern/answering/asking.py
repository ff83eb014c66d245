# SPDX-License-Identifier: GPL-3.0-or-later
"""One question put to an index: what is found for it, and how what is written of that is made."""

import contextlib
import time
from collections import Counter
from collections.abc import Collection as Ids
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

from redlantern.answering import wording
from redlantern.answering.evidence.disagreement import date_of, disagreement
from redlantern.answering.evidence.lines import (
    Asked,
    Candidate,
    choose_lines,
    features_of,
    rank_lines,
    take_apart,
)
from redlantern.answering.evidence.neighbours import joined_with_neighbours
from redlantern.answering.evidence.refusal import evidence_score
from redlantern.answering.figures import Figures, stated
from redlantern.answering.merging import in_turn, strongest
from redlantern.answering.question.requests import SummaryWish, summary_wish, sums_wish
from redlantern.answering.question.understanding import Question, Understood, understand
from redlantern.answering.sheet import (
    AnsweredSheet,
    Disagreement,
    Evidence,
    FoundLine,
    PlacesSheet,
    RefusedSheet,
    Sheet,
    made_into,
)
from redlantern.answering.writing.answer import write_answer
from redlantern.answering.writing.drafting import MOST_LINES
from redlantern.answering.writing.grounds import AskedPart, Grounds
from redlantern.answering.writing.streams import WritingStep
from redlantern.answering.writing.summary import PartStep, plan_summary, planned_sheet, topics_of, write_summary
from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.collection.values import Citation, StoredPassage
from redlantern.errors import RedlanternError
from redlantern.fitted import HOPELESS, KEPT_SHARE, SEARCHED_AGAIN_FROM, SUBJECT_SHARE
from redlantern.models.embedding import Embedder
from redlantern.models.protocols import LanguageModel, LanguageModelError
from redlantern.progress import Cancel
from redlantern.reckoning.cells import Cell
from redlantern.reckoning.source import TableSource
from redlantern.retrieval.explain import why
from redlantern.retrieval.hybrid import find, is_held
from redlantern.retrieval.index import Index
from redlantern.retrieval.phrases import Place, look_for, phrases_in
from redlantern.retrieval.rerank import Reranked
from redlantern.settings import Method
from redlantern.text.question import ParsedQuestion, parse_question, with_aside
from redlantern.text.stems import every_stem
from redlantern.text.tokens import as_typed
from redlantern.translation import tr


class EmptyQuestionError(RedlanternError):
    """There was nothing to ask."""

    def __str__(self) -> str:
        return tr("The question is empty. Type what you want to know, in a whole sentence or a few words.")


class EmptyCollectionError(RedlanternError):
    """No document can be asked about."""

    def __str__(self) -> str:
        return tr("This collection holds no readable document yet. Add a folder first; then ask.")


@dataclass(frozen=True)
class FoundStep:
    """The search is done: the sheet with its found lines and evidence, or refused."""

    sheet: Sheet


@dataclass(frozen=True)
class ReckonedStep:
    """A figure came out of a query that the language model wrote: the sheet with it, its answer yet to be written."""

    sheet: Sheet


@dataclass(frozen=True)
class DoneStep:
    """The sheet is complete."""

    sheet: Sheet


Step = FoundStep | PartStep | ReckonedStep | WritingStep | DoneStep


_SheetKind = TypeVar("_SheetKind", bound=Sheet)
Writing = Iterator[PartStep | ReckonedStep | WritingStep | Sheet]
"""What is written of what was found: the steps, then the sheet with all of it; nothing where there is nothing to write."""
_MOST_SUMMARISED = 300
_MOST_PLACES_SHOWN = 200


@dataclass(frozen=True)
class _PartFound:
    """What was found for one part of a question: passages and lines, best first, and how strong the evidence is."""

    question: ParsedQuestion
    ranked: Sequence[Reranked]
    asked: Asked
    candidates: Sequence[Candidate]
    score: float
    page_strengths: Mapping[tuple[int, int], float]


@dataclass(frozen=True)
class Asking:
    """What a question is put to: an index with its collections, and the models."""

    index: Index
    collection: Collection | Joint
    embedder: Embedder
    language_model: LanguageModel | None
    method: Method
    tables: TableSource
    known_words: dict[str, str] = field(default_factory=dict, repr=False)
    """See Grounds; the engine's own, from one question to the next."""

    def open_sheet(self, question: Question, began: float, cancel: Cancel) -> tuple[Sheet, Writing]:
        """Find for a question, a summary, a draft or phrases: the sheet with nothing written yet, and its writing.

        `began` is when it came, by `time.perf_counter`.

        Raises
        ------
        EmptyCollectionError, Cancelled
        """
        wish = summary_wish(question.text, self.index.documents.values(), question.scope, question.shown)
        if wish is not None:
            return self._plan_summary(question, wish, began, cancel)
        documents = sums_wish(question.text, self.index.documents.values(), question.scope, question.shown)
        if documents is not None:
            return self._check_sums(question, documents, began, cancel), iter(())
        phrases = phrases_in(question.text)
        if phrases:
            return self._look(question, phrases, began, cancel), iter(())
        return self._find(question, began, cancel)

    def _find(self, question: Question, began: float, cancel: Cancel) -> tuple[Sheet, Writing]:
        """Find for a question: its sheet without a written answer, and the writing of one; none where it is refused."""
        index, method = self.index, self.method
        if not index.n_passages:
            raise EmptyCollectionError
        understood = understand(question, index.words, self.embedder.splits_word)
        base = Sheet(
            question.text, understood.standalone, mended=understood.mended, method=method.name,
            models={"embedding": self.embedder.name}, draft=understood.draft,
        )  # fmt: skip
        if question.scope is not None and not question.scope:
            return made_into(RefusedSheet, base, refusal_reason=wording.NOTHING_IN_SCOPE), iter(())
        found = [self._found_for(part, question) for part in understood.parts]
        ranked = list(in_turn([part.ranked for part in found], key=lambda reranked: reranked.passage.passage_id))
        passages = tuple(
            self._evidence(rank, reranked, question, understood.searched)
            for rank, reranked in enumerate(ranked[: method.passages_kept], start=1)
        )
        sheet = replace(
            base, passages=passages, evidence_score=max(part.score for part in found),
            page_strengths=strongest([part.page_strengths for part in found]),
        )  # fmt: skip
        missing = self._missing_words(understood.searched)
        documents = [reranked.passage.document_id for reranked in ranked]
        sheet = replace(sheet, reckoning=self.figures.by_rules(understood, documents, question.scope, cancel))
        if sheet.is_reckoned:
            # The figure is the answer: nothing that a language model could add to it would be better.
            answered, _ = self._answered(sheet, found, [], question, began, cancel)
            assert isinstance(answered, AnsweredSheet)
            assert answered.reckoning is not None
            reckoning = stated(answered.reckoning, answered.found_lines)
            return replace(answered, reckoning=reckoning, disagreement=None), iter(())
        if sheet.evidence_score < self._least_evidence(question, sheet):
            # What does not answer must not be shown as if it did; the nearest passages are there to look at.
            refused = made_into(RefusedSheet, sheet, refusal_reason=wording.not_answered(missing))
            return timed(refused, search=time.perf_counter() - began), iter(())
        answered, writing = self._answered(sheet, found, missing, question, began, cancel)
        if sheet.reckoning is None:
            writing = self._reckoned_by_model(
                answered, understood, question, writing, documents=documents, cancel=cancel
            )
        return answered, writing

    @property
    def figures(self) -> Figures:
        """What can be reckoned from its tables."""

        def cite(document_id: int, cell: Cell) -> Citation:
            return self.collection.cite(self.index.documents[document_id], cell.page_number, cell.start, cell.end)

        return Figures(self.tables, self.index.documents, cite)

    def _check_sums(self, question: Question, documents: Ids[int], began: float, cancel: Cancel) -> Sheet:
        """Check what the tables of documents print against itself."""
        reckoning = self.figures.checked(documents, cancel)
        base = Sheet(question.text, question.text, method=self.method.name, reckoning=reckoning)
        return timed(made_into(AnsweredSheet, base), search=time.perf_counter() - began)

    def _reckoned_by_model(
        self,
        sheet: Sheet,
        understood: Understood,
        question: Question,
        writing: Writing,
        *,
        documents: Sequence[int],
        cancel: Cancel,
    ) -> Writing:
        """The writing of an answer, with a figure before it where the language model finds a query for one."""
        model = self.language_model
        if model is not None and model.can_read:
            with contextlib.suppress(LanguageModelError):  # what is written next says so
                reckoning = self.figures.by_model(understood, documents, question.scope, model=model, cancel=cancel)
                if reckoning is not None:
                    yield ReckonedStep(replace(sheet, reckoning=reckoning))
        yield from writing

    def _found_for(self, part: ParsedQuestion, question: Question) -> _PartFound:
        """Find for one part of a question, and see how strong the evidence is."""
        finding = find(
            self.index, self.collection, self.embedder, part, question.scope, self.method,
            put_aside=question.put_aside, pinned=question.pinned,
        )  # fmt: skip
        asked = take_apart(finding.words, self.index.words.languages)
        members = [member for joined in finding.ranked for member in joined.members]
        candidates = rank_lines(
            asked, [member.hit for member in members], [member.passage for member in members], self.embedder
        )
        score = evidence_score(features_of(asked, candidates))
        return _PartFound(part, finding.ranked, asked, candidates, score, finding.page_strengths)

    def _least_evidence(self, question: Question, sheet: Sheet) -> float:
        """The evidence with less than which a question is refused at once: little where a model judges before it is decided."""
        model = self.language_model
        is_judged = model is not None and model.can_read and model.can_judge
        is_judged = is_judged and not question.lines_only and sheet.draft is None
        return min(HOPELESS, self.method.answer_threshold) if is_judged else self.method.answer_threshold

    def _answered(
        self,
        sheet: Sheet,
        found: Sequence[_PartFound],
        missing: list[str],
        question: Question,
        began: float,
        cancel: Cancel,
    ) -> tuple[Sheet, Writing]:
        """The sheet with the lines that may answer, and the writing of them."""
        most, share = (MOST_LINES, SUBJECT_SHARE) if sheet.draft else (self.method.found_lines, KEPT_SHARE)
        by_part = [joined_with_neighbours(choose_lines(part.candidates, most, share)) for part in found]
        lines = list(in_turn(by_part, key=lambda line: (line.passage.document_id, line.passage.page_number, line.span)))
        lines = lines[: most + len(found) - 1]
        answered = made_into(
            AnsweredSheet,
            sheet,
            missing_words=tuple(missing),
            found_lines=tuple(FoundLine(self._cite(line.passage, line.span), line.score) for line in lines),
            disagreement=self._disagreement(found[0].asked, found[0].candidates) if len(found) == 1 else None,
        )
        spent = time.perf_counter() - began
        answered = timed(answered, search=spent, first_line=spent if lines else None)
        if not lines:
            return answered, iter(())
        grounds = self._grounds_on(found, lines, question)
        return answered, write_answer(answered, grounds, self.language_model, self.method, began, cancel)

    def grounds_of(self, question: Question) -> Grounds:
        """What an answer to a question would stand on, whether or not it would be refused."""
        understood = understand(question, self.index.words, self.embedder.splits_word)
        return self._grounds_on([self._found_for(part, question) for part in understood.parts], (), question)

    def _grounds_on(
        self, found: Sequence[_PartFound], lines: Sequence[Candidate], question: Question, words: Sequence[str] = ()
    ) -> Grounds:
        """What an answer may stand on; with what these words find for each part of the question before it."""
        is_large = self.index.n_passages >= SEARCHED_AGAIN_FROM
        again = [
            self._found_for(parse_question(with_aside(part.question.text, said)), question)
            for part, said in zip(found, words or [""] * len(found), strict=True)
            if said
        ]
        every = [*again, *found]
        candidates = in_turn([part.candidates for part in every], key=lambda line: (line.passage.passage_id, line.line))
        ranks = {
            member.passage.passage_id: rank
            for part in every
            for rank, reranked in reversed([*enumerate(part.ranked)])
            for member in reranked.members
        }
        parts = tuple(AskedPart(part.question, part.score) for part in found)
        return replace(
            self._grounds(lines, list(candidates)), ranks=ranks, parts=parts, searched_also=tuple(filter(None, words)),
            known_words=self.known_words,
            found_with=(lambda words: self._grounds_on(found, lines, question, words)) if is_large else None,
        )  # fmt: skip

    def _missing_words(self, searched: ParsedQuestion) -> list[str]:
        """The question's words that no document has, as typed."""
        words = self.index.words
        return [
            as_typed(word, searched.text)
            for word in searched.content_words
            if not any(map(words.holds, every_stem(word, words.languages)))
        ]

    def _plan_summary(
        self, question: Question, wish: SummaryWish, began: float, cancel: Cancel
    ) -> tuple[Sheet, Writing]:
        """Choose the lines of a summary: its sheet with them, and its writing."""
        base = Sheet(question.text, question.text, method=self.method.name)
        if len(wish.documents) > _MOST_SUMMARISED:
            reason = wording.too_many_to_summarise(len(wish.documents), _MOST_SUMMARISED)
            return made_into(RefusedSheet, base, refusal_reason=reason), iter(())
        topics = topics_of(self.index, self.collection, self.embedder, wish.documents, cancel)
        plan = plan_summary(topics, wish.length)
        grounds = self._grounds((), ())
        sheet = planned_sheet(base, plan, grounds.cite)
        spent = time.perf_counter() - began
        sheet = timed(sheet, search=spent, first_line=spent if sheet.found_lines else None)
        return sheet, write_summary(sheet, plan, grounds, self.language_model, self.method, began, cancel)

    def _look(self, question: Question, phrases: Sequence[str], began: float, cancel: Cancel) -> Sheet:
        """Look for phrases in quotation marks: a sheet of all their places."""
        index = self.index
        if not index.n_passages:
            raise EmptyCollectionError
        base = Sheet(question.text, question.text, method=self.method.name)
        if question.scope is not None and not question.scope:
            return made_into(RefusedSheet, base, refusal_reason=wording.NOTHING_IN_SCOPE)
        places = look_for(phrases, index, self.collection, question.scope, cancel)
        if not places:
            return made_into(RefusedSheet, base, refusal_reason=wording.no_place(phrases))
        pages: Counter[tuple[int, int]] = Counter((place.document_id, place.page_number) for place in places)
        most = max(pages.values())
        # A page with one place is lit, too, and one with many fully.
        strengths = {page: 0.35 + 0.65 * n / most for page, n in pages.items()}
        shown = tuple(FoundLine(self._cite_line(place), 1.0) for place in places[:_MOST_PLACES_SHOWN])
        words = wording.places(len(places), len(pages), len({place.document_id for place in places}), len(shown))
        spent = time.perf_counter() - began
        sheet = made_into(
            PlacesSheet, base, found_lines=tuple(dict.fromkeys(shown)), places=words, page_strengths=strengths
        )
        return timed(sheet, search=spent, first_line=spent)

    def _cite_line(self, place: Place) -> Citation:
        """The line that a place stands in."""
        return self.collection.cite(self.index.documents[place.document_id], place.page_number, *place.line)

    def _evidence(self, rank: int, reranked: Reranked, question: Question, searched: ParsedQuestion) -> Evidence:
        hit, passage = reranked.hit, reranked.passage
        explained = why(reranked, searched, self.index.words.languages)
        is_pinned = is_held(passage, question.pinned)
        document = self.index.documents[passage.document_id]
        citation = self.collection.cite(document, passage.page_number, *reranked.span)
        return Evidence(rank, citation, passage.headings, hit.words, hit.meaning, hit.fused, explained, is_pinned)

    def _cite(self, passage: StoredPassage, span: tuple[int, int]) -> Citation:
        return self.collection.cite(self.index.documents[passage.document_id], passage.page_number, *span)

    def _disagreement(self, asked: Asked, candidates: Sequence[Candidate]) -> Disagreement | None:
        documents = self.index.documents
        return disagreement(
            asked,
            candidates,
            lambda candidate: self._cite(candidate.passage, candidate.span),
            lambda candidate: date_of(documents[candidate.passage.document_id]),
        )

    def _grounds(self, lines: Sequence[Candidate], candidates: Sequence[Candidate]) -> Grounds:
        documents = self.index.documents
        return Grounds(
            lines,
            candidates,
            lambda candidate: self._cite(candidate.passage, candidate.span),
            lambda candidate: documents[candidate.passage.document_id].title,
            language=lambda candidate: documents[candidate.passage.document_id].language,
        )


def timed(sheet: _SheetKind, **seconds: float | None) -> _SheetKind:
    """The sheet with the seconds of some steps."""
    return replace(sheet, seconds=replace(sheet.seconds, **seconds))  # type: ignore[arg-type]
