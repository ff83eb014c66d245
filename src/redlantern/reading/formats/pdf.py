# SPDX-License-Identifier: GPL-3.0-or-later
"""PDF, by pdfium: every character with its place, and pictures of pages as they are printed."""

import ctypes
import math
import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.reading import errors, recognition
from redlantern.reading.blocks import PrintedPage, build_pages, outline_key
from redlantern.reading.formats.picture import recognised_page
from redlantern.reading.language import language_of_text
from redlantern.reading.layout import Word, lines_in_reading_order
from redlantern.reading.material import Material
from redlantern.reading.parallel_pages import OnPage, in_two_processes
from redlantern.reading.setting import clean
from redlantern.reading.turned_pages import as_shown, turns_of, upright
from redlantern.reading.values import Page, ReadFile

MOST_PAGES = 20_000
MOST_PIXELS = 40_000_000
_MOST_BOOKMARKS = 5_000
_SHORT_TEXT_CHARS = 200
_SCAN_SHARE = 0.6
_VOWEL = re.compile(r"[aeiouy]", re.IGNORECASE)
_PDF_DATE = re.compile(r"D:(\d{4})(\d{2})(\d{2})")

_PASSWORD_ERROR = 4  # FPDF_ERR_PASSWORD
_BOLD_WEIGHT = 600
# pdfium reports a hyphen that breaks a word at a line's end as this control character.
_BREAK_HYPHEN = 2
_LIGATURES = {0xFB00: "ff", 0xFB01: "fi", 0xFB02: "fl", 0xFB03: "ffi", 0xFB04: "ffl", 0xFB05: "st", 0xFB06: "st"}


def read_pdf(material: Material, on_page: OnPage) -> ReadFile:
    """Read a PDF; `on_page` is told the number of pages done and of all after each.

    Pages without usable text are recognised from their picture.

    Raises
    ------
    FileRefusedError
        If it is damaged, wants a password, or holds no text at all.
    """
    document = open_pdf(material)
    try:
        n_pages = len(document)
        if n_pages == 0:
            raise errors.damaged("PDF")
        if n_pages > MOST_PAGES:
            raise errors.unsafe(f"it has more than {MOST_PAGES:,} pages")
        title, details, outline = _title(document), _details(document), _outline(document)
    finally:
        document.close()
    found = in_two_processes(lambda page_indexes: _pages(material, page_indexes), n_pages, on_page)
    if not any(page.printed.lines for page in found):
        raise errors.scan_without_recognition() if any(page.needs_recognition for page in found) else errors.no_text()
    built = build_pages([page.printed for page in found], outline)
    pages = tuple(_finished(page, block) for page, block in zip(built, found, strict=True))
    title = title or _first_heading(pages) or material.plain_name
    return ReadFile("pdf", title, pages, details=details)


@dataclass(slots=True)
class _Found:
    """A page as printed, and how its words were come by."""

    printed: PrintedPage
    turns: int = 0
    recognised: recognition.Recognised | None = None
    needs_recognition: bool = False
    is_broken: bool = False


def _pages(material: Material, page_indexes: range) -> Iterator[_Found]:
    """Read some of the pages, in a document opened for them."""
    document = open_pdf(material)
    languages = _Languages()
    try:
        for page_index in page_indexes:
            yield _page(document, page_index, languages)
    finally:
        document.close()


class _Languages:
    """Which language pages are recognised in: that of the text so far."""

    def __init__(self) -> None:
        self.codes: tuple[str, ...] = ()

    def hear(self, text: str) -> bool:
        """Learn from a page's text; whether that changed the language."""
        if self.codes:
            return False
        code = language_of_text(text)
        self.codes = (code,) if code else ()
        return bool(code) and code != "en"


def _page(document: Any, page_index: int, languages: _Languages) -> _Found:
    import pypdfium2

    try:
        page = document[page_index]
    except pypdfium2.PdfiumError:
        return _Found(PrintedPage(page_index + 1, 595.0, 842.0, []), is_broken=True)
    try:
        width, height = page.get_size()
        text_page = page.get_textpage()
        try:
            characters, boxes = _characters(page, text_page, width, height)
            turns = turns_of(characters, boxes)
            words = list(_words(text_page, characters, upright(boxes, turns, width, height).tolist()))
        finally:
            text_page.close()
        text = " ".join(word.text for word in words)
        if not _wants_recognition(page, text):
            languages.hear(text)
            size = (height, width) if turns % 2 else (width, height)
            return _Found(PrintedPage(page_index + 1, *size, lines_in_reading_order(words)), turns=turns)
        printed = PrintedPage(page_index + 1, width, height, [])
        if not recognition.is_installed():
            printed.lines = lines_in_reading_order(words) if not is_rubbish(text) else []
            return _Found(printed, needs_recognition=True)
        found = _recognised(page, languages)
        if len(" ".join(word.text for word in found.words)) < len(text) and not is_rubbish(text):
            printed.lines = lines_in_reading_order(words)
            return _Found(printed)
        printed.lines = lines_in_reading_order(found.words)
        return _Found(printed, recognised=replace(found, words=[]))
    finally:
        page.close()


