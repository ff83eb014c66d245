"""Everything slow that the window wants done, as functions for a Task; none of them knows a widget."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path

from PyQt6.QtGui import QImage

from redlantern.answering.asking import DoneStep, FoundStep, Question
from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.answering.sheet_form import sheet_as_json, sheet_from_json
from redlantern.answering.writing.summary import PartStep
from redlantern.application.opening import Claim, MakeEmbedder, Models, NewKey, open_session
from redlantern.collection.fingerprints import Version
from redlantern.collection.known import known_collections
from redlantern.collection.store import Collection
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.errors import RedlanternError
from redlantern.indexing.plan import UpdatePlan
from redlantern.indexing.preview import Preview, Split, read_samples, split_samples
from redlantern.indexing.update import Summary
from redlantern.indexing.watch import FolderWatch
from redlantern.models.register import sha256_of
from redlantern.progress import Progress, Report
from redlantern.reading.values import Page
from redlantern.safety import failures
from redlantern.safety.keys import Holding
from redlantern.settings import Method

_IDLE_MINUTES = 15
PassageSpan = tuple[int, int, int, str]
"""A passage on its page: start, end, tokens, heading."""


class FileChangedError(RedlanternError):
    """The file behind a document is not the one that was read."""

    def __str__(self) -> str:
        return "The file was changed since it was read, so this is the text as it was read. Update to read it again."


class FileGoneError(RedlanternError):
    """The file behind a document is not there."""

    def __str__(self) -> str:
        return "The file is no longer where it was, so this is the text as it was read."


class SameCollectionError(RedlanternError):
    """A collection was to be asked beside itself."""

    def __str__(self) -> str:
        return "This is the open collection itself. Choose another one to ask with it."


@dataclass
class Opened:
    """A collection ready to work with: its engine, its documents and its sheets so far.

    `only_reading` says why it cannot be changed here; empty when it can. `notice` says which of its models is not used, and why.
    `watching` is how its folders are watched, `idle_minutes` after how long
    without a person it is locked (0 for never). `scopes` are the kept ones: the
    keys of each one's documents by its name.
    """

    engine: Engine
    documents: list[Document]
    sheets: list[Sheet]
    versions: dict[int, Version] = field(default_factory=dict)
    only_reading: str = ""
    watching: str = "no"
    idle_minutes: int = 0
    scopes: dict[str, list[str]] = field(default_factory=dict)
    notice: str = ""


def open_collection(
    path: Path, models: Models, *, new_key: NewKey | None = None, passphrase: str | None = None
) -> Callable[[Task], Opened]:
    """Open a collection with the claim to change it; with `new_key`, make it if it is not there.

    If it is open elsewhere, or lies where nothing can be written, it is opened for questions only.
    """

    def work(task: Task) -> Opened:
        session = open_session(
            path, by="in a window", passphrase=passphrase, new_key=new_key, claim=Claim.IF_FREE, models=models
        )  # fmt: skip
        engine = session.engine
        try:
            _ = engine.index
            collection, facts = engine.collection, engine.collection.facts
            documents = collection.documents()
            sheets = load_sheets(collection, documents)
            default = _IDLE_MINUTES if collection.holding is Holding.PASSPHRASE else 0
            return Opened(
                engine, documents, sheets, collection.versions(), session.only_reading, facts.get("watching", "no"),
                int(facts.get("idle minutes", str(default))), facts.scopes(), session.notice,
            )  # fmt: skip
        except BaseException:
            session.close()
            raise

    return work


def load_sheets(collection: Collection, documents: list[Document]) -> list[Sheet]:
    """The kept sheets, each citation led to the document that has its content now, or else lies at its place."""
    ids = {one.path: one.document_id for one in documents}
    by_key = {one.key: one.document_id for one in documents}
    return [
        replace(sheet_from_json(form, ids | by_key), asked_at=asked_at)
        for _, asked_at, _, form in collection.kept_sheets.all()
    ]


def read_failures(task: Task) -> str:
    """The log of failures; empty where there is none."""
    path = failures.log_path()
    return path.read_text(encoding="utf-8") if path.is_file() else ""


def list_known(task: Task) -> list[Path]:
    """The collections that were opened under this login."""
    return known_collections()


def ask_beside(engine: Engine, path: Path, passphrase: str | None) -> Callable[[Task], list[Document]]:
    """Ask another collection together with the open one; gives the documents of both."""

    def work(task: Task) -> list[Document]:
        if path.resolve() == engine.collection.path.resolve():
            raise SameCollectionError
        engine.ask_beside(Collection.open(path, passphrase))
        _ = engine.index
        return engine.asked.documents()

    return work


def why_not(engine: Engine, sheet: Sheet, scope: frozenset[int] | None, page: tuple[int, int]) -> Callable[[Task], str]:
    """Say in words where a page stands for the question of a sheet."""

    def work(task: Task) -> str:
        found = engine.why_not(sheet, scope, page)
        return found.sentences() if found is not None else "Nothing could be read on this page, so it cannot be found."

    return work


def ask_alone(engine: Engine) -> Callable[[Task], list[Document]]:
    """Ask the open collection alone again."""

    def work(task: Task) -> list[Document]:
        engine.ask_alone()
        _ = engine.index
        return engine.asked.documents()

    return work


def start_language_model(engine: Engine) -> Callable[[Task], None]:
    """Load the language model before the first question needs it."""

    def work(task: Task) -> None:
        start = getattr(engine.language_model, "start", None)
        if start is not None:
            start()

    return work


def update(
    engine: Engine, paths: list[Path], *, again: Mapping[str, str] | None = None, method: Method | None = None
) -> Callable[[Task], Summary]:
    """Bring the collection up to date; every finished document is passed on as a new list of documents.

    `again` names files to read whatever they are, each with its password or nothing.
    """

    def work(task: Task) -> Summary:
        if again:
            engine.collection.let_in(again)
        report = _showing_documents(engine, task)
        return engine.update(paths, report=report, cancel=task.cancel, again=again or {}, method=method)

    return work


def _showing_documents(engine: Engine, task: Task) -> Report:
    """A report that also passes on the documents after each one that was finished."""
    shown = 0

    def report(progress: Progress) -> None:
        nonlocal shown
        task.report(progress)
        if progress.done > shown:
            shown = progress.done
            task.stepped.emit(engine.asked.documents())

    return report


def plan_update(engine: Engine) -> Callable[[Task], tuple[UpdatePlan, float]]:
    """Say what an update of the followed folders would do, and about how many seconds it would take."""
    return lambda task: engine.plan(task.cancel)


def carry_out(engine: Engine, plan: UpdatePlan) -> Callable[[Task], Summary]:
    """Do what a plan says; every finished document is passed on as a new list of documents."""
    return lambda task: engine.carry_out(plan, report=_showing_documents(engine, task), cancel=task.cancel)


def embed_anew(engine: Engine, make: MakeEmbedder, folder: Path | None) -> Callable[[Task], Summary]:
    """Embed everything with another model, None for the packaged one."""

    def work(task: Task) -> Summary:
        embedder = make(folder) if folder is not None else make()
        fact = str(folder) if folder is not None else ""
        n_documents = engine.use_embedder(embedder, fact, report=task.report, cancel=task.cancel)
        return Summary(remade=n_documents)

    return work


def unfollow(engine: Engine, path: Path) -> Callable[[Task], None]:
    """Look at a followed folder or file no longer."""
    return lambda task: engine.collection.unfollow(path)


def start_watch(engine: Engine, on_change: Callable[[], None]) -> Callable[[Task], FolderWatch]:
    """Watch the followed folders."""
    return lambda task: FolderWatch(engine.collection.followed(), on_change)


def put_fact(engine: Engine, name: str, value: str) -> Callable[[Task], None]:
    """Keep one of the collection's own settings."""
    return lambda task: engine.collection.facts.put(name, value)


