# SPDX-License-Identifier: GPL-3.0-or-later
"""Goes through all pages in scope, one after another, and keeps what each gave as soon as it is known.

Whatever ends the process, every page is kept whole or not at all: going on reads
what is missing and nothing twice. A document that was changed is another document
by its content, and is read when its turn comes, or in a further round.
"""

import contextlib
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime

from redlantern.answering.engine import Engine, Runtime
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.values import Document
from redlantern.errors import RedlanternError
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel, Cancelled, Progress, Report
from redlantern.readthrough.lines import LineReader, PageLines, in_scope, page_by_lines
from redlantern.readthrough.reading import read_by_model
from redlantern.readthrough.values import PageRead, PageWish, kept
from redlantern.translation import tr

_KEPT_TOGETHER = 40
"""Pages read by their lines are kept so many at a time: each keeping waits for the disk."""
_MOST_ROUNDS = 5
OnPages = Callable[[list[PageRead]], None]


class NoReaderError(RedlanternError):
    """Pages are to be read by a language model, and there is none that can."""

    def __str__(self) -> str:
        return tr(
            "There is no language model here that can read pages. Set one up in the Models room, or read by "
            "lines, which needs none."
        )


class ReadThroughGoneError(RedlanternError):
    """The read-through was deleted meanwhile."""

    def __str__(self) -> str:
        return tr("This read-through is no longer in the collection: it was deleted.")


@dataclass(frozen=True)
class Gone:
    """How far a read-through went: pages read now, how many are in scope, and the seconds it took."""

    n_read: int
    n_pages: int
    seconds: float
    first_hit_s: float | None = None


def go_through(
    engine: Engine, key: int, wish: PageWish, *, report: Report, cancel: Cancel, on_pages: OnPages = lambda pages: None
) -> Gone:
    """Read every page in scope that was not read yet.

    Parameters
    ----------
    engine : Engine
    key : int
        The read-through in the collection, which keeps what each page gave.
    wish : PageWish
    report, cancel
        Pausing holds still between two pages; questions go first.
    on_pages : callable
        Is given pages as they are kept.

    Raises
    ------
    NoReaderError, ReadThroughGoneError, LanguageModelError, Cancelled
        Whatever was kept before is kept.
    """
    walk = _Walk(engine, key, wish, report, cancel, on_pages)
    for _ in range(_MOST_ROUNDS):
        if not walk.round():
            break
    return walk.gone()


class _Walk:
    def __init__(
        self, engine: Engine, key: int, wish: PageWish, report: Report, cancel: Cancel, on_pages: OnPages
    ) -> None:
        self._engine, self._key, self._wish = engine, key, wish
        self._report, self._cancel, self._on_pages = report, cancel, on_pages
        self._began = time.monotonic()
        self._n_read = self._n_pages = 0
        self._first_hit: float | None = None
        self._waiting: list[PageRead] = []

    def round(self) -> bool:
        """Read what is missing; gives whether anything was."""
        engine, kept_before = self._engine, self._engine.collection.read_throughs
        if kept_before.wish(self._key) is None:
            raise ReadThroughGoneError
        done = kept_before.places(self._key)
        found = in_scope(engine.collection.documents(), self._wish)
        documents = [document for document in found if not document.is_refused]
        missing = {
            document.document_id: frozenset(
                number for number in range(1, document.n_pages + 1) if (document.key, number) not in done
            )
            for document in documents
        }
        self._n_pages = sum(document.n_pages for document in documents)
        n_missing = sum(map(len, missing.values()))
        if not n_missing:
            return False
        n_done = self._n_pages - n_missing
        before = self._n_read
        reader, runtime = self._line_reader()
        try:
            for document in documents:
                if not missing[document.document_id]:
                    continue
                if self._engine.runtime is not runtime:
                    reader, runtime = self._line_reader()
                # One that is changed just now is read in the next round.
                with contextlib.suppress(DocumentChangedError):
                    for page in self._pages(document, missing[document.document_id], reader, runtime):
                        n_done += 1
                        self._keep(page)
                        self._report(Progress(tr("Reading through"), n_done, self._n_pages, "pages", document.title))
        finally:
            self._flush()
        return self._n_read > before

    def gone(self) -> Gone:
        """How far it went."""
        return Gone(self._n_read, self._n_pages, time.monotonic() - self._began, self._first_hit)

    def _line_reader(self) -> tuple[LineReader, Runtime]:
        with self._engine.queue.question():
            runtime = self._engine.runtime
            # Not one from a moment ago: documents that were read since are to be found in it.
            self._engine.reload_index()
            index = self._engine.current_index()
            return LineReader(self._wish, index, self._engine.collection, runtime.embedder), runtime

    def _pages(
        self, document: Document, wanted: frozenset[int], reader: LineReader, runtime: Runtime
    ) -> Iterator[PageRead]:
        model = self._model(runtime)
        for lines in reader.pages(document, wanted):
            self._wait()
            page = page_by_lines(document, lines, datetime.now(UTC).isoformat(timespec="seconds"))
            if model is not None and page.state != "unreadable" and lines.lines:
                is_certain = page.state == "silent" and self._wish.way == "read"
                page = page if is_certain else self._read(page, lines, model)
            yield page

    def _read(self, page: PageRead, lines: PageLines, model: LanguageModel) -> PageRead:
        """Let the model read a page; when a question comes meanwhile it goes first, and the page is read again."""
        while True:
            own = Cancel()
            try:
                with self._cancel.calling(own.now), self._engine.queue.giving_way(own.now):
                    return read_by_model(page, lines, self._wish, model, own)
            except Cancelled:
                self._wait()

    def _wait(self) -> None:
        """Hold still while the work is paused or a question is worked on."""
        if self._cancel.is_held or self._cancel.is_set or self._engine.queue.n_questions:
            self._flush()
        self._cancel.check()
        self._engine.queue.wait_for_turn(self._cancel)

    def _model(self, runtime: Runtime) -> LanguageModel | None:
        if self._wish.way == "lines":
            return None
        model = runtime.language_model
        if model is None or not model.can_judge:
            raise NoReaderError
        return model

    def _keep(self, page: PageRead) -> None:
        self._waiting.append(page)
        if page.state == "hit" and self._first_hit is None:
            self._first_hit = time.monotonic() - self._began
        if self._wish.way != "lines" or len(self._waiting) >= _KEPT_TOGETHER:
            self._flush()

    def _flush(self) -> None:
        pages, self._waiting = self._waiting, []
        if not pages:
            return
        collection = self._engine.collection
        with collection.file.writing():
            # What was erased while it was read must not come back.
            there = {document.key for document in collection.documents()}
            pages = [page for page in pages if page.place[0] in there]
            collection.read_throughs.keep(self._key, [kept(page) for page in pages])
        self._n_read += len(pages)
        self._on_pages(pages)
