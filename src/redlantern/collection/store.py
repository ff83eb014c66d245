"""What a collection holds, as values; the only module that speaks SQL about documents, passages and pages to read them."""

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np

from redlantern.collection import opening, writing
from redlantern.collection.catalogue import Catalogue
from redlantern.collection.errors import DocumentChangedError
from redlantern.collection.facts import Facts
from redlantern.collection.file import CollectionFile
from redlantern.collection.fingerprints import Version, versions
from redlantern.collection.journal import Journal, What
from redlantern.collection.kept_sheets import KeptSheets
from redlantern.collection.prepared import MadeWith, Prepared, Source
from redlantern.collection.schema import VERSION
from redlantern.collection.segments import MERGED_FROM, MOST_PASSAGES, Segment, Segments, merge
from redlantern.collection.values import Citation, Document, StoredPassage
from redlantern.collection.word_counts import unpack_counts
from redlantern.models.embedding import PackedLines
from redlantern.reading.geometry import unpack_blocks, unpack_runs
from redlantern.reading.values import Page, ReadFile
from redlantern.safety.keys import Holding
from redlantern.safety.names import path_of, path_text

LinesWanted = tuple[Sequence[tuple[int, int]], int]
"""Spans of a document's lines as (first, one after the last), and how many lines it has in all."""


