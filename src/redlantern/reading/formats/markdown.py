# SPDX-License-Identifier: GPL-3.0-or-later
"""Markdown (CommonMark with tables), by markdown-it-py."""

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from redlantern.reading import errors
from redlantern.reading.formats.text import decode
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages
from redlantern.reading.values import CELL_SEPARATOR, ROW_SEPARATOR, BlockKind, ReadFile

if TYPE_CHECKING:
    from markdown_it.token import Token

_FRONT_MATTER = re.compile(r"\A---\n.*?\n---\n", re.DOTALL)


def read_markdown(material: Material) -> ReadFile:
    """Read a Markdown file; its first heading is its title."""
    from markdown_it import MarkdownIt

    text = _FRONT_MATTER.sub("", decode(material.read()).replace("\r\n", "\n").replace("\r", "\n"))
    tokens = MarkdownIt("commonmark").enable("table").parse(text)
    pieces = list(_pieces(tokens))
    if not pieces:
        raise errors.empty_file()
    title = next((piece.text for piece in pieces if piece.kind == "heading"), material.plain_name)
    return ReadFile("markdown", title, set_pages(pieces))


def _pieces(tokens: "list[Token]") -> Iterator[Piece]:
    kind: BlockKind = "paragraph"
    level, marker = 0, ""
    markers: list[str] = []
    rows: list[list[str]] = []
    is_in_table = False
    for token in tokens:
        if token.type == "heading_open":
            kind, level = "heading", int(token.tag[1])
        elif token.type in ("bullet_list_open", "ordered_list_open"):
            markers.append("•" if token.type == "bullet_list_open" else "1")
        elif token.type in ("bullet_list_close", "ordered_list_close"):
            markers.pop()
        elif token.type == "list_item_open":
            kind = "list item"
            marker = "• " if markers[-1] == "•" else f"{token.info}{token.markup} "
        elif token.type == "table_open":
            is_in_table, rows = True, []
        elif token.type == "table_close":
            is_in_table = False
            yield Piece("table", ROW_SEPARATOR.join(CELL_SEPARATOR.join(row) for row in rows))
        elif token.type == "tr_open":
            rows.append([])
        elif token.type == "inline" and is_in_table:
            rows[-1].append(clean(_plain(token)))
        elif token.type == "inline":
            yield Piece(kind, clean(marker + _plain(token)), level)
            kind, level, marker = "paragraph", 0, ""
        elif token.type in ("fence", "code_block", "html_block"):
            yield from (Piece("paragraph", clean(line)) for line in token.content.split("\n"))


def _plain(inline: "Token") -> str:
    words = []
    for token in inline.children or []:
        if token.type in ("softbreak", "hardbreak"):
            words.append(" ")
        elif token.type == "image":
            words.append(_plain(token))
        else:
            words.append(token.content)
    return "".join(words)
