"""What a collection holds, as values; the only module that speaks SQL about documents, passages and sheets."""

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection import file as collection_file
from redlantern.collection.callmarks import call_mark
from redlantern.collection.file import CollectionFile
from redlantern.collection.values import Citation, Document, StoredPassage
from redlantern.reading.geometry import pack_blocks, pack_runs, unpack_blocks, unpack_runs
from redlantern.reading.values import Page, ReadFile
from redlantern.splitting.passages import Passage

SmallVectors = npt.NDArray[np.int8]


@dataclass(frozen=True)
class Source:
    """Where a document lies on disk, and what the file looked like when it was read."""

    full_path: str
    root: str
    size_bytes: int
    mtime_ns: int


@dataclass(frozen=True)
class DocumentIndex:
    """Everything that finding needs of one document.

    `vectors` has shape (n_passages, dim), `line_vectors` (n_lines, dim) with the
    passages' lines one after another; `words` is what the word index packed.
    """

    document_id: int
    passage_ids: npt.NDArray[np.int64]
    page_numbers: npt.NDArray[np.int32]
    n_lines: npt.NDArray[np.int32]
    vectors: SmallVectors
    line_vectors: SmallVectors
    words: bytes


@dataclass(frozen=True)
class Prepared:
    """A document that is read, split and embedded, ready to be kept in one transaction."""

    sha256: str
    read: ReadFile
    passages: Sequence[Passage]
    embedding_model: str
    vectors: SmallVectors
    line_vectors: SmallVectors
    words: bytes
    parts: Sequence["PreparedPart"] = ()


@dataclass(frozen=True)
class PreparedPart:
    """A document within a file: its name there, and what is to be kept of it or why it was refused."""

    name: str
    prepared: Prepared | None
    refusal: str = ""