def keep_scopes(engine: Engine, scopes: dict[str, list[str]]) -> Callable[[Task], None]:
    """Keep named choices of documents."""
    return lambda task: engine.collection.facts.keep_scopes(scopes)


def ask(engine: Engine, question: Question) -> Callable[[Task], Sheet]:
    """Ask; every step is passed on. The sheet is kept in the collection, also one that was stopped in mid-answer."""

    def work(task: Task) -> Sheet:
        sheet: Sheet | None = None
        try:
            for step in engine.ask(question, task.cancel):
                if isinstance(step, FoundStep | PartStep | DoneStep):
                    sheet = step.sheet
                task.stepped.emit(step)
        finally:
            if sheet is not None:
                engine.collection.kept_sheets.keep(datetime.now(UTC).isoformat(), question.text, sheet_as_json(sheet))
        assert sheet is not None
        return sheet

    return work


def ask_model_alone(engine: Engine, question: str) -> Callable[[Task], str]:
    """Ask the language model without documents; its words so far are passed on as they come."""

    def work(task: Task) -> str:
        said = ""
        for said in engine.ask_model_alone(question, task.cancel):
            task.stepped.emit(said)
        return said

    return work


def reload(engine: Engine) -> Callable[[Task], tuple[list[Document], list[Sheet], dict[int, Version]]]:
    """Fetch documents, sheets and versions anew, after some of their words were erased."""

    def work(task: Task) -> tuple[list[Document], list[Sheet], dict[int, Version]]:
        collection = engine.collection
        documents = engine.asked.documents()
        return documents, load_sheets(collection, documents), collection.versions()

    return work


