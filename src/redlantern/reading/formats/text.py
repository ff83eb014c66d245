# SPDX-License-Identifier: GPL-3.0-or-later
"""Plain text in any usual encoding."""

import re
from collections.abc import Iterator

from redlantern.reading import errors
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages
from redlantern.reading.values import ReadFile

_LIST_MARK = re.compile(r"^\s*(?:[-*•–]|\(?(?:\d{1,3}|[a-z]|[ivx]{1,5})[.)])\s+\S", re.IGNORECASE)
_RULE = re.compile(r"^\s*([-=_*~#])\1{3,}\s*$")
_HEADER_FIELD = re.compile(r"^(From|To|Cc|Date|Sent|Subject|Re|Von|An|Datum|Betreff):\s", re.IGNORECASE)
_NUMBERED_HEADING = re.compile(r"^(?:\d{1,2}(?:\.\d{1,2})*\.?|[A-Z]\.|Article \d+|Annex \w+)\s+[A-Z]")
_SHORT_LINE_CHARS = 60


def decode(raw: bytes) -> str:
    """Turn bytes into text: a byte order mark decides, then UTF-8, then the likeliest of the old encodings.

    Raises
    ------
    FileRefusedError
        If nothing fits.
    """
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if raw.startswith(mark):
            return raw.decode(name, errors="replace")
    try:
        if b"\x00" not in raw:
            return raw.decode("utf-8")
    except UnicodeDecodeError:
        pass
    from charset_normalizer import from_bytes

    # Only encodings that are met in the wild here: asked among all, short texts come out as the rarest.
    likely = from_bytes(raw, cp_isolation=["cp1252", "latin_1", "utf_16_le", "utf_16_be", "cp1250", "cp1251"]).best()
    if likely is None:
        raise errors.damaged("text")
    return str(likely)


def read_text(material: Material) -> ReadFile:
    """Read a text file. Paragraphs are set apart by blank lines; a form feed starts a new page."""
    pieces = list(pieces_of_text(decode(material.read())))
    if not pieces:
        raise errors.empty_file()
    first = pieces[0]
    # A first sentence is no title: it may be all that the file says.
    is_title = len(first.text) <= 100 and not first.text.rstrip().endswith((".", "!", "?"))
    title = first.text if is_title else material.plain_name.replace("-", " ")
    return ReadFile("text", title, set_pages(pieces))


def pieces_of_text(text: str) -> Iterator[Piece]:
    """Cut text into blocks by its blank lines, list marks and short lines."""
    for page_index, page in enumerate(text.replace("\r\n", "\n").replace("\r", "\n").split("\f")):
        is_first = page_index > 0
        for paragraph in re.split(r"\n[ \t]*(?:\n[ \t]*)+", page):
            for piece in _paragraph(paragraph.split("\n")):
                yield Piece(piece.kind, piece.text, piece.level, breaks_page=is_first)
                is_first = False


def _paragraph(lines: list[str]) -> Iterator[Piece]:
    lines = [line for line in lines if line.strip() and not _RULE.match(line)]
    if len(lines) == 1 and _is_heading(lines[0].strip()):
        yield Piece("heading", clean(lines[0]), 1)
        return
    # Lines that mean something one by one (fields, lists, addresses, tables) stay apart; wrapped prose is joined.
    gathered: list[str] = []
    is_item = False
    for line in lines:
        stands_alone = bool(_HEADER_FIELD.match(line)) or "\t" in line.strip() or "   " in line.strip()
        if gathered and (stands_alone or _LIST_MARK.match(line) or _ends_early(gathered[-1], line)):
            yield _gather(gathered, is_item)
            gathered = []
        if not gathered:
            is_item = bool(_LIST_MARK.match(line))
        gathered.append(line)
    if gathered:
        yield _gather(gathered, is_item)


def _gather(lines: list[str], is_item: bool) -> Piece:
    return Piece("list item" if is_item else "paragraph", clean(" ".join(lines)))


def _ends_early(before: str, line: str) -> bool:
    # A wrapped line is nearly full; a line that stopped although the next word would have fitted was ended on purpose.
    next_word = line.strip().split(" ")[0]
    return bool(_HEADER_FIELD.match(before)) or len(before.rstrip()) + 1 + len(next_word) <= _SHORT_LINE_CHARS


def _is_heading(line: str) -> bool:
    if len(line) > _SHORT_LINE_CHARS + 20 or line.endswith((".", ",", ";", "?", "!")) or _HEADER_FIELD.match(line):
        return False
    return line.isupper() or bool(_NUMBERED_HEADING.match(line)) or (line.endswith(":") is False and line.istitle())
