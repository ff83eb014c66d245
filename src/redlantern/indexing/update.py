# SPDX-License-Identifier: GPL-3.0-or-later
"""Brings a collection up to date with folders: reads, splits, embeds, and keeps document by document."""

import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from types import MappingProxyType
from typing import Any

from redlantern.collection.facts import Facts
from redlantern.collection.prepared import Source
from redlantern.collection.store import Collection
from redlantern.errors import RedlanternError
from redlantern.indexing.plan import Planned, UpdatePlan, make_plan
from redlantern.indexing.prepare import Preparation, Workshop, made_with_now, with_parts
from redlantern.indexing.split import method_of
from redlantern.progress import Cancel, Cancelled, Progress, Report
from redlantern.reading import errors as reading_errors
from redlantern.reading.values import ReadFile
from redlantern.safety.names import path_of, path_text
from redlantern.translation import tr

_WORDS_FIRST = 40
"""A file of so many passages or more is kept before it is embedded, so that it can be found by its words meanwhile."""
_LONG_PAGES = 40
SLOW_PER_BYTE_S = 2e-5
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


def seconds_for(plan: UpdatePlan, facts: Facts) -> float:
    """Say about how long a plan will take, by the pace of the last update here, or else a slow machine's."""
    per_byte = float(facts.get("seconds per byte", str(SLOW_PER_BYTE_S)))
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
    report : callable
        Gets a Progress in documents.
    on_document : callable
        Called after each document that was kept or forgotten.
    again : mapping
        Files (full paths) to read whatever they are, with the password of each, or nothing.

    Raises
    ------
    SourceMissingError, NothingToReadError, DiskFullError, CannotWriteError, Cancelled
    """
    began = time.perf_counter()
    report(Progress(tr("Looking for changes"), 0, None, "documents"))
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
    worker.summary.seconds = {"reading": 0.0}
    began = time.perf_counter()
    with collection.file.changing_documents():
        worker.carry_out(plan)
    worker.summary.seconds |= worker.preparation_seconds
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
        self._preparation = Preparation(workshop, cancel)
        self._began = time.perf_counter()
        self._done = self._total = 0

    @property
    def preparation_seconds(self) -> dict[str, float]:
        return self._preparation.seconds

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
        documents = {document.document_id: document for document in self._collection.documents()} if to_remake else {}
        made_with = self._collection.made_with()
        began, n_passages = time.perf_counter(), 0
        for document_id, _ in to_remake:
            document = documents.get(document_id)
            if document is None:
                continue
            self._tell(document.title)
            method = method_of(made_with[document_id][0].splitting, self._workshop.method)
            prepared = self._preparation.embedded(
                self._preparation.prepare("", self._collection.read_file(document), method)
            )
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
        detail = " · ".join(page for page in (pages, what) if page)
        self._report(Progress(tr("Reading and indexing"), self._done, self._total, "documents", detail))

    def _read_ahead(self, planned: list[Planned]) -> Iterator[tuple[Planned, "Future[ReadFile]"]]:
        """Read a few files ahead of the embedding, so that no core waits, and no more, so that memory stays small."""
        stop = Cancel()
        waiting = deque(planned)
        ahead: deque[tuple[Planned, Future[ReadFile]]] = deque()
        with ThreadPoolExecutor(self._workshop.readers.n_readers) as threads, self._cancel.calling(stop.now):
            try:
                while waiting or ahead:
                    while waiting and len(ahead) <= self._workshop.readers.n_readers:
                        next_file = waiting.popleft()
                        ahead.append((next_file, threads.submit(self._read, next_file, stop)))
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
            prepared = self._preparation.prepare_whole(planned.sha256 or "", read, method)
            waits = sum(len(document.passages) for document in with_parts(prepared)) >= _WORDS_FIRST
            if not waits:
                prepared = self._preparation.embedded_whole(prepared)
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
            for each_id, document in zip(ids, with_parts(prepared), strict=True):
                self._collection.set_vectors(each_id, self._preparation.embedded(document))
        self.summary.changed += planned.is_change
        for document in with_parts(prepared):
            self.summary.read += 1
            self.summary.pages += len(document.read.pages)
            self.summary.passages += len(document.passages)
            self.summary.tokens += sum(passage.n_tokens for passage in document.passages)
        self.summary.refused.extend(
            (f"{source.full_path}/{part.name}", part.refusal) for part in prepared.parts if part.refusal
        )

    def _refuse(self, planned: Planned, reason: str) -> None:
        self._collection.add_refused(planned.source, planned.sha256, reason)
        self.summary.refused.append((planned.source.full_path, reason))


def _check_unchanged(source: Source) -> None:
    try:
        status = path_of(source.full_path).lstat()
    except OSError as failure:
        raise reading_errors.unreadable("it went away while it was read") from failure
    if (status.st_size, status.st_mtime_ns) != (source.size_bytes, source.mtime_ns):
        raise reading_errors.FileRefusedError(tr("the file was changed while it was read"), tr("Update again."))