class Collection:
    """An open collection. Reading is safe from any thread; changing it needs `claim_writing` first."""

    def __init__(self, file: CollectionFile) -> None:
        self.file = file

    @classmethod
    def create(cls, path: Path) -> "Collection":
        """Make a new, empty collection; see file.create."""
        return cls(collection_file.create(path))

    @classmethod
    def open(cls, path: Path) -> "Collection":
        """Open a collection; see file.open_file."""
        return cls(collection_file.open_file(path))

    @property
    def path(self) -> Path:
        """The collection file."""
        return self.file.path

    @property
    def name(self) -> str:
        """What the collection is called: its file's name without the ending."""
        return self.file.path.stem

    @property
    def key_path(self) -> Path:
        """Where its key is kept."""
        return self.file.key_path

    def claim_writing(self) -> None:
        """Become the one process that may change it; see CollectionFile.claim_writing."""
        self.file.claim_writing()

    def close(self) -> None:
        """Close it."""
        self.file.close()

    # Documents

    def documents(self) -> list[Document]:
        """Give all documents, the refused ones too, in the order of their paths; what lies within a file follows it."""
        rows = self._all(
            "SELECT d.id, d.call_mark, d.title, d.kind, min(s.full_path), s.root,"
            " coalesce(d.sha256, (SELECT c.sha256 FROM documents c WHERE c.id = d.container_id)), s.size_bytes,"
            " d.n_pages, d.n_passages, d.refusal, d.language, d.details, d.notes, d.container_id, d.part, s.mtime_ns,"
            " coalesce(p.n_recognised, 0), coalesce(p.confidence, 1), coalesce(p.n_unread, 0), coalesce(p.n_warned, 0)"
            " FROM documents d JOIN sources s ON s.document_id = coalesce(d.container_id, d.id)"
            " LEFT JOIN (SELECT document_id, sum(origin = 'recognised') AS n_recognised,"
            "   avg(CASE WHEN origin = 'recognised' THEN confidence END) AS confidence,"
            "   sum(origin = 'none' AND warnings != '[]') AS n_unread, sum(warnings != '[]') AS n_warned"
            "   FROM pages GROUP BY document_id) p ON p.document_id = d.id"
            " GROUP BY d.id ORDER BY min(s.full_path), d.id"
        )
        return [_document(row) for row in rows]

    def document(self, document_id: int) -> Document | None:
        """Give one document."""
        return next((one for one in self.documents() if one.document_id == document_id), None)

    def sources(self) -> dict[str, tuple[Source, int, str | None, bool]]:
        """Give every known file by its full path: (source, document id, SHA-256, whether it was refused)."""
        rows = self._all(
            "SELECT s.full_path, s.root, s.size_bytes, s.mtime_ns, s.document_id, d.sha256, d.refusal != ''"
            " FROM sources s JOIN documents d ON d.id = s.document_id"
        )
        return {row[0]: (Source(*row[:4]), row[4], row[5], bool(row[6])) for row in rows}

    def document_by_hash(self, sha256: str) -> int | None:
        """Give the id of the document with this content."""
        row = self._one("SELECT id FROM documents WHERE sha256 = ?", sha256)
        return int(row[0]) if row else None

    def add(self, prepared: Prepared, source: Source) -> int:
        """Keep a document whole, with what lies within it, in place of whatever was known at this path. Gives its id."""
        with self.file.writing() as connection:
            _release(connection, source.full_path)
            others = _release_content(connection, prepared.sha256)
            document_id = _insert_document(connection, prepared, None, "")
            places = [_source_row(source, document_id), *((*row[:2], document_id, *row[3:]) for row in others)]
            connection.executemany("INSERT INTO sources VALUES (?, ?, ?, ?, ?)", places)
            for part in prepared.parts:
                if part.prepared is not None:
                    _insert_document(connection, part.prepared, document_id, part.name)
                else:
                    _insert_refused(connection, None, PurePosixPath(part.name), part.refusal, document_id, part.name)
        return document_id

    def add_refused(self, source: Source, sha256: str | None, reason: str) -> None:
        """Keep a file that could not be read as a document with the reason."""
        with self.file.writing() as connection:
            _release(connection, source.full_path)
            document_id = _insert_refused(connection, sha256, PurePosixPath(source.full_path), reason, None, "")
            connection.execute("INSERT INTO sources VALUES (?, ?, ?, ?, ?)", _source_row(source, document_id))

    def take_out(self, full_paths: Iterable[str]) -> None:
        """Forget files for good, with what lies within them: an update does not bring them back. They stay on disk."""
        with self.file.writing() as connection:
            for full_path in full_paths:
                _release(connection, full_path)
                connection.execute("INSERT OR IGNORE INTO taken_out VALUES (?)", (full_path,))

    def let_in(self, full_paths: Iterable[str]) -> None:
        """Undo `take_out`: the next update reads them again."""
        with self.file.writing() as connection:
            connection.executemany("DELETE FROM taken_out WHERE full_path = ?", ((one,) for one in full_paths))

    def taken_out(self) -> set[str]:
        """Files that an update leaves alone."""
        return {row[0] for row in self._all("SELECT full_path FROM taken_out")}

    def set_source(self, source: Source, document_id: int) -> None:
        """Note that a known document lies at this path, in place of whatever was known there."""
        with self.file.writing() as connection:
            _release(connection, source.full_path, keep=document_id)
            connection.execute(
                "INSERT OR REPLACE INTO sources VALUES (?, ?, ?, ?, ?)", _source_row(source, document_id)
            )

    def remove_sources(self, full_paths: Iterable[str]) -> None:
        """Forget files; a document goes with its last one."""
        with self.file.writing() as connection:
            for full_path in full_paths:
                _release(connection, full_path)

    # Pages, passages and what is cited from them

    def page(self, document_id: int, page_number: int) -> Page | None:
        """Give one page as it was read."""
        row = self._one(
            "SELECT page_number, text, blocks, runs, width_pt, height_pt, origin, confidence, warnings FROM pages"
            " WHERE document_id = ? AND page_number = ?",
            document_id,
            page_number,
        )
        if row is None:
            return None
        number, text, blocks, runs, width_pt, height_pt, origin, confidence, warnings = row
        return Page(
            number, text, unpack_blocks(blocks), unpack_runs(runs), width_pt, height_pt, origin, confidence,
            tuple(json.loads(warnings)),
        )  # fmt: skip

    def pages(self, document_id: int) -> Iterable[Page]:
        """Give a document's pages in order, one at a time."""
        for [number] in self._all("SELECT page_number FROM pages WHERE document_id = ? ORDER BY 1", document_id):
            page = self.page(document_id, number)
            if page is not None:
                yield page

    def passages(self, passage_ids: Sequence[int]) -> list[StoredPassage]:
        """Give passages by id, in the order asked for; ids that are gone are left out."""
        found = {}
        for passage_id in passage_ids:
            row = self._one(
                'SELECT p.id, p.document_id, p.page_number, p.start, p."end", p.heading, p.lines, g.text'
                " FROM passages p JOIN pages g ON g.document_id = p.document_id AND g.page_number = p.page_number"
                " WHERE p.id = ?",
                int(passage_id),
            )
            if row:
                lines = tuple((first, last) for first, last in np.frombuffer(row[6], "<i4").reshape(-1, 2).tolist())
                key, document_id, page_number, start, end, heading = row[:6]
                words = row[7][start:end]
                found[passage_id] = StoredPassage(key, document_id, page_number, start, end, heading, words, lines)
        return [found[one] for one in passage_ids if one in found]

    def page_passages(self, document_id: int, page_number: int) -> list[tuple[int, int, int, str]]:
        """Give the passages of a page in order: (start, end, tokens, heading)."""
        return self._all(
            'SELECT start, "end", n_tokens, heading FROM passages WHERE document_id = ? AND page_number = ? ORDER BY id',
            document_id,
            page_number,
        )

    def cite(self, document: Document, page_number: int, start: int, end: int) -> Citation:
        """Make the citation of a stretch of a page.

        Raises
        ------
        ValueError
            If the stretch is empty or not on the page.
        """
        page = self.page(document.document_id, page_number)
        if page is None or not 0 <= start < end <= len(page.text):
            raise ValueError(f"no characters {start} to {end} on page {page_number} of document {document.document_id}")
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
        )

    def index_of(self, document_id: int, dimensions: int) -> DocumentIndex | None:
        """Give what finding needs of one document; None if it has none."""
        row = self._one("SELECT vectors, line_vectors, words FROM indexes WHERE document_id = ?", document_id)
        if row is None:
            return None
        passages = self._all(
            "SELECT id, page_number, length(lines) / 8 FROM passages WHERE document_id = ? ORDER BY id", document_id
        )
        columns = list(zip(*passages, strict=True)) or [(), (), ()]
        return DocumentIndex(
            document_id,
            np.array(columns[0], np.int64),
            np.array(columns[1], np.int32),
            np.array(columns[2], np.int32),
            np.frombuffer(row[0], np.int8).reshape(-1, dimensions),
            np.frombuffer(row[1], np.int8).reshape(-1, dimensions),
            row[2],
        )

    # Sheets

    def keep_sheet(self, asked_at: str, question: str, sheet: dict[str, Any]) -> int:
        """Keep a sheet; gives its id."""
        with self.file.writing() as connection:
            made = connection.execute(
                "INSERT INTO sheets (asked_at, question, sheet) VALUES (?, ?, ?)",
                (asked_at, question, json.dumps(sheet)),
            )
            return int(made.lastrowid)

    def sheets(self) -> list[tuple[int, str, str, dict[str, Any]]]:
        """Give all sheets, oldest first: (id, asked at, question, sheet)."""
        rows = self._all("SELECT id, asked_at, question, sheet FROM sheets ORDER BY id")
        return [(row[0], row[1], row[2], json.loads(row[3])) for row in rows]

    def _one(self, sql: str, *values: object) -> Any:
        with self.file.explained():
            return self.file.connection.execute(sql, values).fetchone()

    def _all(self, sql: str, *values: object) -> list[Any]:
        with self.file.explained():
            return list(self.file.connection.execute(sql, values).fetchall())


