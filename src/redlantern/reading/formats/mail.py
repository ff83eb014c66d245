# SPDX-License-Identifier: GPL-3.0-or-later
"""EML and MBOX, by the standard library's email package: each message a document, its attachments documents under it."""

import email
import email.policy
import email.utils
import re
from collections.abc import Callable, Iterator
from email.message import EmailMessage, Message, MIMEPart

from redlantern.reading import errors
from redlantern.reading.formats import web
from redlantern.reading.formats.text import decode, pieces_of_text
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages
from redlantern.reading.values import Part, ReadFile

ReadPart = Callable[[Material], ReadFile]
"""Reads what lies within a file; raises FileRefusedError."""

_AnyPart = EmailMessage | MIMEPart

MOST_PARTS = 2_000
MOST_MESSAGES = 100_000
_MOST_NESTING = 40
_SHOWN_FIELDS = ("From", "To", "Cc", "Date", "Subject")
_DETAILS = {"from": "author", "date": "date", "subject": "subject", "message-id": "message id", "in-reply-to": "in reply to",
            "references": "thread"}  # fmt: skip
_QUOTED = re.compile(r"^\s*>")
_NAME_MARKS = re.compile(r"[/\\\x00-\x1f]")
_MBOX_SEPARATOR = re.compile(rb"(?:\A|\r?\n)(From [^\r\n]*\d{4}[^\r\n]*\r?\n)")


def read_eml(material: Material, read_part: ReadPart) -> ReadFile:
    """Read one message; `read_part` is given each attachment.

    Raises
    ------
    FileRefusedError
        If it is no message.
    """
    return _read_message(material.read(), material.plain_name, read_part)


def read_mbox(material: Material, read_part: ReadPart) -> ReadFile:
    """Read a mailbox: a document without pages of its own, with one part for each message and attachment.

    Raises
    ------
    FileRefusedError
        If it holds no message, or too many.
    """
    parts: list[Part] = []
    for number, raw in enumerate(messages_of(material.read()), 1):
        if number > MOST_MESSAGES:
            raise errors.unsafe(f"it holds more than {MOST_MESSAGES:,} messages")
        name = f"message {number}"
        try:
            with errors.making_sense():
                read = _read_message(raw, name, read_part)
        except errors.FileRefusedError as refusal:
            parts.append(Part(name, None, str(refusal)))
            continue
        parts.append(Part(name, ReadFile(read.kind, read.title, read.pages, read.notes, read.details)))
        parts.extend(Part(f"{name}/{part.name}", part.read, part.refusal) for part in read.parts)
    if not parts:
        raise errors.damaged("mailbox")
    n_messages = sum("/" not in part.name for part in parts)
    return ReadFile("mbox", material.plain_name, (), (f"It holds {n_messages} messages.",), parts=tuple(parts))


def messages_of(raw: bytes) -> Iterator[bytes]:
    """Cut a mailbox (mboxrd and mboxo) at its lines that begin with “From ”."""
    marks = list(_MBOX_SEPARATOR.finditer(raw))
    for mark, following in zip(marks, [*marks[1:], None], strict=True):
        message = raw[mark.end() : following.start() if following else len(raw)]
        yield re.sub(rb"(?m)^>(>*From )", rb"\1", message)


def attachments_of(raw: bytes) -> list[Material]:
    """The attachments of a message, each with a name that is unlike the others'."""
    found: list[Material] = []
    for part in _parts(_parsed(raw)):
        if not _is_attachment(part):
            continue
        name = _NAME_MARKS.sub("_", clean(_file_name(part)))[:120] or f"attachment {len(found) + 1}"
        taken = {attachment.name for attachment in found}
        shown, number = name, 2
        while shown in taken:
            shown, number = f"{number} {name}", number + 1
        found.append(Material(shown, data=_bytes(part)))
        if len(found) > MOST_PARTS:
            raise errors.unsafe(f"it has more than {MOST_PARTS:,} attachments")
    return found


def _read_message(raw: bytes, name: str, read_part: ReadPart) -> ReadFile:
    message = _parsed(raw)
    header = [Piece("paragraph", f"{field}: {value}") for field in _SHOWN_FIELDS if (value := _field(message, field))]
    pieces = [*header, *_body(message)]
    if not pieces:
        raise errors.no_text()
    parts = []
    for attachment in attachments_of(raw):
        try:
            parts.append(Part(attachment.name, read_part(attachment)))
        except errors.FileRefusedError as refusal:
            parts.append(Part(attachment.name, None, str(refusal)))
    details = {label: value for field, label in _DETAILS.items() if (value := _field(message, field))}
    if "date" in details:
        details["date"] = _day(details["date"])
    nested = [
        Part(f"{part.name}/{inner.name}", inner.read, inner.refusal)
        for part in parts
        if part.read
        for inner in part.read.parts
    ]
    return ReadFile("eml", _field(message, "Subject") or name, set_pages(pieces), (), details, parts=(*parts, *nested))


