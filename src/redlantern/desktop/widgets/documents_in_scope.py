# SPDX-License-Identifier: GPL-3.0-or-later
"""The documents as rows, each with whether it is in scope and how strongly the question finds its pages."""

from enum import IntEnum

from PyQt6.QtCore import QAbstractListModel, QModelIndex, Qt, pyqtSignal

from redlantern.collection.values import Document
from redlantern.text.listing import counted
from redlantern.translation import tr

BY_WORDS = tr("by words so far")


class Role(IntEnum):
    """What of a row can be asked for beside its words."""

    DOCUMENT = Qt.ItemDataRole.UserRole
    STRENGTHS = Qt.ItemDataRole.UserRole + 1


class DocumentsInScope(QAbstractListModel):
    """The documents as rows. A row's check says whether it is in scope; refused documents never are."""

    scope_changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._documents: list[Document] = []
        self._left_out: set[str] = set()
        self._strengths: dict[tuple[int, int], float] = {}
        self._shown: list[Document] = []
        self._is_best_first = False
        self._words: list[str] = []

    def set_documents(self, documents: list[Document]) -> None:
        """Show these; what was left out of scope stays out, known by its content."""
        self._documents = documents
        self._arrange()
        self.scope_changed.emit()

    def forget(self) -> None:
        """Hold no document any more, nor anything that was chosen or found of one."""
        self._left_out, self._strengths = set(), {}
        self.set_documents([])

    def set_best_first(self, is_best_first: bool) -> None:
        """Show the documents that the question finds most strongly first, or all in the order of their paths."""
        self._is_best_first = is_best_first
        self._arrange()

    def set_filter(self, text: str) -> None:
        """Show only documents that have all these words in their title, path or call-mark."""
        self._words = text.casefold().split()
        self._arrange()

    def set_strengths(self, strengths: dict[tuple[int, int], float]) -> None:
        """Light the ribbons: (document id, page number) to 0..1."""
        self._strengths = strengths
        if self._is_best_first:
            self._arrange()
        elif self._shown:
            self.dataChanged.emit(self.index(0), self.index(len(self._shown) - 1))

    @property
    def n_documents(self) -> int:
        """How many documents there are, shown or not."""
        return len(self._documents)

    @property
    def readable(self) -> list[Document]:
        """The documents that could be read."""
        return [document for document in self._documents if not document.is_refused]

    def scope(self) -> frozenset[int] | None:
        """The documents in scope; None when that is all of them."""
        chosen = [document for document in self.readable if document.key not in self._left_out]
        return None if len(chosen) == len(self.readable) else frozenset(document.document_id for document in chosen)

    def set_all_in_scope(self, is_in: bool) -> None:
        """Take all documents into scope, or none."""
        self._left_out = set() if is_in else {document.key for document in self.readable}
        self._changed()

    def set_shown_in_scope(self, is_in: bool) -> None:
        """Take the documents that are shown into scope, or leave them out."""
        self.set_in_scope(self._shown, is_in)

    def is_in_scope(self, document: Document) -> bool:
        """Whether questions draw on it."""
        return not document.is_refused and document.key not in self._left_out

    def set_only(self, documents: list[Document]) -> None:
        """Take these documents into scope, and no others."""
        self._left_out = {document.key for document in self.readable} - {document.key for document in documents}
        self._changed()

    def set_in_scope(self, documents: list[Document], is_in: bool) -> None:
        """Take some documents into scope, or leave them out."""
        keys = {document.key for document in documents if not document.is_refused}
        self._left_out = self._left_out - keys if is_in else self._left_out | keys
        self._changed()

    def toggle(self, index: QModelIndex) -> None:
        """Take a document into scope or leave it out."""
        document: Document = index.data(Role.DOCUMENT)
        if not document.is_refused:
            self._left_out ^= {document.key}
            self._changed()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        """How many documents are shown."""
        return len(self._shown)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """What a row shows, says aloud and holds."""
        document = self._shown[index.row()]
        is_in = not document.is_refused and document.key not in self._left_out
        if role == Role.DOCUMENT:
            return document
        if role == Role.STRENGTHS:
            place = document.document_id
            return [self._strengths.get((place, number), 0.0) for number in range(1, document.n_pages + 1)]
        if role == Qt.ItemDataRole.CheckStateRole:
            return Qt.CheckState.Checked if is_in else Qt.CheckState.Unchecked
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            state = tr("refused") if document.is_refused else tr("in scope") if is_in else tr("left out")
            state += "" if document.has_meaning else tr(", found {by_words}").format(by_words=BY_WORDS)
            return f"{document.call_mark} {document.title}, {counted(document.n_pages, 'page')}, {state}"
        return None

    def _arrange(self) -> None:
        self.beginResetModel()
        best: dict[int, float] = {}
        for (document_id, _), strength in self._strengths.items() if self._is_best_first else ():
            best[document_id] = max(strength, best.get(document_id, 0.0))
        # Stable: those that are found alike stay in the order of their paths.
        fitting = [document for document in self._documents if self._fits(document)]
        self._shown = sorted(fitting, key=lambda document: -best.get(document.document_id, 0.0))
        self.endResetModel()

    def _fits(self, document: Document) -> bool:
        text = f"{document.call_mark} {document.title} {document.path}".casefold()
        return all(word in text for word in self._words)

    def _changed(self) -> None:
        self.dataChanged.emit(self.index(0), self.index(max(0, len(self._shown) - 1)))
        self.scope_changed.emit()
