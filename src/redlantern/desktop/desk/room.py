# SPDX-License-Identifier: GPL-3.0-or-later
"""The desk: ask, read the answer, check it against the page. Shelf, sheet and facsimile, and what runs between them."""

import time
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QSplitter

from redlantern.answering.asking import DoneStep, FoundStep, ReckonedStep, Step
from redlantern.answering.changes import compare, source_changes
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import Sheet
from redlantern.answering.sheet_form import relinked
from redlantern.answering.writing.streams import WritingStep
from redlantern.answering.writing.summary import PartStep
from redlantern.application import questions
from redlantern.application.documents import load_documents
from redlantern.application.models import closer_reader, start_language_model
from redlantern.collection.fingerprints import Version
from redlantern.collection.journal import now_utc
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk.ahead import ReadAhead
from redlantern.desktop.desk.changed_plan import ChangedPlan
from redlantern.desktop.desk.model_alone import ModelAlone
from redlantern.desktop.desk.passage_choices import PassageChoices
from redlantern.desktop.desk.sheet_history import SheetHistory
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.desk.start_pages import StartPages
from redlantern.desktop.page_viewer import PageViewer
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.facsimile import Facsimile
from redlantern.desktop.widgets.ribbons import Shelf
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.widgets.rows import CitedRow
from redlantern.desktop.workspace import Workspace
from redlantern.translation import tr

STOPPED = tr("The writing was stopped. The found lines are complete.")