def _document(row: Any) -> Document:
    full_path, root, part = row[4], row[5], row[15]
    path = Path(full_path).relative_to(root).as_posix() if Path(full_path).is_relative_to(root) else full_path
    if part:
        path, full_path = f"{path}/{part}", f"{full_path}/{part}"
    return Document(
        document_id=row[0], call_mark=row[1], title=row[2], kind=row[3], path=path, full_path=full_path,
        sha256=row[6] or "", size_bytes=row[7], n_pages=row[8], n_passages=row[9], is_refused=bool(row[10]), reason=row[10],
        language=row[11], details=json.loads(row[12]), notes=tuple(json.loads(row[13])), container_id=row[14], part=part,
        mtime_ns=row[16], n_recognised=row[17], confidence=row[18], n_unread=row[19], n_warned=row[20],
    )  # fmt: skip


def _insert_document(connection: Any, prepared: Prepared, container_id: int | None, part: str) -> int:
    read = prepared.read
    mark = call_mark(read.title, _marks(connection))
    document_id = connection.execute(
        "INSERT INTO documents (sha256, call_mark, title, kind, n_pages, n_passages, language, details, notes, container_id,"
        " part) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            prepared.sha256 or None, mark, read.title, read.kind, len(read.pages), len(prepared.passages), read.language,
            json.dumps(dict(read.details)), json.dumps(read.notes), container_id, part,
        ),
    ).lastrowid  # fmt: skip
    connection.executemany(
        "INSERT INTO pages VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", (_page_row(document_id, page) for page in read.pages)
    )
    connection.executemany(
        'INSERT INTO passages (document_id, page_number, start, "end", heading, n_tokens, lines)'
        " VALUES (?, ?, ?, ?, ?, ?, ?)",
        (_passage_row(document_id, passage) for passage in prepared.passages),
    )
    connection.execute(
        "INSERT INTO indexes VALUES (?, ?, ?, ?, ?)",
        (
            document_id, prepared.embedding_model, prepared.vectors.tobytes(), prepared.line_vectors.tobytes(), prepared.words
        ),
    )  # fmt: skip
    return int(document_id)


