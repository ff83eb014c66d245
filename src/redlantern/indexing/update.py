"""Brings a collection up to date with folders: reads, splits, embeds, and keeps document by document."""

import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path, PurePosixPath
from types import MappingProxyType
from typing import Any

import numpy as np

from redlantern.collection.facts import Facts
from redlantern.collection.fingerprints import fingerprint
from redlantern.collection.prepared import NOT_EMBEDDED, MadeWith, Prepared, PreparedPart, Source
from redlantern.collection.store import Collection
from redlantern.errors import RedlanternError
from redlantern.indexing.plan import Planned, UpdatePlan, make_plan
from redlantern.indexing.split import method_of, split_read, splitting_of
from redlantern.locks import ComputeQueue
from redlantern.models.embedding import Embedder, quantise, quantise_half
from redlantern.progress import Cancel, Cancelled, Progress, Report
from redlantern.reading import errors as reading_errors
from redlantern.reading.pool import ReaderPool
from redlantern.reading.values import READER_VERSION, ReadFile
from redlantern.safety.names import path_of, path_text
from redlantern.settings import Method
from redlantern.splitting.passages import Passage, embedded_text

PackWords = Callable[[Sequence[tuple[str, str]], str], bytes]
"""Packs the words of a document's passages for the word index; gets one text a passage, and the document's language."""

_EMBED_AT_ONCE = 16
_WORDS_FIRST = 40
"""A file of so many passages or more is kept before it is embedded, so that it can be found by its words meanwhile."""
_LONG_PAGES = 40
_SLOW_PER_BYTE_S = 2e-5
_SLOW_PER_PASSAGE_S = 0.1
_LEAST_PACE_BYTES = 20_000


@dataclass
class Summary:
    """What an update did. `refused` pairs a path with its reason; seconds are by step."""

    read: int = 0
    unchanged: int = 0
    changed: int = 0
    moved: int = 0
    copies: int = 0
    removed: int = 0
    remade: int = 0
    refused: list[tuple[str, str]] = field(default_factory=list)
    pages: int = 0
    passages: int = 0
    tokens: int = 0
    seconds: dict[str, float] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """Give the form documented in docs/commands.md."""
        return {
            "documents": {
                "read": self.read,
                "unchanged": self.unchanged,
                "changed": self.changed,
                "moved": self.moved,
                "copies": self.copies,
                "removed": self.removed,
                "remade": self.remade,
                "refused": [{"path": path, "reason": reason} for path, reason in self.refused],
            },
            "pages": self.pages,
            "passages": self.passages,
            "tokens": self.tokens,
            "seconds": {step: round(seconds, 3) for step, seconds in self.seconds.items()},
        }


@dataclass(frozen=True)
class Workshop:
    """What an update works with."""

    readers: ReaderPool
    embedder: Embedder
    pack_words: PackWords
    method: Method
    queue: ComputeQueue


def made_with_now(workshop: Workshop) -> MadeWith:
    """What documents are made with at present."""
    return MadeWith(workshop.embedder.identity, splitting_of(workshop.method), READER_VERSION)


def seconds_for(plan: UpdatePlan, facts: Facts) -> float:
    """Say about how long a plan will take, by the pace of the last update here, or else a slow machine's."""
    per_byte = float(facts.get("seconds per byte", str(_SLOW_PER_BYTE_S)))
    per_passage = float(facts.get("seconds per passage", str(_SLOW_PER_PASSAGE_S)))
    return plan.n_bytes * per_byte + sum(n_passages for _, n_passages in plan.to_remake) * per_passage


