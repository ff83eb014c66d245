# SPDX-License-Identifier: GPL-3.0-or-later
"""PPTX, by python-pptx: each slide is a page, with its title, texts, tables and speaker notes."""

from collections.abc import Iterator
from typing import Any

from redlantern.reading import archives, errors
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages, table_piece
from redlantern.reading.values import ReadFile

_MOST_GROUPS = 20


def read_pptx(material: Material) -> ReadFile:
    """Read a presentation.

    Raises
    ------
    FileRefusedError
        If it is damaged, unsafe or holds no words.
    """
    import pptx
    from lxml.etree import XMLSyntaxError
    from pptx.exc import PythonPptxError

    with archives.opened(material):
        pass
    try:
        with material.open() as file:
            deck = pptx.Presentation(file)
        pieces: list[Piece] = []
        for slide in deck.slides:
            found = [piece for piece in _slide(slide) if piece.text]
            pieces.extend(Piece(piece.kind, piece.text, piece.level, index == 0) for index, piece in enumerate(found))
        stated, author = clean(deck.core_properties.title or ""), clean(deck.core_properties.author or "")
    except (PythonPptxError, XMLSyntaxError, KeyError, ValueError, AttributeError, TypeError, OSError) as failure:
        raise errors.damaged("presentation") from failure
    if not pieces:
        raise errors.no_text()
    # The programs' own leftover title says nothing.
    title = stated if stated.lower() not in ("", "powerpoint presentation") else pieces[0].text[:120]
    return ReadFile("pptx", title, set_pages(pieces), details={"author": author} if author else {})


def _slide(slide: Any) -> Iterator[Piece]:
    title = slide.shapes.title
    if title is not None and title.has_text_frame:
        yield Piece("heading", clean(title.text_frame.text), 1)
    shapes = [shape for shape in _flat(slide.shapes, 0) if title is None or shape.shape_id != title.shape_id]
    for shape in sorted(shapes, key=lambda shape: (shape.top or 0, shape.left or 0)):
        if shape.has_text_frame:
            for paragraph in shape.text_frame.paragraphs:
                text = clean("".join(run.text for run in paragraph.runs) or paragraph.text)
                is_listed = shape.is_placeholder or paragraph.level > 0
                yield Piece("list item" if is_listed else "paragraph", text)
        elif getattr(shape, "has_table", False):
            yield table_piece([[cell.text for cell in row.cells] for row in shape.table.rows])
    if slide.has_notes_slide:
        notes = slide.notes_slide.notes_text_frame
        for paragraph in notes.paragraphs if notes is not None else []:
            yield Piece("note", clean(paragraph.text))


def _flat(shapes: Any, depth: int) -> Iterator[Any]:
    for shape in shapes:
        if hasattr(shape, "shapes") and depth < _MOST_GROUPS:
            yield from _flat(shape.shapes, depth + 1)
        else:
            yield shape
