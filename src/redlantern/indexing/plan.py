# SPDX-License-Identifier: GPL-3.0-or-later
"""What an update would do: which files are new, changed, moved, gone or as they were."""

import hashlib
import os
from collections.abc import Collection as Collection_
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from redlantern.collection import errors
from redlantern.collection.documents import hidden_name
from redlantern.collection.opening import files_of
from redlantern.collection.prepared import NOT_EMBEDDED, MadeWith, Source
from redlantern.collection.store import Collection
from redlantern.indexing.scanning import is_ours, scan
from redlantern.indexing.split import is_current_splitting
from redlantern.progress import Cancel
from redlantern.safety.names import path_of, path_text

_HASH_PIECE_BYTES = 4 * 2**20


@dataclass(frozen=True)
class Planned:
    """A file to be read, with its content's SHA-256; None and a reason when it could not even be opened.

    `splitting` is how a document was split that is made anew; empty for the method's own.
    """

    source: Source
    sha256: str | None
    is_change: bool = False
    problem: str = ""
    splitting: str = ""


@dataclass
class UpdatePlan:
    """What an update would do. Paths are absolute.

    `to_read` holds the new and the changed files and those to be read again.
    `to_remake` pairs documents whose passages and vectors are to be made anew
    from their kept pages with the number of their passages. `not_there` are
    followed folders that are missing: their documents are left as they are.
    `looked_at` are the folders and files that were compared.
    """

    to_read: list[Planned] = field(default_factory=list)
    moved: list[tuple[Source, int]] = field(default_factory=list)
    copies: list[tuple[Source, int]] = field(default_factory=list)
    copies_of_new: list[Planned] = field(default_factory=list)
    touched: list[tuple[Source, int]] = field(default_factory=list)
    gone: list[str] = field(default_factory=list)
    refused_before: list[str] = field(default_factory=list)
    to_remake: list[tuple[int, int]] = field(default_factory=list)
    not_there: list[str] = field(default_factory=list)
    looked_at: list[str] = field(default_factory=list)
    read_anew: set[str] = field(default_factory=set)
    moved_from: set[str] = field(default_factory=set)
    n_unchanged: int = 0

    @property
    def new(self) -> list[str]:
        """Files that were not known."""
        copies = [copy.full_path for copy, _ in self.copies] + [
            planned.source.full_path for planned in self.copies_of_new
        ]
        fresh = [planned.source.full_path for planned in self.to_read if not planned.is_change]
        return sorted([path for path in fresh if path not in self.read_anew] + copies)

    @property
    def changed(self) -> list[str]:
        """Files whose content is another than it was."""
        return [
            planned.source.full_path
            for planned in self.to_read
            if planned.is_change and planned.source.full_path not in self.read_anew
        ]

    @property
    def has_work(self) -> bool:
        """Whether carrying it out would change anything that a person would notice."""
        return bool(self.to_read or self.moved or self.copies or self.copies_of_new or self.gone or self.to_remake)

    @property
    def n_changed(self) -> int:
        """How many files are new, changed or gone, as a person counts them."""
        return len(self.to_read) + len(self.gone) + len(self.copies) + len(self.copies_of_new)

    @property
    def n_bytes(self) -> int:
        """How much is to be read."""
        return sum(planned.source.size_bytes for planned in self.to_read)

    def as_json(self) -> dict[str, Any]:
        """Give the form documented in docs/commands.md."""
        return {
            "new": self.new,
            "changed": self.changed,
            "moved": [source.full_path for source, _ in self.moved],
            "gone": sorted(set(self.gone) - self.moved_from),
            "refused_before": self.refused_before,
            "made_anew": sorted(self.read_anew) + [f"document {document_id}" for document_id, _ in self.to_remake],
            "not_there": self.not_there,
            "unchanged": self.n_unchanged,
        }


def make_plan(
    collection: Collection,
    paths: Sequence[Path],
    cancel: Cancel,
    again: Collection_[str] = frozenset(),
    *,
    current: MadeWith | None = None,
    leaves_missing: bool = False,
) -> UpdatePlan:
    """Compare folders and files with what the collection holds. Changes nothing.

    A file is unchanged when its size and time are, or else when its SHA-256 is.

    Parameters
    ----------
    collection : Collection
    paths : sequence of Path
        Folders and files.
    cancel : Cancel
    again : collection of str
        Full paths of files to read whatever they are. Those that were taken out are left alone.
    current : MadeWith
        What documents are made with now; those made otherwise are made anew. None leaves them.
    leaves_missing : bool
        Leave the documents of a folder that is not there as they are, and say so, instead of failing.

    Raises
    ------
    SourceMissingError
        If one of the paths is not there: nothing may be taken for gone then.
    NothingToReadError
        If there is no file in any of them, and the collection has none from there.
    """
    plan = UpdatePlan()
    # absolute() and not resolve(): a link must not lead out of the folder it is in.
    wanted = [path.absolute() for path in paths]
    plan.looked_at = [path_text(path) for path in wanted]
    known = collection.sources()
    if leaves_missing:
        plan.not_there = _not_there(wanted, known)
        wanted = [path for path in wanted if path_text(path) not in plan.not_there]
    sources = scan([path for path in wanted if not leaves_missing or path.exists()], cancel)
    own = {path_text(path) for path in files_of(collection.path)}
    sources = {path: source for path, source in sources.items() if path not in own and not is_ours(path)}
    roots = [path_text(path) for path in wanted]
    plan.gone = [path for path in known if path not in sources and _is_under(path, roots)]
    if not sources and not plan.gone and not leaves_missing:
        raise errors.NothingToReadError(str(paths[0]))
    comparison = _Comparison(collection, plan, known, collection.taken_out(), cancel)
    if current is not None:
        comparison.find_outdated(current)
    else:
        comparison.find_unfinished()
    for source in sources.values():
        cancel.check()
        comparison.look_at(source, is_again=source.full_path in again)
    return plan


