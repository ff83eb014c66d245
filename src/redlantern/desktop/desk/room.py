"""The desk: ask, read the answer, check it against the page. Shelf, sheet and facsimile, and what runs between them."""

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QHBoxLayout, QSplitter, QWidget

from redlantern.answering.asking import DoneStep, FoundStep, Question, Step
from redlantern.answering.changes import compare, source_changes
from redlantern.answering.sheet import Sheet
from redlantern.answering.sheet_form import relinked
from redlantern.answering.writing.answer import WritingStep
from redlantern.answering.writing.summary import PartStep
from redlantern.collection.fingerprints import Version
from redlantern.collection.journal import now_utc
from redlantern.collection.values import Document
from redlantern.desktop import welcome, workbench
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk.model_alone import ModelAlone
from redlantern.desktop.desk.passage_choices import PassageChoices
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.seal.upkeeping import Upkeep
from redlantern.desktop.shelf.updates import Updates
from redlantern.desktop.widgets.facsimile import Facsimile
from redlantern.desktop.widgets.ribbons import Shelf
from redlantern.desktop.widgets.rows import CitedRow
from redlantern.desktop.widgets.status import StatusLine
from redlantern.desktop.workbench import Opened
from redlantern.reading.values import Page
from redlantern.settings import Method

STOPPED = "The writing was stopped. The found lines above are complete."


