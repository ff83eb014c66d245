"""Brings pages into the reading report: those of the chosen document, and those that are turned to."""

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QImage

from redlantern.application import documents
from redlantern.collection.values import Document
from redlantern.desktop.pictures import PagePictures
from redlantern.desktop.shelf.documents_table import DocumentsModel
from redlantern.desktop.shelf.reading_report import Passage, ReadingReport
from redlantern.desktop.workspace import Workspace
from redlantern.reading.values import Page


class ReportViewer(QObject):
    """One page at a time, the one that was wanted last."""

    def __init__(self, workspace: Workspace, model: DocumentsModel, report: ReadingReport) -> None:
        super().__init__(report)
        self._workspace, self._model, self._report = workspace, model, report
        self._pictures = PagePictures(workspace)
        self._wanted: tuple[int, int] | None = None
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
            lambda _: documents.load_reading(engine, document_id, page_number),
            finished=lambda found: self._on_reading(wanted, *found),
        )

    def _on_reading(self, wanted: tuple[int, int], page: Page | None, passages: list[Passage]) -> None:
        document = self._model.document(wanted[0])
        # Only the latest wish counts: pages may come back in another order.
        if wanted == self._wanted and page is not None and document is not None:
            self._report.show_page(document, page, passages)

    def _on_picture_wanted(self, document: Document, page_number: int, scale: float) -> None:
        def show(image: QImage) -> None:
            self._report.show_picture(document, page_number, image)

        def tell(reason: str) -> None:
            if self._report.document == document:
                self._report.show_problem(reason)

        self._pictures.wish(document, page_number, scale, show=show, tell=tell)
