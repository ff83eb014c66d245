# SPDX-License-Identifier: GPL-3.0-or-later
"""Names of files: kept so that nothing is lost of them, and shown so that nothing in them is hidden.

A file name on Linux is bytes, and old archives have names that are not UTF-8.
Python gives such bytes as lone surrogates, which no database, tokenizer or
terminal takes. In what is kept each of them stands as a character of plane 16
that nobody else uses (U+10FF00 and the byte), and can be led back.
"""

import re
import unicodedata
from pathlib import Path

_SURROGATES, _KEPT = 0xDC00, 0x10FF00
_TO_KEEP = {_SURROGATES + byte: chr(_KEPT + byte) for byte in range(0x80, 0x100)}
_TO_FIND = {_KEPT + byte: chr(_SURROGATES + byte) for byte in range(0x80, 0x100)}
_HARMLESS = frozenset("\u00ad\u200b\u200c\u200d\ufeff\u2060")
"""Signs that show nothing and change nothing of what is around them: they are left out where names are shown."""
_LONE = re.compile("[\ud800-\udfff]")
_ESCAPED_IN_JSON = re.compile(
    "[\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff\U0010ff80-\U0010ffff]"
)


def path_text(path: Path | str) -> str:
    """A path as text that everything takes, and that `path_of` leads back."""
    return str(path).translate(_TO_KEEP)


def path_of(text: str) -> Path:
    """The path that `path_text` made this of."""
    return Path(text.translate(_TO_FIND))


def storable(text: str) -> str:
    """Text that a database and a tokenizer take: stray bytes of names as `path_text` has them, other lone surrogates replaced."""
    return _LONE.sub("\ufffd", text.translate(_TO_KEEP))


def visible(text: str) -> str:
    """Text on one line with every sign that would steer a screen shown instead: `‹202E›` for U+202E, `‹E9›` for a stray byte."""
    return "".join(map(_shown, text))


def visible_lines(text: str) -> str:
    """The same for text of several lines."""
    return "\n".join(map(visible, text.split("\n")))


def json_line(text: str) -> str:
    """JSON with the signs that would steer a terminal, or that are no text, as escapes: the same values."""
    return _ESCAPED_IN_JSON.sub(_escape, text)


def _shown(sign: str) -> str:
    code = ord(sign)
    if sign in _HARMLESS:
        return ""
    if code in _TO_FIND:
        return f"‹{code - _KEPT:02X}›"
    if code in _TO_KEEP:
        return f"‹{code - _SURROGATES:02X}›"
    return f"‹{code:02X}›" if unicodedata.category(sign) in ("Cc", "Cf", "Cs", "Co", "Zl", "Zp") else sign


def _escape(match: re.Match[str]) -> str:
    code = ord(match.group())
    if code < 0x10000:
        return f"\\u{code:04x}"
    high, low = divmod(code - 0x10000, 0x400)
    return f"\\u{0xD800 + high:04x}\\u{0xDC00 + low:04x}"
