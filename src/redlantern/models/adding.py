# SPDX-License-Identifier: GPL-3.0-or-later
"""Puts packaged models in their place from a folder, each compared with the hash it was released with."""

import contextlib
import fcntl
import hashlib
import os
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from redlantern.errors import RedlanternError
from redlantern.models.register import EMBEDDINGS, READERS, KeptFile, ModelMissingError, PackagedFile, sha256_of
from redlantern.progress import Cancel, Progress, Report
from redlantern.safety.places import data_directory, private_directory
from redlantern.safety.placing import sync_folder
from redlantern.translation import tr

_PIECE_BYTES = 4 * 2**20
_SPARE_BYTES = 50 * 2**20
_BESIDE = ".adding-"


class ModelsNotAddedError(RedlanternError):
    """Models could not be put in their place, and why."""

    def __init__(self, reason: str) -> None:
        super().__init__(reason)
        self.reason = reason

    def __str__(self) -> str:
        return tr("No more models were added: {reason}. What was added before is there.").format(reason=self.reason)


@dataclass(frozen=True)
class ModelFile:
    """One file of a packaged model, by the name that it has in a folder of models."""

    name: str
    file_name: str
    sha256: str
    _file: PackagedFile | KeptFile

    def found(self) -> Path | None:
        """Where it is on this machine; None where it is not."""
        with contextlib.suppress(ModelMissingError):
            return self._file.path()
        return None


@dataclass(frozen=True)
class Added:
    """What came of it: names of models' files that were added, that were here already, and that are nowhere."""

    added: tuple[str, ...]
    present: tuple[str, ...]
    missing: tuple[str, ...]


def packaged_files() -> list[ModelFile]:
    """Every file of the packaged models."""
    embeddings = {part.name: part for parts in EMBEDDINGS.values() for part in parts}
    files: list[PackagedFile | KeptFile] = [
        file for part in embeddings.values() for file in (part.weights, part.tokenizer)
    ]
    return [ModelFile(file.model_name, file.file_name, file.sha256, file) for file in (*files, *READERS)]


def add_from(folder: Path, *, report: Report, cancel: Cancel) -> Added:
    """Copy from a folder every packaged model's file that is not here yet, if its hash is right.

    Raises
    ------
    ModelsNotAddedError
        If the folder is not there, a file in it is not what was released, or the disk is full.
    Cancelled
    """
    if not folder.is_dir():
        raise ModelsNotAddedError(f"there is no folder {folder}")
    place = private_directory(data_directory() / "models")
    with (place / ".lock").open("w") as lock:
        # Of two at once the second waits, and finds what the first one added.
        fcntl.flock(lock, fcntl.LOCK_EX)
        for left in place.glob(f"{_BESIDE}*"):
            left.unlink()  # of one that was killed
        return _added_from(folder, place, report, cancel)


def _added_from(folder: Path, place: Path, report: Report, cancel: Cancel) -> Added:
    wanted = packaged_files()
    added, present, missing = [], [], []
    for at, each in enumerate(wanted):
        report(Progress(tr("Adding"), at, len(wanted), "files", each.file_name))
        source = folder / each.file_name
        here = each.found()
        if here is not None and sha256_of(here) == each.sha256:
            present.append(each.file_name)
        elif source.is_file():
            _take(source, place / each.file_name, each.sha256, cancel)
            added.append(each.file_name)
        else:
            missing.append(each.file_name)
    report(Progress(tr("Adding"), len(wanted), len(wanted), "files"))
    return Added(tuple(added), tuple(present), tuple(missing))


def _take(source: Path, target: Path, sha256: str, cancel: Cancel) -> None:
    """Copy one file, hashed on its way, and give it its name only when it is the right one and on the disk."""
    if shutil.disk_usage(target.parent).free < source.stat().st_size + _SPARE_BYTES:
        raise ModelsNotAddedError(f"the disk has no room for {target.name}")
    digest = hashlib.sha256()
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=_BESIDE)
    beside = Path(name)
    try:
        with os.fdopen(handle, "wb") as file, source.open("rb") as given:
            while piece := given.read(_PIECE_BYTES):
                cancel.check()
                digest.update(piece)
                file.write(piece)
            file.flush()
            os.fsync(file.fileno())
        if digest.hexdigest() != sha256:
            raise ModelsNotAddedError(f"{source} is not the file that was released")
        beside.replace(target)
        sync_folder(target.parent)
    except OSError as failure:
        raise ModelsNotAddedError(f"{target.name}: {failure.strerror or 'unknown error'}") from failure
    finally:
        beside.unlink(missing_ok=True)


def names(files: Sequence[str]) -> str:
    """Names of files in a sentence."""
    return ", ".join(files) or "none"