class Collection:
    """An open collection. Reading is safe from any thread; changing it needs `claim_writing` first."""

    def __init__(self, file: CollectionFile) -> None:
        self.file = file
        self.journal, self.facts, self.kept_sheets = Journal(file), Facts(file), KeptSheets(file)
        self.segments, self._catalogue = Segments(file), Catalogue(file)

    @classmethod
    def create(cls, path: Path, holding: Holding = Holding.FILE, passphrase: str = "") -> "Collection":
        """Make a new, empty collection; see opening.create."""
        made = cls(opening.create(path, holding, passphrase))
        made.journal.note("made", f"Key held by: {holding}")
        return made

    @classmethod
    def open(cls, path: Path, passphrase: str | None = None) -> "Collection":
        """Open a collection; see opening.open_file."""
        opened = cls(opening.open_file(path, passphrase))
        if opened.file.migrated_from is not None:
            opened.journal.note("settings", f"File version raised from {opened.file.migrated_from} to {VERSION}")
        return opened

    @property
    def path(self) -> Path:
        """The collection file."""
        return self.file.path

    @property
    def name(self) -> str:
        """What the collection is called: its file's name without the ending."""
        return self.file.path.stem

    @property
    def holding(self) -> Holding:
        """How its key is held."""
        return self.file.holding

    @property
    def is_read_only(self) -> bool:
        """Whether it lies where nobody can change it."""
        return self.file.is_read_only

    def claim_writing(self) -> None:
        """Become the one process that may change it; see CollectionFile.claim_writing."""
        self.file.claim_writing()

    def close(self) -> None:
        """Close it."""
        self.file.close()

    # Documents

    def documents(self) -> list[Document]:
        """Give all documents, the refused ones too, in the order of their paths; what lies within a file follows it."""
        return self._catalogue.all()

    def versions(self) -> dict[int, Version]:
        """Which documents are near versions of one another, by the time of their files."""
        rows = self.file.rows(
            "SELECT d.id, d.fingerprint FROM documents d JOIN sources s ON s.document_id = coalesce(d.container_id, d.id)"
            " WHERE length(d.fingerprint) > 0 GROUP BY d.id ORDER BY max(s.mtime_ns) DESC, d.id DESC"
        )
        return versions(dict(rows), [row[0] for row in rows])

    def document(self, document_id: int) -> Document | None:
        """Give one document."""
        return next((one for one in self.documents() if one.document_id == document_id), None)

    def sources(self) -> dict[str, tuple[Source, int, str | None, bool]]:
        """Give every known file by its full path: (source, document id, SHA-256, whether it was refused)."""
        rows = self.file.rows(
            "SELECT s.full_path, s.root, s.size_bytes, s.mtime_ns, s.document_id, d.sha256, d.refusal != ''"
            " FROM sources s JOIN documents d ON d.id = s.document_id"
        )
        return {row[0]: (Source(*row[:4]), row[4], row[5], bool(row[6])) for row in rows}

    def document_by_hash(self, sha256: str) -> int | None:
        """Give the id of the document with this content."""
        row = self.file.row("SELECT id FROM documents WHERE sha256 = ?", sha256)
        return int(row[0]) if row else None

    def add(self, prepared: Prepared, source: Source) -> int:
        """Keep a document whole, with what lies within it, in place of whatever was known at this path. Gives its id."""
        with self.file.writing() as connection:
            before = writing.known_as(connection, source.full_path)
            writing.release(connection, source.full_path)
            others = writing.release_content(connection, prepared.sha256)
            # A document that changed keeps its call-mark: sheets cite it by that.
            document_id = writing.insert_document(connection, prepared, None, "", mark=before)
            places = [writing.source_row(source, document_id), *((*row[:2], document_id, *row[3:]) for row in others)]
            connection.executemany("INSERT INTO sources VALUES (?, ?, ?, ?, ?)", places)
            for part in prepared.parts:
                if part.prepared is not None:
                    writing.insert_document(connection, part.prepared, document_id, part.name)
                else:
                    writing.insert_refused(
                        connection, None, PurePosixPath(part.name), part.refusal, document_id, part.name
                    )
            what: What = "read again" if before or others else "added"
            self.journal.note(what, source.full_path, about=prepared.sha256)
        return document_id

    def parts_of(self, document_id: int) -> list[int]:
        """The documents within a file that could be read, in order."""
        return [
            row[0]
            for row in self.file.rows(
                "SELECT id FROM documents WHERE container_id = ? AND refusal = '' ORDER BY id", document_id
            )
        ]

    def set_vectors(self, document_id: int, prepared: Prepared) -> None:
        """Give a document its vectors, which was kept without; a document that is gone meanwhile stays gone."""
        with self.file.writing() as connection:
            connection.execute(
                "UPDATE indexes SET vectors = ?, line_vectors = ?, embedding_model = ?"
                " WHERE document_id = ? AND segment_id IS NULL",
                (
                    prepared.vectors.tobytes(),
                    prepared.line_vectors.tobytes(),
                    prepared.made_with.embedding,
                    document_id,
                ),
            )

    def remake(self, document_id: int, prepared: Prepared) -> None:
        """Put new passages, vectors and words in place of a document's old ones; its pages and its id stay."""
        with self.file.writing() as connection:
            connection.execute("DELETE FROM passages WHERE document_id = ?", (document_id,))
            connection.execute("DELETE FROM indexes WHERE document_id = ?", (document_id,))
            connection.execute(
                "UPDATE documents SET n_passages = ? WHERE id = ?", (len(prepared.passages), document_id)
            )
            writing.insert_passages(connection, prepared, document_id)

    def made_with(self) -> dict[int, tuple[MadeWith, int]]:
        """What each document's passages and vectors were made with, and how many passages there are."""
        rows = self.file.rows(
            "SELECT i.document_id, i.embedding_model, i.splitting, i.reader, d.n_passages"
            " FROM indexes i JOIN documents d ON d.id = i.document_id"
        )
        return {row[0]: (MadeWith(*row[1:4]), row[4]) for row in rows}

    def containers(self) -> dict[int, int]:
        """From each document that lies within another to that one."""
        return dict(self.file.rows("SELECT id, container_id FROM documents WHERE container_id IS NOT NULL"))

    def read_file(self, document: Document) -> ReadFile:
        """Give a document as it was read, to be split and embedded anew."""
        pages = tuple(self.pages(document.document_id))
        return ReadFile(document.kind, document.title, pages, document.notes, document.details, document.language)

    def add_refused(self, source: Source, sha256: str | None, reason: str) -> None:
        """Keep a file that could not be read as a document with the reason."""
        with self.file.writing() as connection:
            writing.release(connection, source.full_path)
            document_id = writing.insert_refused(connection, sha256, PurePosixPath(source.full_path), reason, None, "")
            connection.execute("INSERT INTO sources VALUES (?, ?, ?, ?, ?)", writing.source_row(source, document_id))
            self.journal.note("refused", f"{source.full_path}: {reason}", about=sha256 or source.full_path)

    def take_out(self, full_paths: Iterable[str], *, forgets_names: bool = False) -> None:
        """Forget files for good, with what lies within them: an update does not bring them back. They stay on disk.

        Their paths are remembered for that, or a hash of each where not even the name may be.
        """
        with self.file.writing() as connection:
            for full_path in full_paths:
                sha256 = writing.release(connection, full_path)
                connection.execute(
                    "INSERT OR IGNORE INTO taken_out VALUES (?)",
                    (hidden_name(full_path) if forgets_names else full_path,),
                )
                if not forgets_names:
                    self.journal.note("taken out", full_path, about=sha256)

    def let_in(self, full_paths: Iterable[str]) -> None:
        """Undo `take_out`: the next update reads them again."""
        with self.file.writing() as connection:
            names = [name for one in full_paths for name in (one, hidden_name(one))]
            connection.executemany("DELETE FROM taken_out WHERE full_path = ?", ((name,) for name in names))

    def taken_out(self) -> set[str]:
        """Files that an update leaves alone: full paths, and hidden names of those that were erased."""
        return {row[0] for row in self.file.rows("SELECT full_path FROM taken_out")}

    def set_source(self, source: Source, document_id: int) -> None:
        """Note that a known document lies at this path, in place of whatever was known there."""
        with self.file.writing() as connection:
            writing.release(connection, source.full_path, keep=document_id)
            connection.execute(
                "INSERT OR REPLACE INTO sources VALUES (?, ?, ?, ?, ?)", writing.source_row(source, document_id)
            )

    def remove_sources(self, full_paths: Iterable[str]) -> None:
        """Forget files; a document goes with its last one."""
        with self.file.writing() as connection:
            for full_path in full_paths:
                sha256 = writing.release(connection, full_path)
                self.journal.note("removed", full_path, about=sha256)

    # Where its documents come from

    def followed(self) -> list[Path]:
        """The folders and single files that an update looks at."""
        return [path_of(row[0]) for row in self.file.rows("SELECT full_path FROM followed ORDER BY 1")]

    def follow(self, paths: Iterable[Path]) -> None:
        """Look at these folders and files from now on, too; what lies within a followed folder needs no line of its own."""
        with self.file.writing() as connection:
            known = self.followed()
            for path in paths:
                if not any(path == one or path.is_relative_to(one) for one in known):
                    within = [(path_text(one),) for one in known if one.is_relative_to(path)]
                    connection.executemany("DELETE FROM followed WHERE full_path = ?", within)
                    connection.execute("INSERT OR IGNORE INTO followed VALUES (?)", (path_text(path),))

    def unfollow(self, path: Path) -> None:
        """Look at a folder or file no longer; its documents stay."""
        with self.file.writing() as connection:
            connection.execute("DELETE FROM followed WHERE full_path = ?", (path_text(path),))

    # Pages, passages and what is cited from them

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
                key, document_id, page_number, start, end, heading = row[:6]
                words = writing.unpack_text(row[7])[start:end]
                found[passage_id] = StoredPassage(key, document_id, page_number, start, end, heading, words, lines)
        return [found[one] for one in passage_ids if one in found]

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

    def loose_segment(self, document_id: int, dimensions: int, embedding: str) -> Segment | None:
        """Give what finding needs of one document that lies in no segment; None if it has nothing.

        Vectors of another embedding model than the one named are never given,
        for they must not be compared: zeros stand in their place, so that the
        document is found by its words until it is embedded again.
        """
        with self.file.snapshot():
            row = self.file.row(
                "SELECT vectors, words, embedding_model FROM indexes WHERE document_id = ?", document_id
            )
            passages = self.file.rows(
                "SELECT id, page_number, length(lines) / 8 FROM passages WHERE document_id = ? ORDER BY id", document_id
            )
        if row is None:
            return None
        columns = list(zip(*passages, strict=True)) or [(), (), ()]
        if MadeWith(row[2]).is_embedded_by(embedding):
            vectors = np.frombuffer(row[0], np.int8).reshape(-1, dimensions)
        else:
            vectors = np.zeros((len(passages), dimensions), np.int8)
        return Segment(
            np.array(columns[0], np.int64),
            np.full(len(passages), document_id, np.int64),
            np.array(columns[1], np.int32),
            np.array(columns[2], np.int32),
            vectors,
            unpack_counts(row[1]),
        )

    def line_vectors(self, wanted: Mapping[int, LinesWanted], embedding: str) -> dict[int, list[PackedLines]]:
        """The vectors of some lines as they are kept; `restore_lines` opens them.

        Parameters
        ----------
        wanted : mapping
            From a document's id to which of its lines, in order.
        embedding : str
            The identity of the model that they must have been made by.

        Returns
        -------
        dict
            For each document uint8 arrays of shape (n, width), one for each span;
            without those that have none, or none of this model.
        """
        marks = ",".join("?" * len(wanted))
        rows = self.file.rows(
            f"SELECT document_id, embedding_model FROM indexes WHERE document_id IN ({marks})", *wanted
        )
        found = {}
        for document_id, made_by in rows:
            spans, n_lines = wanted[document_id]
            if not n_lines or not MadeWith(made_by).is_embedded_by(embedding):
                continue
            # Only the wanted part of what may be megabytes is read and decrypted.
            with self.file.blob("indexes", "line_vectors", document_id) as blob:
                width, rest = divmod(len(blob), n_lines)
                if width and not rest:
                    found[document_id] = _parts(blob, spans, width)
        return found

    def gather(self, dimensions: int) -> bool:
        """Merge loose documents into segments once there are many, and leave out what is dead; gives whether any was.

        Finding gives the same before and after.
        """
        n_written = self.segments.write_anew(only_if_many=True)
        loose = self.segments.loose()
        made = {document_id: one.embedding for document_id, (one, _) in self.made_with().items()}
        by_model: dict[str, list[tuple[int, int]]] = {}
        for document_id, n_passages in loose:
            by_model.setdefault(made[document_id], []).append((document_id, n_passages))
        for embedding, members in by_model.items():
            if sum(n for _, n in members) < MERGED_FROM:
                continue
            for chosen in _groups(members):
                parts = [self.loose_segment(one, dimensions, embedding) for one in chosen]
                self.segments.keep(merge([one for one in parts if one is not None], dimensions), embedding)
                n_written += 1
        if n_written:
            self.file.give_back_space()
        return bool(n_written)


