"""PDF, by pdfium: every character with its place, and pictures of pages as they are printed."""

import ctypes
import unicodedata
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from redlantern.reading import errors
from redlantern.reading.blocks import PrintedPage, build_pages
from redlantern.reading.layout import Word, lines_in_reading_order
from redlantern.reading.values import ReadFile

_PASSWORD_ERROR = 4  # FPDF_ERR_PASSWORD
_BOLD_WEIGHT = 600
# pdfium reports a hyphen that breaks a word at a line's end as this control character.
_BREAK_HYPHEN = "\x02"
_LIGATURES = {0xFB00: "ff", 0xFB01: "fi", 0xFB02: "fl", 0xFB03: "ffi", 0xFB04: "ffl", 0xFB05: "st", 0xFB06: "st"}


def read_pdf(path: Path, on_page: Callable[[int, int], None]) -> ReadFile:
    """Read a PDF; `on_page` is told the number of pages done and of all after each.

    Raises
    ------
    FileRefusedError
        If it is damaged, wants a password, or holds no text at all.
    """
    document = _open(path)
    try:
        n_pages = len(document)
        if n_pages == 0:
            raise errors.damaged("PDF")
        printed = []
        for page_index in range(n_pages):
            printed.append(_printed_page(document, page_index))
            on_page(page_index + 1, n_pages)
        title = _title(document)
    finally:
        document.close()
    if not any(page.lines for page in printed):
        raise errors.no_text()
    pages = build_pages(printed)
    return ReadFile("pdf", title or _first_heading(pages) or path.stem.replace("_", " "), pages)


def page_picture(path: Path, page_index: int, scale: float) -> tuple[int, int, bytes]:
    """Print a page to pixels.

    Parameters
    ----------
    path : Path
    page_index : int
        From 0.
    scale : float
        Pixels per point.

    Returns
    -------
    tuple of (width_px, height_px, pixels)
        Pixels are 4 bytes each (blue, green, red, unused), rows without padding.
    """
    document = _open(path)
    try:
        page = document[page_index]
        bitmap = page.render(scale=scale, force_bitmap_format=4)  # 4 is FPDFBitmap_BGRA; see below
        width, height, stride = bitmap.width, bitmap.height, bitmap.stride
        raw = bytes(bitmap.buffer)
        rows = [raw[row * stride : row * stride + width * 4] for row in range(height)]
        return width, height, b"".join(rows)
    finally:
        document.close()


def _open(path: Path) -> Any:
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(path)
    except pypdfium2.PdfiumError as failure:
        if getattr(failure, "err_code", None) == _PASSWORD_ERROR:
            raise errors.password_needed() from failure
        raise errors.damaged("PDF") from failure
    return document


def _title(document: Any) -> str:
    stated = " ".join(str(document.get_metadata_dict().get("Title", "")).split())
    # Programs leave these behind; they name a file, not a document.
    is_leftover = stated.lower().startswith(("microsoft word", "untitled", "(anonymous)")) or stated.lower().endswith(
        (".doc", ".docx", ".indd", ".pdf", ".tex")
    )
    return "" if is_leftover or stated == "anonymous" else stated


def _first_heading(pages: Any) -> str:
    for page in pages[:2]:
        for block in page.blocks:
            if block.kind == "heading":
                return str(page.text[block.start : block.end])[:120]
    return ""


def _printed_page(document: Any, page_index: int) -> PrintedPage:
    page = document[page_index]
    width, height = page.get_size()
    text_page = page.get_textpage()
    try:
        words = list(_words(page, text_page, width, height))
    finally:
        text_page.close()
        page.close()
    return PrintedPage(page_index + 1, width, height, lines_in_reading_order(words))


def _words(page: Any, text_page: Any, width: float, height: float) -> Iterator[Word]:
    import pypdfium2.raw as pdfium

    place = _to_page_as_shown(page, width, height)
    rect = pdfium.FS_RECTF()
    word: Word | None = None
    for index in range(pdfium.FPDFText_CountChars(text_page)):
        character = _character(pdfium.FPDFText_GetUnicode(text_page, index))
        if character.isspace() or not character:
            if word is not None:
                yield word
            word = None
            continue
        if not pdfium.FPDFText_GetLooseCharBox(text_page, index, rect):
            continue
        left, top, right, bottom = place(rect.left, rect.top, rect.right, rect.bottom)
        is_break = character == _BREAK_HYPHEN
        character = "-" if is_break else character
        if word is not None and not _goes_on(word, left, top, bottom):
            yield word
            word = None
        if word is None:
            size = abs(bottom - top) / 1.2 or 10.0
            is_bold = pdfium.FPDFText_GetFontWeight(text_page, index) >= _BOLD_WEIGHT or _has_bold_font(
                text_page, index
            )
            word = Word("", [left], top, bottom, size, is_bold)
        step = (right - left) / len(character)
        word.text += character
        word.edges.extend(left + step * (one + 1) for one in range(len(character)))
        word.top, word.bottom = min(word.top, top), max(word.bottom, bottom)
    if word is not None:
        yield word


def _character(code: int) -> str:
    if code in _LIGATURES:
        return _LIGATURES[code]
    if code == ord(_BREAK_HYPHEN):
        return _BREAK_HYPHEN
    if code in (0, 0xFFFE, 0xFFFF, 0xFEFF, 0x200B) or code > 0x10FFFF or 0xD800 <= code < 0xE000:
        return ""
    character = chr(code)
    if unicodedata.category(character) in ("Cc", "Cf"):
        return " " if character in "\r\n\t" else ""
    return character


def _goes_on(word: Word, left: float, top: float, bottom: float) -> bool:
    is_level = min(word.bottom, bottom) - max(word.top, top) > 0.4 * (word.bottom - word.top)
    return is_level and -0.5 * word.size < left - word.right < 0.28 * word.size


def _has_bold_font(text_page: Any, index: int) -> bool:
    """Whether the font's name says that it is bold: many files state no weight."""
    import pypdfium2.raw as pdfium

    name = ctypes.create_string_buffer(128)
    pdfium.FPDFText_GetFontInfo(text_page, index, name, 128, ctypes.c_int())
    lowered = name.value.lower()
    return b"bold" in lowered or b"black" in lowered


def _to_page_as_shown(
    page: Any, width: float, height: float
) -> Callable[[float, float, float, float], tuple[float, float, float, float]]:
    """Give the map from pdfium's page space to points from the top left corner of the page as shown.

    pdfium applies the crop box and the rotation; three points tell the map.
    """
    import pypdfium2.raw as pdfium

    fine = 64
    size = (int(width * fine), int(height * fine))

    def shown(x: float, y: float) -> tuple[float, float]:
        across, down = ctypes.c_int(), ctypes.c_int()
        pdfium.FPDF_PageToDevice(page, 0, 0, *size, 0, x, y, across, down)
        return across.value / fine, down.value / fine

    (x0, y0), (x1, y1), (x2, y2) = shown(0, 0), shown(1000, 0), shown(0, 1000)
    a, b, c, d = (x1 - x0) / 1000, (x2 - x0) / 1000, (y1 - y0) / 1000, (y2 - y0) / 1000

    def place(left: float, top: float, right: float, bottom: float) -> tuple[float, float, float, float]:
        xs = (x0 + a * left + b * top, x0 + a * right + b * bottom)
        ys = (y0 + c * left + d * top, y0 + c * right + d * bottom)
        return min(xs), min(ys), max(xs), max(ys)

    return place
