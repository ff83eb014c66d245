# SPDX-License-Identifier: GPL-3.0-or-later
"""ODT, ODP and ODS: their content.xml by lxml, block by block as the OpenDocument standard (ISO/IEC 26300) names them."""

from collections.abc import Iterator
from typing import Any

from redlantern.reading import archives, errors
from redlantern.reading.formats.workbook import MOST_CELLS, tables_of
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages, table_piece
from redlantern.reading.values import ReadFile

_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_DRAW = "{urn:oasis:names:tc:opendocument:xmlns:drawing:1.0}"
_PRESENTATION = "{urn:oasis:names:tc:opendocument:xmlns:presentation:1.0}"
_STYLE = "{urn:oasis:names:tc:opendocument:xmlns:style:1.0}"
_FO = "{urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0}"
_DC = "{http://purl.org/dc/elements/1.1/}"
_META = "{urn:oasis:names:tc:opendocument:xmlns:meta:1.0}"
_MOST_REPEATED = 500
_FREE_CELLS, _REPEATED_TO_STATED = 500, 50
"""So many cells of a table, and so many for each that is stated, may come of repeating rows."""
_MOST_SPACES = 100


def read_opendocument(material: Material) -> ReadFile:
    """Read a text, presentation or workbook; tracked changes count as accepted.

    Raises
    ------
    FileRefusedError
        If it is damaged, locked with a password, unsafe or holds no words.
    """
    with archives.opened(material) as archive:
        if "META-INF/manifest.xml" in archive.names and b"encryption-data" in archive.read("META-INF/manifest.xml"):
            raise errors.password_needed()
        if "content.xml" not in archive.names:
            raise errors.damaged("OpenDocument file")
        content = archive.xml("content.xml")
        meta = archive.xml("meta.xml") if "meta.xml" in archive.names else None
    body = content.find(f"{_OFFICE}body")
    if body is None:
        raise errors.damaged("OpenDocument file")
    kinds = {"text": ("odt", _text), "presentation": ("odp", _slides), "spreadsheet": ("ods", _sheets)}
    found = [(body.find(f"{_OFFICE}{name}"), *reader) for name, reader in kinds.items()]
    part, kind, pieces_of = next((piece for piece in found if piece[0] is not None), (None, "", _text))
    if part is None:
        raise errors.not_readable("This kind of OpenDocument file")
    pieces = [piece for piece in pieces_of(part, _page_breaks(content)) if piece.text]
    if not any(piece.kind != "heading" for piece in pieces):
        raise errors.no_text()
    heading = next((piece.text for piece in pieces if piece.kind == "heading"), "") if kind != "ods" else ""
    is_changed = content.find(f".//{_TEXT}tracked-changes") is not None
    return ReadFile(
        kind,
        _stated(meta, f"{_DC}title") or heading or material.plain_name,
        set_pages(pieces),
        ("It has tracked changes; they were read as accepted.",) if is_changed else (),
        details=_details(meta),
    )


def _stated(meta: Any, tag: str) -> str:
    found = meta.find(f".//{tag}") if meta is not None else None
    return clean(archives.text_of(found))[:200] if found is not None else ""


def _details(meta: Any) -> dict[str, str]:
    found = {
        "author": _stated(meta, f"{_DC}creator") or _stated(meta, f"{_META}initial-creator"),
        "date": _stated(meta, f"{_DC}date")[:10],
        "subject": _stated(meta, f"{_DC}subject"),
    }
    return {name: value for name, value in found.items() if value}


def _page_breaks(content: Any) -> set[str]:
    """Names of the automatic styles that begin a page."""
    names = set()
    for style in content.iter(f"{_STYLE}style"):
        properties = style.find(f"{_STYLE}paragraph-properties")
        if properties is not None and properties.get(f"{_FO}break-before") == "page":
            names.add(style.get(f"{_STYLE}name"))
    return names


def _text(element: Any, breaks: set[str], *, in_list: bool = False) -> Iterator[Piece]:
    for child in element:
        breaks_page = child.get(f"{_TEXT}style-name") in breaks
        if child.tag == f"{_TEXT}h":
            level = str(child.get(f"{_TEXT}outline-level") or "1")
            yield Piece("heading", _words(child), int(level) if level.isdigit() else 1, breaks_page)
        elif child.tag == f"{_TEXT}p":
            text = _words(child)
            yield Piece(
                "list item" if in_list else "paragraph", f"• {text}" if in_list and text else text, 0, breaks_page
            )
            yield from _notes(child)
            for box in child.iter(f"{_DRAW}text-box"):
                yield from _text(box, breaks)
        elif child.tag == f"{_TEXT}list":
            for item in child.iterchildren(f"{_TEXT}list-item", f"{_TEXT}list-header"):
                yield from _text(item, breaks, in_list=True)
        elif child.tag == f"{_TABLE}table":
            yield table_piece(_rows(child), breaks_page=breaks_page)
        elif child.tag == f"{_TEXT}section":  # not a table of contents: it only repeats the headings
            yield from _text(child, breaks)


