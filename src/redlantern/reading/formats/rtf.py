# SPDX-License-Identifier: GPL-3.0-or-later
"""RTF, by striprtf: its paragraphs and tables as text; headings are told by their shape."""

from collections.abc import Iterator

from redlantern.reading import errors
from redlantern.reading.formats.text import pieces_of_text
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, set_pages, table_piece
from redlantern.reading.values import ReadFile

_CELL_MARK = "|"


def read_rtf(material: Material) -> ReadFile:
    """Read an RTF file.

    Raises
    ------
    FileRefusedError
        If it is damaged or holds no words.
    """
    from striprtf.striprtf import rtf_to_text

    raw = material.read().decode("latin-1")
    try:
        text = str(rtf_to_text(raw, errors="replace"))  # type: ignore[no-untyped-call]
    except (UnicodeError, ValueError, LookupError, IndexError, TypeError) as failure:
        raise errors.damaged("RTF file") from failure
    pieces = list(_pieces(text))
    if not pieces:
        raise errors.no_text()
    heading = next((piece.text for piece in pieces if piece.kind == "heading"), "")
    return ReadFile("rtf", heading or material.plain_name, set_pages(pieces))


def _pieces(text: str) -> Iterator[Piece]:
    # Every paragraph of RTF ends in one line break; a table's rows come as cells set apart by strokes.
    rows: list[list[str]] = []
    for line in text.split("\n"):
        if line.count(_CELL_MARK) >= 2 and line.rstrip().endswith(_CELL_MARK):
            rows.append(line.rstrip().removesuffix(_CELL_MARK).split(_CELL_MARK))
            continue
        if rows:
            yield table_piece(rows)
            rows = []
        yield from pieces_of_text(line)
    if rows:
        yield table_piece(rows)
