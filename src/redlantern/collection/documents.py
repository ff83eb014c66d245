# SPDX-License-Identifier: GPL-3.0-or-later
"""The documents of a collection and the files that they come from: kept, looked up, taken out, followed."""

import hashlib
from collections.abc import Iterable
from pathlib import Path, PurePosixPath

from redlantern.collection import writing
from redlantern.collection.catalogue import Catalogue
from redlantern.collection.file import CollectionFile
from redlantern.collection.fingerprints import Version, versions
from redlantern.collection.journal import Journal, What
from redlantern.collection.prepared import Prepared, Source
from redlantern.collection.values import Document
from redlantern.safety.names import path_of, path_text


class Documents:
    """What a collection says of its documents as wholes, and how they come and go."""

    file: CollectionFile
    journal: Journal
    _catalogue: Catalogue

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
        return next((document for document in self.documents() if document.document_id == document_id), None)

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

    def remake(self, document_id: int, prepared: Prepared) -> None:
        """Put new passages, vectors and words in place of a document's old ones; its pages and its id stay."""
        with self.file.writing() as connection:
            connection.execute("DELETE FROM passages WHERE document_id = ?", (document_id,))
            connection.execute("DELETE FROM indexes WHERE document_id = ?", (document_id,))
            connection.execute(
                "UPDATE documents SET n_passages = ? WHERE id = ?", (len(prepared.passages), document_id)
            )
            writing.insert_passages(connection, prepared, document_id)

    def containers(self) -> dict[int, int]:
        """From each document that lies within another to that one."""
        return dict(self.file.rows("SELECT id, container_id FROM documents WHERE container_id IS NOT NULL"))

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
            names = [name for path in full_paths for name in (path, hidden_name(path))]
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

    def followed(self) -> list[Path]:
        """The folders and single files that an update looks at."""
        return [path_of(row[0]) for row in self.file.rows("SELECT full_path FROM followed ORDER BY 1")]

    def follow(self, paths: Iterable[Path]) -> None:
        """Look at these folders and files from now on, too; what lies within a followed folder needs no line of its own."""
        with self.file.writing() as connection:
            known = self.followed()
            for path in paths:
                if not any(path == followed or path.is_relative_to(followed) for followed in known):
                    within = [(path_text(followed),) for followed in known if followed.is_relative_to(path)]
                    connection.executemany("DELETE FROM followed WHERE full_path = ?", within)
                    connection.execute("INSERT OR IGNORE INTO followed VALUES (?)", (path_text(path),))

    def unfollow(self, path: Path) -> None:
        """Look at a folder or file no longer; its documents stay."""
        with self.file.writing() as connection:
            connection.execute("DELETE FROM followed WHERE full_path = ?", (path_text(path),))


def hidden_name(full_path: str) -> str:
    """What stands for a path that must not be remembered."""
    return "hash " + hashlib.sha256(full_path.encode()).hexdigest()
