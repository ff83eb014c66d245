# SPDX-License-Identifier: GPL-3.0-or-later
"""What a reader process says, made into values of ours: bounded, every field looked at, and nothing believed.

A reader holds a file from anywhere, and may have been taken over by it. Whatever
is not exactly what a whole reader says is told as `ReaderBrokeError`, before it
can cost memory, raise elsewhere, or reach a database, a tokenizer or a terminal.
"""

import contextlib
import math
import re
import struct
import unicodedata
import zlib
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Any

from redlantern.reading import errors
from redlantern.reading.geometry import BLOCK_BYTES, RUN_BYTES, PackedRuns, unpack_blocks, unpack_runs, unpacked
from redlantern.reading.values import Block, Origin, Page, Part, ReadFile
from redlantern.safety.names import visible

Message = tuple[dict[str, Any], bytes]
OnPage = Callable[[int, int], None]

MOST_TEXT_CHARS = 200_000_000
MOST_BODY_BYTES = 2**30
MOST_PAGES, MOST_PARTS = 300_000, 300_000
_MOST_PICTURE_BYTES = 256 * 2**20
_MOST_SIDE_PT, _MOST_PLACE_TENTHS = 1e6, 10**8
_MOST_LEVEL = 99
_MOST_NAME_CHARS, _MOST_SENTENCE_CHARS, _MOST_DETAIL_CHARS = 1_000, 1_000, 4_000
_MOST_SENTENCES, _MOST_DETAILS = 200, 60
_KIND = re.compile(r"[a-z0-9 ]{1,30}")
_LANGUAGE = re.compile(r"[a-z]{0,3}")
_BROKEN = (
    KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError, RecursionError, zlib.error, struct.error,
)  # fmt: skip
"""What comes of looking at something that is not what it should be."""


_BLANKS = str.maketrans("\t\n\r", "   ")


@contextlib.contextmanager
def checked() -> Iterator[None]:
    """Tell whatever is wrong with an answer as that its file broke the reader."""
    try:
        yield
    except _BROKEN as failure:
        raise errors.ReaderBrokeError from failure


class Gathering:
    """Makes a document of the messages about it, one after another."""

    def __init__(self, on_page: OnPage | None) -> None:
        self._on_page = on_page
        self._pages: list[Page] = []
        self._document: ReadFile | None = None
        self._parts: list[Part] = []
        self._part_name = ""
        self._n_chars = self._n_bytes = self._n_pages = 0

    def take(self, head: dict[str, Any], body: bytes) -> ReadFile | None:
        """Take one message; gives the whole once it is the last.

        Raises
        ------
        FileRefusedError
            If the reader refused the file, or says what no reader does.
        """
        with checked():
            kind = head["is"]
            if kind == "refused":
                raise refusal(head)
            if kind == "done":
                return self._whole()
            {
                "progress": self._take_progress,
                "page": self._take_page,
                "document": self._take_document,
                "part": self._take_part,
                "part refused": self._take_refused_part,
            }[kind](head, body)
        return None

    def _whole(self) -> ReadFile:
        if self._document is None or self._pages:
            raise errors.ReaderBrokeError
        return replace(self._document, parts=tuple(self._parts))

    def _take_progress(self, head: dict[str, Any], body: bytes) -> None:
        done, total = _number(head["done"], MOST_PAGES), _number(head["total"], MOST_PAGES)
        if self._on_page is not None:
            self._on_page(min(done, total), total)

    def _take_page(self, head: dict[str, Any], body: bytes) -> None:
        page = page_of(head, body, page_number=len(self._pages) + 1)
        self._pages.append(page)
        self._n_pages += 1
        self._n_chars += len(page.text)
        self._n_bytes += len(body)
        if self._n_chars > MOST_TEXT_CHARS or self._n_bytes > MOST_BODY_BYTES or self._n_pages > MOST_PAGES:
            raise errors.broke_the_reader("it holds more text than any document should")

    def _take_document(self, head: dict[str, Any], body: bytes) -> None:
        read = _document(head, self._pages)
        self._pages = []
        if self._document is None:
            self._document = read
        elif self._part_name:
            self._add(Part(self._part_name, read))
            self._part_name = ""
        else:
            raise errors.ReaderBrokeError

    def _take_part(self, head: dict[str, Any], body: bytes) -> None:
        self._part_name = _part_name(head["name"])

    def _take_refused_part(self, head: dict[str, Any], body: bytes) -> None:
        self._add(Part(_part_name(head["name"]), None, _line(head["reason"], _MOST_SENTENCE_CHARS)))

    def _add(self, part: Part) -> None:
        if self._document is None:
            raise errors.ReaderBrokeError
        self._parts.append(part)
        if len(self._parts) > MOST_PARTS:
            raise errors.broke_the_reader("it holds more documents than any file should")


