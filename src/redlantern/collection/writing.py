# SPDX-License-Identifier: GPL-3.0-or-later
"""Puts documents into the tables of a collection and takes them out; always within a transaction of the caller."""

import json
import zlib
from collections.abc import Sequence
from pathlib import PurePosixPath
from typing import Any

import numpy as np

from redlantern.collection.callmarks import call_mark
from redlantern.collection.prepared import Prepared, Source
from redlantern.reading.geometry import pack_blocks, pack_runs
from redlantern.reading.values import Page
from redlantern.safety.names import visible
from redlantern.splitting.passages import Passage


def insert_document(connection: Any, prepared: Prepared, container_id: int | None, part: str, *, mark: str = "") -> int:
    """Put in a document, under this call-mark if one is given and free; gives its id."""
    read = prepared.read
    taken = _marks(connection)
    if not mark or mark in taken:
        mark = call_mark(read.title, taken)
    document_id = connection.execute(
        "INSERT INTO documents (sha256, call_mark, title, kind, n_pages, n_passages, language, details, notes, container_id,"
        " part, fingerprint, n_recognised, confidence, n_unread, n_warned)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            prepared.sha256 or None, mark, read.title, read.kind, len(read.pages), len(prepared.passages), read.language,
            json.dumps(dict(read.details)), json.dumps(read.notes), container_id, part,
            prepared.fingerprint, *_how_read(read.pages),
        ),
    ).lastrowid  # fmt: skip
    connection.executemany(
        "INSERT INTO pages VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", (_page_row(document_id, page) for page in read.pages)
    )
    insert_passages(connection, prepared, int(document_id))
    return int(document_id)


def insert_passages(connection: Any, prepared: Prepared, document_id: int) -> None:
    """Put in a document's passages, their vectors and words."""
    connection.executemany(
        'INSERT INTO passages (document_id, page_number, start, "end", heading, n_tokens, lines)'
        " VALUES (?, ?, ?, ?, ?, ?, ?)",
        (_passage_row(document_id, passage) for passage in prepared.passages),
    )
    connection.execute(
        "INSERT INTO indexes VALUES (?, ?, ?, ?, ?, ?, ?, NULL)",
        (
            document_id, prepared.made_with.embedding, prepared.vectors.tobytes(), prepared.line_vectors.tobytes(),
            prepared.words, prepared.made_with.splitting, prepared.made_with.reader,
        ),
    )  # fmt: skip


def _how_read(pages: Sequence[Page]) -> tuple[int, float, int, int]:
    """Pages recognised, how sure of them on average, pages without text that should have some, pages with warnings."""
    sure = [page.confidence for page in pages if page.origin == "recognised"]
    n_unread = sum(page.origin == "none" and bool(page.warnings) for page in pages)
    return len(sure), sum(sure) / len(sure) if sure else 1.0, n_unread, sum(bool(page.warnings) for page in pages)


def known_as(connection: Any, full_path: str) -> str:
    """The call-mark of the document that lies at a path; empty when there is none."""
    row = connection.execute(
        "SELECT d.call_mark FROM documents d JOIN sources s ON s.document_id = d.id WHERE s.full_path = ?", (full_path,)
    ).fetchone()
    return str(row[0]) if row else ""


def insert_refused(
    connection: Any, sha256: str | None, name: PurePosixPath, reason: str, container_id: int | None, part: str
) -> int:
    """Put in a document that could not be read, with the reason; gives its id."""
    mark = call_mark(name.stem, _marks(connection))
    inserted = connection.execute(
        "INSERT INTO documents (sha256, call_mark, title, kind, n_pages, n_passages, refusal, container_id, part)"
        " VALUES (?, ?, ?, 'refused', 0, 0, ?, ?, ?)",
        (sha256, mark, visible(name.name), reason, container_id, part),
    )
    return int(inserted.lastrowid)


def _marks(connection: Any) -> set[str]:
    return {row[0] for row in connection.execute("SELECT call_mark FROM documents")}


def release(connection: Any, full_path: str, keep: int | None = None) -> str:
    """Forget what lay at a path; a document that has no other place goes, unless it is the one to keep.

    Gives its SHA-256, or the path itself where none is known.
    """
    row = connection.execute("SELECT document_id FROM sources WHERE full_path = ?", (full_path,)).fetchone()
    if row is None or row[0] == keep:
        return full_path
    sha256 = connection.execute("SELECT sha256 FROM documents WHERE id = ?", row).fetchone()
    connection.execute("DELETE FROM sources WHERE full_path = ?", (full_path,))
    if not connection.execute("SELECT 1 FROM sources WHERE document_id = ?", row).fetchone():
        connection.execute("DELETE FROM documents WHERE id = ?", row)
    return str(sha256[0]) if sha256 and sha256[0] else full_path


def release_content(connection: Any, sha256: str) -> list[Any]:
    """Forget a document that is read again; gives its other places."""
    row = connection.execute("SELECT id FROM documents WHERE sha256 = ?", (sha256,)).fetchone()
    if row is None:
        return []
    places = list(connection.execute("SELECT * FROM sources WHERE document_id = ?", row).fetchall())
    connection.execute("DELETE FROM documents WHERE id = ?", row)
    return places


def source_row(source: Source, document_id: int) -> tuple[Any, ...]:
    """A row of the table of sources."""
    return source.full_path, source.root, document_id, source.size_bytes, source.mtime_ns


def _page_row(document_id: int, page: Page) -> tuple[Any, ...]:
    text, blocks, runs = zlib.compress(page.text.encode(), 6), pack_blocks(page.blocks), pack_runs(page.runs)
    return (
        document_id, page.page_number, page.width_pt, page.height_pt, text, blocks, runs, page.origin, page.confidence,
        json.dumps(page.warnings),
    )  # fmt: skip


def unpack_text(kept: bytes | str) -> str:
    """The text of a page; before file version 3 it was kept as it is."""
    return kept if isinstance(kept, str) else zlib.decompress(kept).decode()


def _passage_row(document_id: int, passage: Passage) -> tuple[Any, ...]:
    lines = np.array(passage.lines, "<i4").tobytes()
    return (
        document_id, passage.page_number, passage.start, passage.end, passage.headings.printed, passage.n_tokens, lines
    )  # fmt: skip
