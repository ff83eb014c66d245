# SPDX-License-Identifier: GPL-3.0-or-later
"""How files would be read and split, before anything is kept."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from redlantern.indexing.scanning import list_files
from redlantern.indexing.split import split_read
from redlantern.models.embedding import Embedder
from redlantern.progress import Cancel, Progress, Report
from redlantern.reading.errors import FileRefusedError
from redlantern.reading.pool import ReaderPool
from redlantern.reading.values import ReadFile
from redlantern.settings import Method
from redlantern.translation import tr

MOST_FILES = 40
"""A preview reads no more; it takes them evenly from all."""


@dataclass(frozen=True)
class Sample:
    """One file as it would be read; a refused one has a reason."""

    path: Path
    read: ReadFile | None
    refusal: str = ""


@dataclass(frozen=True)
class Preview:
    """The files that were read, and how many there are in all."""

    samples: tuple[Sample, ...]
    n_files: int


@dataclass(frozen=True)
class Split:
    """How the files of a preview would be split: the length of every passage in tokens, and the lines of each file."""

    n_tokens: tuple[int, ...]
    by_file: tuple[tuple[str, int], ...]


def read_samples(paths: Sequence[Path], readers: ReaderPool, *, report: Report, cancel: Cancel) -> Preview:
    """Read files and folders, or so many files of them; keeps nothing.

    Raises
    ------
    SourceMissingError, Cancelled
    """
    files = list_files(paths)
    step = max(1.0, len(files) / MOST_FILES)
    chosen = [files[int(index * step)] for index in range(min(MOST_FILES, len(files)))]
    samples = []
    for done, path in enumerate(chosen):
        cancel.check()
        report(Progress(tr("Reading a preview"), done, len(chosen), "files", path.name))
        try:
            samples.append(Sample(path, readers.read(path, cancel)))
        except FileRefusedError as refusal:
            samples.append(Sample(path, None, str(refusal)))
    report(Progress(tr("Reading a preview"), len(chosen), len(chosen), "files"))
    return Preview(tuple(samples), len(files))


def split_samples(preview: Preview, embedder: Embedder, method: Method) -> Split:
    """Split what a preview read under a method. Takes a fraction of a second; may be done again and again."""
    lengths: list[int] = []
    by_file = []
    for sample in preview.samples:
        if sample.read is None:
            continue
        n_before = len(lengths)
        for read in (sample.read, *(part.read for part in sample.read.parts if part.read)):
            passages = split_read(read, embedder, method)
            lengths.extend(passage.n_tokens for passage in passages)
        by_file.append((sample.path.name, len(lengths) - n_before))
    return Split(tuple(lengths), tuple(by_file))
