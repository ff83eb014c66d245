# SPDX-License-Identifier: GPL-3.0-or-later
"""The documents of a collection as values: one for each file, and for each thing that lies within a file."""

import json
import sys
from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection.file import CollectionFile
from redlantern.collection.prepared import NOT_EMBEDDED
from redlantern.collection.values import Document

_NOTHING: Mapping[str, str] = MappingProxyType({})
_Row = tuple[Any, ...]


class Catalogue:
    """Gives documents; those whose rows are as they were the last time are given again, which many thousands need."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file
        # The documents given last, in the order of their ids, and of each the hash of what it was made from, of 64 bits: the rows
        # themselves would need as much memory again.
        self._given: tuple[list[Document], npt.NDArray[np.int64]] = ([], np.zeros(0, np.int64))

    def all(self) -> list[Document]:
        """Give all documents, the refused ones too, in the order of their paths; what lies within a file follows it."""
        documents, hashes = self._given
        before = {document.document_id: at for at, document in enumerate(documents)}
        given: list[Document] = []
        made_from: list[int] = []
        for number, row, sources, has_meaning in self._read():
            at, now = before.get(number), hash((row, *sources, has_meaning))
            is_known = at is not None and hashes[at] == now
            given.append(documents[at] if at is not None and is_known else _document(row, sources, has_meaning))
            made_from.append(now)
        self._given = given, np.array(made_from, np.int64)
        # A file's path begins the paths of what lies within it.
        return sorted(
            given,
            key=lambda document: (
                document.full_path.removesuffix(f"/{document.part}") if document.part else document.full_path,
                document.document_id,
            ),
        )

    def _read(self) -> Iterator[tuple[int, _Row, list[_Row], bool]]:
        """Each document's id, row, files that hold it, and whether it is embedded.

        Three plain scans put together here: to join them in the database would
        read the rows of vectors, too, which are long.
        """
        sources: dict[int, list[_Row]] = {}
        for document_id, *source in self._file.rows(
            "SELECT document_id, full_path, root, size_bytes, mtime_ns FROM sources ORDER BY full_path"
        ):
            sources.setdefault(document_id, []).append(tuple(source))
        not_embedded = {
            row[0]
            for row in self._file.rows(
                "SELECT document_id FROM indexes WHERE segment_id IS NULL AND embedding_model = ?1"
                " UNION ALL SELECT document_id FROM indexes WHERE segment_id IN"
                " (SELECT id FROM segments WHERE embedding_model = ?1)",
                NOT_EMBEDDED,
            )
        }
        rows = self._file.rows(
            "SELECT id, call_mark, title, kind, sha256, n_pages, n_passages, refusal, language, details, notes,"
            " container_id, part, n_recognised, confidence, n_unread, n_warned FROM documents"
        )
        hashes = {row[0]: row[4] for row in rows}
        for row in rows:
            container_id = row[11]
            held_by = sources.get(row[0] if container_id is None else container_id)
            if held_by is not None:
                own_hash = row[4] if container_id is None else hashes.get(container_id)
                yield row[0], (*row[:4], own_hash, *row[5:]), held_by, row[0] not in not_embedded


def _document(row: _Row, sources: list[_Row], has_meaning: bool) -> Document:
    full_path, root, size_bytes, mtime_ns = sources[0]
    part = row[12]
    path = full_path.removeprefix(root.rstrip("/") + "/")
    if part:
        path, full_path = f"{path}/{part}", f"{full_path}/{part}"
    return Document(
        document_id=row[0], call_mark=row[1], title=row[2], kind=sys.intern(row[3]), path=path, full_path=full_path,
        sha256=row[4] or "", size_bytes=size_bytes, n_pages=row[5], n_passages=row[6], is_refused=bool(row[7]), reason=row[7],
        language=sys.intern(row[8]), details=json.loads(row[9]) if row[9] != "{}" else _NOTHING,
        notes=tuple(json.loads(row[10])) if row[10] != "[]" else (), container_id=row[11], part=part,
        mtime_ns=mtime_ns, n_recognised=row[13], confidence=row[14], n_unread=row[15], n_warned=row[16],
        has_meaning=has_meaning, copies=tuple(source[0] for source in sources[1:]) if not part else (),
    )  # fmt: skip
