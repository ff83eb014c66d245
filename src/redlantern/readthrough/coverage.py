# SPDX-License-Identifier: GPL-3.0-or-later
"""What a read-through covers just now: every page in scope with what is known of it, and what it says all together."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from redlantern.collection.values import Document
from redlantern.readthrough.lines import in_scope
from redlantern.readthrough.values import PageRead, PageWish, Place


@dataclass(frozen=True)
class DocumentCovered:
    """A document in scope with its pages in order, each read or None."""

    document: Document
    pages: tuple[PageRead | None, ...]

    @property
    def n_unread(self) -> int:
        """How many of its pages were not read yet."""
        return sum(page is None for page in self.pages)


@dataclass(frozen=True)
class Coverage:
    """All documents in scope, refused ones too; `earlier` counts pages of versions that are no longer in the collection."""

    documents: tuple[DocumentCovered, ...]
    earlier: int = 0

    @property
    def pages(self) -> list[PageRead]:
        """Every page that was read, in the order of documents and pages."""
        return [page for covered in self.documents for page in covered.pages if page is not None]

    @property
    def n_pages(self) -> int:
        """All pages in scope."""
        return sum(len(covered.pages) for covered in self.documents)

    @property
    def n_unread(self) -> int:
        """Those that were not read yet."""
        return sum(covered.n_unread for covered in self.documents)

    @property
    def refused(self) -> list[Document]:
        """Documents in scope of which no page could be read at all."""
        return [covered.document for covered in self.documents if covered.document.is_refused]

    @property
    def is_whole(self) -> bool:
        """Whether every page in scope was read, and none could not be."""
        return not self.n_unread and not self.refused and not self.by_state["unreadable"]

    @property
    def by_state(self) -> Counter[str]:
        """How many pages there are of each state."""
        return Counter(page.state for page in self.pages)

    def document_of(self, place: Place) -> Document | None:
        """The document that a page belongs to; None where it is out of scope by now."""
        return next((covered.document for covered in self.documents if covered.document.key == place[0]), None)


def coverage(documents: Sequence[Document], wish: PageWish, read: Mapping[Place, PageRead]) -> Coverage:
    """Put what was read to the documents as they are now; refused ones have no pages."""
    found = []
    for document in in_scope(documents, wish):
        numbers = range(1, (0 if document.is_refused else document.n_pages) + 1)
        found.append(DocumentCovered(document, tuple(read.get((document.key, number)) for number in numbers)))
    keys = {covered.document.key for covered in found}
    return Coverage(tuple(found), sum(place[0] not in keys for place in read))
