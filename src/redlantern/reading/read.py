# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads one file, whatever it is, and what lies within it."""

import re
from collections.abc import Callable
from dataclasses import replace

from redlantern.reading import errors, kinds
from redlantern.reading.kinds import Kind
from redlantern.reading.language import language_of
from redlantern.reading.material import Material
from redlantern.reading.parallel_pages import OnPage
from redlantern.reading.values import Page, ReadFile

# The replacement character, and those that only one font gives a meaning.
_STRANGE = re.compile("[\ufffd\ue000-\uf8ff]")
MOST_NESTING = 6
"""How deep a message may lie in a message."""


def read_material(material: Material, on_page: OnPage = lambda done, total: None, depth: int = 0) -> ReadFile:
    """Read a file.

    Parameters
    ----------
    material : Material
    on_page : callable
        Told the number of pages done and of all, for the formats that have pages.
    depth : int
        How deep it lies within other files.

    Raises
    ------
    FileRefusedError
        If it gave no document.
    """
    if depth > MOST_NESTING:
        raise errors.unsafe("it lies too deep within other files")

    def read_part(part: Material) -> ReadFile:
        with errors.making_sense():
            return read_material(part, lambda done, total: None, depth + 1)

    read = _reader(kinds.kind_of(material), on_page, read_part)(material)
    parts = tuple(replace(part, read=_completed(part.read)) if part.read else part for part in read.parts)
    return replace(_completed(read), parts=parts)


def part_of(material: Material, name: str) -> Material:
    """Give what lies within a file under this name, as ReadFile.parts names it.

    Raises
    ------
    FileRefusedError
        If nothing does any more.
    """
    from redlantern.reading.formats import mail

    steps = name.split("/")
    if kinds.kind_of(material) == "mbox":
        number = steps.pop(0).removeprefix("message ")
        messages = list(mail.messages_of(material.read()))
        if not number.isdigit() or not 0 < int(number) <= len(messages):
            raise errors.unreadable("the file was changed")
        material = Material(f"message {number}.eml", data=messages[int(number) - 1])
    for step in steps:
        inner = {attachment.name: attachment for attachment in mail.attachments_of(material.read())}
        if step not in inner:
            raise errors.unreadable("the file was changed")
        material = inner[step]
    return material


def page_pixels(material: Material, page_index: int, scale: float) -> tuple[int, int, bytes]:
    """Give a page as it is printed; see formats.pdf.page_pixels.

    Raises
    ------
    FileRefusedError
        If the file has no printed pages, or is damaged.
    """
    from redlantern.reading.formats import pdf, picture

    kind = kinds.kind_of(material)
    if kind == "pdf":
        return pdf.page_pixels(material, page_index, scale)
    if kind in ("png", "jpeg", "tiff"):
        return picture.page_pixels(material, page_index, scale)
    raise errors.damaged("PDF")


def _completed(read: ReadFile) -> ReadFile:
    """Add what is told of every kind of file alike: its language, and which pages have characters that nobody can read."""
    pages = tuple(map(_with_warning, read.pages))
    return replace(read, pages=pages, language=read.language or (language_of(pages) if pages else ""))


def _with_warning(page: Page) -> Page:
    n_strange = len(_STRANGE.findall(page.text))
    words = f"This page has {n_strange} characters that stand for nothing known: compare it with the print."
    return replace(page, warnings=(*page.warnings, words)) if n_strange and words not in page.warnings else page


def _reader(kind: Kind, on_page: OnPage, read_part: Callable[[Material], ReadFile]) -> Callable[[Material], ReadFile]:
    from redlantern.reading.formats import (
        delimited,
        epub,
        mail,
        markdown,
        opendocument,
        pdf,
        picture,
        rtf,
        slides,
        text,
        web,
        word,
        workbook,
    )

    def read_picture(material: Material) -> ReadFile:
        return picture.read_picture(material, on_page)

    readers: dict[Kind, Callable[[Material], ReadFile]] = {
        "pdf": lambda material: pdf.read_pdf(material, on_page),
        "docx": word.read_docx,
        "pptx": slides.read_pptx,
        "xlsx": workbook.read_xlsx,
        "odt": opendocument.read_opendocument,
        "odp": opendocument.read_opendocument,
        "ods": opendocument.read_opendocument,
        "epub": epub.read_epub,
        "html": web.read_html,
        "rtf": rtf.read_rtf,
        "eml": lambda material: mail.read_eml(material, read_part),
        "mbox": lambda material: mail.read_mbox(material, read_part),
        "csv": delimited.read_delimited,
        "markdown": markdown.read_markdown,
        "text": text.read_text,
        "png": read_picture,
        "jpeg": read_picture,
        "tiff": read_picture,
    }
    return readers[kind]