class Desk(Room):
    """The room where questions are asked."""

    add_wanted = pyqtSignal()
    update_wanted = pyqtSignal()
    question_wanted = pyqtSignal(str)
    view: SheetView

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.sheets: list[Sheet] = []
        self.at = -1
        self.found_after_s: float | None = None
        self._asking: Task | None = None
        self._asked_at = 0.0
        self._compared_with: Sheet | None = None
        self._has_chosen = False
        self.shelf, self.view, self.facsimile = Shelf(workspace.documents_in_scope), SheetView(), Facsimile()
        self.pages = PageViewer(workspace, self.facsimile)
        self.pages.shown.connect(partial(setattr, workspace, "shown_document"))
        self.choices = PassageChoices(workspace, self.view, self.facsimile)
        self.model_alone = ModelAlone(workspace, self.view)
        self.ahead = ReadAhead(workspace)
        self.changed_plan = ChangedPlan(workspace, self.view)
        self.sheet_history = SheetHistory(self, workspace, self.view)
        self._build()
        self._connect()
        self.show_welcome()

    # What can be done

    def open(self) -> None:
        """Begin with the session that the workspace has now."""
        session = self.workspace.session
        assert session is not None
        self.sheets, self.at = list(session.sheets), len(session.sheets) - 1
        self.sheet_history.thread_began = len(self.sheets)
        self.choices.begin()
        self.pages.clear()
        engine = session.engine
        self.workspace.run(
            lambda task: start_language_model(engine, task.cancel), failed=self.workspace.status.show_speed
        )
        self.shelf.allow_updates(self.workspace.updates.can_begin)
        if self.sheets:
            self._show(self.at)
        else:
            self.show_welcome()

    def forget(self) -> None:
        """The collection is closed: nothing of it is shown any more."""
        self._asking, self.sheets, self.at = None, [], -1
        self.show_welcome()

    def ask(self, text: str, *, standalone: str = "", as_typed: bool = False, reader: str = "") -> None:
        """Ask a question; a question that is still being answered is stopped first."""
        session = self.workspace.session
        if session is None or self.workspace.upkeep.is_running:
            return
        self.stop()
        self._asked_at, self.found_after_s = time.perf_counter(), None
        question = replace(self._question(text), standalone=standalone, as_typed=as_typed, reader=reader)
        self._compared_with = None
        self.start_pages.end()
        self.view.show_asking(text)
        self.view.set_place(len(self.sheets) + 1, len(self.sheets) + 1)
        engine = session.engine
        self._asking = self.workspace.run(
            lambda task: questions.ask(engine, question, cancel=task.cancel, on_step=task.stepped.emit),
            stepped=self._on_step,
            finished=self._on_answered,
            failed=self._on_failed,
        )
        self.workspace.set_asking(True)

    def read_ahead(self, text: str) -> None:
        """Let the model read what a question that is being typed would be answered from; asking, or typing on, drops it."""
        session = self.workspace.session
        if session is not None and self._asking is None and not self.workspace.upkeep.is_running:
            self.ahead.begin(session.engine, self._question(text))

    def _question(self, text: str) -> Question:
        """What was typed, in its thread and scope, with what was decided about passages."""
        thread, shown = self.sheets[self.sheet_history.thread_began :], self.workspace.shown_document
        return Question(
            text, tuple(sheet.standalone_question for sheet in thread),
            tuple(line.citation.text for sheet in thread[-1:] if not sheet.refused for line in sheet.found_lines),
            self.workspace.scope,
            put_aside=frozenset(self.choices.put_aside), pinned=frozenset(self.choices.pinned),
            shown=shown.document_id if shown is not None else None,
        )  # fmt: skip

    def ask_again(self) -> None:
        """Ask the question of the shown sheet again, and show how the new sheet differs."""
        if self.workspace.session is not None and 0 <= self.at < len(self.sheets):
            before = self.sheets[self.at]
            self.ask_once_more()
            self._compared_with = before

    def ask_once_more(self, reader: str = "") -> None:
        """Ask the question of the shown sheet again, with what was decided about passages meanwhile, or with another reader."""
        if 0 <= self.at < len(self.sheets):
            sheet = self.sheets[self.at]
            self.ask(sheet.question, standalone=sheet.standalone_question, reader=reader)

    def ask_of_shown(self, text: str) -> None:
        """Ask something of "this document", which is the one at the right."""
        if self.workspace.shown_document is None:
            self.workspace.status.finish(tr("Open a page first: the document at the right is the one that is meant."))
        else:
            self.ask(text)

    def stop(self) -> None:
        """Stop the writing, if something is being written."""
        self.model_alone.stop()
        self.ahead.drop()
        if self._asking is not None:
            task, self._asking = self._asking, None
            task.cancel.now()
            self._settle(STOPPED)
            self.workspace.set_asking(False)

    def turn(self, by: int) -> None:
        """Go to an earlier (by < 0) or later sheet."""
        if self._asking is None and 0 <= self.at + by < len(self.sheets):
            self._show(self.at + by)

    def show_welcome(self) -> None:
        """Say what to do first."""
        self.view.set_place(0, 0)
        self.start_pages.show_first()

    # How it is built

    def _build(self) -> None:
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        for column, width in ((self.shelf, 262), (self.view, 560), (self.facsimile, 458)):
            self.splitter.addWidget(column)
            # In no language is a button cut.
            column.setMinimumWidth(
                max(theme.px(236), column.minimumSizeHint().width()) if column is self.shelf else theme.px(200)
            )
            self.splitter.setStretchFactor(self.splitter.count() - 1, width)
        self.splitter.setSizes([262, 560, 458])
        self.splitter.setHandleWidth(1)
        self.splitter.setChildrenCollapsible(False)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.start_pages = StartPages(self.workspace, self.view, self.splitter, (self.shelf, self.facsimile))
        layout.addWidget(self.start_pages)

    def _connect(self) -> None:
        self.shelf.add_wanted.connect(self.add_wanted)
        self.start_pages.add_wanted.connect(self.add_wanted)
        self.start_pages.asked.connect(self.ask)
        self.shelf.update_wanted.connect(self.update_wanted)
        self.shelf.page_chosen.connect(self.pages.show_page)
        self.view.row_chosen.connect(self._on_row_chosen)
        self.view.previous_wanted.connect(lambda: self.turn(-1))
        self.view.next_wanted.connect(lambda: self.turn(1))
        self.view.place_button.clicked.connect(self.sheet_history.show_list)
        self.sheet_history.opened.connect(lambda at: self._show(at) if at < len(self.sheets) else None)
        self.sheet_history.asked.connect(self.ask)
        self.view.edit_wanted.connect(self.question_wanted)
        self.view.again_wanted.connect(self.ask_again)
        self.view.as_typed_wanted.connect(lambda text: self.ask(text, standalone=text, as_typed=True))
        self.view.without_thread_wanted.connect(lambda text: self.ask(text, standalone=text))
        self.facsimile.step_wanted.connect(self.view.step)
        # What is being written is stopped first.
        self.view.model_alone_wanted.connect(self.stop)
        self.view.model_alone_wanted.connect(self.model_alone.ask)
        self.view.closer_wanted.connect(lambda: self.ask_once_more(closer_reader(self.sheets[self.at])))
        self.changed_plan.carried_out.connect(lambda sheet: self._show(self.at, instead=sheet))
        self.choices.again_wanted.connect(self.ask_once_more)
        self.workspace.updates.began.connect(self._on_update_began)
        self.workspace.updates.ended.connect(self._on_update_ended)
        self.workspace.updates.changed_on_disk.connect(lambda plan: self.shelf.show_changed(plan.n_changed))
        self.workspace.reloaded.connect(self._on_reloaded)

    # What happens

    def _on_step(self, step: Step) -> None:
        if self.sender() is not self._asking:
            return
        if isinstance(step, FoundStep):
            self.sheets.append(replace(step.sheet, asked_at=now_utc()))
            self.at = len(self.sheets) - 1
            is_written = not (step.sheet.refused or step.sheet.is_reckoned) and bool(step.sheet.found_lines)
            self._show_found(self.sheets[-1], is_being_written=is_written)
            self.found_after_s = time.perf_counter() - self._asked_at
        elif isinstance(step, ReckonedStep):
            self.sheets[-1] = replace(step.sheet, asked_at=self.sheets[-1].asked_at)
            self._show_found(self.sheets[-1], is_being_written=True)
        elif isinstance(step, PartStep):
            self.sheets[-1] = replace(step.sheet, asked_at=self.sheets[-1].asked_at)
            self.view.show_part(self.sheets[-1], step.done, step.total)
        elif isinstance(step, WritingStep):
            self.view.show_writing(step.claims)
        elif isinstance(step, DoneStep):
            self.sheets[-1] = replace(step.sheet, asked_at=self.sheets[-1].asked_at)
            self.view.show_answer(step.sheet)
            if step.sheet.claims and not self._has_chosen and self.view.rows:
                # The page shows what the answer stands on, unless the reader is looking at something else by now.
                self._on_row_chosen(self.view.rows[0], is_first=True)
            self.workspace.status.show_speed(_speed_words(step.sheet))

    def _on_answered(self, sheet: Sheet) -> None:
        if self.sender() is self._asking:
            self._asking = None
            self.workspace.set_asking(False)
        session = self.workspace.session
        self.workspace.status.watch(_host_of(session.engine) if session is not None else [])

    def _on_failed(self, reason: str) -> None:
        if self.sender() is not self._asking:
            return
        self._asking = None
        if self.view.sheet is None:
            self.start_pages.show_problem(tr("This question could not be answered"), reason)
            self.view.set_place(0, 0)
        else:
            self._settle(reason)
        self.workspace.set_asking(False)

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

    def _on_reloaded(self, fetched: tuple[list[Document], list[Sheet], dict[int, Version]]) -> None:
        """Documents and sheets were fetched anew, after some of their words were erased."""
        documents, self.sheets, versions = fetched
        self.workspace.show_documents(documents, versions)
        self.at = min(self.at, len(self.sheets) - 1)
        self.sheet_history.thread_began = min(self.sheet_history.thread_began, len(self.sheets))
        if self.at >= 0:
            self._show(self.at)
        else:
            self.show_welcome()

    def _on_update_began(self) -> None:
        self.shelf.allow_updates(self.workspace.updates.can_begin)
        if not self.workspace.documents_in_scope.readable:
            self.show_welcome()

    def _on_update_ended(self, problem: str) -> None:
        self.shelf.allow_updates(self.workspace.updates.can_begin)
        session = self.workspace.session
        if session is not None:
            engine = session.engine

            def show(fetched: tuple[list[Document], dict[int, Version]]) -> None:
                self.workspace.show_documents(*fetched)
                self._relink(fetched[0])
                if problem:
                    self.start_pages.show_problem(tr("The folder was not read to its end"), problem)
                elif self.view.sheet is None and self._asking is None:
                    self.show_welcome()

            self.workspace.run(lambda _: load_documents(engine), finished=show)

    def _relink(self, documents: list[Document]) -> None:
        """Lead the sheets' citations to the documents as they are now: one that was read again has another number."""
        ids = {document.path: document.document_id for document in documents}
        ids |= {document.key: document.document_id for document in documents}
        self.sheets = [relinked(sheet, ids) for sheet in self.sheets]
        is_shown = self.view.sheet is not None and self._asking is None
        if is_shown and source_changes(self.sheets[self.at], documents):
            self._show(self.at)

    def _show(self, at: int, instead: Sheet | None = None) -> None:
        """Show a sheet, or another in its place."""
        self.at = at
        if instead is not None:
            self.sheets[at] = instead
        self._show_found(self.sheets[at], is_being_written=False)

    def _show_found(self, sheet: Sheet, *, is_being_written: bool) -> None:
        """Show a sheet with its ribbons, and the page of its best line or passage."""
        before = self._compared_with if is_being_written or self._asking is not None else None
        self.start_pages.end()
        self.view.show_sheet(
            sheet,
            is_being_written=is_being_written,
            changes=source_changes(sheet, self.workspace.documents) if before is None else (),
            comparison=compare(before, sheet) if before is not None else None,
        )
        self.workspace.shown_question = sheet.standalone_question
        self.view.set_place(self.at + 1, len(self.sheets))
        self.workspace.documents_in_scope.set_strengths(sheet.page_strengths)
        self.facsimile.set_row_place("")
        if self.view.rows:
            self._on_row_chosen(self.view.rows[0], is_first=True)
        elif sheet.passages:
            self.pages.show_citation(sheet.passages[0].citation)

    def _on_row_chosen(self, row: CitedRow, *, is_first: bool = False) -> None:
        self._has_chosen = not is_first
        if is_first:
            self.view.mark_chosen(row)
        self.facsimile.set_row_place(row.place)
        self.pages.show_citation(row.citation)


def _host_of(engine: Engine) -> list[int]:
    """The process of the language model, if it has one that runs."""
    pid = getattr(engine.language_model, "pid", None)
    return [pid] if pid else []


def _speed_words(sheet: Sheet) -> str:
    spent = sheet.seconds.total - (sheet.seconds.first_word or 0)
    if not sheet.n_written_tokens or sheet.seconds.first_word is None or spent <= 0:
        return ""
    return tr("read {n_prompt_tokens} tokens, wrote {n_written_tokens} at {n_written_tokens2:.0f} a second").format(
        n_prompt_tokens=sheet.n_prompt_tokens,
        n_written_tokens=sheet.n_written_tokens,
        n_written_tokens2=sheet.n_written_tokens / spent,
    )