def _wants_recognition(page: Any, text: str) -> bool:
    """Whether a page's words are better taken from its picture."""
    import pypdfium2.raw as pdfium

    if is_rubbish(text):
        return True
    if len(text) >= _SHORT_TEXT_CHARS:
        return False
    if not text:
        return bool(pdfium.FPDFPage_CountObjects(page) > 0)
    width, height = page.get_size()
    for picture in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_IMAGE], max_depth=3):
        left, bottom, right, top = picture.get_bounds()
        if (right - left) * (top - bottom) > _SCAN_SHARE * width * height:
            return True
    return False


def is_rubbish(text: str) -> bool:
    """Whether a page's text layer is no text: characters without meaning, words without vowels or without spaces."""
    letters = [letter for letter in text if not letter.isspace()]
    if len(letters) < 40:
        return False
    strange = sum(
        letter == "\ufffd" or "\ue000" <= letter <= "\uf8ff" or unicodedata.category(letter) == "Cn"
        for letter in letters
    )
    if strange > 0.15 * len(letters):
        return True
    words = [word for word in text.split() if len(word) > 2 and word.isalpha() and word.isascii()]
    if len(words) >= 25:
        n_dumb = sum(not _VOWEL.search(word) for word in words)
        if n_dumb > 0.6 * len(words):
            return True
    # Writing without spaces between words (Chinese, Thai) is not Latin.
    n_latin = sum(letter.isascii() and letter.isalpha() for letter in letters)
    return len(letters) > 200 and n_latin > 0.6 * len(letters) and len(letters) / max(1, len(text.split())) > 20


def _recognised(page: Any, languages: _Languages) -> recognition.Recognised:
    width, height = page.get_size()
    scale = min(recognition.RECOGNISED_DPI / 72, math.sqrt(MOST_PIXELS / max(1.0, width * height)))
    bitmap = page.render(scale=scale, grayscale=True)
    grey = np.asarray(bitmap.to_numpy(), np.uint8)
    grey = np.ascontiguousarray(grey[..., 0] if grey.ndim == 3 else grey)
    found = recognition.recognise(grey, 1 / scale, languages.codes)
    if languages.hear(" ".join(word.text for word in found.words)):
        found = recognition.recognise(grey, 1 / scale, languages.codes)
    return found


def _finished(page: Page, found: _Found) -> Page:
    if found.recognised is not None:
        return recognised_page(page, found.recognised)
    if found.is_broken:
        return replace(page, origin="none", warnings=("This page is damaged and was not read.",))
    if found.needs_recognition:
        warning = "This page is a picture, and text recognition is not installed (tesseract-ocr)."
        return replace(page, origin="text" if page.text else "none", warnings=(warning,))
    return as_shown(page, found.turns) if page.text else replace(page, origin="none")


def page_pixels(material: Material, page_index: int, scale: float) -> tuple[int, int, bytes]:
    """Print a page to pixels.

    Parameters
    ----------
    material : Material
    page_index : int
        From 0.
    scale : float
        Pixels per point; made smaller for a page of more than MOST_PIXELS.

    Returns
    -------
    tuple of (width_px, height_px, pixels)
        Pixels are 4 bytes each (blue, green, red, unused), rows without padding.
    """
    document = open_pdf(material)
    try:
        page = document[page_index]
        width_pt, height_pt = page.get_size()
        scale = min(scale, math.sqrt(MOST_PIXELS / max(1.0, width_pt * height_pt)))
        bitmap = page.render(scale=scale, force_bitmap_format=4)  # 4 is FPDFBitmap_BGRA; see below
        width, height, stride = bitmap.width, bitmap.height, bitmap.stride
        raw = bytes(bitmap.buffer)
        rows = [raw[row * stride : row * stride + width * 4] for row in range(height)]
        return width, height, b"".join(rows)
    finally:
        document.close()


def open_pdf(material: Material) -> Any:
    """Open a PDF.

    Raises
    ------
    FileRefusedError
        If it is damaged or wants another password.
    """
    import pypdfium2

    try:
        return pypdfium2.PdfDocument(material.read(), password=material.password or None)
    except pypdfium2.PdfiumError as failure:
        if getattr(failure, "err_code", None) == _PASSWORD_ERROR:
            raise (errors.wrong_password() if material.password else errors.password_needed()) from failure
        raise errors.damaged("PDF") from failure


