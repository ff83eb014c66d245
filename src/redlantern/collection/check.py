# SPDX-License-Identifier: GPL-3.0-or-later
"""Verifies a collection: the encryption's own seals on each page, the database, and our references and counts."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from redlantern.collection.errors import DamagedCollectionError
from redlantern.collection.store import Collection
from redlantern.collection.writing import unpack_text
from redlantern.progress import Cancel, Progress, Report
from redlantern.reading.geometry import unpack_blocks, unpack_runs
from redlantern.translation import tr


def find_faults(collection: Collection, dimensions: int, *, report: Report, cancel: Cancel) -> list[str]:
    """Look at everything in a collection; gives what is wrong, in plain words. Empty means whole.

    Parameters
    ----------
    collection : Collection
    dimensions : int
        Of the embedding model's vectors.
    """
    # A page whose seal is broken makes everything after it moot, but for the question which documents it touches.
    broken = [str(row[0]) for row in collection.file.rows("PRAGMA cipher_integrity_check")]
    if broken:
        return [f"The file is damaged: {document_id}." for document_id in broken] + _touched(collection, cancel)
    with collection.file.reading() as connection:
        faults = [
            f"The database is damaged: {row[0]}."
            for row in connection.execute("PRAGMA integrity_check")
            if row[0] != "ok"
        ]
        faults += [f"A row of {row[0]} points to nothing." for row in connection.execute("PRAGMA foreign_key_check")]
        orphans = (
            "SELECT call_mark FROM documents WHERE container_id IS NULL AND id NOT IN (SELECT document_id FROM sources)"
        )
        faults += [f"Document {row[0]} has no place on disk." for row in connection.execute(orphans)]
        faults += [f"{fault}." for fault in collection.journal.faults()]
        faults += [f"{fault}." for fault in collection.segments.faults()]
        documents = collection.documents()
        for done, document in enumerate(documents):
            cancel.check()
            report(Progress(tr("Checking"), done, len(documents), "documents"))
            if not document.is_refused:
                faults.extend(
                    f"Document {document.call_mark}: {fault}."
                    for fault in _document_faults(
                        connection, document.document_id, document.n_pages, document.n_passages, dimensions
                    )
                )
    return faults


def _touched(collection: Collection, cancel: Cancel) -> list[str]:
    """Name the documents that can no longer be read whole."""
    file = collection.file
    file.drop_connections()
    try:
        named = file.rows("SELECT id, title FROM documents ORDER BY id")
    except DamagedCollectionError:
        file.drop_connections()
        return ["The list of the documents is damaged itself."]
    touched = []
    for document_id, title in named:
        cancel.check()
        try:
            for table in ("pages", "passages", "indexes"):
                file.rows(f"SELECT * FROM {table} WHERE document_id = ?", document_id)
        except DamagedCollectionError:
            # The connection is of no more use once it met a broken page.
            file.drop_connections()
            touched.append(f"“{title}” cannot be read whole any more; mending lets it be read again.")
    return touched or ["No document is touched: the damage lies in sheets, the journal or an unused part."]


def _document_faults(
    connection: Any, document_id: int, n_pages: int, n_passages: int, dimensions: int
) -> Iterator[str]:
    lengths = {}
    rows = connection.execute(
        "SELECT page_number, text, blocks, runs FROM pages WHERE document_id = ? ORDER BY page_number", (document_id,)
    )
    for number, kept, blocks, runs in rows:
        text = unpack_text(kept)
        lengths[number] = len(text)
        spans = [(block.start, block.end) for block in unpack_blocks(blocks)] + [
            (run.start, run.end) for run in unpack_runs(runs)
        ]
        if any(not 0 <= first <= last <= len(text) for first, last in spans):
            yield f"page {number} has a block outside its text"
    if sorted(lengths) != list(range(1, n_pages + 1)):
        yield f"has {len(lengths)} of {n_pages} pages"
    n_lines = n_found = 0
    rows = connection.execute(
        'SELECT page_number, start, "end", lines FROM passages WHERE document_id = ?', (document_id,)
    )
    for number, start, end, packed in rows:
        lines = np.frombuffer(packed, "<i4").reshape(-1, 2)
        n_found, n_lines = n_found + 1, n_lines + len(lines)
        is_inside = 0 <= start < end <= lengths.get(number, 0)
        if not is_inside or not len(lines) or lines.min() < start or lines.max() > end:
            yield f"a passage of page {number} does not lie on its page"
    if n_found != n_passages:
        yield f"has {n_found} of {n_passages} passages"
    vectors, line_vectors, segment_id = connection.execute(
        "SELECT length(vectors), length(line_vectors), segment_id FROM indexes WHERE document_id = ?", (document_id,)
    ).fetchone() or (-1, -1, None)
    # Lines took a byte a number before file version 3, and take half of one since.
    fits = line_vectors in (n_lines * dimensions, n_lines * dimensions // 2)
    if not fits or vectors != (n_passages * dimensions if segment_id is None else 0):
        yield "its index does not fit its passages"
