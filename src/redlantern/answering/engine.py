"""The engine: a collection open for questions, with its models. What a window or a command talks to."""

import threading
import time
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from types import MappingProxyType

from redlantern.answering.disagreement import date_of, disagreement
from redlantern.answering.drafting import MOST_LINES
from redlantern.answering.found import (
    SUBJECT_SHARE,
    Asked,
    Candidate,
    choose_lines,
    features_of,
    rank_lines,
    take_apart,
)
from redlantern.answering.neighbours import joined_with_neighbours
from redlantern.answering.refusal import NOTHING_IN_SCOPE, evidence_score, refusal_words
from redlantern.answering.sheet import Disagreement, Evidence, FoundLine, Sheet
from redlantern.answering.standalone import standalone_question
from redlantern.answering.summary import PartStep, plan_summary, planned_sheet, topics_of, write_summary
from redlantern.answering.wishes import SummaryWish, draft_wish, summary_wish
from redlantern.answering.writing import Grounds, WritingStep, write_answer, write_without_documents
from redlantern.collection.exchange import embed_anew
from redlantern.collection.joint import Joint
from redlantern.collection.plan import UpdatePlan, make_plan
from redlantern.collection.store import Collection
from redlantern.collection.update import Summary, Workshop, carry_out, made_with_now, seconds_for, update
from redlantern.collection.values import Citation, StoredPassage
from redlantern.errors import RedlanternError
from redlantern.models.chosen import EMBEDDING_MODEL
from redlantern.models.embedding import Embedder
from redlantern.models.language import LanguageModel, LanguageModelError
from redlantern.progress import Cancel, ComputeQueue, Report
from redlantern.reading.pool import ReaderPool
from redlantern.retrieval.analysis import content_words, stem
from redlantern.retrieval.explanation import Standing, standing, why
from redlantern.retrieval.finding import SEARCHED_PASSAGES, Rankings, Spot, find, is_held, rank_each_way
from redlantern.retrieval.index import Index
from redlantern.retrieval.phrases import Place, look_for, no_place, places_in_words, quoted
from redlantern.retrieval.reranking import Reranked
from redlantern.retrieval.spelling import mend, replaced_words
from redlantern.retrieval.words import pack_words
from redlantern.settings import WRITING, Method


class EmptyQuestionError(RedlanternError):
    """There was nothing to ask."""

    def __str__(self) -> str:
        return "The question is empty. Type what you want to know, in a whole sentence or a few words."


class EmptyCollectionError(RedlanternError):
    """No document can be asked about."""

    def __str__(self) -> str:
        return "This collection holds no readable document yet. Add a folder first; then ask."


WRITING_SETTINGS = "writing settings"
"""The fact that keeps what of a collection's writing settings is not as it is by default."""


@dataclass(frozen=True)
class FoundStep:
    """The search is done: the sheet with its found lines and evidence, or refused."""

    sheet: Sheet


@dataclass(frozen=True)
class DoneStep:
    """The sheet is complete."""

    sheet: Sheet


Step = FoundStep | PartStep | WritingStep | DoneStep


@dataclass(frozen=True)
class Question:
    """What to ask. `standalone` overrides the rules for follow-ups; `scope` None means every document.

    `as_typed` leaves misspelt words alone; `shown` is the document that "this document" means. Passages that were put aside
    are not found, pinned ones always are, each known by its stretch of a page.
    """

    text: str
    history: tuple[str, ...] = ()
    scope: frozenset[int] | None = None
    standalone: str = ""
    lines_only: bool = False
    as_typed: bool = False
    put_aside: frozenset[Spot] = frozenset()
    pinned: frozenset[Spot] = frozenset()
    shown: int | None = None