def _notes(paragraph: Any) -> Iterator[Piece]:
    for note in paragraph.iter(f"{_TEXT}note"):
        body = note.find(f"{_TEXT}note-body")
        if body is not None:
            mark = note.find(f"{_TEXT}note-citation")
            label = clean(archives.text_of(mark)) if mark is not None else ""
            yield Piece("note", clean(f"{label} {archives.text_of(body)}"))


def _words(element: Any) -> str:
    """The words of a paragraph, with its tabs and spaces; notes, text boxes and remarks are not part of it."""
    parts = [element.text or ""]
    for child in element:
        if child.tag == f"{_TEXT}s":
            count = str(child.get(f"{_TEXT}c") or "1")
            parts.append(" " * min(_MOST_SPACES, int(count) if count.isdigit() else 1))
        elif child.tag in (f"{_TEXT}tab", f"{_TEXT}line-break"):
            parts.append(" ")
        elif child.tag not in (f"{_TEXT}note", f"{_OFFICE}annotation", f"{_DRAW}frame"):
            parts.append(_words(child))
        parts.append(child.tail or "")
    return clean("".join(parts))


def _rows(table: Any) -> list[list[str]]:
    rows: list[list[str]] = []
    n_cells = n_stated = 0
    for row in table.iter(f"{_TABLE}table-row"):
        cells: list[str] = []
        for cell in row.iterchildren(f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"):
            # Empty cells up to the end of a sheet are stored as one, repeated; so are runs of the same value.
            cells.extend([_cell(cell)] * min(_repeated(cell, "columns"), _MOST_REPEATED))
            n_stated += 1
        while cells and not cells[-1]:
            cells.pop()
        # A file of a few bytes must not become a book: what is repeated has its bound in what is really there.
        room = (_FREE_CELLS + _REPEATED_TO_STATED * n_stated - n_cells) // (len(cells) + 1)
        n_rows = max(1, min(_repeated(row, "rows"), room)) if cells else 1
        n_cells += n_rows * (len(cells) + 1)
        _check_size(n_cells)
        rows.extend([cells] * n_rows)
    return rows


def _check_size(n_cells: int) -> None:
    if n_cells > MOST_CELLS:
        raise errors.unsafe(f"it has more than {MOST_CELLS:,} cells")


def _repeated(element: Any, of: str) -> int:
    value = str(element.get(f"{_TABLE}number-{of}-repeated") or "1")
    return max(1, int(value)) if value.isdigit() and len(value) < 9 else 1


def _cell(cell: Any) -> str:
    date = cell.get(f"{_OFFICE}date-value")
    if cell.get(f"{_OFFICE}value-type") == "date" and date:
        return str(date).replace("T00:00:00", "").replace("T", " ")
    return clean(" ".join(_words(paragraph) for paragraph in cell.iter(f"{_TEXT}p")))


def _slides(element: Any, breaks: set[str]) -> Iterator[Piece]:
    for page in element.iter(f"{_DRAW}page"):
        is_first = True
        for frame in page.iterchildren():
            if frame.tag == f"{_PRESENTATION}notes":
                for paragraph in frame.iter(f"{_TEXT}p"):
                    yield Piece("note", _words(paragraph))
                continue
            is_title = frame.get(f"{_PRESENTATION}class") == "title"
            for piece in _frame(frame, breaks, is_title=is_title):
                if piece.text:
                    yield Piece(piece.kind, piece.text, piece.level, is_first)
                    is_first = False


def _frame(frame: Any, breaks: set[str], *, is_title: bool) -> Iterator[Piece]:
    if is_title:
        yield Piece("heading", " ".join(_words(paragraph) for paragraph in frame.iter(f"{_TEXT}p")), 1)
        return
    for box in frame.iter(f"{_DRAW}text-box"):
        yield from _text(box, breaks)
    for table in frame.iter(f"{_TABLE}table"):
        yield table_piece(_rows(table))


def _sheets(element: Any, _breaks: set[str]) -> Iterator[Piece]:
    n_cells = 0
    for table in element.iterchildren(f"{_TABLE}table"):
        rows = _rows(table)
        n_cells += sum(map(len, rows))
        _check_size(n_cells)
        pieces = list(tables_of(rows))
        if pieces:
            yield Piece("heading", clean(table.get(f"{_TABLE}name") or ""), 1, breaks_page=True)
            yield from pieces