def _insert_refused(
    connection: Any, sha256: str | None, name: PurePosixPath, reason: str, container_id: int | None, part: str
) -> int:
    mark = call_mark(name.stem, _marks(connection))
    inserted = connection.execute(
        "INSERT INTO documents (sha256, call_mark, title, kind, n_pages, n_passages, refusal, container_id, part)"
        " VALUES (?, ?, ?, 'refused', 0, 0, ?, ?, ?)",
        (sha256, mark, name.name, reason, container_id, part),
    )
    return int(inserted.lastrowid)


def _marks(connection: Any) -> set[str]:
    return {row[0] for row in connection.execute("SELECT call_mark FROM documents")}


def _release(connection: Any, full_path: str, keep: int | None = None) -> None:
    """Forget what lay at a path; a document that has no other place goes, unless it is the one to keep."""
    row = connection.execute("SELECT document_id FROM sources WHERE full_path = ?", (full_path,)).fetchone()
    if row is None or row[0] == keep:
        return
    connection.execute("DELETE FROM sources WHERE full_path = ?", (full_path,))
    if not connection.execute("SELECT 1 FROM sources WHERE document_id = ?", row).fetchone():
        connection.execute("DELETE FROM documents WHERE id = ?", row)


def _release_content(connection: Any, sha256: str) -> list[Any]:
    """Forget a document that is read again; gives its other places."""
    row = connection.execute("SELECT id FROM documents WHERE sha256 = ?", (sha256,)).fetchone()
    if row is None:
        return []
    places = list(connection.execute("SELECT * FROM sources WHERE document_id = ?", row).fetchall())
    connection.execute("DELETE FROM documents WHERE id = ?", row)
    return places


def _source_row(source: Source, document_id: int) -> tuple[Any, ...]:
    return source.full_path, source.root, document_id, source.size_bytes, source.mtime_ns


def _page_row(document_id: int, page: Page) -> tuple[Any, ...]:
    blocks, runs = pack_blocks(page.blocks), pack_runs(page.runs)
    return (
        document_id, page.page_number, page.width_pt, page.height_pt, page.text, blocks, runs, page.origin, page.confidence,
        json.dumps(page.warnings),
    )  # fmt: skip


def _passage_row(document_id: int, passage: Passage) -> tuple[Any, ...]:
    lines = np.array(passage.lines, "<i4").tobytes()
    return (
        document_id, passage.page_number, passage.start, passage.end, passage.heading, passage.n_tokens, lines
    )  # fmt: skip
