# SPDX-License-Identifier: GPL-3.0-or-later
"""The shelf room: all documents, what was read of each page, and everything that can be done with them."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.application import documents
from redlantern.desktop.shelf.document_actions import DocumentActions, hinted_button
from redlantern.desktop.shelf.documents_table import DocumentsModel, DocumentsTable
from redlantern.desktop.shelf.look_first import LookFirst
from redlantern.desktop.shelf.preview_pane import PreviewPane
from redlantern.desktop.shelf.reading_report import ReadingReport
from redlantern.desktop.shelf.removal import Removal
from redlantern.desktop.shelf.report_viewer import ReportViewer
from redlantern.desktop.shelf.update_pane import UpdatePane
from redlantern.desktop.widgets import welcome
from redlantern.desktop.widgets.file_names import ALL_THAT_CAN_BE_READ
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.indexing.plan import UpdatePlan
from redlantern.settings import Method
from redlantern.text.listing import counted
from redlantern.translation import tr


class ShelfRoom(Room):
    """The room. It shows the documents of the workspace."""

    folder_wanted = pyqtSignal()
    update_wanted = pyqtSignal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._workspace = workspace
        self.model = DocumentsModel(workspace.documents_in_scope)
        self.table, self.report, self.preview = DocumentsTable(self.model), ReadingReport(), PreviewPane()
        self.report_viewer = ReportViewer(workspace, self.model, self.report)
        self.update_pane = UpdatePane()
        self.filter = QLineEdit()
        self.removal = Removal(self, workspace, self.table)
        self.row_actions = DocumentActions(workspace, self.table, self.removal)
        self.look_first = LookFirst(workspace, self.preview)
        self._count = QLabel()
        self._stack = QStackedWidget()
        self._build()
        self._connect()
        self._on_documents()

    # What can be done

    def enter(self) -> None:
        """The room is shown: look whether the files are still as they were read."""
        if self._workspace.session is not None:
            shown = self.model.documents
            self._workspace.run(lambda task: documents.disk_states(shown, task.cancel), finished=self.model.set_on_disk)
        self.table.setFocus()

    def show_plan(self, plan: UpdatePlan, seconds: float) -> None:
        """Show what an update would do."""
        session = self._workspace.session
        if session is not None:
            self._end_preview()
            self.update_pane.show_plan(plan, seconds, session.documents, session.watching)
            self._stack.setCurrentWidget(self.update_pane)

    def close_plan(self) -> bool:
        """Put the plan of an update away; gives whether one was shown."""
        is_shown = self.update_pane.isVisible()
        if is_shown:
            self._end_preview()
        return is_shown

    # How it is built

    def _build(self) -> None:
        lists = QWidget()
        box = QVBoxLayout(lists)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(self._bar())
        box.addWidget(self.table, 1)
        box.addWidget(self.row_actions)
        box.addWidget(self.removal)
        self.splitter = QSplitter(Qt.Orientation.Vertical)
        self.splitter.addWidget(lists)
        self.splitter.addWidget(self.report)
        self.splitter.setSizes([300, 380])
        self.splitter.setChildrenCollapsible(False)
        self.splitter.setHandleWidth(5)
        self._empty = QWidget()
        self._empty_box = QVBoxLayout(self._empty)
        self._empty_box.setContentsMargins(0, 0, 0, 0)
        for page in (self.splitter, self.preview, self.update_pane, self._empty):
            self._stack.addWidget(page)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._stack)

    def _bar(self) -> QHBoxLayout:
        """The filter, the count, and what adds documents."""
        self.filter.setObjectName("question")
        self.filter.setPlaceholderText(tr("Show only rows with these words: a title, a kind, a language, refused ..."))
        self.filter.setAccessibleName(tr("Filter of the list"))
        self.filter.setClearButtonEnabled(True)
        self._count.setObjectName("quiet")
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 8, 14, 6)
        bar.setSpacing(8)
        bar.addWidget(self.filter, 1)
        bar.addWidget(self._count)
        self.files_button = hinted_button(tr("Add files ..."), self._choose_files, tr("Add single files"))
        self.folder_button = hinted_button(
            tr("Add a folder ..."), self.folder_wanted.emit, tr("Add a folder and all below it")
        )
        self.look_button = hinted_button(
            tr("Look first ..."), self._choose_for_look, tr("See how files would be read before adding them")
        )
        self.update_button = hinted_button(
            tr("Update ..."), self.update_wanted.emit, tr("See what is new, changed or gone (F5)")
        )
        for button in (self.files_button, self.folder_button, self.look_button, self.update_button):
            bar.addWidget(button)
        return bar

    def _connect(self) -> None:
        self.filter.textChanged.connect(self._on_filter)
        self.table.document_chosen.connect(self.report_viewer.show_document)
        self.table.removal_wanted.connect(self.removal.take_out)
        self.table.scope_wanted.connect(self.row_actions.toggle_scope)
        self.table.report_wanted.connect(self._enlarge_report)
        selection = self.table.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._show_actions())
        self.look_first.began.connect(lambda: self._stack.setCurrentWidget(self.preview))
        self.look_first.failed.connect(self._end_preview)
        self.look_first.failed.connect(lambda reason: self.removal.tell(reason, []))
        self.preview.add_wanted.connect(self._on_add_previewed)
        self.preview.closed.connect(self._end_preview)
        self._workspace.updates.planned.connect(self.show_plan)
        self._workspace.updates.changed_on_disk.connect(self._on_changed_on_disk)
        self.update_pane.agreed.connect(self._end_preview)
        self.update_pane.agreed.connect(self._workspace.updates.carry_out)
        self.update_pane.closed.connect(self._end_preview)
        self.update_pane.watching_chosen.connect(self._workspace.updates.watch)
        self.update_pane.unfollow_wanted.connect(self._workspace.updates.unfollow)
        self._workspace.documents_changed.connect(self._on_documents)
        self._workspace.updating_changed.connect(self._on_updating)
        shortcuts: dict[str, Callable[[], object]] = {
            "Ctrl+R": self.row_actions.read_again,
            "Ctrl+E": self.row_actions.open_outside,
            "Ctrl+F": self.filter.setFocus,
            "Shift+Del": self.removal.erase,
            "Alt+PgDown": lambda: self.report.turn(1),
            "Alt+PgUp": lambda: self.report.turn(-1),
        }
        for keys, slot in shortcuts.items():
            shortcut = QShortcut(QKeySequence(keys), self, slot)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)

    # What happens

    def _choose_files(self) -> None:
        chosen = self._ask_for_files(tr("Choose files to add"))
        if chosen:
            self._workspace.updates.add(*chosen)

    def _choose_for_look(self) -> None:
        chosen = self._ask_for_files(tr("Choose files to look at"))
        if chosen:
            self.look_first.look_at(chosen)

    def _ask_for_files(self, title: str) -> list[Path]:
        names, _ = QFileDialog.getOpenFileNames(self, title, "", ALL_THAT_CAN_BE_READ)
        return [Path(name) for name in names]

    def _on_documents(self) -> None:
        session, present = self._workspace.session, self._workspace.documents
        chosen = {document.key for document in self.table.chosen()}
        shown = self.report.document
        self.model.set_documents(present, session.versions if session is not None else {})
        again = next((document for document in present if document.key in chosen), None)
        if again is not None:
            self.table.choose(again.document_id)
        elif shown is not None and all(document.document_id != shown.document_id for document in present):
            self.report.clear()
        if self._stack.currentWidget() is not self.preview:
            self._show_lists()
        self._show_count()
        self._show_actions()

    def _show_lists(self) -> None:
        if self.model.documents:
            self._stack.setCurrentWidget(self.splitter)
            return
        while (item := self._empty_box.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        page = (
            welcome.empty_shelf(self._choose_files, self.folder_wanted.emit, self._choose_for_look)
            if self._workspace.session is not None
            else welcome.shelf_without_collection()
        )
        self._empty_box.addWidget(page)
        self._stack.setCurrentWidget(self._empty)

    def _on_updating(self, is_updating: bool) -> None:
        self._show_actions()
        self.update_button.setText(tr("Update ..."))
        if not is_updating:
            self.enter() if self.isVisible() else None

    def _on_changed_on_disk(self, plan: UpdatePlan) -> None:
        """The watch has seen something; it is told, and nothing is done yet."""
        n_changed = plan.n_changed
        self.update_button.setText(
            tr("Update ... ({n_changed} changed)").format(n_changed=n_changed) if n_changed else tr("Update ...")
        )
        self.enter() if self.isVisible() else None

    def _on_filter(self, text: str) -> None:
        self.table.set_filter(text)
        self._show_count()

    def _show_count(self) -> None:
        documents, shown = self.model.documents, self.table.shown()
        n_refused = sum(document.is_refused for document in shown)
        words = (
            tr("{n_shown} of {n_documents} shown").format(n_shown=len(shown), n_documents=len(documents))
            if len(shown) != len(documents)
            else counted(len(documents), "document")
        )
        pages = f", {counted(sum(document.n_pages for document in shown), 'page')}"
        self._count.setText(
            words + pages + (tr(", {n_refused} refused").format(n_refused=n_refused) if n_refused else "")
        )

    def _show_actions(self) -> None:
        for button in (self.files_button, self.folder_button, self.look_button, self.update_button):
            button.setEnabled(self._workspace.updates.can_begin)
        self.row_actions.settle()

    def _enlarge_report(self) -> None:
        """Give the report most of the room, or give it back."""
        top, bottom = self.splitter.sizes()
        share = 45 if top < bottom * 2 // 5 else 24
        self.splitter.setSizes([(top + bottom) * share // 100, (top + bottom) * (100 - share) // 100])
        QTimer.singleShot(0, lambda: self.table.scrollTo(self.table.currentIndex()))

    def _on_add_previewed(self, paths: list[Path], method: Method | None) -> None:
        self._end_preview()
        self._workspace.updates.add(*paths, method=method)

    def _end_preview(self) -> None:
        self.look_first.end()
        self._stack.setCurrentWidget(self.splitter)
        self._show_lists()
