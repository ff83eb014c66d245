"""DOCX, by python-docx: headings, lists, tables and page breaks in the order of the body."""

import re
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from redlantern.reading import errors
from redlantern.reading.setting import Piece, clean, set_pages
from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, ReadFile

MOST_UNPACKED_BYTES = 400 * 1024 * 1024
_HEADING_STYLE = re.compile(r"^(?:heading|überschrift|titre|título|titolo|kop)\s*(\d)", re.IGNORECASE)
_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"


def read_docx(path: Path) -> ReadFile:
    """Read a DOCX file; its title is its title property, its title paragraph or its first heading.

    Raises
    ------
    FileRefusedError
        If the archive is damaged or unpacks to more than a reader may hold.
    """
    import docx
    from docx.opc.exceptions import PackageNotFoundError
    from lxml.etree import XMLSyntaxError

    try:
        with zipfile.ZipFile(path) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > MOST_UNPACKED_BYTES:
                raise errors.too_large(MOST_UNPACKED_BYTES // 2**20)
        document = docx.Document(str(path))
        pieces = list(_pieces(document))
        stated = clean(document.core_properties.title or "")
    except (zipfile.BadZipFile, PackageNotFoundError, XMLSyntaxError, KeyError, ValueError, EOFError) as failure:
        raise errors.damaged("DOCX file") from failure
    pieces = [one for one in pieces if one.text]
    if not pieces:
        raise errors.empty_file()
    heading = next((one.text for one in pieces if one.kind == "heading"), "")
    return ReadFile("docx", stated or heading or path.stem.replace("_", " "), set_pages(pieces))


def _pieces(document: Any) -> Iterator[Piece]:
    from docx.table import Table
    from docx.text.paragraph import Paragraph

    breaks_page = False
    for child in document.element.body.iterchildren():
        if child.tag == f"{_W}p":
            paragraph = Paragraph(child, document)
            # A break before the words moves this paragraph; one after them moves the next.
            before, after = _page_breaks(child)
            if paragraph.text.strip():
                yield _from_paragraph(paragraph, breaks_page or before)
                breaks_page = after
            else:
                breaks_page = breaks_page or before or after
        elif child.tag == f"{_W}tbl":
            rows = [_cells(row) for row in Table(child, document).rows]
            yield Piece(
                "table", ROW_SEPARATOR.join(CELL_SEPARATOR.join(row) for row in rows if any(row)), 0, breaks_page
            )
            breaks_page = False


def _from_paragraph(paragraph: Any, breaks_page: bool) -> Piece:
    text = clean(paragraph.text)
    style = (paragraph.style.name or "") if paragraph.style is not None else ""
    heading = _HEADING_STYLE.match(style)
    if heading or style.lower() == "title":
        return Piece("heading", text, int(heading.group(1)) if heading else 1, breaks_page)
    is_listed = style.lower().startswith("list") or paragraph._p.find(f"{_W}pPr/{_W}numPr") is not None
    return Piece("list item" if is_listed else "paragraph", text, 0, breaks_page)


def _page_breaks(element: Any) -> tuple[bool, bool]:
    """Whether a hard page break stands before the first word of a paragraph, and after it."""
    before = element.find(f"{_W}pPr/{_W}pageBreakBefore") is not None
    has_words = after = False
    for node in element.iter(f"{_W}t", f"{_W}br"):
        if node.tag == f"{_W}t":
            has_words = has_words or bool(node.text)
        elif node.get(f"{_W}type") == "page":
            before, after = before or not has_words, after or has_words
    return before, after


def _cells(row: Any) -> list[str]:
    # A merged cell comes once for every column it spans; it is one cell to the reader.
    seen, cells = set(), []
    for cell in row.cells:
        if id(cell._tc) not in seen:
            seen.add(id(cell._tc))
            cells.append(clean(cell.text))
    return cells
