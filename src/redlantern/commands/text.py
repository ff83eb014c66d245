# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern text`: writes what was read as Markdown, one file a document, in the same sub-folders."""

import hashlib
import re
from pathlib import Path, PurePosixPath

from redlantern.application.exporting import put_exported
from redlantern.collection.values import Document
from redlantern.commands.shared import plain
from redlantern.commands.unlock import open_collection
from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, Page
from redlantern.safety.names import visible

_ENDING = ".md"
_MOST_NAME_BYTES = 200
"""Of one part of a path: file systems take 255, and an ending, a number and the name of a file being written come on top."""
_DIGEST_CHARS = 8


def text(path: Path, folder: Path, *, passphrase_source: str | None) -> int:
    """Write every readable document to `folder`, for this login alone; each page is preceded by `<!-- page N -->`."""
    collection = open_collection(path, passphrase_source)
    try:
        documents = [document for document in collection.documents() if document.n_pages]
        if not collection.is_read_only:
            collection.journal.note("exported", f"text of {len(documents)} documents to {folder}")
        for document, place in zip(documents, inner_paths(documents, _ENDING), strict=True):
            pages = "\n\n".join(page_markdown(page) for page in collection.pages(document.document_id))
            put_exported(folder / place, f"{pages}\n".encode("utf-8", "surrogateescape"))
    finally:
        collection.close()
    print(f"{len(documents)} documents written to {plain(str(folder))}")
    return 0


def page_markdown(page: Page) -> str:
    """One page as Markdown: headings, list items and tables marked, headers and footers left as they stand.

    Words of the document are words in it, too: no HTML, no link, no picture from elsewhere, no heading.
    """
    parts = [f"<!-- page {page.page_number} -->"]
    for block in page.blocks:
        words = page.text[block.start : block.end]
        if block.kind == "heading":
            parts.append(f"{'#' * max(1, min(block.level, 6))} {_escaped(words)}")
        elif block.kind == "table":
            parts.append(_table(words))
        elif block.kind == "list item":
            parts.append(_escaped(words) if words[:1].isdigit() else f"- {_escaped(words.lstrip('•-* '))}")
        else:
            parts.append(_escaped(words))
    return "\n\n".join(parts)


def inner_paths(documents: list[Document], ending: str) -> list[Path]:
    """A place for each document below a folder, with this ending: none leads out of it, none is another's, none is too long for a disk.

    Documents of two folders that have the same path in them get numbers.
    """
    taken: set[str] = set()
    found = []
    for document in documents:
        parts = [_part(part) for part in PurePosixPath(document.path).parts if part != "/"] or ["document"]
        for number in range(1, len(documents) + 2):
            numbered = f"{parts[-1]} ({number})" if number > 1 else parts[-1]
            place = Path(*parts[:-1], numbered + ending)
            # Some disks do not tell large letters from small ones.
            if str(place).casefold() not in taken:
                break
        taken.add(str(place).casefold())
        found.append(place)
    return found


def _part(name: str) -> str:
    """One part of a path as a name that is only a name."""
    shown = visible(name).strip()
    if not shown.strip("."):
        shown = f"_{shown}"
    raw = shown.encode("utf-8", "replace")
    if len(raw) <= _MOST_NAME_BYTES:
        return shown
    kept = raw[: _MOST_NAME_BYTES - _DIGEST_CHARS - 1].decode("utf-8", "ignore")
    return f"{kept}~{hashlib.sha256(raw).hexdigest()[:_DIGEST_CHARS]}"


_SIGNS = re.compile(r"[\\`\[\]<>&]")
_AT_THE_BEGINNING = re.compile(r"^(\s*)([#=+~-])", re.MULTILINE)
_HTML = {"<": "&lt;", ">": "&gt;", "&": "&amp;"}


def _escaped(words: str) -> str:
    """Words in which nothing is a sign of Markdown or HTML that could show, link or load something."""
    inner = _SIGNS.sub(lambda match: _HTML.get(match.group(), f"\\{match.group()}"), words)
    return _AT_THE_BEGINNING.sub(r"\1\\\2", inner)


def _table(words: str) -> str:
    rows = [_escaped(row).replace("|", "\\|").split(CELL_SEPARATOR) for row in words.split(ROW_SEPARATOR)]
    n_columns = max(len(row) for row in rows)
    padded = [row + [""] * (n_columns - len(row)) for row in rows]
    lines = [f"| {' | '.join(row)} |" for row in padded]
    return "\n".join([lines[0], "|" + "---|" * n_columns, *lines[1:]])
