# SPDX-License-Identifier: GPL-3.0-or-later
"""The citations of a brief as a small JSON file, by which a colleague can check every quoted word; see docs/brief.md."""

import json
from dataclasses import dataclass
from typing import Any

import msgspec

from redlantern.brief.values import Brief, Quote
from redlantern.errors import RedlanternError
from redlantern.translation import tr

FORM = "red-lantern citations"
VERSION = 1


class CitedDocument(msgspec.Struct, kw_only=True):
    """A file that is quoted, by its hash; `path` is where it lay, `part` what lies within it."""

    mark: str
    title: str
    sha256: str
    path: str
    part: str = ""
    dated: str = ""


class CitedWords(msgspec.Struct, kw_only=True):
    """Quoted words with their place: page from 1, offsets in the page's text as it is read, end excluded."""

    number: int
    sha256: str
    part: str = ""
    page: int
    start: int
    end: int
    words: str


class CitationsForm(msgspec.Struct, kw_only=True):
    """The file."""

    form: str
    version: int
    brief: str
    made_at: str
    made_by: str
    documents: list[CitedDocument]
    citations: list[CitedWords]


class NoCitationsError(RedlanternError):
    """A file is no list of citations of ours."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name

    def __str__(self) -> str:
        return tr("“{name}” holds no citations that can be checked: it is not what was saved beside a brief.").format(
            name=self.name
        )


@dataclass(frozen=True)
class Numbered:
    """The quotes of a brief with their numbers, from 1, and its documents with theirs."""

    quotes: tuple[Quote, ...]

    def number(self, quote: Quote) -> int:
        """The number of a quote."""
        return self.quotes.index(quote) + 1


def numbered(brief: Brief) -> Numbered:
    """Number the quotes of a brief in the order of its entries."""
    return Numbered(brief.quotes)


def citations_of(brief: Brief, *, made_at: str, made_by: str) -> bytes:
    """The file of a brief's citations."""
    documents: dict[str, CitedDocument] = {}
    for quote in brief.quotes:
        part = quote.document_key.partition("/")[2]
        documents.setdefault(
            quote.document_key,
            CitedDocument(
                mark=quote.call_mark,
                title=quote.title,
                sha256=quote.sha256,
                path=quote.path,
                part=part,
                dated=quote.dated,
            ),
        )
    citations = [
        CitedWords(
            number=number, sha256=quote.sha256, part=quote.document_key.partition("/")[2], page=quote.page_number,
            start=quote.start, end=quote.end, words=quote.text,
        )
        for number, quote in enumerate(brief.quotes, start=1)
    ]  # fmt: skip
    form = CitationsForm(
        form=FORM, version=VERSION, brief=brief.name, made_at=made_at, made_by=made_by,
        documents=list(documents.values()), citations=citations,
    )  # fmt: skip
    return (json.dumps(msgspec.to_builtins(form), ensure_ascii=False, indent=1) + "\n").encode("utf-8", "replace")


def citations_from(name: str, content: bytes) -> CitationsForm:
    """Read such a file.

    Raises
    ------
    NoCitationsError
    """
    try:
        form = msgspec.json.decode(content, type=CitationsForm)
    except (msgspec.MsgspecError, UnicodeDecodeError) as failure:
        raise NoCitationsError(name) from failure
    if form.form != FORM or form.version > VERSION:
        raise NoCitationsError(name)
    return form


def schema() -> dict[str, Any]:
    """The JSON Schema of the file, as docs/citations.schema.json holds it."""
    return msgspec.json.schema(CitationsForm)
