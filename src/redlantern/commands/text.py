"""`redlantern text`: writes what was read as Markdown, one file a document, in the same sub-folders."""

import os
import tempfile
from pathlib import Path, PurePosixPath

from redlantern.collection.errors import CannotWriteError
from redlantern.collection.values import Document
from redlantern.commands.unlock import open_collection
from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, Page


def text(path: Path, folder: Path, *, passphrase_source: str | None) -> int:
    """Write every readable document to `folder`; each page is preceded by `<!-- page N -->`."""
    collection = open_collection(path, passphrase_source)
    try:
        documents = [one for one in collection.documents() if one.n_pages]
        if not collection.is_read_only:
            collection.journal.note("exported", f"text of {len(documents)} documents to {folder}")
        for document in documents:
            pages = "\n\n".join(page_markdown(page) for page in collection.pages(document.document_id))
            _put(folder / _inner_path(document), pages + "\n")
    finally:
        collection.close()
    print(f"{len(documents)} documents written to {folder}")
    return 0


def page_markdown(page: Page) -> str:
    """One page as Markdown: headings, list items and tables marked, headers and footers left as they stand."""
    parts = [f"<!-- page {page.page_number} -->"]
    for block in page.blocks:
        words = page.text[block.start : block.end]
        if block.kind == "heading":
            parts.append(f"{'#' * max(1, min(block.level, 6))} {words}")
        elif block.kind == "table":
            parts.append(_table(words))
        elif block.kind == "list item":
            parts.append(words if words[:1].isdigit() else f"- {words.lstrip('•-* ')}")
        else:
            parts.append(words)
    return "\n\n".join(parts)


def _table(words: str) -> str:
    rows = [row.replace("|", "\\|").split(CELL_SEPARATOR) for row in words.split(ROW_SEPARATOR)]
    n_columns = max(len(row) for row in rows)
    padded = [row + [""] * (n_columns - len(row)) for row in rows]
    lines = [f"| {' | '.join(row)} |" for row in padded]
    return "\n".join([lines[0], "|" + "---|" * n_columns, *lines[1:]])


def _inner_path(document: Document) -> Path:
    # A path that leads out of the folder must not be followed, whatever a collection says.
    parts = [part for part in PurePosixPath(document.path).parts if part not in ("/", "..", ".")]
    return Path(*parts[:-1], f"{parts[-1]}.md")


def _put(target: Path, content: str) -> None:
    """Write beside the target, then put it in place in one step."""
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        handle, beside = tempfile.mkstemp(dir=target.parent, prefix=".writing-")
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        Path(beside).replace(target)
    except OSError as failure:
        raise CannotWriteError(str(target), failure.strerror or "unknown error") from failure
