# SPDX-License-Identifier: GPL-3.0-or-later
"""Zip archives (Office files, OpenDocument, EPUB) and the XML in them, opened with limits."""

import io
import re
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from redlantern.reading import errors
from redlantern.reading.material import Material

MOST_ENTRIES = 20_000
MOST_UNPACKED_BYTES = 400 * 2**20
MOST_ENTRY_BYTES = 200 * 2**20
_MOST_RATIO = 250
_RATIO_MATTERS_BYTES = 8 * 2**20

# Entities are how an XML file grows without end or names other files. No Office format needs them.
_ENTITY = re.compile(rb"<!ENTITY|<\x00!\x00E\x00N\x00T\x00I\x00T\x00Y\x00")
_XML_ENDINGS = (".xml", ".rels", ".opf", ".xhtml", ".html", ".htm", ".ncx", ".vml")

_UNREADABLE = (zipfile.BadZipFile, zipfile.LargeZipFile, OSError, ValueError, NotImplementedError, EOFError, KeyError)


class Archive:
    """An open archive whose sizes have been looked at before anything is unpacked."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self._archive = archive
        self.names = set(archive.namelist())

    def read(self, name: str) -> bytes:
        """Unpack one entry.

        Raises
        ------
        FileRefusedError
            If it is damaged, locked with a password or not what it says.
        """
        try:
            return self._archive.read(name)
        except RuntimeError as failure:  # how zipfile asks for a password
            raise errors.password_needed() from failure
        except (*_UNREADABLE, zlib.error) as failure:
            raise errors.damaged("file") from failure

    def xml(self, name: str) -> Any:
        """Unpack and parse one entry; see parse_xml."""
        return parse_xml(self.read(name))


@contextmanager
def opened(material: Material) -> Iterator[Archive]:
    """Open an archive within its limits, and look for entities in all its XML.

    Raises
    ------
    FileRefusedError
        If it is damaged, too large unpacked, or defines XML entities.
    """
    with material.open() as file:
        try:
            archive = zipfile.ZipFile(file)
        except _UNREADABLE as failure:
            raise errors.damaged("file") from failure
        _check_sizes(archive)
        found = Archive(archive)
        for name in sorted(found.names):
            if name.lower().endswith(_XML_ENDINGS) and _ENTITY.search(found.read(name)[:65536]):
                raise errors.unsafe("it defines XML entities, which no such file needs")
        yield found


def _check_sizes(archive: zipfile.ZipFile) -> None:
    entries = archive.infolist()
    if len(entries) > MOST_ENTRIES:
        raise errors.unsafe(f"it holds {len(entries):,} entries")
    if sum(entry.file_size for entry in entries) > MOST_UNPACKED_BYTES:
        raise errors.unsafe(f"it unpacks to more than {MOST_UNPACKED_BYTES // 2**20} MB")
    for entry in entries:
        if entry.file_size > MOST_ENTRY_BYTES:
            raise errors.unsafe(f"one of its entries unpacks to more than {MOST_ENTRY_BYTES // 2**20} MB")
        is_bomb = entry.file_size > _RATIO_MATTERS_BYTES and entry.file_size > _MOST_RATIO * max(1, entry.compress_size)
        if is_bomb:
            raise errors.unsafe("one of its entries unpacks to many hundred times its size")


def parse_xml(raw: bytes) -> Any:
    """Parse XML without entities, external references, network or endless nesting.

    Raises
    ------
    FileRefusedError
        If it is not well-formed, defines entities or nests too deeply.
    """
    from lxml import etree

    if _ENTITY.search(raw[:65536]):
        raise errors.unsafe("it defines XML entities, which no such file needs")
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, dtd_validation=False, huge_tree=False,
        remove_comments=True, remove_pis=True,
    )  # fmt: skip
    try:
        root = etree.parse(io.BytesIO(raw), parser).getroot()
    except etree.XMLSyntaxError as failure:
        if "depth" in str(failure):
            raise errors.unsafe("it is nested too deeply") from failure
        raise errors.damaged("file") from failure
    if root is None:
        raise errors.damaged("file")
    return root


def text_of(element: Any) -> str:
    """All text within an element, in order."""
    return "".join(element.itertext())
