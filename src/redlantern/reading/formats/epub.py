# SPDX-License-Identifier: GPL-3.0-or-later
"""EPUB: the chapters of a book in the order of its spine, each on new pages."""

import posixpath
import urllib.parse
from typing import Any

from redlantern.reading import archives, errors
from redlantern.reading.formats import web
from redlantern.reading.formats.text import decode
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages
from redlantern.reading.values import ReadFile

_CONTAINER = "{urn:oasis:names:tc:opendocument:xmlns:container}"
_OPF = "{http://www.idpf.org/2007/opf}"
_DC = "{http://purl.org/dc/elements/1.1/}"
_MOST_CHAPTERS = 5000


def read_epub(material: Material) -> ReadFile:
    """Read a book; entries outside the archive cannot be named.

    Raises
    ------
    FileRefusedError
        If it is damaged, unsafe or holds no words.
    """
    with archives.opened(material) as archive:
        rootfile = archive.xml("META-INF/container.xml").find(f".//{_CONTAINER}rootfile")
        package_name = str(rootfile.get("full-path")) if rootfile is not None else ""
        if package_name not in archive.names:
            raise errors.damaged("EPUB")
        package = archive.xml(package_name)
        pieces: list[Piece] = []
        for name in _chapters(package, posixpath.dirname(package_name))[:_MOST_CHAPTERS]:
            if name in archive.names:
                chapter = list(web.pieces_of(web.parse(decode(archive.read(name)))))
                pieces.extend(
                    Piece(element.kind, element.text, element.level, index == 0 and bool(pieces))
                    for index, element in enumerate(chapter)
                )
    if not pieces:
        raise errors.no_text()
    details = {"author": _stated(package, "creator"), "date": _stated(package, "date")}
    return ReadFile(
        "epub",
        _stated(package, "title") or material.plain_name,
        set_pages(pieces),
        details={name: value for name, value in details.items() if value},
    )


def _stated(package: Any, name: str) -> str:
    found = package.find(f".//{_DC}{name}")
    return clean(archives.text_of(found))[:200] if found is not None else ""


def _chapters(package: Any, folder: str) -> list[str]:
    items = {item.get("id"): item.get("href") for item in package.iter(f"{_OPF}item")}
    names = []
    for reference in package.iter(f"{_OPF}itemref"):
        href = items.get(reference.get("idref"))
        if href:
            path = urllib.parse.unquote(href.split("#")[0])
            names.append(posixpath.normpath(posixpath.join(folder, path)))
    return names
