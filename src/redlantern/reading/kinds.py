# SPDX-License-Identifier: GPL-3.0-or-later
"""What a file really is: decided by its bytes, and by its ending only among kinds of plain text."""

import re
import zipfile
import zlib
from typing import Literal

from redlantern.reading import errors
from redlantern.reading.formats.delimited import delimiter_of, rows_of
from redlantern.reading.formats.text import decode
from redlantern.reading.material import Material

Kind = Literal[
    "pdf", "docx", "pptx", "xlsx", "odt", "odp", "ods", "epub", "html", "rtf", "eml", "mbox", "csv", "markdown", "text",
    "png", "jpeg", "tiff",
]  # fmt: skip

_MARKDOWN_ENDINGS = {".md", ".markdown", ".mdown"}
_TABLE_ENDINGS = {".csv", ".tsv", ".tab"}
_WEB_ENDINGS = {".html", ".htm", ".xhtml"}
_PICTURES: tuple[tuple[bytes, Kind], ...] = (
    (b"\x89PNG\r\n\x1a\n", "png"),
    (b"\xff\xd8\xff", "jpeg"),
    (b"II*\x00", "tiff"),
    (b"MM\x00*", "tiff"),
)
_NO_DOCUMENTS = {
    b"\x7fELF": "A program",
    b"MZ": "A program",
    b"SQLite format 3\x00": "A database",
}
_UNREAD = {
    b"GIF8": "A GIF picture",
    b"\xd0\xcf\x11\xe0": "An Office file of the old kind (before 2007)",
    b"\x1f\x8b": "A compressed file",
    b"7z\xbc\xaf\x27\x1c": "An archive",
    b"Rar!": "An archive",
    b"BZh": "A compressed file",
    b"\xfd7zXZ": "A compressed file",
}
_OFFICE_PARTS: tuple[tuple[str, Kind], ...] = (
    ("word/document.xml", "docx"),
    ("ppt/presentation.xml", "pptx"),
    ("xl/workbook.xml", "xlsx"),
)
_MIME_TYPES: dict[bytes, Kind] = {
    b"application/vnd.oasis.opendocument.text": "odt",
    b"application/vnd.oasis.opendocument.presentation": "odp",
    b"application/vnd.oasis.opendocument.spreadsheet": "ods",
    b"application/epub+zip": "epub",
}
_UTF16_MARKS = (b"\xff\xfe", b"\xfe\xff")
_CONTROL_BYTES = bytes(code for code in range(32) if code not in b"\t\n\r\f\x1b\x08")
_HTML = re.compile(
    r"^\s*(?:<\?xml[^>]{0,200}>\s*)?(?:<!--.{0,500}?-->\s*)*<(?:!doctype\s+html|html|head|body)\b",
    re.IGNORECASE | re.DOTALL,
)
_MBOX = re.compile(r"^From \S.*\d{4}.*\n(?:>?[\w-]+:)", re.MULTILINE)
_HEADER_FIELD = re.compile(r"^[A-Za-z][A-Za-z0-9-]{1,60}:[ \t]")
_MESSAGE_FIELDS = {
    "from",
    "to",
    "date",
    "subject",
    "message-id",
    "received",
    "mime-version",
    "return-path",
    "content-type",
}
_LEAST_TABLE_ROWS = 3


def unread_kind(head: bytes) -> str:
    """What a file is that is never read, by its first bytes, in words; empty for all others."""
    return next((words for sign, words in (_NO_DOCUMENTS | _UNREAD).items() if head.startswith(sign)), "")


def kind_of(material: Material) -> Kind:
    """Say what a file holds.

    Raises
    ------
    FileRefusedError
        If it is empty or of a kind that is not read.
    """
    head = material.head(8192)
    if not head:
        raise errors.empty_file()
    # The PDF standard lets up to 1,024 bytes of something else stand before the header.
    if b"%PDF-" in head[:1024]:
        return "pdf"
    if head.startswith(b"PK\x03\x04"):
        return _kind_of_archive(material)
    for signature, kind in _PICTURES:
        if head.startswith(signature):
            return kind
    if head.lstrip().startswith(b"{\\rtf"):
        return "rtf"
    for signature, words in _NO_DOCUMENTS.items():
        if head.startswith(signature):
            raise errors.not_a_document(words)
    for signature, words in _UNREAD.items():
        if head.startswith(signature):
            raise errors.not_readable(words)
    if not head.startswith(_UTF16_MARKS) and not _looks_like_text(head):
        raise errors.not_readable("This kind of file")
    return _kind_of_text(material, decode(head[: _whole_characters(head)]))


