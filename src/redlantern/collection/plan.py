"""What an update would do: which files are new, changed, moved, gone or as they were."""

import hashlib
import os
import stat
from collections.abc import Collection as Collection_
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from redlantern.collection import errors
from redlantern.collection.store import Collection, Source
from redlantern.progress import Cancel

_HASH_PIECE_BYTES = 4 * 2**20


@dataclass(frozen=True)
class Planned:
    """A file to be read, with its content's SHA-256; None and a reason when it could not even be opened."""

    source: Source
    sha256: str | None
    is_change: bool = False
    problem: str = ""


@dataclass
class UpdatePlan:
    """What an update would do. Paths are absolute."""

    to_read: list[Planned] = field(default_factory=list)
    moved: list[tuple[Source, int]] = field(default_factory=list)
    copies: list[tuple[Source, int]] = field(default_factory=list)
    copies_of_new: list[Planned] = field(default_factory=list)
    touched: list[tuple[Source, int]] = field(default_factory=list)
    gone: list[str] = field(default_factory=list)
    n_unchanged: int = 0


def make_plan(
    collection: Collection, paths: Sequence[Path], cancel: Cancel, again: Collection_[str] = frozenset()
) -> UpdatePlan:
    """Compare folders and files with what the collection holds. Changes nothing.

    A file is unchanged when its size and time are, or else when its SHA-256 is.
    Those in `again` (full paths) are read whatever they are; those that were
    taken out are left alone.

    Raises
    ------
    SourceMissingError
        If one of the paths is not there: nothing may be taken for gone then.
    NothingToReadError
        If there is no file in any of them, and the collection has none from there.
    """
    # absolute() and not resolve(): a link must not lead out of the folder it is in.
    sources = _scan([path.absolute() for path in paths])
    known, taken_out = collection.sources(), collection.taken_out()
    roots = [str(path.absolute()) for path in paths]
    plan = UpdatePlan()
    plan.gone = [path for path in known if path not in sources and _is_under(path, roots)]
    if not sources and not plan.gone:
        raise errors.NothingToReadError(str(paths[0]))
    seen: dict[str, Planned] = {}
    gone_by_hash = {known[path][2]: path for path in plan.gone}
    for source in sources.values():
        cancel.check()
        before = known.get(source.full_path)
        is_again = source.full_path in again
        if source.full_path in taken_out:
            continue
        if (
            not is_again
            and before
            and before[2]
            and (before[0].size_bytes, before[0].mtime_ns) == (source.size_bytes, source.mtime_ns)
        ):
            plan.n_unchanged += 1
            continue
        try:
            sha256 = _hash(source.full_path, cancel)
        except OSError as failure:
            plan.to_read.append(Planned(source, None, before is not None, failure.strerror or "unknown error"))
            continue
        if is_again:
            plan.to_read.append(Planned(source, sha256, before is not None and before[2] != sha256))
        elif before and before[2] == sha256:
            plan.n_unchanged += 1
            plan.touched.append((source, before[1]))
        elif sha256 in gone_by_hash:
            plan.moved.append((source, known[gone_by_hash[sha256]][1]))
        elif (document_id := collection.document_by_hash(sha256)) is not None:
            plan.copies.append((source, document_id))
        elif sha256 in seen:
            plan.copies_of_new.append(Planned(source, sha256))
        else:
            seen[sha256] = Planned(source, sha256, before is not None)
            plan.to_read.append(seen[sha256])
    return plan


def list_files(paths: Sequence[Path]) -> list[Path]:
    """The regular files in folders and below them, in order; links are not followed, hidden files not looked at.

    Raises
    ------
    SourceMissingError
        If one of the paths is not there.
    """
    return [Path(one) for one in _scan([path.absolute() for path in paths])]


def _is_under(path: str, roots: list[str]) -> bool:
    return any(path == root or path.startswith(root.rstrip("/") + "/") for root in roots)


def _scan(paths: list[Path]) -> dict[str, Source]:
    """List the regular files under the paths. Links are not followed, hidden files not looked at."""
    found: dict[str, Source] = {}
    for path in paths:
        if not path.exists():
            raise errors.SourceMissingError(str(path))
        if path.is_dir():
            for folder, folders, names in os.walk(path, followlinks=False):
                folders[:] = sorted(name for name in folders if not name.startswith("."))
                for name in sorted(names):
                    if not name.startswith((".", "~$")):
                        _note(found, Path(folder) / name, path)
        else:
            _note(found, path, path.parent)
    return found


def _note(found: dict[str, Source], path: Path, root: Path) -> None:
    try:
        status = path.lstat()
    except OSError:
        return  # it went away while the folder was listed
    if stat.S_ISREG(status.st_mode):
        found[str(path)] = Source(str(path), str(root), status.st_size, status.st_mtime_ns)


def _hash(full_path: str, cancel: Cancel) -> str:
    digest = hashlib.sha256()
    # O_NOFOLLOW and O_NONBLOCK: the name may have come to stand for a link or a pipe since it was listed.
    handle = os.open(full_path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    with os.fdopen(handle, "rb") as file:
        while piece := file.read(_HASH_PIECE_BYTES):
            cancel.check()
            digest.update(piece)
    return digest.hexdigest()
