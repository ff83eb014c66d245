# SPDX-License-Identifier: GPL-3.0-or-later
"""The engine: a collection open for questions, with its models. What a window or a command talks to."""

import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from types import MappingProxyType
from typing import Any

from redlantern.answering.asking import (
    Asking,
    DoneStep,
    EmptyQuestionError,
    FoundStep,
    ReckonedStep,
    Step,
    Writing,
    timed,
)
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import GivenPrompt, Sheet
from redlantern.answering.writing.read_answer import excerpts_of, judge
from redlantern.answering.writing.recorded import RecordedModel
from redlantern.answering.writing.second_search import search_again
from redlantern.answering.writing.streams import write_without_documents
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.indexing.plan import UpdatePlan
from redlantern.indexing.prepare import Workshop
from redlantern.indexing.update import Summary, carry_out, update
from redlantern.locks import ComputeQueue
from redlantern.models.chosen import chosen_embedder, packaged_reader
from redlantern.models.embedding import Embedder
from redlantern.models.protocols import LanguageModel, LanguageModelError
from redlantern.progress import Cancel, Report
from redlantern.reading.pool import ReaderPool
from redlantern.reckoning.source import KeptTables
from redlantern.retrieval.index import Index
from redlantern.settings import WRITING, Method

_RELOAD_PAUSE_S = 0.8
_MOST_LOOKS = 5
WRITING_SETTINGS = "writing settings"
"""The fact that keeps what of a collection's writing settings is not as it is by default."""


@dataclass(frozen=True)
class Runtime:
    """What a question runs with, as one value: it is exchanged as a whole, and never while a question holds it.

    `asked` is the collection, or it together with others.
    """

    collection: Collection
    asked: Collection | Joint
    embedder: Embedder
    language_model: LanguageModel | None
    method: Method


class ReaderBeside:
    """Another packaged reader than the collection's own model, for single questions; it stays loaded for the next."""

    def __init__(self) -> None:
        self.make: Callable[[str], LanguageModel | None] = packaged_reader
        self._made: dict[str, LanguageModel] = {}

    def of(self, word: str, method: Method) -> LanguageModel | None:
        """The reader of this word; None where it is not there."""
        model = self._made.get(word) or self.make(word)
        if model is not None:
            self._made[word] = model
            model.fit(method.context_tokens, method.threads)
        return model

    def instead(self, word: str, runtime: Runtime) -> LanguageModel | None:
        """The reader of this word, or what the runtime has where there is no word, or no such reader."""
        model = self.of(word, runtime.method) if word else None
        return model or runtime.language_model

    def close(self) -> None:
        """End what was needed."""
        for model in self._made.values():
            model.close()


def _recorded(asking: Asking, given: list[GivenPrompt]) -> Asking:
    """What a question is put to, with what its language model is given noted down."""
    model = asking.language_model
    return replace(asking, language_model=RecordedModel(model, given)) if model is not None else asking


