# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with read-throughs: begin one, go on with it, judge, order, draw a sample, state."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime

import msgspec

from redlantern import __version__
from redlantern.answering.engine import Engine
from redlantern.application import briefs
from redlantern.brief.gathering import entry_of_list
from redlantern.brief.values import BriefEntry
from redlantern.collection.values import Document
from redlantern.errors import RedlanternError
from redlantern.models.embedding import Vectors
from redlantern.progress import Cancel, Progress, Report
from redlantern.readthrough.coverage import Coverage, coverage
from redlantern.readthrough.estimate import Estimate, estimate, sample
from redlantern.readthrough.extraction import TITLES, Extract, Item, items_of
from redlantern.readthrough.going import Gone, OnPages, ReadThroughGoneError, go_through
from redlantern.readthrough.learning import Learned, learn
from redlantern.readthrough.lines import in_scope
from redlantern.readthrough.statement import Made, Statement, make_statement
from redlantern.readthrough.values import Example, Judged, PageRead, PageWish, Place, Way, page_from, wish_from
from redlantern.reckoning.written import rows_as_csv, rows_as_workbook
from redlantern.safety.names import visible
from redlantern.translation import tr

_LINES_PAGES_PER_S = 150.0
_READ_S = 8.0
"""What a page takes by its lines and by a model, until this machine has shown it."""
_PROMPT_TOKENS = 400
_LIKELY_SHARE = 0.35
"""About the share of pages whose lines are not certainly silent."""
COLUMNS = ("value", "words", "document", "page", "path", "who")


class EmptyWishError(RedlanternError):
    """Nothing was said to be looked for."""

    def __str__(self) -> str:
        return tr("Nothing is looked for yet. Say in a sentence or a few words what every page is to be read for.")


class NoPagesInScopeError(RedlanternError):
    """No document in scope has a page."""

    def __str__(self) -> str:
        return tr("No document in scope has a page that could be read. Add a folder first, or choose more documents.")


@dataclass(frozen=True)
class ReadThrough:
    """One read-through as it stands: `drawn` is the sample of its silent pages, which is the same until these change."""

    key: int
    began_at: str
    wish: PageWish
    covered: Coverage
    drawn: tuple[Place, ...]

    @property
    def estimate(self) -> Estimate:
        """What the sample says so far."""
        return estimate(self.covered.pages, self.drawn)


@dataclass(frozen=True)
class Outlook:
    """What a wish would cost: pages and documents in scope, how many of them cannot be read, and about how many seconds."""

    n_documents: int
    n_pages: int
    n_refused: int
    seconds: float


@dataclass(frozen=True)
class Listed:
    """A value from a page, with the document it stands in."""

    item: Item
    document: Document
    page_number: int

    @property
    def row(self) -> tuple[str, ...]:
        """Its cells, in the order of COLUMNS."""
        words = " ".join(self.item.line.split())
        place = (self.document.title, str(self.page_number), self.document.shown_path)
        return self.item.value, words, *place, self.item.bearer


def outlook(engine: Engine, wish: PageWish) -> Outlook:
    """Say what a wish would cost on this machine."""
    documents = in_scope(engine.collection.documents(), wish)
    n_pages = sum(document.n_pages for document in documents if not document.is_refused)
    model = engine.language_model
    read_per_s = model.pace.read_per_s if model is not None else 0.0
    a_page = _PROMPT_TOKENS / read_per_s if read_per_s else _READ_S
    share = {"lines": 0.0, "read": _LIKELY_SHARE, "all": 1.0}[wish.way]
    seconds = n_pages / _LINES_PAGES_PER_S + n_pages * share * a_page
    return Outlook(len(documents), n_pages, sum(document.is_refused for document in documents), seconds)


def begin(engine: Engine, wish: PageWish) -> int:
    """Keep a new read-through, with no page read yet; gives its key.

    Raises
    ------
    EmptyWishError, NoPagesInScopeError
    """
    if not wish.question.strip(" ?!.\n\t"):
        raise EmptyWishError
    if not outlook(engine, wish).n_pages:
        raise NoPagesInScopeError
    key = engine.collection.read_throughs.begin(_now(), wish.as_values())
    engine.collection.journal.note("asked", f"Read-through: {wish.question}")
    return key


def go_on(engine: Engine, key: int, *, report: Report, cancel: Cancel, on_pages: OnPages = lambda pages: None) -> Gone:
    """Read what is missing of a read-through; see going.go_through."""
    return go_through(engine, key, _wish(engine, key), report=report, cancel=cancel, on_pages=on_pages)


def load(engine: Engine, key: int) -> ReadThrough:
    """One read-through as it stands.

    Raises
    ------
    ReadThroughGoneError
    """
    found = next((each for each in engine.collection.read_throughs.all() if each[0] == key), None)
    if found is None:
        raise ReadThroughGoneError
    return _loaded(engine, *found)


def read_throughs(engine: Engine) -> list[ReadThrough]:
    """All of a collection, the newest first; one that cannot be understood is left out."""
    found = []
    for entry in reversed(engine.collection.read_throughs.all()):
        try:
            found.append(_loaded(engine, *entry))
        except msgspec.ValidationError:
            continue
    return found


