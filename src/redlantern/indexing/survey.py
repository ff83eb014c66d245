# SPDX-License-Identifier: GPL-3.0-or-later
"""What lies in a folder before anything of it is read: how many files of which kinds, and about how long reading takes.

Kinds go by the files' endings; of each file only the first bytes are compared,
with those of the kinds that are never read. What a file really holds is found
out by the reader, in a process of its own.
"""

import os
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from redlantern.indexing.scanning import is_ours, scan
from redlantern.indexing.update import SLOW_PER_BYTE_S
from redlantern.progress import Cancel, Progress, Report
from redlantern.reading.kinds import unread_kind
from redlantern.safety.names import path_of
from redlantern.translation import tr

_FAMILIES = {
    "PDF": ".pdf",
    "Letters and reports": ".docx .odt .rtf",
    "Tables": ".xlsx .ods .csv .tsv .tab",
    "Slides": ".pptx .odp",
    "Mail": ".eml .mbox",
    "Web pages and books": ".html .htm .xhtml .epub",
    "Plain text": ".txt .md .markdown .mdown .text .log",
    "Pictures of pages": ".png .jpg .jpeg .tif .tiff",
}
_FAMILY_OF = {ending: family for family, endings in _FAMILIES.items() for ending in endings.split()}
OTHERS = tr("Others, looked at when they are read")
_EMPTY, _CLOSED = tr("Empty files"), tr("Files that this login may not open")
_SECONDS_A_PICTURE = 4.0
"""Text recognition of one page on a slow machine."""
_HEAD_BYTES = 16
_EACH = 200


@dataclass(frozen=True)
class Survey:
    """Files by kind, those that are not read by what they are, their bytes, and about how many seconds reading takes."""

    counts: dict[str, int] = field(default_factory=dict)
    unread: dict[str, int] = field(default_factory=dict)
    n_bytes: int = 0
    seconds: float = 0.0

    @property
    def n_files(self) -> int:
        """How many files would be read."""
        return sum(self.counts.values())

    @property
    def n_unread(self) -> int:
        """How many would not."""
        return sum(self.unread.values())


def survey(paths: Sequence[Path], *, report: Report, cancel: Cancel) -> Survey:
    """Look over files and folders; changes nothing.

    Raises
    ------
    SourceMissingError
        If one of the paths is not there.
    Cancelled
    """
    counts: Counter[str] = Counter()
    unread: Counter[str] = Counter()
    n_bytes, seconds = 0, 0.0
    sources = [
        source for name, source in scan([path.absolute() for path in paths], cancel).items() if not is_ours(name)
    ]
    for at, source in enumerate(sources):
        if at % _EACH == 0:
            cancel.check()
            report(Progress(tr("Looking"), at, len(sources), "files"))
        why = _EMPTY if not source.size_bytes else _why_not(path_of(source.full_path))
        if why:
            unread[why] += 1
            continue
        family = _FAMILY_OF.get(os.path.splitext(source.full_path)[1].lower(), OTHERS)  # noqa: PTH122 # names need not be UTF-8
        counts[family] += 1
        n_bytes += source.size_bytes
        seconds += _SECONDS_A_PICTURE if family == "Pictures of pages" else source.size_bytes * SLOW_PER_BYTE_S
    in_order = {family: counts[family] for family in (*_FAMILIES, OTHERS) if counts[family]}
    return Survey(in_order, dict(unread.most_common()), n_bytes, seconds)


def _why_not(path: Path) -> str:
    try:
        # The name may have come to stand for a link or a pipe since it was listed.
        handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    except OSError:
        return _CLOSED
    with os.fdopen(handle, "rb") as file:
        return unread_kind(file.read(_HEAD_BYTES))
