"""What a collection gives back: documents, passages and the words they cite."""

from dataclasses import dataclass
from typing import Any

from redlantern.reading.values import Box


@dataclass(frozen=True)
class Document:
    """One file in a collection. A refused one has a reason and no pages.

    `path` is relative to the folder it was added from, `full_path` absolute.
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


@dataclass(frozen=True)
class StoredPassage:
    """A passage as stored. `lines` are (start, end) code points in the page's text, as `start` and `end` are."""

    passage_id: int
    document_id: int
    page_number: int
    start: int
    end: int
    heading: str
    text: str
    lines: tuple[tuple[int, int], ...]

    def line_text(self, index: int) -> str:
        """Give the text of a line."""
        start, end = self.lines[index]
        return self.text[start - self.start : end - self.start]


@dataclass(frozen=True)
class Citation:
    """Enough to find and mark the very words again.

    `start` and `end` are code points in the page's stored text, end excluded,
    never empty. Boxes are in points from the top left corner of the page;
    there are none on a set page.
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

    @property
    def mark(self) -> str:
        """The call-mark as it is printed, such as `SUR p.4`."""
        return f"{self.call_mark} p.{self.page_number}"

    def as_json(self) -> dict[str, Any]:
        """Give the form documented in docs/sheet-json.md."""
        return {
            "document": self.title,
            "call_mark": self.call_mark,
            "path": self.path,
            "page": self.page_number,
            "start": self.start,
            "end": self.end,
            "text": self.text,
            "boxes": [[round(side, 1) for side in (box.left, box.top, box.right, box.bottom)] for box in self.boxes],
        }
