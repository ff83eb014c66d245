"""The shelf room: all documents, what was read of each page, and everything that can be done with them."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices, QDragEnterEvent, QDropEvent, QImage, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop import welcome, workbench
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk.room import Desk
from redlantern.desktop.shelf.documents_table import DocumentsModel, DocumentsTable
from redlantern.desktop.shelf.preview_pane import PreviewPane
from redlantern.desktop.shelf.reading_report import Passage, ReadingReport
from redlantern.desktop.shelf.removal import Removal
from redlantern.desktop.shelf.update_pane import UpdatePane
from redlantern.indexing.plan import UpdatePlan
from redlantern.indexing.preview import Preview
from redlantern.progress import Progress
from redlantern.reading.values import Page
from redlantern.safety.names import path_text, visible
from redlantern.settings import Method

_MOST_OPENED = 5
_FILES = "All that can be read (*);;PDF (*.pdf);;Office (*.docx *.pptx *.xlsx *.odt *.odp *.ods);;Mail (*.eml *.mbox)"


class ShelfRoom(QWidget):
    """The room. It works on what the desk has open, and lets the desk run its tasks."""

    paths_wanted = pyqtSignal(list)
    folder_wanted = pyqtSignal()
    update_wanted = pyqtSignal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAcceptDrops(True)
        self._desk = desk
        self._wanted: tuple[int, int] | None = None
        self._pictures: Task | None = None
        self._previewing: Task | None = None
        self._splitting: Task | None = None
        self.model = DocumentsModel(desk.shelf.model)
        self.table, self.report, self.preview = DocumentsTable(self.model), ReadingReport(), PreviewPane()
        self.update_pane = UpdatePane()
        self.filter = QLineEdit()
        self.removal = Removal(self, desk, self.table)
        self._count = QLabel()
        self._stack = QStackedWidget()
        self._build()
        self._connect()
        self._on_documents()

    # What can be done

    def enter(self) -> None:
        """The room is shown: look whether the files are still as they were read."""
        if self._desk.opened is not None:
            self._desk.run(workbench.disk_states(self.model.documents), finished=self.model.set_on_disk)
        self.table.setFocus()

    def show_document(self, document_id: int, page_number: int = 1) -> None:
        """Show the report of a document's page."""
        document = self._document(document_id)
        if document is None or self._desk.opened is None:
            return
        if not document.n_pages:
            self.report.show_without_pages(document)
            return
        self._wanted = (document_id, page_number)
        wanted = self._wanted
        work = workbench.load_reading(self._desk.opened.engine, document_id, page_number)
        self._desk.run(work, finished=lambda found: self._on_reading(wanted, *found))

    def look_at(self, paths: list[Path]) -> None:
        """Read files for a look, and keep nothing."""
        if self._desk.opened is None or self._desk.is_updating:
            return
        self._end_preview()
        engine = self._desk.opened.engine
        self.preview.show_waiting(paths, engine.method, "Reading for a look ...")
        self._stack.setCurrentWidget(self.preview)
        self._previewing = self._desk.run(
            workbench.read_preview(engine, paths),
            progressed=self._on_preview_progress,
            finished=self._on_preview,
            failed=self._on_preview_failed,
        )

    def show_plan(self, plan: UpdatePlan, seconds: float) -> None:
        """Show what an update would do."""
        opened = self._desk.opened
        if opened is not None:
            self._end_preview()
            self.update_pane.show_plan(plan, seconds, opened.documents, opened.watching)
            self._stack.setCurrentWidget(self.update_pane)

    def close_plan(self) -> bool:
        """Put the plan of an update away; gives whether one was shown."""
        is_shown = self.update_pane.isVisible()
        if is_shown:
            self._end_preview()
        return is_shown

    def toggle_scope(self) -> None:
        """Leave the chosen documents out of questions, or take them in again."""
        chosen = [one for one in self.table.chosen() if not one.is_refused]
        if chosen:
            shelf = self._desk.shelf.model
            shelf.set_in_scope(chosen, not all(map(shelf.is_in_scope, chosen)))

    def read_again(self) -> None:
        """Read the files of the chosen documents again; asks for the password of one that wants it."""
        passwords: dict[Path, str] = {}
        for document in self.removal.own():
            path = document.file_path
            if path in passwords or not path.exists():
                continue
            passwords[path] = ""
            if "password" in document.reason:
                password, is_given = QInputDialog.getText(
                    self, "A password is needed", f"Password of {visible(path_text(path.name))}. It is used once and not kept.",
                    QLineEdit.EchoMode.Password,
                )  # fmt: skip
                if not is_given:
                    del passwords[path]
                    continue
                passwords[path] = password
        if passwords:
            self._desk.updates.read_again(passwords)

    def open_outside(self) -> None:
        """Open the chosen documents' files in the desktop's own programs, after a yes; never one that was refused."""
        chosen = [one for one in self.table.chosen() if not one.is_refused]
        paths = list(dict.fromkeys(one.file_path for one in chosen))[:_MOST_OPENED]
        if not paths:
            return
        names = "\n".join(visible(path_text(path)) for path in paths)
        box = QMessageBox(self)
        box.setWindowTitle("Open in another program?")
        box.setText("Open in another program?")
        box.setInformativeText(
            f"{names}\n\nThe program that your desktop has for it reads the whole file, with everything that may be hidden in it. "
            "It has no network when it is started from here, but one that runs already may have."
        )
        yes = box.addButton("Open", QMessageBox.ButtonRole.AcceptRole)
        box.setDefaultButton(box.addButton("Leave it", QMessageBox.ButtonRole.RejectRole))
        box.exec()
        for path in paths if box.clickedButton() is yes else ():
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))

    # How it is built

    def _build(self) -> None:
        self.filter.setObjectName("question")
        self.filter.setPlaceholderText("Show only rows with these words: a title, a kind, a language, refused ...")
        self.filter.setAccessibleName("Filter of the list")
        self.filter.setClearButtonEnabled(True)
        self._count.setObjectName("quiet")
        above, actions = QHBoxLayout(), QHBoxLayout()
        above.setContentsMargins(14, 8, 14, 6)
        above.setSpacing(8)
        above.addWidget(self.filter, 1)
        above.addWidget(self._count)
        self.files_button = self._button("Add files ...", self._choose_files, "Add single files")
        self.folder_button = self._button("Add a folder ...", self.folder_wanted.emit, "Add a folder and all below it")
        self.look_button = self._button(
            "Look first ...", self._choose_for_look, "See how files would be read before adding them"
        )
        self.update_button = self._button(
            "Update ...", self.update_wanted.emit, "See what is new, changed or gone (F5)"
        )
        for button in (self.files_button, self.folder_button, self.look_button, self.update_button):
            above.addWidget(button)
        self.scope_button = self._button(
            "Leave out / take in", self.toggle_scope, "Whether questions draw on it (Space)"
        )
        self.again_button = self._button("Read again", self.read_again, "Read the file again (Ctrl+R)")
        self.remove_button = self._button("Take out", self.removal.take_out, "Take it out of the collection (Delete)")
        self.erase_button = self._button(
            "Erase ...", self.removal.erase, "Erase it from the collection for good (Shift+Delete)"
        )
        self.outside_button = self._button("Open the file", self.open_outside, "In the desktop's own program (Ctrl+E)")
        actions.setContentsMargins(14, 4, 14, 4)
        actions.setSpacing(8)
        for button in self._action_buttons:
            button.setObjectName("quiet")
            actions.addWidget(button)
        actions.addStretch(1)
        lists = QWidget()
        box = QVBoxLayout(lists)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(above)
        box.addWidget(self.table, 1)
        box.addLayout(actions)
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

    @property
    def _action_buttons(self) -> tuple[QPushButton, ...]:
        return self.scope_button, self.again_button, self.remove_button, self.erase_button, self.outside_button

    def _connect(self) -> None:
        self.filter.textChanged.connect(self._on_filter)
        self.table.document_chosen.connect(lambda document: self.show_document(document.document_id))
        self.table.removal_wanted.connect(self.removal.take_out)
        self.table.scope_wanted.connect(self.toggle_scope)
        self.table.report_wanted.connect(self._enlarge_report)
        selection = self.table.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._show_actions())
        self.report.page_wanted.connect(self.show_document)
        self.report.picture_wanted.connect(self._on_picture_wanted)
        self.preview.split_wanted.connect(self._on_split_wanted)
        self.preview.add_wanted.connect(self._on_add_previewed)
        self.preview.closed.connect(self._end_preview)
        self._desk.updates.planned.connect(self.show_plan)
        self._desk.updates.changed_on_disk.connect(self._on_changed_on_disk)
        self.update_pane.agreed.connect(self._on_update_agreed)
        self.update_pane.closed.connect(self._end_preview)
        self.update_pane.watching_chosen.connect(self._desk.updates.watch)
        self.update_pane.unfollow_wanted.connect(self._desk.updates.unfollow)
        self._desk.documents_changed.connect(self._on_documents)
        self._desk.updating_changed.connect(self._on_updating)
        shortcuts: dict[str, Callable[[], object]] = {
            "Ctrl+R": self.read_again,
            "Ctrl+E": self.open_outside,
            "Ctrl+F": self.filter.setFocus,
            "Shift+Del": self.removal.erase,
            "Alt+PgDown": lambda: self.report.turn(1),
            "Alt+PgUp": lambda: self.report.turn(-1),
        }
        for keys, slot in shortcuts.items():
            shortcut = QShortcut(QKeySequence(keys), self, slot)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)

    def _button(self, text: str, slot: Callable[[], object], hint: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(hint)
        button.setAccessibleName(hint)
        button.clicked.connect(lambda: slot())
        return button

    # What happens

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Files may be dropped here."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls() and not self._desk.is_updating:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Read what was dropped."""
        data = event.mimeData() if event is not None else None
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()] if data is not None else []
        if paths:
            self.paths_wanted.emit(paths)

    def _choose_files(self) -> None:
        chosen, _ = QFileDialog.getOpenFileNames(self, "Choose files to add", "", _FILES)
        if chosen:
            self.paths_wanted.emit([Path(one) for one in chosen])

    def _choose_for_look(self) -> None:
        chosen, _ = QFileDialog.getOpenFileNames(self, "Choose files to look at", "", _FILES)
        if chosen:
            self.look_at([Path(one) for one in chosen])

    def _on_documents(self) -> None:
        documents = self._desk.opened.documents if self._desk.opened is not None else []
        chosen = {one.key for one in self.table.chosen()}
        shown = self.report.document
        self.model.set_documents(documents, self._desk.opened.versions if self._desk.opened is not None else {})
        again = next((one for one in documents if one.key in chosen), None)
        if again is not None:
            self.table.choose(again.document_id)
        elif shown is not None and not any(one.document_id == shown.document_id for one in documents):
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
            if self._desk.opened is not None
            else welcome.shelf_without_collection()
        )
        self._empty_box.addWidget(page)
        self._stack.setCurrentWidget(self._empty)

    def _on_updating(self, is_updating: bool) -> None:
        self._show_actions()
        self.update_button.setText("Update ...")
        if not is_updating:
            self.enter() if self.isVisible() else None

    def _on_changed_on_disk(self, plan: UpdatePlan) -> None:
        """The watch has seen something; it is told, and nothing is done yet."""
        n = len(plan.to_read) + len(plan.gone) + len(plan.copies) + len(plan.copies_of_new)
        self.update_button.setText(f"Update ... ({n} changed)" if n else "Update ...")
        self._desk.shelf.update_button.setText(f"Update ({n})" if n else "Update")
        self.enter() if self.isVisible() else None

    def _on_update_agreed(self, plan: UpdatePlan) -> None:
        self._end_preview()
        self._desk.updates.carry_out(plan)

    def _on_filter(self, text: str) -> None:
        self.table.set_filter(text)
        self._show_count()

    def _show_count(self) -> None:
        documents, shown = self.model.documents, self.table.shown()
        n_refused = sum(one.is_refused for one in shown)
        words = (
            f"{len(shown)} of {len(documents)} shown" if len(shown) != len(documents) else f"{len(documents)} documents"
        )
        pages = f", {sum(one.n_pages for one in shown)} pages"
        self._count.setText(words + pages + (f", {n_refused} refused" if n_refused else ""))

    def _show_actions(self) -> None:
        chosen = self.table.chosen()
        is_free = bool(self.removal.own()) and self._desk.updates.can_begin
        for button in (self.files_button, self.folder_button, self.look_button, self.update_button):
            button.setEnabled(self._desk.updates.can_begin)
        self.scope_button.setEnabled(any(not one.is_refused for one in chosen))
        self.again_button.setEnabled(is_free)
        self.remove_button.setEnabled(is_free)
        self.erase_button.setEnabled(is_free)
        self.outside_button.setEnabled(bool(chosen))

    def _enlarge_report(self) -> None:
        """Give the report most of the room, or give it back."""
        top, bottom = self.splitter.sizes()
        share = 45 if top < bottom * 2 // 5 else 24
        self.splitter.setSizes([(top + bottom) * share // 100, (top + bottom) * (100 - share) // 100])
        QTimer.singleShot(0, lambda: self.table.scrollTo(self.table.currentIndex()))

    def _document(self, document_id: int) -> Document | None:
        return next((one for one in self.model.documents if one.document_id == document_id), None)

    def _on_reading(self, wanted: tuple[int, int], page: Page | None, passages: list[Passage]) -> None:
        document = self._document(wanted[0])
        # Only the latest wish counts: pages may come back in another order.
        if wanted == self._wanted and page is not None and document is not None:
            self.report.show_page(document, page, passages)

    def _on_picture_wanted(self, document: Document, page_number: int, scale: float) -> None:
        if self._desk.opened is None:
            return
        if self._pictures is not None:
            self._pictures.cancel.now()

        def show(image: QImage) -> None:
            self.report.show_picture(document, page_number, image)

        def tell(reason: str) -> None:
            if self.report.document == document:
                self.report.show_problem(reason)

        work = workbench.picture(self._desk.opened.engine, document, page_number, scale)
        self._pictures = self._desk.run(work, finished=show, failed=tell)

    def _on_preview_progress(self, progress: Progress) -> None:
        if self._previewing is not None:
            self.preview.show_progress(progress)

    def _on_preview(self, preview: Preview) -> None:
        if self._previewing is not None:
            self._previewing = None
            self.preview.show_preview(preview)

    def _on_preview_failed(self, reason: str) -> None:
        self._end_preview()
        self.removal.tell(reason, [])

    def _on_split_wanted(self, methods: list[Method]) -> None:
        if self._desk.opened is None or self.preview.preview is None:
            return
        work = workbench.split_preview(self._desk.opened.engine, self.preview.preview, methods)
        task = self._splitting = self._desk.run(work, finished=lambda splits: self._on_split(task, splits))

    def _on_split(self, task: Task, splits: list) -> None:  # type: ignore[type-arg]
        if task is self._splitting:
            self.preview.show_splits(splits)

    def _on_add_previewed(self, paths: list[Path], method: Method | None) -> None:
        self._end_preview()
        self._desk.add(*paths, method=method)

    def _end_preview(self) -> None:
        if self._previewing is not None:
            task, self._previewing = self._previewing, None
            task.cancel.now()
        self.preview.preview = None
        self._stack.setCurrentWidget(self.splitter)
        self._show_lists()
