# SPDX-License-Identifier: GPL-3.0-or-later
"""DOCX, by python-docx: headings, lists, tables, notes and page breaks in the order of the body."""

import re
from collections.abc import Iterator
from typing import Any

from redlantern.reading import archives, errors
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages, table_piece
from redlantern.reading.values import ReadFile

_HEADING_STYLE = re.compile(r"^(?:heading|überschrift|titre|título|titolo|kop)\s*(\d)", re.IGNORECASE)
_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
# What old programs show in place of a drawing repeats its words.
_FALLBACK = "{http://schemas.openxmlformats.org/markup-compatibility/2006}Fallback"
_NOTE_PARTS = (("word/footnotes.xml", "footnote"), ("word/endnotes.xml", "endnote"))
_CHANGED = "It has tracked changes; they were read as accepted."


def read_docx(material: Material) -> ReadFile:
    """Read a DOCX file; its title is its title property, its title paragraph or its first heading.

    Raises
    ------
    FileRefusedError
        If it is damaged, unsafe or holds no words.
    """
    import docx
    from docx.opc.exceptions import OpcError
    from lxml.etree import XMLSyntaxError

    with archives.opened(material) as archive:
        notes = {key: text for part, tag in _NOTE_PARTS for key, text in _notes(archive, part, tag).items()}
    try:
        with material.open() as file:
            document = docx.Document(file)
        is_changed = any(True for _ in document.element.body.iter(f"{_W}ins", f"{_W}del"))
        pieces = [*_edges(document, "header"), *_pieces(document, notes), *_edges(document, "footer")]
        properties = document.core_properties
        stated, author = clean(properties.title or ""), clean(properties.author or "")
        date = str(properties.modified or properties.created or "")[:10]
    except (OpcError, XMLSyntaxError, KeyError, ValueError, AttributeError, TypeError, OSError) as failure:
        raise errors.damaged("DOCX file") from failure
    pieces = [piece for piece in pieces if piece.text]
    if not any(piece.kind not in ("header", "footer") for piece in pieces):
        raise errors.empty_file()
    heading = next((piece.text for piece in pieces if piece.kind == "heading"), "")
    # The library's own name is what it writes where there is no author.
    details = {"author": author if author != "python-docx" else "", "date": date}
    return ReadFile(
        "docx",
        stated or heading or material.plain_name,
        set_pages(pieces),
        (_CHANGED,) if is_changed else (),
        {name: value for name, value in details.items() if value},
    )


def _edges(document: Any, which: str) -> Iterator[Piece]:
    """The running headers or footers, each wording once, apart from the text."""
    seen = set()
    for section in document.sections:
        edge = getattr(section, which)
        text = (
            clean(" ".join(paragraph.text for paragraph in edge.paragraphs)) if not edge.is_linked_to_previous else ""
        )
        if text and text not in seen:
            seen.add(text)
            yield Piece("header" if which == "header" else "footer", text)


def _notes(archive: archives.Archive, part: str, tag: str) -> dict[tuple[str, str], str]:
    if part not in archive.names:
        return {}
    found = {}
    for note in archive.xml(part).iter(f"{_W}{tag}"):
        if note.get(f"{_W}type") is None:  # the others are rules between text and notes
            found[tag, str(note.get(f"{_W}id"))] = clean(_accepted(note))
    return found


def _pieces(document: Any, notes: dict[tuple[str, str], str]) -> Iterator[Piece]:
    from docx.text.paragraph import Paragraph

    breaks_page = False
    for child in _flow(document.element.body):
        if child.tag == f"{_W}p":
            # A break before the words moves this paragraph; one after them moves the next.
            before, after = _page_breaks(child)
            text = clean(_accepted(child))
            if text:
                yield _from_paragraph(Paragraph(child, document), text, breaks_page or before)
                breaks_page = after
            else:
                breaks_page = breaks_page or before or after
            for tag in ("footnote", "endnote"):
                for reference in child.iter(f"{_W}{tag}Reference"):
                    key = str(reference.get(f"{_W}id"))
                    yield Piece("note", f"{key} {notes[tag, key]}" if notes.get((tag, key)) else "")
        elif child.tag == f"{_W}tbl":
            yield table_piece(_rows(child), breaks_page=breaks_page)
            breaks_page = False


def _flow(body: Any) -> Iterator[Any]:
    """Paragraphs and tables in order, also those within content controls."""
    for child in body.iterchildren():
        if child.tag == f"{_W}sdt":
            content = child.find(f"{_W}sdtContent")
            if content is not None:
                yield from _flow(content)
        else:
            yield child


def _accepted(element: Any) -> str:
    """The words within, as if all tracked changes were accepted: insertions count, deletions do not."""
    parts = []
    for node in element.iter(f"{_W}t", f"{_W}tab", f"{_W}br", f"{_W}cr", f"{_W}noBreakHyphen"):
        if any(True for _ in node.iterancestors(f"{_W}del", f"{_W}moveFrom", _FALLBACK)):
            continue
        parts.append((node.text or "") if node.tag == f"{_W}t" else "-" if node.tag.endswith("Hyphen") else " ")
    return "".join(parts)


def _from_paragraph(paragraph: Any, text: str, breaks_page: bool) -> Piece:
    style = (paragraph.style.name or "") if paragraph.style is not None else ""
    heading = _HEADING_STYLE.match(style)
    if heading or style.lower() == "title":
        return Piece("heading", text, int(heading.group(1)) if heading else 1, breaks_page)
    if style.lower() == "caption":
        return Piece("caption", text, 0, breaks_page)
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


def _rows(table: Any) -> Iterator[list[str]]:
    """Cells row by row. A cell over several rows holds for each of them; one over several columns stands in the first."""
    above: dict[int, str] = {}
    for row in table.iterchildren(f"{_W}tr"):
        cells: list[str] = []
        for cell in row.iterchildren(f"{_W}tc"):
            merge = cell.find(f"{_W}tcPr/{_W}vMerge")
            goes_on = merge is not None and merge.get(f"{_W}val") != "restart"
            column = len(cells)
            text = above.get(column, "") if goes_on else clean(" ".join(map(_accepted, cell.iter(f"{_W}p"))))
            above[column] = text
            span = cell.find(f"{_W}tcPr/{_W}gridSpan")
            width = str(span.get(f"{_W}val")) if span is not None else "1"
            cells.extend([text] + [""] * (min(200, int(width)) - 1 if width.isdigit() else 0))
        yield cells