def update(
    collection: Collection,
    paths: Sequence[Path],
    workshop: Workshop,
    *,
    report: Report,
    cancel: Cancel,
    on_document: Callable[[], None] = lambda: None,
    again: Mapping[str, str] = MappingProxyType({}),
) -> Summary:
    """Read what is new or changed under the paths, and forget what is gone. The paths are followed from now on.

    Parameters
    ----------
    collection : Collection
        With the claim to write.
    paths : sequence of Path
        Folders and files; none at all for those that are followed already.
    workshop : Workshop
        Readers, embedding model and so on.
    report : callable
        Gets a Progress in documents.
    cancel : Cancel
        Looked at several times a second.
    on_document : callable
        Called after each document that was kept or forgotten.
    again : mapping
        Files (full paths) to read whatever they are, with the password of each, or nothing.

    Raises
    ------
    SourceMissingError, NothingToReadError, DiskFullError, CannotWriteError, Cancelled
    """
    began = time.perf_counter()
    report(Progress("Looking for changes", 0, None, "documents"))
    # Who names a file that was taken out wants it back; a folder's files stay out.
    named = {path_text(path.absolute()) for path in paths if path.is_file()}
    if named and collection.taken_out():
        collection.let_in(named)
    if paths:
        plan = make_plan(collection, paths, cancel, again.keys())
        collection.follow([path.absolute() for path in paths])
    else:
        plan = make_plan(
            collection, collection.followed(), cancel, current=made_with_now(workshop), leaves_missing=True
        )
    looking_s = time.perf_counter() - began
    summary = carry_out(
        collection, plan, workshop, report=report, cancel=cancel, on_document=on_document, passwords=again
    )
    summary.seconds = {"looking": looking_s} | summary.seconds
    summary.seconds["total"] = time.perf_counter() - began
    return summary


def carry_out(
    collection: Collection,
    plan: UpdatePlan,
    workshop: Workshop,
    *,
    report: Report,
    cancel: Cancel,
    on_document: Callable[[], None] = lambda: None,
    passwords: Mapping[str, str] = MappingProxyType({}),
) -> Summary:
    """Do what a plan says.

    Each document is kept in one transaction of its own: cancelling, or a
    failure, leaves all that were finished and nothing of the others; the next
    plan holds the rest.
    """
    worker = _Update(collection, workshop, report, cancel, on_document)
    worker.passwords = passwords
    worker.summary.unchanged = plan.n_unchanged + len(plan.refused_before)
    worker.summary.seconds = {"reading": 0.0, "splitting": 0.0, "embedding": 0.0}
    began = time.perf_counter()
    with collection.file.changing_documents():
        worker.carry_out(plan)
    worker.summary.seconds["total"] = time.perf_counter() - began
    return worker.summary