def _details(document: Any) -> dict[str, str]:
    stated = document.get_metadata_dict()
    date = _PDF_DATE.match(str(stated.get("ModDate") or stated.get("CreationDate") or ""))
    found = {
        "author": clean(str(stated.get("Author", "")))[:200],
        "subject": clean(str(stated.get("Subject", "")))[:200],
        "date": "-".join(date.groups()) if date else "",
    }
    return {
        name: value for name, value in found.items() if value and value.strip("()") not in ("anonymous", "unspecified")
    }


def _outline(document: Any) -> dict[int, dict[str, int]]:
    """The bookmarks: for each page number the titles that point to it, as outline_key gives them, and their levels."""
    import pypdfium2

    found: dict[int, dict[str, int]] = {}
    try:
        for count, bookmark in enumerate(document.get_toc(max_depth=6)):
            if count > _MOST_BOOKMARKS:
                break
            destination = bookmark.get_dest()
            page_index = destination.get_index() if destination is not None else None
            key = outline_key(bookmark.get_title())
            if page_index is not None and key:
                found.setdefault(page_index + 1, {})[key] = bookmark.level + 1
    except (pypdfium2.PdfiumError, ValueError, AttributeError):
        return {}
    return found


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


def _words(text_page: Any, characters: list[str], boxes: list[list[float]]) -> Iterator[Word]:
    import pypdfium2.raw as pdfium

    word: Word | None = None
    for index, (character, (left, top, right, bottom)) in enumerate(zip(characters, boxes, strict=True)):
        if not character:
            if word is not None:
                yield word
            word = None
            continue
        if word is not None and not _goes_on(word, left, top, bottom):
            yield word
            word = None
        if word is None:
            size = (bottom - top) / 1.2 or 10.0
            weight = pdfium.FPDFText_GetFontWeight(text_page, index)
            is_bold = weight >= _BOLD_WEIGHT or _has_bold_font(text_page, index)
            word = Word("", [left], top, bottom, size, is_bold)
        word.text += character
        if len(character) == 1:
            word.edges.append(right)
        else:
            step = (right - left) / len(character)
            word.edges.extend(left + step * (number + 1) for number in range(len(character)))
        if top < word.top:
            word.top = top
        if bottom > word.bottom:
            word.bottom = bottom
    if word is not None:
        yield word


def _characters(page: Any, text_page: Any, width: float, height: float) -> tuple[list[str], npt.NDArray[np.float64]]:
    """Give a page's characters and their boxes, one for each; the character is empty where it sets words apart or has no box."""
    import pypdfium2.raw as pdfium

    # Called a thousand times a page: names and places are looked up once, and the boxes written straight into an array.
    get_unicode, get_box = pdfium.FPDFText_GetUnicode, pdfium.FPDFText_GetLooseCharBox
    raw, n_characters = text_page.raw, pdfium.FPDFText_CountChars(text_page)
    rects = (pdfium.FS_RECTF * max(1, n_characters))()
    characters = []
    for index in range(n_characters):
        character = _character(get_unicode(raw, index))
        characters.append(character if character and get_box(raw, index, rects[index]) else "")
    boxes = np.frombuffer(rects, np.float32).reshape(-1, 4)[:n_characters].astype(np.float64)
    return characters, _as_shown(boxes, page, width, height)


@lru_cache(maxsize=4096)
def _character(code: int) -> str:
    """What a code is read as: nothing for white space and for what is no character."""
    if code in _LIGATURES:
        return _LIGATURES[code]
    if code == _BREAK_HYPHEN:
        return "-"
    if code in (0, 0xFFFE, 0xFFFF, 0xFEFF, 0x200B) or code > 0x10FFFF or 0xD800 <= code < 0xE000:
        return ""
    character = chr(code)
    return "" if character.isspace() or unicodedata.category(character) in ("Cc", "Cf") else character


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


def _as_shown(boxes: npt.NDArray[np.float64], page: Any, width: float, height: float) -> npt.NDArray[np.float64]:
    """Bring boxes (left, top, right, bottom) from pdfium's page space to points from the top left corner of the page as shown.

    pdfium applies the crop box and the rotation; three points tell the map.
    """
    import pypdfium2.raw as pdfium

    fine = 64
    size = (int(width * fine), int(height * fine))

    def shown(x: float, y: float) -> tuple[float, float]:
        across, down = ctypes.c_int(), ctypes.c_int()
        pdfium.FPDF_PageToDevice(page, 0, 0, *size, 0, x, y, across, down)
        return across.value / fine, down.value / fine

    origin, along_x, along_y = (np.array(shown(*point)) for point in ((0, 0), (1000, 0), (0, 1000)))
    matrix = np.column_stack([along_x - origin, along_y - origin]) / 1000
    first, last = boxes[:, :2] @ matrix.T + origin, boxes[:, 2:] @ matrix.T + origin
    return np.concatenate([np.minimum(first, last), np.maximum(first, last)], axis=1)