def _beside(asked: Collection | Joint) -> list[Collection]:
    return asked.members[1:] if isinstance(asked, Joint) else []


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
        method = method or Method().with_writing(collection.facts.get(WRITING_SETTINGS))
        if language_model is not None:
            language_model.fit(method.context_tokens, method.threads)
        self._runtime = Runtime(collection, collection, embedder, language_model, method)
        self.readers = readers or ReaderPool()
        self.queue = ComputeQueue()
        self.reader_beside = ReaderBeside()
        self.make_embedder: Callable[..., Embedder] = chosen_embedder
        self._index: Index | None = None
        self._index_of: tuple[Collection | Joint, Embedder] | None = None
        self._tables = KeptTables()
        self._known_words: dict[str, str] = {}
        self._index_lock = threading.Lock()
        self._is_stale = True
        self._loaded_at = 0.0

    @property
    def runtime(self) -> Runtime:
        """What a question that comes now runs with."""
        return self._runtime

    @property
    def collection(self) -> Collection:
        """The collection, which may change."""
        return self._runtime.collection

    @property
    def asked(self) -> Collection | Joint:
        """The collection, or it together with others."""
        return self._runtime.asked

    @property
    def embedder(self) -> Embedder:
        """The embedding model."""
        return self._runtime.embedder

    @property
    def language_model(self) -> LanguageModel | None:
        """The language model, if there is one."""
        return self._runtime.language_model

    @property
    def method(self) -> Method:
        """The settings."""
        return self._runtime.method

    def exchange(self, cancel: Cancel | None = None, **parts: Any) -> Runtime:
        """Put other parts in place of those that questions run with, once no question holds them; the one place that does.

        Gives what was before: nobody uses it any more, so it may be closed.

        Raises
        ------
        Cancelled
            If stopping was asked for while it waited.
        """
        with self.queue.alone(cancel):
            before, self._runtime = self._runtime, replace(self._runtime, **parts)
            self.has_changed()
            return before

    def reload_index(self) -> None:
        """Load the index now if the collection was changed, so that the next question need not."""
        self._loaded_at = 0.0
        self.current_index()

    def current_index(self) -> Index:
        """The collection as last loaded; loads again when an update has changed it, at most about once a second."""
        with self._index_lock:
            runtime = self._runtime
            # By what it was made of, not by a mark alone: it may have been exchanged while the last one was loaded.
            is_other = self._index_of is None or any(
                part is not now for part, now in zip(self._index_of, (runtime.asked, runtime.embedder), strict=True)
            )
            is_due = self._is_stale and time.monotonic() - self._loaded_at > _RELOAD_PAUSE_S
            if self._index is None or is_other or is_due:
                self._is_stale = False
                embedder = runtime.embedder
                is_same_model = self._index_of is not None and self._index_of[1] is embedder
                before = self._index if is_same_model else None
                self._index = Index(runtime.asked, embedder.dimensions, embedder.identity, before)
                self._index_of = (runtime.asked, embedder)
                # They hold headings, of documents that may have been erased since.
                self._known_words.clear()
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
                self.workshop(method),
                report=report,
                cancel=cancel,
                on_document=self._on_document,
                again=again,
            )
        finally:
            self._loaded_at = 0.0

    def ask_beside(self, *others: Collection) -> None:
        """Ask these collections, too, together with this one, which alone may change."""
        if others:
            self.exchange(asked=Joint(self.collection, [*_beside(self.asked), *others]))

    def ask_alone(self) -> None:
        """Ask this collection alone again; closes the others, once no question asks them."""
        before = self.exchange(asked=self.collection).asked
        for member in before.members[1:] if isinstance(before, Joint) else ():
            member.close()

    def carry_out(self, plan: UpdatePlan, *, report: Report, cancel: Cancel) -> Summary:
        """Do what a plan says; questions work on the last whole state meanwhile."""
        try:
            return carry_out(
                self.collection, plan, self.workshop(), report=report, cancel=cancel, on_document=self._on_document
            )
        finally:
            self._loaded_at = 0.0

    def workshop(self, method: Method | None = None, embedder: Embedder | None = None) -> Workshop:
        """What documents are made with: this engine's readers and models, or another method or model."""
        return Workshop(self.readers, embedder or self.embedder, method or self.method, self.queue)

    def ask(self, question: Question, cancel: Cancel, *, arranged: Runtime | None = None) -> Iterator[Step]:
        """Answer a question: a FoundStep, then WritingSteps, then a DoneStep.

        What asks for a summary gets one: a FoundStep, a PartStep for each section,
        WritingSteps, a DoneStep; see `wishes`. The last sheet is complete in itself also when no language model works;
        then it says why there is no prose. Stopping in mid-answer raises
        Cancelled after the FoundStep; what was found stays good.

        `arranged` is what a trial runs with in place of what questions run with. Nobody waits for one: it is cancelled
        when a question comes, and not noted in the journal.

        Raises
        ------
        EmptyQuestionError, EmptyCollectionError, Cancelled
        """
        began = time.perf_counter()
        if not question.text.strip(" ?!.\n\t"):
            raise EmptyQuestionError
        with self.queue.question() if arranged is None else self.queue.trial(cancel.now):
            given = list[GivenPrompt]()
            sheet, writing = self._begin(question, arranged or self._runtime, given, began, cancel)
            try:
                yield FoundStep(sheet)
                cancel.check()
                for step in () if question.lines_only else writing:
                    if isinstance(step, Sheet):
                        # What was reckoned meanwhile is not known to what was being written.
                        sheet = replace(step, reckoning=step.reckoning or sheet.reckoning)
                        continue
                    if isinstance(step, ReckonedStep):
                        sheet = step.sheet
                    yield step
            finally:
                # After the found lines, which must not wait for a disk.
                if arranged is None and not self.collection.is_read_only:
                    self.collection.journal.note("asked", question.text)
        yield DoneStep(timed(replace(sheet, given=tuple(given)), total=time.perf_counter() - began))

    def _begin(
        self, question: Question, runtime: Runtime, given: list[GivenPrompt], began: float, cancel: Cancel
    ) -> tuple[Sheet, Writing]:
        """Find for a question; once more where a document was changed between finding and citing it."""
        for _ in range(_MOST_LOOKS - 1):
            try:
                return _recorded(self.asking(runtime, question), given).open_sheet(question, began, cancel)
            except DocumentChangedError:
                self.has_changed()
        return _recorded(self.asking(runtime, question), given).open_sheet(question, began, cancel)

    def asking(self, runtime: Runtime, question: Question) -> Asking:
        """What a question is put to; the caller holds the queue."""
        index = self.current_index()
        return Asking(
            index,
            runtime.asked,
            runtime.embedder,
            self.reader_beside.instead(question.reader, runtime),
            runtime.method,
            self._tables.of(index, index.documents, runtime.asked.pages, runtime.asked.tables_put_right()),
            self._known_words,
        )

    def read_ahead(self, question: Question, cancel: Cancel) -> None:
        """Let the language model read now what a question that is still being typed would be judged by, so that it need not then.

        Nothing is decided and nothing kept. Does nothing where the model does not judge.

        Raises
        ------
        LanguageModelError, Cancelled
        """
        runtime = self._runtime
        model = runtime.language_model
        if model is None or not model.can_judge:
            return
        with self.queue.question():
            asking = self.asking(runtime, question)
            grounds = asking.grounds_of(question) if asking.index.n_passages else None
            cancel.check()
            if grounds is None:
                return
            grounds = search_again(grounds, model, cancel)
            excerpts = excerpts_of(grounds, model, runtime.method)
            if excerpts:
                judge(grounds.parts[0], excerpts, model, cancel)

    def ask_model_alone(
        self, question: str, cancel: Cancel, *, arranged: Runtime | None = None, reader: str = ""
    ) -> Iterator[str]:
        """What the language model says of a question without any document: its words so far; see write_without_documents.

        `arranged` as in `ask`; `reader` is the word of another packaged model.

        Raises
        ------
        LanguageModelError, Cancelled
        """
        runtime = arranged or self._runtime
        model = self.reader_beside.instead(reader, runtime)
        if model is None:
            raise LanguageModelError("is not set up")
        with self.queue.question() if arranged is None else self.queue.trial(cancel.now):
            yield from write_without_documents(question, model, runtime.method, cancel)

    def use_writing_settings(self, method: Method, cancel: Cancel | None = None) -> None:
        """Write with this method's settings from now on, and keep them in the collection; waits for the answer being written."""
        with self.queue.alone(cancel):
            self.collection.facts.put(WRITING_SETTINGS, method.writing_as_text())
            self.exchange(method=replace(self.method, **{setting: getattr(method, setting) for setting in WRITING}))
            if self.language_model is not None:
                self.language_model.fit(self.method.context_tokens, self.method.threads)

    def use_language_model(self, model: LanguageModel, cancel: Cancel | None = None) -> None:
        """Write with another language model from now on, once the answer being written is done; the one before is ended."""
        model.fit(self.method.context_tokens, self.method.threads)
        before = self.exchange(cancel, language_model=model).language_model
        if before is not None:
            before.close()

    def close(self) -> None:
        """End readers and models, and close the collection."""
        self.readers.close()
        self.reader_beside.close()
        if self.language_model is not None:
            self.language_model.close()
        for open_collection in (*_beside(self.asked), self.collection):
            open_collection.close()

    def has_changed(self) -> None:
        """Say that the collection was changed: the next question loads its index anew."""
        self._is_stale, self._loaded_at = True, 0.0

    def _on_document(self) -> None:
        self._is_stale = True