class _Update:
    def __init__(
        self,
        collection: Collection,
        workshop: Workshop,
        report: Report,
        cancel: Cancel,
        on_document: Callable[[], None],
    ) -> None:
        self.summary = Summary()
        self._collection, self._workshop = collection, workshop
        self._report, self._cancel, self._on_document = report, cancel, on_document
        self.passwords: Mapping[str, str] = {}
        self._began = time.perf_counter()
        self._done = self._total = 0

    def carry_out(self, plan: UpdatePlan) -> None:
        # First what needs no reading: a moved document must not be forgotten at its old place.
        for source, document_id in [*plan.moved, *plan.copies, *plan.touched]:
            self._collection.set_source(source, document_id)
        self.summary.moved, self.summary.copies = len(plan.moved), len(plan.copies)
        if plan.gone:
            self._collection.remove_sources(plan.gone)
            self.summary.removed = len(set(plan.gone) - plan.moved_from)
            self._on_document()
        self._total = len(plan.to_read) + len(plan.to_remake)
        for done, (planned, result) in enumerate(self._read_ahead(plan.to_read)):
            self._done = done
            self._tell(PurePosixPath(planned.source.full_path).name)
            self._keep(planned, result)
            self._on_document()
        self._remake(plan.to_remake)
        self._note_pace(plan)
        if self._collection.gather(self._workshop.embedder.dimensions):
            self._on_document()
        self._done = self._total
        self._tell("")
        for copy in plan.copies_of_new:
            original = self._collection.document_by_hash(copy.sha256 or "")
            if original is not None:
                self._collection.set_source(copy.source, original)
                self.summary.copies += 1

    def _remake(self, to_remake: list[tuple[int, int]]) -> None:
        """Make passages and vectors anew from the pages that are kept; the files need not be there."""
        documents = {one.document_id: one for one in self._collection.documents()} if to_remake else {}
        made_with = self._collection.made_with()
        began, n_passages = time.perf_counter(), 0
        for document_id, _ in to_remake:
            document = documents.get(document_id)
            if document is None:
                continue
            self._tell(document.title)
            method = method_of(made_with[document_id][0].splitting, self._workshop.method)
            prepared = self._embedded(self._prepare("", self._collection.read_file(document), method))
            self._cancel.check()
            self._collection.remake(document_id, prepared)
            n_passages += len(prepared.passages)
            self.summary.remade += 1
            self._done += 1
            self._on_document()
        if n_passages:
            self._collection.facts.put("seconds per passage", f"{(time.perf_counter() - began) / n_passages:.6f}")

    def _note_pace(self, plan: UpdatePlan) -> None:
        """Remember how fast reading went, so that the next plan can say how long it will take."""
        if plan.n_bytes > _LEAST_PACE_BYTES:
            spent = time.perf_counter() - self._began
            self._collection.facts.put("seconds per byte", f"{spent / plan.n_bytes:.9f}")

    def _tell(self, what: str) -> None:
        """Report how far it is: documents, pages, pages a minute, and what is worked on now."""
        minutes = (time.perf_counter() - self._began) / 60
        n_pages = self.summary.pages
        pages = f"{n_pages} page{'s' * (n_pages > 1)}, {n_pages / minutes:.0f} a minute" if n_pages else ""
        detail = " · ".join(one for one in (pages, what) if one)
        self._report(Progress("Reading and indexing", self._done, self._total, "documents", detail))

    def _read_ahead(self, planned: list[Planned]) -> Iterator[tuple[Planned, "Future[ReadFile]"]]:
        """Read a few files ahead of the embedding, so that no core waits, and no more, so that memory stays small."""
        stop = Cancel()
        waiting = deque(planned)
        ahead: deque[tuple[Planned, Future[ReadFile]]] = deque()
        with ThreadPoolExecutor(self._workshop.readers.n_readers) as threads, self._cancel.calling(stop.now):
            try:
                while waiting or ahead:
                    while waiting and len(ahead) <= self._workshop.readers.n_readers:
                        one = waiting.popleft()
                        ahead.append((one, threads.submit(self._read, one, stop)))
                    yield ahead.popleft()
            finally:
                # Also when the disk is full or the caller gives up: no reader goes on for nobody.
                stop.now()
                for _, future in ahead:
                    future.cancel()

    def _read(self, planned: Planned, cancel: Cancel) -> ReadFile:
        began = time.perf_counter()
        if planned.problem:
            raise reading_errors.unreadable(planned.problem)
        full_path = planned.source.full_path

        def on_page(done: int, total: int) -> None:
            if total >= _LONG_PAGES and done % 10 == 0:
                self._tell(f"page {done} of {total} of {PurePosixPath(full_path).name}")

        read = self._workshop.readers.read(
            path_of(full_path), cancel, on_page, password=self.passwords.get(full_path, "")
        )
        self.summary.seconds["reading"] += time.perf_counter() - began
        return read

    def _keep(self, planned: Planned, result: "Future[ReadFile]") -> None:
        source = planned.source
        try:
            read = result.result()
            _check_unchanged(source)
            method = method_of(planned.splitting, self._workshop.method)
            prepared = self._prepare_whole(planned.sha256 or "", read, method)
            waits = sum(len(one.passages) for one in _with_parts(prepared)) >= _WORDS_FIRST
            if not waits:
                prepared = self._embedded_whole(prepared)
        except reading_errors.FileRefusedError as refusal:
            self._refuse(planned, str(refusal))
            return
        except (RedlanternError, Cancelled):
            raise
        except Exception as failure:  # one file, whatever it holds, must not end the work on all others
            self._refuse(planned, str(reading_errors.unforeseen(type(failure).__name__)))
            return
        self._cancel.check()
        document_id = self._collection.add(prepared, source)
        if waits:
            self._on_document()
            ids = [document_id, *self._collection.parts_of(document_id)]
            for one_id, one in zip(ids, _with_parts(prepared), strict=True):
                self._collection.set_vectors(one_id, self._embedded(one))
        self.summary.changed += planned.is_change
        for one in _with_parts(prepared):
            self.summary.read += 1
            self.summary.pages += len(one.read.pages)
            self.summary.passages += len(one.passages)
            self.summary.tokens += sum(passage.n_tokens for passage in one.passages)
        self.summary.refused.extend(
            (f"{source.full_path}/{part.name}", part.refusal) for part in prepared.parts if part.refusal
        )

    def _refuse(self, planned: Planned, reason: str) -> None:
        self._collection.add_refused(planned.source, planned.sha256, reason)
        self.summary.refused.append((planned.source.full_path, reason))

    def _prepare_whole(self, sha256: str, read: ReadFile, method: Method) -> Prepared:
        """Prepare a file and what lies within it, not yet embedded; a part without words is refused alone."""
        parts = []
        for part in read.parts:
            self._cancel.check()
            try:
                prepared = self._prepare("", part.read, method) if part.read is not None else None
                parts.append(PreparedPart(part.name, prepared, part.refusal))
            except reading_errors.FileRefusedError as refusal:
                parts.append(PreparedPart(part.name, None, str(refusal)))
        return replace(self._prepare(sha256, read, method), parts=tuple(parts))

    def _prepare(self, sha256: str, read: ReadFile, method: Method) -> Prepared:
        embedder, seconds = self._workshop.embedder, self.summary.seconds
        began = time.perf_counter()
        passages = split_read(read, embedder, method)
        if not passages and not read.parts:
            raise reading_errors.no_text()
        texts = _texts(read, passages)
        words = self._workshop.pack_words(
            [(passage.heading, text) for passage, text in zip(passages, texts, strict=True)], read.language
        )
        seconds["splitting"] += time.perf_counter() - began
        made_with = MadeWith(NOT_EMBEDDED, splitting_of(method), READER_VERSION)
        none = np.zeros((0, embedder.dimensions), np.float32)
        marks = fingerprint(page.text for page in read.pages)
        return Prepared(sha256, read, passages, made_with, quantise(none), quantise_half(none), words, marks)

    def _embedded_whole(self, prepared: Prepared) -> Prepared:
        """Embed a file and what lies within it."""
        parts = (
            replace(part, prepared=self._embedded(part.prepared) if part.prepared is not None else None)
            for part in prepared.parts
        )
        return replace(self._embedded(prepared), parts=tuple(parts))

    def _embedded(self, prepared: Prepared) -> Prepared:
        """Give one document its vectors."""
        began = time.perf_counter()
        vectors, lines = self._embed(prepared.passages, _texts(prepared.read, prepared.passages))
        self.summary.seconds["embedding"] += time.perf_counter() - began
        made_with = replace(prepared.made_with, embedding=self._workshop.embedder.identity)
        return replace(prepared, made_with=made_with, vectors=quantise(vectors), line_vectors=quantise_half(lines))

    def _embed(self, passages: Sequence[Passage], texts: Sequence[str]) -> tuple[Any, Any]:
        embedder = self._workshop.embedder
        vectors = np.empty((len(passages), embedder.dimensions), np.float32)
        lines: list[Any] = [None] * len(passages)
        # Long and short passages of the whole document are batched with their like.
        order = sorted(range(len(passages)), key=lambda index: passages[index].n_tokens)
        for at in range(0, len(order), _EMBED_AT_ONCE):
            chosen = order[at : at + _EMBED_AT_ONCE]
            whole = [embedded_text(passages[index].heading, texts[index]) for index in chosen]
            spans = [_spans_within(passages[index], len(text)) for index, text in zip(chosen, whole, strict=True)]
            for row, embedded in embedder.embed(whole, spans):
                vectors[chosen[row]], lines[chosen[row]] = embedded.text, embedded.lines
                self._workshop.queue.wait_for_turn(self._cancel)
        return vectors, np.concatenate([np.empty((0, embedder.dimensions), np.float32), *lines])


def _with_parts(prepared: Prepared) -> list[Prepared]:
    """A document and those within it that were not refused, in order."""
    return [prepared, *(part.prepared for part in prepared.parts if part.prepared is not None)]


def _texts(read: ReadFile, passages: Sequence[Passage]) -> list[str]:
    pages = {page.page_number: page.text for page in read.pages}
    return [pages[passage.page_number][passage.start : passage.end] for passage in passages]


def _spans_within(passage: Passage, n_chars: int) -> list[tuple[int, int]]:
    """Where the lines stand in the text that is embedded: after the heading, which comes first."""
    shift = n_chars - passage.end
    return [(start + shift, end + shift) for start, end in passage.lines]


def _check_unchanged(source: Source) -> None:
    try:
        status = path_of(source.full_path).lstat()
    except OSError as failure:
        raise reading_errors.unreadable("it went away while it was read") from failure
    if (status.st_size, status.st_mtime_ns) != (source.size_bytes, source.mtime_ns):
        raise reading_errors.FileRefusedError("the file was changed while it was read", "Update again.")


__all__ = ["Cancelled", "PackWords", "Summary", "Workshop", "update"]