def load_documents(engine: Engine) -> Callable[[Task], tuple[list[Document], dict[int, Version]]]:
    """Load the index anew, so that the next question need not, and give the documents with their versions."""

    def work(task: Task) -> tuple[list[Document], dict[int, Version]]:
        _ = engine.index
        return engine.asked.documents(), engine.collection.versions()

    return work


def load_page(engine: Engine, document_id: int, page_number: int) -> Callable[[Task], Page | None]:
    """Fetch one page as it was read."""
    return lambda task: engine.asked.page(document_id, page_number)


def load_reading(
    engine: Engine, document_id: int, page_number: int
) -> Callable[[Task], tuple[Page | None, list[PassageSpan]]]:
    """Fetch a page as it was read, with its passages: (start, end, tokens, heading)."""

    def work(task: Task) -> tuple[Page | None, list[PassageSpan]]:
        page = engine.asked.page(document_id, page_number)
        return page, engine.asked.page_passages(document_id, page_number)

    return work


def disk_states(documents: list[Document]) -> Callable[[Task], dict[str, str]]:
    """Look which files are not as they were read: by full path “missing” or “changed on disk”."""

    def work(task: Task) -> dict[str, str]:
        found = {}
        for path, document in {one.file_text: one for one in documents}.items():
            task.cancel.check()
            try:
                status = document.file_path.lstat()
            except OSError:
                found[path] = "missing"
                continue
            if (status.st_size, status.st_mtime_ns) != (document.size_bytes, document.mtime_ns):
                found[path] = "changed on disk"
        return found

    return work


def take_out(engine: Engine, full_paths: list[str]) -> Callable[[Task], list[Document]]:
    """Take files out of the collection; gives the documents that are left."""

    def work(task: Task) -> list[Document]:
        engine.collection.take_out(full_paths)
        engine.has_changed()
        _ = engine.index
        return engine.asked.documents()

    return work


def read_preview(engine: Engine, paths: list[Path]) -> Callable[[Task], Preview]:
    """Read some of the files, and keep nothing."""
    return lambda task: read_samples(paths, engine.readers, report=task.report, cancel=task.cancel)


def split_preview(engine: Engine, preview: Preview, methods: Sequence[Method]) -> Callable[[Task], list[Split]]:
    """Split what was read for a preview under each method."""
    return lambda task: [split_samples(preview, engine.embedder, method) for method in methods]


def picture(engine: Engine, document: Document, page_number: int, scale: float) -> Callable[[Task], QImage]:
    """Print a page to a picture, from the file as it was when it was read."""

    def work(task: Task) -> QImage:
        path = document.file_path
        if not path.is_file():
            raise FileGoneError
        if sha256_of(path) != document.sha256:
            raise FileChangedError
        printed = engine.readers.picture(path, page_number - 1, scale, task.cancel, part=document.part)
        image = QImage(
            printed.pixels, printed.width_px, printed.height_px, printed.width_px * 4, QImage.Format.Format_RGB32
        )
        return image.copy()

    return work
