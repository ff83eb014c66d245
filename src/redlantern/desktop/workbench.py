"""Everything slow that the window wants done, as functions for a Task; none of them knows a widget."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from PyQt6.QtGui import QImage

from redlantern.answering.engine import DoneStep, Engine, FoundStep, Question
from redlantern.answering.sheet import Sheet, sheet_from_json
from redlantern.collection.preview import Preview, Split, read_samples, split_samples
from redlantern.collection.store import Collection
from redlantern.collection.update import Summary
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.errors import RedlanternError
from redlantern.models.chosen import chosen_language_model
from redlantern.models.embedding import Embedder, MiniLmEmbedder
from redlantern.models.language import LanguageModel
from redlantern.models.register import sha256_of
from redlantern.reading.values import Page
from redlantern.settings import Method

MakeEmbedder = Callable[[], Embedder]
MakeLanguageModel = Callable[[], LanguageModel | None]
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


@dataclass
class Opened:
    """A collection ready to work with: its engine, its documents and its sheets so far."""

    engine: Engine
    documents: list[Document]
    sheets: list[Sheet]


@dataclass(frozen=True)
class Models:
    """How to make the models; tests put small ones in their place."""

    embedder: MakeEmbedder = MiniLmEmbedder
    language: MakeLanguageModel = chosen_language_model


def open_collection(path: Path, models: Models, *, creates: bool) -> Callable[[Task], Opened]:
    """Open a collection, or make it, with the claim to change it."""

    def work(task: Task) -> Opened:
        collection = Collection.create(path) if creates and not path.exists() else Collection.open(path)
        try:
            collection.claim_writing()
            engine = Engine(collection, models.embedder(), models.language())
            _ = engine.index
            documents = collection.documents()
            ids = {one.path: one.document_id for one in documents}
            sheets = [sheet_from_json(form, ids) for *_, form in collection.kept_sheets.all()]
        except BaseException:
            collection.close()
            raise
        return Opened(engine, documents, sheets)

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
        shown = 0

        def report(progress: object) -> None:
            nonlocal shown
            task.report(progress)  # type: ignore[arg-type]
            done = getattr(progress, "done", 0)
            if done > shown:
                shown = done
                task.stepped.emit(engine.collection.documents())

        if again:
            engine.collection.let_in(again)
        return engine.update(paths, report=report, cancel=task.cancel, again=again or {}, method=method)

    return work


def update_again(engine: Engine) -> Callable[[Task], Summary]:
    """Bring the collection up to date with the folders it was made from."""

    def work(task: Task) -> Summary:
        return update(engine, [])(task)

    return work


def ask(engine: Engine, question: Question) -> Callable[[Task], Sheet]:
    """Ask; every step is passed on. The sheet is kept in the collection, also one that was stopped in mid-answer."""

    def work(task: Task) -> Sheet:
        sheet: Sheet | None = None
        try:
            for step in engine.ask(question, task.cancel):
                if isinstance(step, FoundStep | DoneStep):
                    sheet = step.sheet
                task.stepped.emit(step)
        finally:
            if sheet is not None:
                engine.collection.kept_sheets.keep(datetime.now(UTC).isoformat(), question.text, sheet.as_json())
        assert sheet is not None
        return sheet

    return work


def load_documents(engine: Engine) -> Callable[[Task], list[Document]]:
    """Load the index anew, so that the next question need not, and give the documents."""

    def work(task: Task) -> list[Document]:
        _ = engine.index
        return engine.collection.documents()

    return work


def load_page(engine: Engine, document_id: int, page_number: int) -> Callable[[Task], Page | None]:
    """Fetch one page as it was read."""
    return lambda task: engine.collection.page(document_id, page_number)


def load_reading(
    engine: Engine, document_id: int, page_number: int
) -> Callable[[Task], tuple[Page | None, list[PassageSpan]]]:
    """Fetch a page as it was read, with its passages: (start, end, tokens, heading)."""

    def work(task: Task) -> tuple[Page | None, list[PassageSpan]]:
        page = engine.collection.page(document_id, page_number)
        return page, engine.collection.page_passages(document_id, page_number)

    return work


def disk_states(documents: list[Document]) -> Callable[[Task], dict[str, str]]:
    """Look which files are not as they were read: by full path “missing” or “changed on disk”."""

    def work(task: Task) -> dict[str, str]:
        found = {}
        for path, document in {str(one.file_path): one for one in documents}.items():
            task.cancel.check()
            try:
                status = Path(path).lstat()
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
        return engine.collection.documents()

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
