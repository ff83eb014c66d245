# SPDX-License-Identifier: GPL-3.0-or-later
"""The pages and passages of a collection as they were read, and what is cited from them."""

import json
from collections.abc import Iterable, Sequence

import numpy as np

from redlantern.collection import writing
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.file import CollectionFile
from redlantern.collection.values import Citation, Document, StoredPassage
from redlantern.reading.geometry import unpack_blocks, unpack_runs
from redlantern.reading.values import Page, ReadFile
from redlantern.splitting.headings import Headings


class Pages:
    """What a collection gives of its pages."""

    file: CollectionFile

    def page(self, document_id: int, page_number: int) -> Page | None:
        """Give one page as it was read."""
        row = self.file.row(
            "SELECT page_number, text, blocks, runs, width_pt, height_pt, origin, confidence, warnings FROM pages"
            " WHERE document_id = ? AND page_number = ?",
            document_id,
            page_number,
        )
        if row is None:
            return None
        number, text, blocks, runs, width_pt, height_pt, origin, confidence, warnings = row
        return Page(
            number, writing.unpack_text(text), unpack_blocks(blocks), unpack_runs(runs), width_pt, height_pt, origin, confidence,
            tuple(json.loads(warnings)),
        )  # fmt: skip

    def pages(self, document_id: int) -> Iterable[Page]:
        """Give a document's pages in order, one at a time."""
        for [number] in self.file.rows("SELECT page_number FROM pages WHERE document_id = ? ORDER BY 1", document_id):
            page = self.page(document_id, number)
            if page is not None:
                yield page

    def read_file(self, document: Document) -> ReadFile:
        """Give a document as it was read, to be split and embedded anew."""
        pages = tuple(self.pages(document.document_id))
        return ReadFile(document.kind, document.title, pages, document.notes, document.details, document.language)

    def passages(self, passage_ids: Sequence[int]) -> list[StoredPassage]:
        """Give passages by id, in the order asked for; ids that are gone are left out."""
        found = {}
        for passage_id in passage_ids:
            row = self.file.row(
                'SELECT p.id, p.document_id, p.page_number, p.start, p."end", p.heading, p.lines, g.text'
                " FROM passages p JOIN pages g ON g.document_id = p.document_id AND g.page_number = p.page_number"
                " WHERE p.id = ?",
                int(passage_id),
            )
            if row:
                lines = tuple((first, last) for first, last in np.frombuffer(row[6], "<i4").reshape(-1, 2).tolist())
                key, document_id, page_number, start, end = row[:5]
                words = writing.unpack_text(row[7])[start:end]
                found[passage_id] = StoredPassage(
                    key, document_id, page_number, start, end, Headings.parse(row[5]), words, lines
                )
        return [found[document_id] for document_id in passage_ids if document_id in found]

    def page_passages(self, document_id: int, page_number: int) -> list[tuple[int, int, int, str]]:
        """Give the passages of a page in order: (start, end, tokens, heading)."""
        return self.file.rows(
            'SELECT start, "end", n_tokens, heading FROM passages WHERE document_id = ? AND page_number = ? ORDER BY id',
            document_id,
            page_number,
        )

    def cite(self, document: Document, page_number: int, start: int, end: int) -> Citation:
        """Make the citation of a stretch of a page.

        Raises
        ------
        DocumentChangedError
            If it is not on the page any more.
        """
        page = self.page(document.document_id, page_number)
        if page is None or not 0 <= start < end <= len(page.text):
            raise DocumentChangedError
        return Citation(
            document.document_id,
            document.call_mark,
            document.title,
            document.path,
            page_number,
            start,
            end,
            page.text[start:end],
            tuple(page.boxes(start, end)),
            document.key,
        )
