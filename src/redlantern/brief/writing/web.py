# SPDX-License-Identifier: GPL-3.0-or-later
"""As one HTML file without links to the outside."""

import html
from collections.abc import Callable

from redlantern.brief.rendering import ANNEX, AnnexPage, Note, Paragraph, Rendered
from redlantern.translation import language, tr

TINTS = (
    "body{color:#222}blockquote{background:#f3e9d4;margin:.6em 0;padding:.5em 1em}"
    "table{border-collapse:collapse;background:#f3e9d4}td,th{border:1px solid #b8a888;padding:.25em .6em;text-align:left}"
    ".page{white-space:pre-wrap;background:#f3e9d4;padding:1em}mark{background:#ffd27a}small{color:#555}li{margin:.3em 0}"
)
"""What keeps the two voices apart on screen and on paper, beside their faces."""
_ON_SCREEN = "body{font:16px/1.45 sans-serif;max-width:46em;margin:2em auto;padding:0 1em}blockquote,table,.page{font-family:serif}"
_BETWEEN = "<sup>, </sup>"
_TAGS = {"title": "h1", "heading": "h2", "quote": "blockquote"}
NOTES = tr("Notes")


def as_html(brief: Rendered, *, note: Callable[[Note], str] | None = None, style: str = TINTS + _ON_SCREEN) -> str:
    """The brief as HTML. `note` writes a footnote where it is called; without it they stand at the end, led to and back."""
    called = note or _led_to
    parts = [_table(each) if each.kind == "table" else _paragraph(each, called) for each in brief.body]
    notes = [each for paragraph in brief.body for each in paragraph.notes]
    if notes and note is None:
        parts += [f"<h2>{NOTES}</h2>", *map(_led_back, notes)]
    for title, items in brief.lists:
        rows = "".join(f"<p>{html.escape(item)}</p>" for item in items)
        parts.append(f"<h2>{title}</h2>{rows}")
    if brief.annex:
        parts.append(f"<h2>{ANNEX}</h2>")
    parts += [f'<h3>{html.escape(page.head)}</h3><div class="page">{_marked(page)}</div>' for page in brief.annex]
    head = f'<meta charset="utf-8"><title>{html.escape(brief.name)}</title><style>{style}</style>'
    return f'<!doctype html><html lang="{language()}"><head>{head}</head><body>{"".join(parts)}</body></html>\n'


def _paragraph(each: Paragraph, called: Callable[[Note], str]) -> str:
    tag = _TAGS.get(each.kind, "p")
    cited = f" <small>[{html.escape(each.cited)}]</small>" if each.cited else ""
    words = f"<i>{html.escape(each.text)}</i>" if each.kind == "note" else html.escape(each.text)
    return f"<{tag}>{words}{_BETWEEN.join(map(called, each.notes))}{cited}</{tag}>"


def _led_to(note: Note) -> str:
    return f'<sup><a id="to{note.number}" href="#note{note.number}">{note.number}</a></sup>'


def _led_back(note: Note) -> str:
    number = f'<a href="#to{note.number}">{note.number}</a>'
    return f'<p id="note{note.number}"><small>{number}. {html.escape(note.text)}</small></p>'


def _table(each: Paragraph) -> str:
    head, *rows = each.rows
    names = "".join(f"<th>{html.escape(cell)}</th>" for cell in head)
    body = "".join(f"<tr>{''.join(f'<td>{html.escape(cell)}</td>' for cell in row)}</tr>" for row in rows)
    return f"<table><tr>{names}</tr>{body}</table>"


def _marked(page: AnnexPage) -> str:
    return "".join(
        f"<mark>{html.escape(words)}</mark>" if is_cited else html.escape(words) for words, is_cited in page.stretches
    )