def page_of(head: dict[str, Any], body: bytes, page_number: int) -> Page:
    """Make a page of a message; `page_number` is the one that it must have.

    Raises
    ------
    KeyError, TypeError, ValueError, struct.error, zlib.error
        If anything in it is not as it must be.
    """
    n_text, n_blocks, n_runs = (_number(part, len(body)) for part in head["parts"])
    if n_text + n_blocks + n_runs != len(body) or _number(head["page_number"], MOST_PAGES) != page_number:
        raise ValueError("the parts of a page do not fit")
    text = body[:n_text].decode()
    blocks = unpack_blocks(body[n_text : n_text + n_blocks], most_bytes=BLOCK_BYTES * (len(text) + 1))
    runs = unpack_runs(body[n_text + n_blocks :], most_bytes=RUN_BYTES * (len(text) + 1))
    _check_blocks(blocks, len(text))
    # Not by their truth, which would unpack them all into values.
    if isinstance(runs, PackedRuns):
        runs.check(len(text), most_tenths=_MOST_PLACE_TENTHS)
    origin: Origin = head["origin"]
    if origin not in ("text", "recognised", "none"):
        raise ValueError("a page from nowhere")
    width, height = (_measure(head[name], _MOST_SIDE_PT) for name in ("width_pt", "height_pt"))
    warnings = _sentences(head["warnings"])
    return Page(page_number, text, blocks, runs, width, height, origin, _measure(head["confidence"], 1.0), warnings)


def picture_of(head: dict[str, Any], body: bytes) -> tuple[int, int, bytes]:
    """Width, height and pixels of a picture: exactly as many as it says, and not too many.

    Raises
    ------
    ReaderBrokeError
    """
    with checked():
        width, height = _number(head["width"], 2**16), _number(head["height"], 2**16)
        n_bytes = width * height * 4
        if not 0 < n_bytes <= _MOST_PICTURE_BYTES:
            raise ValueError("a picture of an impossible size")
        pixels = unpacked(body, most_bytes=n_bytes)
        if len(pixels) != n_bytes:
            raise ValueError("a picture that is cut short")
        return width, height, pixels


def refusal(head: dict[str, Any]) -> errors.FileRefusedError:
    """The reason that a reader gives, in a few words without signs that nobody sees."""
    with checked():
        return errors.FileRefusedError(
            _line(head["reason"], _MOST_SENTENCE_CHARS), _line(head["advice"], _MOST_SENTENCE_CHARS)
        )


def _document(head: dict[str, Any], pages: Sequence[Page]) -> ReadFile:
    kind, language = head["kind"], head["language"]
    if not _KIND.fullmatch(kind) or not _LANGUAGE.fullmatch(language):
        raise ValueError("a document of no kind")
    details = head["details"]
    if not isinstance(details, dict) or len(details) > _MOST_DETAILS:
        raise ValueError("too many details")
    kept = {_line(name, 100): _line(value, _MOST_DETAIL_CHARS) for name, value in details.items()}
    return ReadFile(
        kind, visible(_line(head["title"], _MOST_NAME_CHARS)), tuple(pages), _sentences(head["notes"]), kept, language
    )  # fmt: skip


def _check_blocks(blocks: Sequence[Block], n_chars: int) -> None:
    at = 0
    for block in blocks:
        if not at <= block.start <= block.end <= n_chars or not 0 <= block.level <= _MOST_LEVEL:
            raise ValueError("a block outside its page")
        at = block.end


def _part_name(name: Any) -> str:
    line = _line(name, _MOST_NAME_CHARS)
    if not line:
        raise ValueError("a part without a name")
    return line


def _sentences(found: Any) -> tuple[str, ...]:
    if not isinstance(found, list) or len(found) > _MOST_SENTENCES:
        raise ValueError("too many sentences")
    return tuple(_line(piece, _MOST_SENTENCE_CHARS) for piece in found)


def _line(words: Any, most_chars: int) -> str:
    """A line of words without control characters and lone surrogates, cut where it is too long."""
    if not isinstance(words, str):
        raise TypeError("no words")
    kept = words[:most_chars].translate(_BLANKS)
    return "".join(letter if unicodedata.category(letter) not in ("Cc", "Cs") else "\ufffd" for letter in kept)


def _number(value: Any, most: int) -> int:
    if type(value) is not int or not 0 <= value <= most:
        raise ValueError("no number, or one that cannot be")
    return value


def _measure(value: Any, most: float) -> float:
    if type(value) not in (int, float) or not math.isfinite(value) or not 0 <= value <= most:
        raise ValueError("no measure, or one that cannot be")
    return float(value)