class Engine:
    """A collection with its index and models. Questions and one update may run at once, in threads of their own."""

    def __init__(
        self,
        collection: Collection,
        embedder: Embedder,
        language_model: LanguageModel | None,
        *,
        readers: ReaderPool | None = None,
        method: Method | None = None,
    ) -> None:
        self.collection, self.embedder, self.language_model = collection, embedder, language_model
        self.readers = readers or ReaderPool()
        self.method = method or Method().with_writing(collection.facts.get(WRITING_SETTINGS))
        if language_model is not None:
            language_model.fit(self.method.context_tokens, self.method.threads)
        self.queue = ComputeQueue()
        self.asked: Collection | Joint = collection
        self._beside: list[Collection] = []
        self._index: Index | None = None
        self._index_lock = threading.Lock()
        self._is_stale = True
        self._loaded_at = 0.0

    @property
    def index(self) -> Index:
        """The collection as last loaded; loads again when an update has changed it, at most about once a second."""
        with self._index_lock:
            is_due = self._is_stale and time.monotonic() - self._loaded_at > _RELOAD_PAUSE_S
            if self._index is None or is_due:
                self._is_stale = False
                self._index = Index(self.asked, self.embedder.dimensions, self.embedder.identity, self._index)
                self._loaded_at = time.monotonic()
            return self._index

    def update(
        self,
        paths: Sequence[Path],
        *,
        report: Report,
        cancel: Cancel,
        again: Mapping[str, str] = MappingProxyType({}),
        method: Method | None = None,
    ) -> Summary:
        """Bring the collection up to date with folders, split by another method if one is given; see collection.update."""
        try:
            return update(
                self.collection,
                paths,
                self._workshop(method),
                report=report,
                cancel=cancel,
                on_document=self._on_document,
                again=again,
            )
        finally:
            self._loaded_at = 0.0

    def ask_beside(self, *others: Collection) -> None:
        """Ask these collections, too, together with this one, which alone may change."""
        self._beside = [*self._beside, *others]
        self.asked = Joint(self.collection, self._beside) if self._beside else self.collection
        self.has_changed()

    def ask_alone(self) -> None:
        """Ask this collection alone again; closes the others."""
        before, self._beside, self.asked = self._beside, [], self.collection
        self.has_changed()
        for one in before:
            one.close()

    def plan(self, cancel: Cancel) -> tuple[UpdatePlan, float]:
        """Say what an update of the followed folders would do, and about how many seconds it would take."""
        collection = self.collection
        current = made_with_now(self._workshop())
        plan = make_plan(collection, collection.followed(), cancel, current=current, leaves_missing=True)
        return plan, seconds_for(plan, collection.facts)

    def carry_out(self, plan: UpdatePlan, *, report: Report, cancel: Cancel) -> Summary:
        """Do what a plan says; questions work on the last whole state meanwhile."""
        try:
            return carry_out(
                self.collection, plan, self._workshop(), report=report, cancel=cancel, on_document=self._on_document
            )
        finally:
            self._loaded_at = 0.0

    def _workshop(self, method: Method | None = None) -> Workshop:
        return Workshop(self.readers, self.embedder, pack_words, method or self.method, self.queue)

    def ask(self, question: Question, cancel: Cancel) -> Iterator[Step]:
        """Answer a question: a FoundStep, then WritingSteps, then a DoneStep.

        What asks for a summary gets one: a FoundStep, a PartStep for each section,
        WritingSteps, a DoneStep; see `wishes`. The last sheet is complete in itself also when no language model works;
        then it says why there is no prose. Stopping in mid-answer raises
        Cancelled after the FoundStep; what was found stays good.

        Raises
        ------
        EmptyQuestionError, EmptyCollectionError, Cancelled
        """
        began = time.perf_counter()
        if not content_words(question.text) and not question.text.strip(" ?!.\n\t"):
            raise EmptyQuestionError
        phrases = quoted(question.text)
        with self.queue.question():
            wish = summary_wish(question.text, self.index.documents.values(), question.scope, question.shown)
            if wish is not None:
                sheet, writing = self._plan_summary(question, wish, began, cancel)
            elif phrases:
                sheet, writing = self._look(question, phrases, began, cancel), iter(())
            else:
                sheet, writing = self._find(question, began, cancel)
            try:
                yield FoundStep(sheet)
                cancel.check()
                for step in () if question.lines_only else writing:
                    if isinstance(step, Sheet):
                        sheet = step
                    else:
                        yield step
            finally:
                # After the found lines, which must not wait for a disk.
                if not self.collection.is_read_only:
                    self.collection.journal.note("asked", question.text)
        yield DoneStep(_timed(sheet, total=time.perf_counter() - began))

    def rank_each_way(self, text: str, scope: frozenset[int] | None) -> tuple[Rankings, dict[str, str]]:
        """Rank for a question in each of the ways that lead to the last order, without answering it; with its mended words.

        Raises
        ------
        EmptyCollectionError
        """
        with self.queue.question():
            index = self.index
            if not index.n_passages:
                raise EmptyCollectionError
            mended = mend(text, index.words, self.embedder.splits_word)
            searched = replaced_words(text, mended)
            return rank_each_way(index, self.asked, self.embedder, searched, scope, self.method), mended

    def ask_model_alone(self, question: str, cancel: Cancel) -> Iterator[str]:
        """What the language model says of a question without any document: its words so far; see write_without_documents.

        Raises
        ------
        LanguageModelError, Cancelled
        """
        if self.language_model is None:
            raise LanguageModelError("is not set up")
        with self.queue.question():
            yield from write_without_documents(question, self.language_model, self.method, cancel)

    def use_writing_settings(self, method: Method) -> None:
        """Write with this method's settings from now on, and keep them in the collection."""
        self.collection.facts.put(WRITING_SETTINGS, method.writing_as_text())
        with self.queue.question():
            self.method = replace(self.method, **{one: getattr(method, one) for one in WRITING})
            if self.language_model is not None:
                self.language_model.fit(self.method.context_tokens, self.method.threads)

    def use_language_model(self, model: LanguageModel) -> None:
        """Write with another language model from now on; the one before is ended."""
        model.fit(self.method.context_tokens, self.method.threads)
        with self.queue.question():
            before, self.language_model = self.language_model, model
        if before is not None:
            before.close()

    def seconds_to_embed(self, embedder: Embedder) -> float:
        """About how long `use_embedder` would take, by a few passages of the collection; embeds these."""
        index = self.index
        sample = self.collection.passages(index.passage_ids[:: max(1, index.n_passages // _SAMPLED_PASSAGES)].tolist())
        began = time.perf_counter()
        for _ in embedder.embed([one.text for one in sample], [[] for _ in sample]):
            pass
        return (time.perf_counter() - began) / max(1, len(sample)) * index.n_passages

    def use_embedder(self, embedder: Embedder, fact: str, *, report: Report, cancel: Cancel) -> int:
        """Find with another embedding model, once everything is embedded with it; until then questions use the one before.

        `fact` is what the collection is to know it by. Gives how many documents were embedded anew; see embed_anew.
        """
        workshop = replace(self._workshop(), embedder=embedder)
        n_documents = embed_anew(self.collection, workshop, facts={EMBEDDING_MODEL: fact}, report=report, cancel=cancel)
        with self.queue.question(), self._index_lock:
            self.embedder, self._index, self._is_stale = embedder, None, True
        _ = self.index
        self.collection.journal.note("settings", f"Embedding model: {embedder.name}")
        return n_documents

    def why_not(self, sheet: Sheet, scope: frozenset[int] | None, page: tuple[int, int]) -> Standing | None:
        """Say where a page, as (document id, page number), stands for the question of a sheet; None without passages."""
        index = self.index
        ids = index.passages_of(page)
        if not ids:
            return None
        searched = replaced_words(sheet.standalone_question, sheet.mended)
        return standing(
            index, self.embedder, searched, scope, page, self.asked.passages(list(ids)),
            word_weight=self.method.word_weight, n_kept=SEARCHED_PASSAGES,
        )  # fmt: skip

    def close(self) -> None:
        """End readers and models, and close the collection."""
        self.readers.close()
        if self.language_model is not None:
            self.language_model.close()
        for one in (*self._beside, self.collection):
            one.close()

    def has_changed(self) -> None:
        """Say that the collection was changed: the next question loads its index anew."""
        self._is_stale, self._loaded_at = True, 0.0

    def _on_document(self) -> None:
        self._is_stale = True

    def _find(self, question: Question, began: float, cancel: Cancel) -> tuple[Sheet, "_Writing"]:
        """Find for a question: its sheet without a written answer, and the writing of one; none where it is refused."""
        index = self.index
        if not index.n_passages:
            raise EmptyCollectionError
        wish = draft_wish(question.text)
        # A draft is found by its subject: "letter" and "to the Trust" are not what its pages speak of.
        standalone = question.standalone or (
            wish.about if wish else standalone_question(question.text, question.history)
        )
        mended = {} if question.as_typed else mend(standalone, index.words, self.embedder.splits_word)
        searched = replaced_words(standalone, mended)
        models = {"embedding": self.embedder.name}
        base = Sheet(
            question.text, standalone, False, "", (), (), mended=mended, method=self.method.name, models=models,
            draft=wish,
        )  # fmt: skip
        if question.scope is not None and not question.scope:
            return replace(base, refused=True, refusal_reason=NOTHING_IN_SCOPE), iter(())
        finding = find(
            index, self.asked, self.embedder, searched, question.scope, self.method,
            put_aside=question.put_aside, pinned=question.pinned,
        )  # fmt: skip
        asked = take_apart(finding.words, index.words.languages)
        members = [one for joined in finding.ranked for one in joined.members]
        candidates = rank_lines(asked, [one.hit for one in members], [one.passage for one in members], self.embedder)
        features = features_of(asked, candidates)
        score = evidence_score(features)
        chosen = choose_lines(candidates, *((MOST_LINES, SUBJECT_SHARE) if wish else (self.method.found_lines,)))
        lines = joined_with_neighbours(chosen)
        is_refused = score < self.method.answer_threshold
        missing = [word for word in content_words(searched) if not index.words.holds(stem(word))]
        sheet = replace(
            base,
            refused=is_refused,
            refusal_reason=refusal_words(missing) if is_refused else "",
            missing_words=() if is_refused else tuple(missing),
            # What does not answer must not be shown as if it did; the nearest passages are there to look at.
            found_lines=()
            if is_refused
            else tuple(FoundLine(self._cite(one.passage, one.span), one.score) for one in lines),
            passages=tuple(
                self._evidence(rank, one, question, searched)
                for rank, one in enumerate(finding.ranked[: self.method.passages_kept], start=1)
            ),
            evidence_score=score,
            disagreement=None if is_refused else self._disagreement(asked, candidates),
            page_strengths=finding.page_strengths,
        )
        spent = time.perf_counter() - began
        sheet = _timed(sheet, search=spent, first_line=spent if lines else None)
        if is_refused or not lines:
            return sheet, iter(())
        grounds = self._grounds(lines, candidates)
        return sheet, write_answer(sheet, grounds, self.language_model, self.method, began, cancel)

    def _plan_summary(
        self, question: Question, wish: SummaryWish, began: float, cancel: Cancel
    ) -> tuple[Sheet, "_Writing"]:
        """Choose the lines of a summary: its sheet with them, and its writing."""
        base = Sheet(question.text, question.text, False, "", (), (), method=self.method.name)
        if len(wish.documents) > _MOST_SUMMARISED:
            reason = f"That is {len(wish.documents):,} documents; a summary takes at most {_MOST_SUMMARISED} at once. {_TICK_FEWER}"
            return replace(base, refused=True, refusal_reason=reason), iter(())
        topics = topics_of(self.index, self.asked, self.embedder, wish.documents, cancel)
        plan = plan_summary(topics, wish.length)
        grounds = self._grounds((), ())
        sheet = planned_sheet(base, plan, grounds.cite)
        spent = time.perf_counter() - began
        sheet = _timed(sheet, search=spent, first_line=spent if sheet.found_lines else None)
        return sheet, write_summary(sheet, plan, grounds, self.language_model, self.method, began, cancel)

    def _look(self, question: Question, phrases: Sequence[str], began: float, cancel: Cancel) -> Sheet:
        """Look for phrases in quotation marks: a sheet of all their places."""
        index = self.index
        if not index.n_passages:
            raise EmptyCollectionError
        base = Sheet(question.text, question.text, False, "", (), (), method=self.method.name)
        if question.scope is not None and not question.scope:
            return replace(base, refused=True, refusal_reason=NOTHING_IN_SCOPE)
        places = look_for(phrases, index, self.asked, question.scope, cancel)
        if not places:
            return replace(base, refused=True, refusal_reason=no_place(phrases))
        pages: Counter[tuple[int, int]] = Counter((one.document_id, one.page_number) for one in places)
        most = max(pages.values())
        # A page with one place is lit, too, and one with many fully.
        strengths = {page: 0.35 + 0.65 * n / most for page, n in pages.items()}
        shown = tuple(FoundLine(self._cite_line(one), 1.0) for one in places[:_MOST_PLACES_SHOWN])
        said = places_in_words(len(places), len(pages), len({one.document_id for one in places}), len(shown))
        spent = time.perf_counter() - began
        sheet = replace(base, found_lines=tuple(dict.fromkeys(shown)), places=said, page_strengths=strengths)
        return _timed(sheet, search=spent, first_line=spent)

    def _cite_line(self, place: Place) -> Citation:
        """The line that a place stands in."""
        return self.asked.cite(self.index.documents[place.document_id], place.page_number, *place.line)

    def _evidence(self, rank: int, one: Reranked, question: Question, searched: str) -> Evidence:
        hit, passage = one.hit, one.passage
        explained = why(one, searched, self.index.words.languages)
        is_pinned = is_held(passage, question.pinned)
        document = self.index.documents[passage.document_id]
        citation = self.asked.cite(document, passage.page_number, *one.span)
        return Evidence(rank, citation, passage.heading, hit.words, hit.meaning, hit.fused, explained, is_pinned)

    def _cite(self, passage: StoredPassage, span: tuple[int, int]) -> Citation:
        return self.asked.cite(self.index.documents[passage.document_id], passage.page_number, *span)

    def _disagreement(self, asked: Asked, candidates: Sequence[Candidate]) -> Disagreement | None:
        documents = self.index.documents
        return disagreement(
            asked,
            candidates,
            lambda one: self._cite(one.passage, one.span),
            lambda one: date_of(documents[one.passage.document_id]),
        )

    def _grounds(self, lines: Sequence[Candidate], candidates: Sequence[Candidate]) -> Grounds:
        documents = self.index.documents
        return Grounds(
            lines,
            candidates,
            lambda one: self._cite(one.passage, one.span),
            lambda one: documents[one.passage.document_id].title,
        )


_Writing = Iterator[PartStep | WritingStep | Sheet]
_MOST_SUMMARISED = 300
_TICK_FEWER = "Tick fewer on the shelf, or ask for one of them by its name."
_RELOAD_PAUSE_S = 0.8
_SAMPLED_PASSAGES = 24
_MOST_PLACES_SHOWN = 200


def _timed(sheet: Sheet, **seconds: float | None) -> Sheet:
    return replace(sheet, seconds=replace(sheet.seconds, **seconds))  # type: ignore[arg-type]