def _parts(blob: Any, spans: Sequence[tuple[int, int]], width: int) -> list[PackedLines]:
    """Read some rows of a blob; at once where they are most of what lies between the first and the last."""
    begin, end = spans[0][0], spans[-1][1]
    if 2 * sum(last - first for first, last in spans) >= end - begin:
        whole = _rows(blob, begin, end, width)
        return [whole[first - begin : last - begin] for first, last in spans]
    return [_rows(blob, first, last, width) for first, last in spans]


def _rows(blob: Any, first: int, last: int, width: int) -> PackedLines:
    blob.seek(first * width)
    return np.frombuffer(blob.read((last - first) * width), np.uint8).reshape(last - first, width)


def _groups(members: list[tuple[int, int]]) -> list[list[int]]:
    """Documents with their numbers of passages, in groups of at most MOST_PASSAGES; a larger one is alone."""
    groups: list[list[int]] = []
    room = 0
    for document_id, n_passages in members:
        if n_passages > room or not groups:
            groups.append([])
            room = MOST_PASSAGES
        groups[-1].append(document_id)
        room -= n_passages
    return groups


def hidden_name(full_path: str) -> str:
    """What stands for a path that must not be remembered."""
    return "hash " + hashlib.sha256(full_path.encode()).hexdigest()