class Desk(QWidget):
    """The room where questions are asked. Owns the tasks that work for it and stops them when it closes."""

    add_wanted = pyqtSignal()
    update_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    asking_changed = pyqtSignal(bool)
    scope_changed = pyqtSignal()
    documents_changed = pyqtSignal()
    updating_changed = pyqtSignal(bool)
    question_wanted = pyqtSignal(str)
    view: SheetView

    def __init__(self, status: StatusLine) -> None:
        super().__init__()
        self.opened: Opened | None = None
        self.sheets: list[Sheet] = []
        self.at = -1
        self.found_after_s: float | None = None
        self._status = status
        self._asking: Task | None = None
        self._tasks: set[Task] = set()
        self._ending: list[Task] = []
        self._asked_at = 0.0
        self._thread_began = 0
        self._compared_with: Sheet | None = None
        self._wanted: tuple[int, int, tuple[int, int] | None] | None = None
        self._wanted_words = ""
        self._pictures: Task | None = None
        self.updates, self.upkeep = Updates(self, status), Upkeep(self, status)
        self.shelf, self.view, self.facsimile = Shelf(), SheetView(), Facsimile()
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        for column, width in ((self.shelf, 262), (self.view, 560), (self.facsimile, 458)):
            self.splitter.addWidget(column)
            column.setMinimumWidth(200)
            self.splitter.setStretchFactor(self.splitter.count() - 1, width)
        self.splitter.setSizes([262, 560, 458])
        self.splitter.setHandleWidth(1)
        self.splitter.setChildrenCollapsible(False)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.splitter)
        self.choices = PassageChoices(self)
        self.model_alone = ModelAlone(self)
        self._connect()
        self.show_welcome()

    # What can be done

    @property
    def is_asking(self) -> bool:
        """Whether a question is worked on."""
        return self._asking is not None

    @property
    def is_updating(self) -> bool:
        """Whether files are being read."""
        return self.updates.is_running

    @property
    def is_busy(self) -> bool:
        """Whether anything at all is being fetched or worked on."""
        return bool(self._tasks)

    @property
    def scope(self) -> frozenset[int] | None:
        """The documents in scope; None for all."""
        return self.shelf.model.scope()

    @property
    def current_document(self) -> Document | None:
        """The document whose page is shown, if it can be asked."""
        shown = self.facsimile.document
        return shown if shown is not None and not shown.is_refused else None

    def open(self, opened: Opened) -> None:
        """Work on this collection."""
        self.opened, self.sheets, self.at = opened, list(opened.sheets), len(opened.sheets) - 1
        self._thread_began = len(self.sheets)
        self.choices.begin()
        self.show_documents(opened.documents)
        self.facsimile.clear()
        self.run(workbench.start_language_model(opened.engine), failed=self._status.show_speed)
        self.updates.start_watching()
        self.allow_updates(True)
        if self.sheets:
            self._show(self.at)
        else:
            self.show_welcome()

    def ask(self, text: str, *, standalone: str = "", as_typed: bool = False) -> None:
        """Ask a question; a question that is still being answered is stopped first."""
        if self.opened is None or self.upkeep.is_running:
            return
        self.stop()
        self._asked_at, self.found_after_s = time.perf_counter(), None
        thread = self.sheets[self._thread_began :]
        question = Question(
            text, tuple(sheet.standalone_question for sheet in thread),
            tuple(one.citation.text for sheet in thread[-1:] for one in sheet.found_lines),
            self.scope, standalone, as_typed=as_typed,
            put_aside=frozenset(self.choices.put_aside), pinned=frozenset(self.choices.pinned),
            shown=self.current_document.document_id if self.current_document is not None else None,
        )  # fmt: skip
        self._compared_with = None
        self.view.show_asking(text)
        self.view.set_place(len(self.sheets) + 1, len(self.sheets) + 1)
        self._asking = self.run(
            workbench.ask(self.opened.engine, question),
            stepped=self._on_step,
            finished=self._on_answered,
            failed=self._on_failed,
        )
        self.asking_changed.emit(True)

    def ask_again(self) -> None:
        """Ask the question of the shown sheet again, and show how the new sheet differs."""
        if self.opened is not None and 0 <= self.at < len(self.sheets):
            before = self.sheets[self.at]
            self.ask_once_more()
            self._compared_with = before

    def ask_once_more(self) -> None:
        """Ask the question of the shown sheet again, with what was decided about passages meanwhile."""
        if 0 <= self.at < len(self.sheets):
            self.ask(self.sheets[self.at].question, standalone=self.sheets[self.at].standalone_question)

    def summarise_shown(self) -> None:
        """Summarise the document at the right."""
        if self.current_document is None:
            self._status.finish("Open a page first: the document at the right is what is summarised.")
        else:
            self.ask("Summarise this document")

    def stop(self) -> None:
        """Stop the writing, if something is being written."""
        self.model_alone.stop()
        if self._asking is not None:
            task, self._asking = self._asking, None
            task.cancel.now()
            self._settle(STOPPED)
            self.asking_changed.emit(False)

    def add(self, *paths: Path, method: Method | None = None) -> None:
        """Read folders or files into the collection."""
        self.updates.add(*paths, method=method)

    def show_documents(self, documents: list[Document], versions: dict[int, Version] | None = None) -> None:
        """The collection holds these documents now; their versions stay as they were unless given."""
        if self.opened is not None:
            self.opened.documents = documents
            self.opened.versions = self.opened.versions if versions is None else versions
            self.shelf.model.set_documents(documents)
            self.documents_changed.emit()

    def reload(self, found: tuple[list[Document], list[Sheet], dict[int, Version]]) -> None:
        """Documents and sheets were fetched anew."""
        documents, self.sheets, versions = found
        self.show_documents(documents, versions)
        self.at = min(self.at, len(self.sheets) - 1)
        if self.at >= 0:
            self._show(self.at)
        else:
            self.show_welcome()

    def turn(self, by: int) -> None:
        """Go to an earlier (by < 0) or later sheet."""
        if self._asking is None and 0 <= self.at + by < len(self.sheets):
            self._show(self.at + by)

    def close_collection(self, last_words: str = "") -> None:
        """Stop everything, wait for it, and let go of the collection; `last_words` say in its journal why it was locked."""
        for task in list(self._tasks):
            task.cancel.now()
        for task in (*self._tasks, *self._ending):
            task.wait()
        self._tasks.clear()
        self._asking = self._pictures = None
        self.updates.forget()
        self.upkeep.forget()
        if self.opened is not None:
            collection = self.opened.engine.collection
            if last_words and not collection.is_read_only:
                collection.journal.note("locked", last_words)
            self.opened.engine.close()
            self.opened = None
            self.documents_changed.emit()

    def show_welcome(self) -> None:
        """Say what to do first."""
        self.view.set_place(0, 0)
        if self.opened is None:
            page = welcome.without_collection(self.add_wanted.emit, self.open_wanted.emit)
        elif not self.shelf.model.readable:
            page = welcome.without_documents(self.add_wanted.emit)
        else:
            page = welcome.ready(len(self.shelf.model.readable), self.question_wanted.emit)
        self.view.show_widget(page)

    def show_page(
        self, document_id: int, page_number: int, span: tuple[int, int] | None = None, words: str = ""
    ) -> None:
        """Show a page on the facsimile, with words marked; where others stand in their place now, only if they stand elsewhere."""
        if self.opened is None:
            return
        self._wanted = (document_id, page_number, span)
        self._wanted_words = words
        wanted = self._wanted
        work = workbench.load_page(self.opened.engine, document_id, page_number)
        self.run(work, finished=lambda page: self._on_page(wanted, page))

    # What happens

    def _connect(self) -> None:
        self.shelf.add_wanted.connect(self.add_wanted)
        self.shelf.update_wanted.connect(self.update_wanted)
        self.shelf.page_chosen.connect(self.show_page)
        self.shelf.model.scope_changed.connect(self.scope_changed)
        self.view.row_chosen.connect(self._on_row_chosen)
        self.view.previous_wanted.connect(lambda: self.turn(-1))
        self.view.next_wanted.connect(lambda: self.turn(1))
        self.view.edit_wanted.connect(self.question_wanted)
        self.view.again_wanted.connect(self.ask_again)
        self.view.as_typed_wanted.connect(lambda text: self.ask(text, standalone=text, as_typed=True))
        self.view.without_thread_wanted.connect(lambda text: self.ask(text, standalone=text))
        self.facsimile.page_wanted.connect(self.show_page)
        self.facsimile.picture_wanted.connect(self._on_picture_wanted)
        self.facsimile.step_wanted.connect(self.view.step)
        self.updates.began.connect(self._on_update_began)
        self.updates.documents_read.connect(self.show_documents)
        self.updates.ended.connect(self._on_update_ended)

    def run(self, work: Callable[[Task], Any], **slots: Callable[..., object]) -> Task:
        """Start a task with its signals connected: a quick one may be over before the next statement."""
        task = Task(work)
        self._tasks.add(task)
        for name, slot in slots.items():
            getattr(task, name).connect(slot)
        for ended in (task.finished, task.failed):
            ended.connect(lambda _: self._forget(task))
        task.cancelled.connect(lambda: self._forget(task))
        return task.start()

    def _forget(self, task: Task) -> None:
        self._tasks.discard(task)
        # Kept until its thread has let go of it: a task must end in this thread, and this thread must not wait for it.
        self._ending = [one for one in (*self._ending, task) if not one.has_ended]

    def _on_step(self, step: Step) -> None:
        if self.sender() is not self._asking:
            return
        if isinstance(step, FoundStep):
            self.sheets.append(replace(step.sheet, asked_at=now_utc()))
            self.at = len(self.sheets) - 1
            is_written = not step.sheet.refused and bool(step.sheet.found_lines)
            self._show_found(self.sheets[-1], is_being_written=is_written)
            self.found_after_s = time.perf_counter() - self._asked_at
        elif isinstance(step, PartStep):
            self.sheets[-1] = replace(step.sheet, asked_at=self.sheets[-1].asked_at)
            self.view.show_part(self.sheets[-1], step.done, step.total)
        elif isinstance(step, WritingStep):
            self.view.show_writing(step.claims)
        elif isinstance(step, DoneStep):
            self.sheets[-1] = replace(step.sheet, asked_at=self.sheets[-1].asked_at)
            self.view.show_answer(step.sheet)
            self._status.show_speed(_speed_words(step.sheet))

    def _on_answered(self, sheet: Sheet) -> None:
        if self.sender() is self._asking:
            self._asking = None
            self.asking_changed.emit(False)
        self._watch_memory()

    def _on_failed(self, reason: str) -> None:
        if self.sender() is not self._asking:
            return
        self._asking = None
        if self.view.sheet is None:
            self.view.show_widget(welcome.problem("This question could not be answered", reason))
            self.view.set_place(0, 0)
        else:
            self._settle(reason)
        self.asking_changed.emit(False)

    def _settle(self, reason: str) -> None:
        """End a sheet whose answer was broken off."""
        if self.view.sheet is None:
            if self.sheets:
                self._show(self.at)
            else:
                self.show_welcome()
        elif self.sheets and not self.sheets[-1].claims:
            self.sheets[-1] = replace(self.sheets[-1], no_prose_reason=reason)
            self.view.show_answer(self.sheets[-1])

    def _on_update_began(self) -> None:
        self.allow_updates(False)
        if not self.shelf.model.readable:
            self.view.show_widget(welcome.reading())
        self.updating_changed.emit(True)

    def _on_update_ended(self, problem: str) -> None:
        self.updating_changed.emit(False)
        self.allow_updates(True)
        if self.opened is not None:
            self._load_documents(problem)

    def allow_updates(self, is_free: bool) -> None:
        """Let files be added or not: not while some are read, nor where the collection cannot be changed."""
        can_change = self.opened is not None and not self.opened.only_reading
        for button in (self.shelf.add_button, self.shelf.update_button):
            button.setEnabled(is_free and can_change and not self.upkeep.is_running)

    def _load_documents(self, problem: str) -> None:
        assert self.opened is not None
        engine = self.opened.engine

        def show(found: tuple[list[Document], dict[int, Version]]) -> None:
            self.show_documents(*found)
            # A document that was read again has another number.
            ids = {one.path: one.document_id for one in found[0]} | {one.key: one.document_id for one in found[0]}
            self.sheets = [relinked(sheet, ids) for sheet in self.sheets]
            if self.view.sheet is not None and not self.is_asking and source_changes(self.sheets[self.at], found[0]):
                self._show(self.at)
            if problem:
                self.view.show_widget(welcome.problem("The folder was not read to its end", problem))
            elif self.view.sheet is None and not self.is_asking:
                self.show_welcome()

        self.run(workbench.load_documents(engine), finished=show)

    def _show(self, at: int) -> None:
        self.at = at
        self._show_found(self.sheets[at], is_being_written=False)

    def _show_found(self, sheet: Sheet, *, is_being_written: bool) -> None:
        """Show a sheet with its ribbons, and the page of its best line or passage."""
        before = self._compared_with if is_being_written or self._asking is not None else None
        self.view.show_sheet(
            sheet,
            is_being_written=is_being_written,
            changes=source_changes(sheet, self._documents()) if before is None else (),
            comparison=compare(before, sheet) if before is not None else None,
        )
        self.view.set_place(self.at + 1, len(self.sheets))
        self.shelf.model.set_strengths(sheet.page_strengths)
        self.facsimile.set_row_place("")
        if self.view.rows:
            self._on_row_chosen(self.view.rows[0], is_first=True)
        elif sheet.passages:
            citation = sheet.passages[0].citation
            self.show_page(citation.document_id, citation.page_number, (citation.start, citation.end), citation.text)

    def _on_row_chosen(self, row: CitedRow, *, is_first: bool = False) -> None:
        if is_first:
            self.view.mark_chosen(row)
        citation = row.citation
        self.facsimile.set_row_place(row.place)
        self.show_page(citation.document_id, citation.page_number, (citation.start, citation.end), citation.text)

    def _on_page(self, wanted: tuple[int, int, tuple[int, int] | None], page: Page | None) -> None:
        document = next((one for one in self._documents() if one.document_id == wanted[0]), None)
        # Only the latest wish counts: pages may come back in another order.
        if wanted != self._wanted:
            return
        if page is None or document is None:
            self.facsimile.clear()
            return
        self.facsimile.show_page(document, page, _span_now(page.text, wanted[2], self._wanted_words))

    def _on_picture_wanted(self, document: Document, page_number: int, scale: float) -> None:
        if self.opened is None:
            return
        if self._pictures is not None:
            self._pictures.cancel.now()

        def show(image: QImage) -> None:
            if self._is_shown(document):
                self.facsimile.show_picture(image, page_number)

        def tell(reason: str) -> None:
            if self._is_shown(document):
                self.facsimile.show_problem(reason)

        work = workbench.picture(self.opened.engine, document, page_number, scale)
        self._pictures = self.run(work, finished=show, failed=tell)

    def _is_shown(self, document: Document) -> bool:
        shown = self.facsimile.document
        return shown is not None and shown.document_id == document.document_id

    def _documents(self) -> list[Document]:
        return self.opened.documents if self.opened is not None else []

    def _watch_memory(self) -> None:
        pid = getattr(self.opened.engine.language_model, "pid", None) if self.opened is not None else None
        self._status.watch([pid] if pid else [])


def _span_now(text: str, span: tuple[int, int] | None, words: str) -> tuple[int, int] | None:
    """Where the cited words stand on a page as it is now: a document may have been changed since they were cited."""
    if span is None or not words or text[span[0] : span[1]] == words:
        return span
    start = text.find(words)
    return (start, start + len(words)) if start >= 0 else None


def _speed_words(sheet: Sheet) -> str:
    spent = sheet.seconds.total - (sheet.seconds.first_word or 0)
    if not sheet.n_written_tokens or sheet.seconds.first_word is None or spent <= 0:
        return ""
    return f"read {sheet.n_prompt_tokens} tokens, wrote {sheet.n_written_tokens} at {sheet.n_written_tokens / spent:.0f} a second"
