# SPDX-License-Identifier: GPL-3.0-or-later
"""Checks on a machine with the documents that every cited word stands on its page, in the file with that hash."""

import contextlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from redlantern.brief.citations import CitationsForm, CitedWords
from redlantern.models.register import sha256_of
from redlantern.progress import Cancel, Progress, Report
from redlantern.reading.errors import FileRefusedError
from redlantern.reading.pool import ReaderPool
from redlantern.reading.values import ReadFile
from redlantern.translation import tr

Verdict = Literal[
    "stands", "elsewhere on the page", "on another page", "not in the file", "file missing", "file not read"
]
_GOOD: tuple[Verdict, ...] = ("stands", "elsewhere on the page")


@dataclass(frozen=True)
class Verified:
    """One citation with its verdict; `page_number` is where its words stand, if that is another page."""

    cited: CitedWords
    mark: str
    title: str
    verdict: Verdict
    page_number: int = 0

    @property
    def is_good(self) -> bool:
        """Whether the words stand on the page that is cited."""
        return self.verdict in _GOOD


def verify(form: CitationsForm, folder: Path, readers: ReaderPool, *, report: Report, cancel: Cancel) -> list[Verified]:
    """Check every citation against the files of a folder and its sub-folders, found by their hashes.

    Raises
    ------
    Cancelled
    """
    wanted = {document.sha256 for document in form.documents}
    files = _files_by_hash(folder, wanted, report, cancel)
    titles = {(document.sha256, document.part): document for document in form.documents}
    read: dict[str, ReadFile | None] = {}
    found = []
    for number, cited in enumerate(form.citations, start=1):
        cancel.check()
        report(Progress(tr("Checking"), number, len(form.citations), "citations"))
        document = titles.get((cited.sha256, cited.part))
        mark = f"{document.mark} p.{cited.page}" if document is not None else f"p.{cited.page}"
        verdict, page_number = _verdict(cited, files, read, readers, cancel)
        found.append(Verified(cited, mark, document.title if document is not None else "", verdict, page_number))
    return found


def _verdict(
    cited: CitedWords, files: Mapping[str, Path], read: dict[str, ReadFile | None], readers: ReaderPool, cancel: Cancel
) -> tuple[Verdict, int]:
    path = files.get(cited.sha256)
    if path is None:
        return "file missing", 0
    if cited.sha256 not in read:
        try:
            read[cited.sha256] = readers.read(path, cancel)
        except FileRefusedError:
            read[cited.sha256] = None
    whole = read[cited.sha256]
    inner = _part(whole, cited.part) if whole is not None else None
    if inner is None:
        return "file not read", 0
    words = _plain(cited.words)
    page = next((page for page in inner.pages if page.page_number == cited.page), None)
    if page is not None and page.text[cited.start : cited.end] == cited.words:
        return "stands", 0
    if page is not None and words and words in _plain(page.text):
        return "elsewhere on the page", 0
    other = next((page for page in inner.pages if words and words in _plain(page.text)), None)
    return ("on another page", other.page_number) if other is not None else ("not in the file", 0)


def _part(read: ReadFile, part: str) -> ReadFile | None:
    """What lies within a file under this name; the file itself for none."""
    if not part:
        return read
    return next((inner.read for inner in read.parts if inner.name == part), None)


def _files_by_hash(folder: Path, wanted: set[str], report: Report, cancel: Cancel) -> dict[str, Path]:
    found: dict[str, Path] = {}
    paths = list(_regular_files(folder))
    for number, path in enumerate(paths, start=1):
        cancel.check()
        report(Progress(tr("Looking for the files"), number, len(paths), "files"))
        with contextlib.suppress(OSError):
            sha256 = sha256_of(path)
            if sha256 in wanted:
                found.setdefault(sha256, path)
    return found


def _regular_files(folder: Path) -> Iterator[Path]:
    for path in sorted(folder.rglob("*")):
        if path.is_file() and not path.is_symlink():
            yield path


def _plain(text: str) -> str:
    return " ".join(text.split())
