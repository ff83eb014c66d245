"""What a file really is: decided by its bytes, and by its ending only among kinds of plain text."""

import zipfile
from pathlib import Path
from typing import Literal

from redlantern.reading import errors

Kind = Literal["pdf", "docx", "markdown", "text"]

_MARKDOWN_ENDINGS = {".md", ".markdown", ".mdown"}
_SIGNATURES = {
    b"\x89PNG\r\n\x1a\n": "A PNG picture",
    b"\xff\xd8\xff": "A JPEG picture",
    b"II*\x00": "A TIFF picture",
    b"MM\x00*": "A TIFF picture",
    b"GIF8": "A GIF picture",
    b"\x7fELF": "A program",
    b"MZ": "A program",
    b"{\\rtf": "An RTF file",
    b"\xd0\xcf\x11\xe0": "An old Office file",
    b"\x1f\x8b": "A compressed file",
    b"SQLite format 3\x00": "A database",
    b"7z\xbc\xaf\x27\x1c": "An archive",
    b"Rar!": "An archive",
}
_UTF16_MARKS = (b"\xff\xfe", b"\xfe\xff")
_CONTROL_BYTES = bytes(code for code in range(32) if code not in b"\t\n\r\f\x1b\x08")


def kind_of(path: Path) -> Kind:
    """Say what a regular file holds.

    Raises
    ------
    FileRefusedError
        If it is empty or of a kind that is not read.
    """
    with path.open("rb") as file:
        head = file.read(8192)
    if not head:
        raise errors.empty_file()
    # The PDF standard lets up to 1,024 bytes of something else stand before the header.
    if b"%PDF-" in head[:1024]:
        return "pdf"
    if head.startswith(b"PK\x03\x04"):
        return _kind_of_archive(path)
    for signature, words in _SIGNATURES.items():
        if head.startswith(signature):
            raise errors.not_readable(words)
    if not head.startswith(_UTF16_MARKS) and not _looks_like_text(head):
        raise errors.not_readable("This kind of file")
    return "markdown" if path.suffix.lower() in _MARKDOWN_ENDINGS else "text"


def _kind_of_archive(path: Path) -> Kind:
    try:
        with zipfile.ZipFile(path) as archive:
            names = set(archive.namelist())
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as failure:
        raise errors.damaged("Office file or archive") from failure
    if "word/document.xml" in names:
        return "docx"
    raise errors.not_readable("An archive" if "[Content_Types].xml" not in names else "This kind of Office file")


def _looks_like_text(head: bytes) -> bool:
    # UTF-16 without a mark has a zero in nearly every second byte.
    zeros_even, zeros_odd = head[::2].count(0), head[1::2].count(0)
    if max(zeros_even, zeros_odd) > 0.4 * len(head) / 2 and min(zeros_even, zeros_odd) < 0.05 * len(head) / 2:
        return True
    return len(head.translate(None, _CONTROL_BYTES)) >= 0.995 * len(head)