def _not_there(wanted: Sequence[Path], known: Collection_[str]) -> list[str]:
    """Those of the folders and files that are missing, and may come back."""
    # A single file whose folder is there was removed; a missing folder may be on a disk that is not connected.
    return [
        path_text(path)
        for path in wanted
        if not path.exists() and (path_text(path) not in known or not path.parent.is_dir())
    ]


class _Comparison:
    """Puts one file after another into the plan where it belongs."""

    def __init__(
        self,
        collection: Collection,
        plan: UpdatePlan,
        known: dict[str, tuple[Source, int, str | None, bool]],
        taken_out: set[str],
        cancel: Cancel,
    ) -> None:
        self._collection, self._plan, self._known, self._taken_out = collection, plan, known, taken_out
        self._cancel = cancel
        self._seen: dict[str, Planned] = {}
        self._gone_by_hash = {sha256: path for path in plan.gone if (sha256 := known[path][2])}
        self._to_read_anew: dict[int, str] = {}

    def find_unfinished(self) -> None:
        """Note the documents that the embedding model had not come to when an update was broken off."""
        made_with = self._collection.made_with()
        self._plan.to_remake = [
            (document_id, n) for document_id, (made, n) in made_with.items() if made.embedding == NOT_EMBEDDED
        ]

    def find_outdated(self, current: MadeWith) -> None:
        """Note which documents were made with something else than now."""
        containers = self._collection.containers()
        for document_id, (made, n_passages) in self._collection.made_with().items():
            if made.reader != current.reader:
                self._to_read_anew[containers.get(document_id, document_id)] = made.splitting
            elif not made.is_embedded_by(current.embedding) or not is_current_splitting(made.splitting):
                self._plan.to_remake.append((document_id, n_passages))
        read_anew = self._to_read_anew
        self._plan.to_remake = [
            outdated for outdated in self._plan.to_remake if containers.get(outdated[0], outdated[0]) not in read_anew
        ]  # fmt: skip

    def look_at(self, source: Source, *, is_again: bool) -> None:
        """Compare one file."""
        plan, path = self._plan, source.full_path
        before = self._known.get(path)
        if path in self._taken_out or (self._taken_out and hidden_name(path) in self._taken_out):
            return
        is_same = before is not None and before[2] is not None
        is_same = is_same and (before[0].size_bytes, before[0].mtime_ns) == (source.size_bytes, source.mtime_ns)  # type: ignore[index]
        splitting = self._to_read_anew.get(before[1]) if before else None
        if is_same and not is_again and splitting is None:
            self._note_unchanged(path)
            return
        try:
            sha256 = _hash(path, self._cancel)
        except OSError as failure:
            plan.to_read.append(Planned(source, None, before is not None, failure.strerror or "unknown error"))
            return
        is_same = before is not None and before[2] == sha256
        if is_again or (is_same and splitting is not None):
            plan.to_read.append(Planned(source, sha256, before is not None and not is_same, splitting=splitting or ""))
            if is_same:
                plan.read_anew.add(path)
        elif is_same and before is not None:
            self._note_unchanged(path)
            plan.touched.append((source, before[1]))
        elif sha256 in self._gone_by_hash:
            old = self._gone_by_hash[sha256]
            plan.moved.append((source, self._known[old][1]))
            plan.moved_from.add(old)
        elif (document_id := self._collection.document_by_hash(sha256)) is not None:
            plan.copies.append((source, document_id))
        elif sha256 in self._seen:
            plan.copies_of_new.append(Planned(source, sha256))
        else:
            self._seen[sha256] = Planned(source, sha256, before is not None)
            plan.to_read.append(self._seen[sha256])

    def _note_unchanged(self, path: str) -> None:
        if self._known[path][3]:
            self._plan.refused_before.append(path)
        else:
            self._plan.n_unchanged += 1


def _is_under(path: str, roots: list[str]) -> bool:
    return any(path == root or path.startswith(root.rstrip("/") + "/") for root in roots)


def _hash(full_path: str, cancel: Cancel) -> str:
    digest = hashlib.sha256()
    # O_NOFOLLOW and O_NONBLOCK: the name may have come to stand for a link or a pipe since it was listed.
    handle = os.open(path_of(full_path), os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    with os.fdopen(handle, "rb") as file:
        while piece := file.read(_HASH_PIECE_BYTES):
            cancel.check()
            digest.update(piece)
    return digest.hexdigest()
