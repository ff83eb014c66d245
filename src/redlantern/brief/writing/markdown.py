# SPDX-License-Identifier: GPL-3.0-or-later
"""As Markdown: quotes as such, no HTML or link of a document's."""

import re

from redlantern.brief.rendering import ANNEX, Paragraph, Rendered

_SIGNS = re.compile(r"([\\`*_{}\[\]<>#|])")


def as_markdown(brief: Rendered) -> str:
    """The brief as Markdown, with footnotes where it has them."""
    lines: list[str] = []
    for each in brief.body:
        if each.kind == "table":
            lines += _table(each)
        elif each.kind in ("title", "heading"):
            lines += [f"{'#' if each.kind == 'title' else '##'} {_plain(each.text)}", ""]
        else:
            cited = f" [{_plain(each.cited)}]" if each.cited else ""
            notes = "".join(f"[^{note.number}]" for note in each.notes)
            lines += [f"{'> ' if each.is_of_documents else ''}{_plain(each.text)}{notes}{cited}", ""]
    for title, items in brief.lists:
        lines += [f"## {title}", "", *(f"{_plain(item)}\n" for item in items)]
    if brief.annex:
        lines += [f"## {ANNEX}", ""]
    for page in brief.annex:
        lines += [f"### {_plain(page.head)}", "", *(f"> {_plain(line)}" for line in page.text.split("\n")), ""]
    lines += [f"[^{note.number}]: {_plain(note.text)}\n" for each in brief.body for note in each.notes]
    return "\n".join(lines).rstrip() + "\n"


def _table(each: Paragraph) -> list[str]:
    head, *rows = each.rows
    lines = [f"| {' | '.join(map(_plain, row))} |" for row in (head, *rows)]
    return [lines[0], f"|{'---|' * len(head)}", *lines[1:], ""]


def _plain(text: str) -> str:
    return _SIGNS.sub(r"\\\1", text)
