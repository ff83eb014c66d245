# SPDX-License-Identifier: GPL-3.0-or-later
"""Shows pages on a room's facsimile: the latest wish counts, and cited words are marked where they stand now."""

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from redlantern.collection.values import Citation, Document
from redlantern.desktop.pictures import PagePictures
from redlantern.desktop.widgets.facsimile import Facsimile
from redlantern.desktop.workspace import Workspace
from redlantern.reading.values import Page

_Wish = tuple[int, int, tuple[int, int] | None, str]
"""Document id, page number, where the words to mark stood when they were cited, and those words."""


class PageViewer(QObject):
    """Fetches pages of the workspace's documents for a facsimile; tells which document is shown, None for none."""

    shown = pyqtSignal(object)

    def __init__(self, workspace: Workspace, facsimile: Facsimile) -> None:
        super().__init__(facsimile)
        self._workspace, self._facsimile = workspace, facsimile
        self._wanted: _Wish | None = None
        self._pictures = PagePictures(workspace)
        facsimile.page_wanted.connect(self.show_page)
        facsimile.picture_wanted.connect(self._on_picture_wanted)

    def show_page(
        self, document_id: int, page_number: int, span: tuple[int, int] | None = None, words: str = ""
    ) -> None:
        """Show a page with words marked; where others stand in their place now, only if they stand elsewhere."""
        session = self._workspace.session
        if session is None:
            return
        wish = self._wanted = (document_id, page_number, span, words)
        asked = session.engine.asked
        self._workspace.run(
            lambda _: asked.page(document_id, page_number), finished=lambda page: self._on_page(wish, page)
        )

    def show_citation(self, citation: Citation) -> None:
        """Show the page that a citation is on, with its words marked."""
        self.show_page(citation.document_id, citation.page_number, (citation.start, citation.end), citation.text)

    def clear(self) -> None:
        """Show no page."""
        self._wanted = None
        self.shown.emit(None)
        self._facsimile.clear()

    def _on_page(self, wish: _Wish, page: Page | None) -> None:
        # Only the latest wish counts: pages may come back in another order.
        if wish != self._wanted:
            return
        document_id, _, span, words = wish
        document = next(
            (document for document in self._workspace.documents if document.document_id == document_id), None
        )
        if page is None or document is None:
            self.clear()
            return
        self.shown.emit(None if document.is_refused else document)
        self._facsimile.show_page(document, page, _span_now(page.text, span, words))

    def _on_picture_wanted(self, document: Document, page_number: int, scale: float) -> None:
        def show(image: QImage) -> None:
            if self._is_shown(document):
                self._facsimile.show_picture(image, page_number)

        def tell(reason: str) -> None:
            if self._is_shown(document):
                self._facsimile.show_problem(reason)

        self._pictures.wish(document, page_number, scale, show=show, tell=tell)

    def _is_shown(self, document: Document) -> bool:
        shown = self._facsimile.document
        return shown is not None and shown.document_id == document.document_id


def _span_now(text: str, span: tuple[int, int] | None, words: str) -> tuple[int, int] | None:
    """Where the cited words stand on a page as it is now: a document may have been changed since they were cited."""
    if span is None or not words or text[span[0] : span[1]] == words:
        return span
    start = text.find(words)
    return (start, start + len(words)) if start >= 0 else None