def _loaded(engine: Engine, key: int, began_at: str, values: dict[str, object]) -> ReadThrough:
    wish = wish_from(values)
    read = {page.place: page for page in map(page_from, engine.collection.read_throughs.pages(key))}
    covered = coverage(engine.collection.documents(), wish, read)
    # By when it began: a seed that nobody chose.
    return ReadThrough(key, began_at, wish, covered, tuple(sample(covered.pages, began_at)))


def judge(engine: Engine, key: int, place: Place, judged: Judged, note: str = "") -> None:
    """Keep what a person said to a page."""
    engine.collection.read_throughs.judge(key, place, judged, note)


def read_more(engine: Engine, key: int, way: Way) -> None:
    """From now on read the pages of a read-through more carefully: what was not judged is read again."""
    kept = engine.collection.read_throughs
    kept.keep_wish(key, replace(_wish(engine, key), way=way).as_values())
    kept.drop_unjudged(key)


def add_example(engine: Engine, key: int, example: Example) -> None:
    """Say by words of a page what counts, or what does not: pages that were not judged are to be read anew by it."""
    wish, kept = _wish(engine, key), engine.collection.read_throughs
    others = tuple(each for each in wish.examples if each.text != example.text)
    kept.keep_wish(key, replace(wish, examples=(*others, example)).as_values())
    kept.drop_unjudged(key)


def delete(engine: Engine, key: int) -> None:
    """Forget a read-through with all that was judged in it."""
    engine.collection.read_throughs.delete(key)


def learned(engine: Engine, through: ReadThrough, cancel: Cancel) -> Learned | None:
    """The open pages ordered by what was judged so far; None while too little was."""
    pages = [page for page in through.covered.pages if page.is_open or page.judged]
    numbers: dict[str, list[int]] = {}
    for page in pages:
        numbers.setdefault(page.place[0], []).append(page.place[1])
    vectors: dict[Place, Vectors] = {}
    with engine.queue.question():
        index = engine.current_index()
        for document in index.documents.values():
            cancel.check()
            directions = index.page_directions(document.document_id, numbers.get(document.key, ()))
            vectors |= {(document.key, number): direction for number, direction in directions.items()}
    return learn(pages, vectors)


def why_silent(page: PageRead) -> str:
    """Say in words why a page counts as it does, with its best line."""
    if page.state == "unreadable":
        return tr("This page could not be read: {reason}.").format(reason=page.reason)
    if not page.words:
        return tr("Nothing stands on this page that could be compared.")
    words = " ".join(page.words[0].text.split())
    chance = tr("By all that is known the page is a hit with a chance of {certainty:.0%}.").format(
        certainty=page.certainty
    )
    return tr("The line nearest to what is looked for is “{words}”. {chance}").format(
        words=visible(words), chance=chance
    )


def statement(engine: Engine, through: ReadThrough) -> Statement:
    """The statement of what was read, found and perhaps missed."""
    model = engine.language_model if through.wish.way != "lines" else None
    models = [tr("Embedding model: {identity}.").format(identity=engine.embedder.identity)]
    if model is not None:
        models.append(tr("Language model: {name}.").format(name=model.name))
    ended = max((page.read_at for page in through.covered.pages), default="")
    made = Made(__version__, tuple(models), through.began_at, ended)
    return make_statement(through.wish, through.covered, through.estimate, made)


def listed(
    engine: Engine, kind: Extract, *, paths: Sequence[str] | None = None, about: str = "",
    report: Report, cancel: Cancel,
) -> list[Listed]:  # fmt: skip
    """All values of a kind in the documents in scope, in order of documents and places.

    `about` limits them to lines with these words, of duties to such bearers.
    """
    wish = PageWish(about or TITLES[kind], paths=tuple(paths) if paths is not None else None)
    documents = [each for each in in_scope(engine.collection.documents(), wish) if not each.is_refused]
    n_pages, n_done, found = sum(each.n_pages for each in documents), 0, []
    for document in documents:
        for page in engine.collection.pages(document.document_id):
            cancel.check()
            n_done += 1
            report(Progress(tr("Listing"), n_done, n_pages, "pages", document.title))
            items = items_of(kind, page, language=document.language, about=about)
            found += [Listed(item, document, page.page_number) for item in items]
    return found


def list_as_file(kind: Extract, rows: Sequence[Listed], form: str) -> bytes:
    """A list as CSV (`csv`) or as a workbook (`xlsx`)."""
    cells = [tuple(map(visible, each.row)) for each in rows]
    return rows_as_workbook(TITLES[kind], COLUMNS, cells) if form == "xlsx" else rows_as_csv(COLUMNS, cells)


def list_entry(engine: Engine, kind: Extract, rows: Sequence[Listed]) -> BriefEntry:
    """A list as an entry of a brief: a table, every value cited."""
    cited = [engine.collection.cite(each.document, each.page_number, each.item.start, each.item.end) for each in rows]
    printed = [COLUMNS, *(each.row for each in rows)]
    return entry_of_list(TITLES[kind], printed, cited, lambda citation: briefs.about(engine, citation))


def _wish(engine: Engine, key: int) -> PageWish:
    values = engine.collection.read_throughs.wish(key)
    if values is None:
        raise ReadThroughGoneError
    return wish_from(values)


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")
