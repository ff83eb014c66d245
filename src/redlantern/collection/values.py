# SPDX-License-Identifier: GPL-3.0-or-later
"""What a collection gives back: documents, passages and the words they cite."""

import fnmatch
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Any, Literal

from redlantern.reading.values import Box, cells_of_row
from redlantern.safety.names import path_of, visible
from redlantern.splitting.headings import Headings


@dataclass(frozen=True, slots=True)
class Document:
    """One document in a collection: a file, or what lies within one. A refused one has a reason and no pages.

    `path` is relative to the folder it was added from, `full_path` absolute;
    both go on with `part` for a document within a file, which `container_id`
    then names; `sha256` and `size_bytes` are the file's. `details` is what helps to cite it; `notes` are sentences about
    how it was read. `copies` are the full paths of other files with the
    same content. `beside` names the collection of a document that is asked with those of
    another. `has_meaning` is False while it can only be found by its words, for the embedding model has not come to it yet.
    `n_recognised` counts pages read by text recognition,
    `confidence` is their mean, `n_unread` counts pages that gave no text although
    they should have.
    """

    document_id: int
    call_mark: str
    title: str
    kind: str
    path: str
    full_path: str
    sha256: str
    size_bytes: int
    n_pages: int
    n_passages: int
    is_refused: bool = False
    reason: str = ""
    language: str = ""
    details: Mapping[str, str] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    container_id: int | None = None
    part: str = ""
    mtime_ns: int = 0
    n_recognised: int = 0
    confidence: float = 1.0
    n_unread: int = 0
    n_warned: int = 0
    copies: tuple[str, ...] = ()
    beside: str = ""
    has_meaning: bool = True

    @property
    def key(self) -> str:
        """Names its content, also when it is read again."""
        return f"{self.sha256}/{self.part}"

    def fits(self, pattern: str) -> bool:
        """Whether its path, file name or call-mark fits a pattern (`letters/*`, `*.pdf`, `SUR`)."""
        names = (self.path, PurePosixPath(self.path).name, self.call_mark)
        return any(fnmatch.fnmatchcase(name, pattern) for name in names)

    @property
    def shown_path(self) -> str:
        """Its path with every sign in it shown; see safety.names."""
        return visible(self.path)

    @property
    def file_path(self) -> Path:
        """The file on disk that it is or lies in."""
        return path_of(self.file_text)

    @property
    def file_text(self) -> str:
        """The path of that file as it is kept; see safety.names."""
        return self.full_path.removesuffix(f"/{self.part}") if self.part else self.full_path


@dataclass(frozen=True)
class StoredPassage:
    """A passage as stored. `lines` are (start, end) code points in the page's text, as `start` and `end` are."""

    passage_id: int
    document_id: int
    page_number: int
    start: int
    end: int
    headings: Headings
    text: str
    lines: tuple[tuple[int, int], ...]

    @property
    def kind(self) -> Literal["table", "prose"]:
        """Whether it is of a table or of prose: of a table the columns are known, or it would be no passage of its own."""
        return "table" if self.headings.columns else "prose"

    def line_text(self, index: int) -> str:
        """Give the text of a line."""
        start, end = self.lines[index]
        return self.text[start - self.start : end - self.start]

    def own_lines(self) -> list[int]:
        """The lines that are not the heading, which stands above them."""
        return [at for at in range(len(self.lines)) if self.line_text(at).strip() not in self.headings.printed]

    def line_cells(self, index: int) -> list[str]:
        """The cells of a line; one if it is no row of a table."""
        return cells_of_row(self.line_text(index))


@dataclass(frozen=True)
class Citation:
    """Enough to find and mark the very words again.

    `start` and `end` are code points in the page's stored text, end excluded,
    never empty. Boxes are in points from the top left corner of the page;
    there are none on a set page. `document_key` names the content that was cited.
    """

    document_id: int
    call_mark: str
    title: str
    path: str
    page_number: int
    start: int
    end: int
    text: str
    boxes: tuple[Box, ...]
    document_key: str = ""

    @property
    def mark(self) -> str:
        """The call-mark as it is printed, such as `SUR p.4`."""
        return f"{self.call_mark} p.{self.page_number}"

    def as_json(self) -> dict[str, Any]:
        """Give the form documented in docs/sheet-json.md."""
        return {
            "document": self.title,
            "call_mark": self.call_mark,
            "document_key": self.document_key,
            "path": self.path,
            "page": self.page_number,
            "start": self.start,
            "end": self.end,
            "text": self.text,
            "boxes": [[round(side, 1) for side in (box.left, box.top, box.right, box.bottom)] for box in self.boxes],
        }