def _parsed(raw: bytes) -> EmailMessage:
    try:
        message = email.message_from_bytes(raw, policy=email.policy.default)
    except (ValueError, LookupError, RecursionError, IndexError) as failure:
        raise errors.damaged("message") from failure
    assert isinstance(message, EmailMessage)
    return message


def _field(message: Message, name: str) -> str:
    try:
        return clean(str(message.get(name) or ""))[:1000]
    except (
        ValueError,
        LookupError,
        IndexError,
        AttributeError,
        TypeError,
    ):  # a header that the parser cannot make sense of
        return ""


def _day(stated: str) -> str:
    """A message's date and time in one spelling, as its sender's clock had it."""
    try:
        return email.utils.parsedate_to_datetime(stated).strftime("%Y-%m-%d %H:%M")
    except (ValueError, TypeError, OverflowError):
        return stated


def _parts(message: _AnyPart, depth: int = 0) -> "Iterator[_AnyPart]":
    """The leaves of a message; a forwarded message is a leaf."""
    if depth > _MOST_NESTING:
        raise errors.unsafe("it is nested too deeply")
    if message.get_content_maintype() == "multipart" and message.is_multipart():
        for part in message.iter_parts():
            yield from _parts(part, depth + 1)
    else:
        yield message


def _is_attachment(part: _AnyPart) -> bool:
    if part.get_content_type() == "message/rfc822":
        return True
    if part.get_content_disposition() == "inline" and part.get_content_maintype() == "image":
        return False  # a logo in a signature, shown within the text
    return part.get_content_disposition() == "attachment" or part.get_content_maintype() not in ("text", "multipart")


def _file_name(part: _AnyPart) -> str:
    if part.get_content_type() == "message/rfc822":
        inner = _inner(part)
        return f"{_field(inner, 'Subject') if inner else 'message'}.eml"
    try:
        return part.get_filename() or ""
    except (ValueError, LookupError, TypeError):
        return ""


def _inner(part: _AnyPart) -> Message | None:
    """The message that a part holds."""
    payload = part.get_payload()
    first = payload[0] if isinstance(payload, list) and payload else None
    return first if isinstance(first, Message) else None


def _bytes(part: _AnyPart) -> bytes:
    if part.get_content_type() == "message/rfc822":
        inner = _inner(part)
        return bytes(inner) if inner is not None else b""
    payload = part.get_payload(decode=True)
    return payload if isinstance(payload, bytes) else b""


def _body(message: EmailMessage) -> Iterator[Piece]:
    """The text of a message: its plain form, else its HTML, or that where it has a table, which the plain form cannot show.

    What the plain form quotes from an earlier message is a note.
    """
    leaves = [part for part in _parts(message) if not _is_attachment(part)]
    plain = [part for part in leaves if part.get_content_type() == "text/plain"]
    set_out = [
        piece
        for part in leaves
        if plain and part.get_content_type() == "text/html"
        for piece in web.pieces_of(web.parse(_text(part)))
    ]
    if any(piece.kind == "table" for piece in set_out):
        yield from set_out
        return
    if plain:
        for part in plain:
            yield from _plain(_text(part))
        return
    for part in leaves:
        if part.get_content_type() == "text/html":
            yield from web.pieces_of(web.parse(_text(part)))
        elif part.get_content_maintype() == "text":
            yield from _plain(_text(part))


def _text(part: _AnyPart) -> str:
    raw = _bytes(part)
    charset = part.get_content_charset()
    if charset:
        try:
            return raw.decode(charset)
        except (LookupError, ValueError):  # a name of no encoding, even one that is no name
            pass
    return decode(raw)


def _plain(text: str) -> Iterator[Piece]:
    gathered: list[str] = []
    is_quoted = False
    for line in [*text.splitlines(), ""]:
        quotes = bool(_QUOTED.match(line))
        if quotes != is_quoted and gathered:
            yield from _stretch(gathered, is_quoted)
            gathered = []
        is_quoted = quotes
        gathered.append(re.sub(r"^[\s>]+", "", line) if quotes else line)
    yield from _stretch(gathered, is_quoted)


def _stretch(lines: list[str], is_quoted: bool) -> Iterator[Piece]:
    for piece in pieces_of_text("\n".join(lines)):
        yield Piece("note", piece.text) if is_quoted else piece
