# SPDX-License-Identifier: GPL-3.0-or-later
"""Brings pages into the reading report: those of the chosen document, and those that are turned to."""

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QImage

from redlantern.answering.engine import Engine
from redlantern.application import documents
from redlantern.collection.values import Document
from redlantern.desktop.pictures import PagePictures
from redlantern.desktop.shelf.documents_table import DocumentsModel
from redlantern.desktop.shelf.reading_report import ReadingReport
from redlantern.desktop.shelf.table_put_right import TablePutRight
from redlantern.desktop.shelf.text_as_read import Passage
from redlantern.desktop.workspace import Workspace
from redlantern.reading.values import Page
from redlantern.reckoning.tables import Table


class ReportViewer(QObject):
    """One page at a time, the one that was wanted last."""

    def __init__(self, workspace: Workspace, model: DocumentsModel, report: ReadingReport) -> None:
        super().__init__(report)
        self._workspace, self._model, self._report = workspace, model, report
        self._pictures = PagePictures(workspace)
        self._wanted: tuple[int, int] | None = None
        self._tables = documents.NO_TABLES
        report.put_right_wanted.connect(self._on_put_right_wanted)
        report.page_wanted.connect(self.show_page)
        report.picture_wanted.connect(self._on_picture_wanted)

    def show_document(self, document: Document) -> None:
        """Show the first page of a document, unless one of its pages is being looked at.

        The list is set anew for every document that is read, and chooses its row again each time.
        """
        shown, page_number = self._report.document, 1
        if self._wanted is not None and self._wanted[0] == document.document_id and shown is not None:
            if shown == document:
                return
            page_number = self._wanted[1] if shown.key == document.key else 1
        self.show_page(document.document_id, page_number)

    def show_page(self, document_id: int, page_number: int) -> None:
        """Show a page of a document that is in the list."""
        document = self._model.document(document_id)
        session = self._workspace.session
        if document is None or session is None:
            return
        self._wanted = wanted = document_id, page_number
        if not document.n_pages:
            self._report.show_without_pages(document)
            return
        engine = session.engine
        self._workspace.run(
            lambda _: _with_tables(engine, document, page_number, self._tables),
            finished=lambda found: self._on_reading(wanted, *found),
        )

    def _on_reading(
        self, wanted: tuple[int, int], page: Page | None, passages: list[Passage], tables: documents.DocumentTables
    ) -> None:
        document = self._model.document(wanted[0])
        # Only the latest wish counts: pages may come back in another order.
        if wanted == self._wanted and page is not None and document is not None:
            self._tables = tables
            self._report.show_page(document, page, passages, tables.now)

    def _on_put_right_wanted(self, table: Table) -> None:
        document, session = self._report.document, self._workspace.session
        if document is None or session is None:
            return
        as_read = next(read for read in self._tables.as_read if read.number == table.number)
        dialog = TablePutRight(table, as_read, self._report)
        if dialog.exec() != TablePutRight.DialogCode.Accepted:
            return
        engine, change, page = session.engine, dialog.change, self._report.page
        self._workspace.run(
            lambda _: documents.put_right(engine, document, change),
            finished=lambda _: self._on_put_right(document, page.page_number if page is not None else 1),
            failed=self._report.say_problem,
        )

    def _on_put_right(self, document: Document, page_number: int) -> None:
        self._tables = documents.NO_TABLES
        self.show_page(document.document_id, page_number)

    def _on_picture_wanted(self, document: Document, page_number: int, scale: float) -> None:
        def show(image: QImage) -> None:
            self._report.show_picture(document, page_number, image)

        def tell(reason: str) -> None:
            if self._report.document == document:
                self._report.show_problem(reason)

        self._pictures.wish(document, page_number, scale, show=show, tell=tell)


def _with_tables(
    engine: Engine, document: Document, page_number: int, known: documents.DocumentTables
) -> tuple[Page | None, list[Passage], documents.DocumentTables]:
    """A page with its passages, and the tables of its document where it has some and they are not known yet."""
    page, passages = documents.load_reading(engine, document.document_id, page_number)
    has_tables = page is not None and any(block.kind == "table" for block in page.blocks)
    if has_tables and known.document_key != document.key:
        known = documents.load_tables(engine, document)
    return page, passages, known if known.document_key == document.key else documents.NO_TABLES