def _kind_of_archive(material: Material) -> Kind:
    try:
        with material.open() as file, zipfile.ZipFile(file) as archive:
            names = set(archive.namelist())
            stated = archive.read("mimetype")[:100].strip() if "mimetype" in names else b""
    except (
        zipfile.BadZipFile,
        OSError,
        ValueError,
        NotImplementedError,
        RuntimeError,
        EOFError,
        zlib.error,
    ) as failure:
        raise errors.damaged("Office file or archive") from failure
    for part, kind in _OFFICE_PARTS:
        if part in names:
            return kind
    if stated.removesuffix(b"-template") in _MIME_TYPES:
        return _MIME_TYPES[stated.removesuffix(b"-template")]
    if "META-INF/container.xml" in names:
        return "epub"
    raise errors.not_readable("An archive" if "[Content_Types].xml" not in names else "This kind of Office file")


def _kind_of_text(material: Material, head: str) -> Kind:
    if _MBOX.match(head.replace("\r\n", "\n")):
        return "mbox"
    if _HTML.match(head) or (material.suffix in _WEB_ENDINGS and "<" in head):
        return "html"
    if _is_message(head):
        return "eml"
    if material.suffix in _MARKDOWN_ENDINGS:
        return "markdown"
    lines = [line for line in head.splitlines()[:-1] or head.splitlines() if line.strip()]
    delimiter = delimiter_of("\n".join(lines))
    if material.suffix in _TABLE_ENDINGS and (delimiter or len(lines) < _LEAST_TABLE_ROWS):
        return "csv"
    # A text by its ending may be a table by its content: the same few cells in every row, without sentences.
    is_table = (
        delimiter in (";", "\t")
        and len(lines) >= _LEAST_TABLE_ROWS
        and len({len(row) for row in rows_of("\n".join(lines), delimiter)}) == 1
    )
    return "csv" if is_table and not any(line.rstrip().endswith((".", "?", "!")) for line in lines) else "text"


def _is_message(head: str) -> bool:
    """Whether a text begins with the header of an e-mail (RFC 5322): fields only, several of the usual ones."""
    names: list[str] = []
    for line in head.replace("\r\n", "\n").split("\n")[:60]:
        if line[:1] in (" ", "\t") and names:
            continue
        match = _HEADER_FIELD.match(line)
        if not match:
            is_over = not line
            break
        names.append(match.group().split(":")[0].lower())
    else:
        is_over = True
    known = set(names) & _MESSAGE_FIELDS
    # A letter may begin with From, To and Subject, too; a message says more of itself.
    is_technical = bool(known & {"message-id", "received", "mime-version", "return-path", "content-type"})
    return is_over and "from" in known and is_technical and len(known) >= 3


def _whole_characters(head: bytes) -> int:
    """How many of the first bytes are whole characters of UTF-8, if that is what they are."""
    for n_bytes in range(len(head), max(len(head) - 4, 0), -1):
        try:
            head[:n_bytes].decode("utf-8")
        except UnicodeDecodeError:
            continue
        return n_bytes
    return len(head) - len(head) % 2


def _looks_like_text(head: bytes) -> bool:
    # UTF-16 without a mark has a zero in nearly every second byte.
    zeros_even, zeros_odd = head[::2].count(0), head[1::2].count(0)
    if max(zeros_even, zeros_odd) > 0.4 * len(head) / 2 and min(zeros_even, zeros_odd) < 0.05 * len(head) / 2:
        return True
    return len(head.translate(None, _CONTROL_BYTES)) >= 0.995 * len(head)
