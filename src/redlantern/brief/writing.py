# SPDX-License-Identifier: GPL-3.0-or-later
"""A rendered brief as Markdown, HTML, DOCX and ODT."""

import html
import io
import re
from collections.abc import Callable
from typing import Any, Literal, get_args

from redlantern.brief.rendering import AnnexPage, Paragraph, Rendered

BriefForm = Literal["docx", "odt", "html", "md"]
FORMS: tuple[BriefForm, ...] = get_args(BriefForm)
CITATIONS, DOCUMENTS, ANNEX = "Citations", "Documents cited", "Cited pages"
_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
_STYLE = (
    "body{font:16px/1.45 sans-serif;max-width:46em;margin:2em auto;padding:0 1em;color:#222}"
    "blockquote{font-family:serif;background:#f3e9d4;margin:.6em 0;padding:.5em 1em}"
    "table{border-collapse:collapse;font-family:serif;background:#f3e9d4}td,th{border:1px solid #b8a888;padding:.25em .6em;text-align:left}"
    ".page{font-family:serif;white-space:pre-wrap;background:#f3e9d4;padding:1em}mark{background:#ffd27a}small{color:#555}"
    "li{margin:.3em 0}"
)
_MARKDOWN_SIGNS = re.compile(r"([\\`*_{}\[\]<>#|])")


def write(brief: Rendered, form: BriefForm) -> bytes:
    """The file of a brief in a format."""
    writers: dict[BriefForm, Callable[[Rendered], bytes]] = {
        "docx": as_docx, "odt": as_odt, "html": lambda each: as_html(each).encode("utf-8", "replace"),
        "md": lambda each: as_markdown(each).encode("utf-8", "replace"),
    }  # fmt: skip
    return writers[form](brief)


def as_markdown(brief: Rendered) -> str:
    """As Markdown: quotes as such, no HTML or link of a document's."""
    lines: list[str] = []
    for each in brief.body:
        text, cited = _markdown(each.text), f" [{_markdown(each.cited)}]" if each.cited else ""
        if each.kind == "table":
            lines += _markdown_table(each)
        elif each.kind in ("title", "heading"):
            lines += [f"{'#' if each.kind == 'title' else '##'} {text}", ""]
        else:
            lines += [f"{'> ' if each.is_of_documents else ''}{text}{cited}", ""]
    for title, items in ((CITATIONS, brief.citations), (DOCUMENTS, brief.documents)):
        if items:
            lines += [f"## {title}", "", *(f"{_markdown(item)}\n" for item in items)]
    if brief.annex:
        lines += [f"## {ANNEX}", ""]
    for page in brief.annex:
        lines += [f"### {_markdown(page.head)}", "", *(f"> {_markdown(line)}" for line in page.text.split("\n")), ""]
    return "\n".join(lines).rstrip() + "\n"


def as_html(brief: Rendered) -> str:
    """As one HTML file without links to the outside."""
    tags = {"title": "h1", "heading": "h2", "quote": "blockquote"}
    parts = []
    for each in brief.body:
        if each.kind == "table":
            parts.append(_html_table(each))
            continue
        tag = tags.get(each.kind, "p")
        cited = f" <small>[{html.escape(each.cited)}]</small>" if each.cited else ""
        words = f"<i>{html.escape(each.text)}</i>" if each.kind == "note" else html.escape(each.text)
        parts.append(f"<{tag}>{words}{cited}</{tag}>")
    for title, items in ((CITATIONS, brief.citations), (DOCUMENTS, brief.documents)):
        if items:
            rows = "".join(f"<p>{html.escape(item)}</p>" for item in items)
            parts.append(f"<h2>{title}</h2>{rows}")
    if brief.annex:
        parts.append(f"<h2>{ANNEX}</h2>")
    parts += [f'<h3>{html.escape(page.head)}</h3><div class="page">{_marked_html(page)}</div>' for page in brief.annex]
    head = f'<meta charset="utf-8"><title>{html.escape(brief.name)}</title><style>{_STYLE}</style>'
    return f'<!doctype html><html lang="en"><head>{head}</head><body>{"".join(parts)}</body></html>\n'


def as_docx(brief: Rendered) -> bytes:
    """As DOCX: quotes in a serif face with a tint, ours in a sans one."""
    import docx
    from docx.enum.text import WD_COLOR_INDEX
    from docx.shared import Pt

    document = docx.Document()
    document.core_properties.title = _xml(brief.name)
    document.core_properties.author = ""
    document.styles["Normal"].font.name = "Liberation Sans"
    for each in brief.body:
        if each.kind == "table":
            _docx_table(document, each)
            continue
        if each.kind in ("title", "heading"):
            document.add_heading(_xml(each.text), 0 if each.kind == "title" else 1)
            continue
        paragraph = document.add_paragraph(style="Quote" if each.is_of_documents else None)
        run = paragraph.add_run(_xml(each.text))
        run.font.name = "Liberation Serif" if each.is_of_documents else "Liberation Sans"
        run.italic = each.kind == "note"
        if each.cited:
            mark = paragraph.add_run(f" [{_xml(each.cited)}]")
            mark.font.name, mark.font.size, mark.italic = "Liberation Sans", Pt(9), False
    for title, items in ((CITATIONS, brief.citations), (DOCUMENTS, brief.documents)):
        if items:
            document.add_heading(title, 1)
            for item in items:
                document.add_paragraph(_xml(item))
    if brief.annex:
        document.add_heading(ANNEX, 1)
    for page in brief.annex:
        document.add_heading(_xml(page.head), 2)
        paragraph = document.add_paragraph()
        for words, is_cited in _stretches(page):
            run = paragraph.add_run(_xml(words))
            run.font.name = "Liberation Serif"
            if is_cited:
                run.font.highlight_color = WD_COLOR_INDEX.YELLOW
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def as_odt(brief: Rendered) -> bytes:
    """As ODT, with styles of the same two voices."""
    from odf.opendocument import OpenDocumentText
    from odf.table import Table, TableCell, TableColumn, TableRow
    from odf.text import H, P, Span

    document = OpenDocumentText()
    styles = _odt_styles(document)
    for each in brief.body:
        if each.kind == "table":
            table = Table(name="working")
            table.addElement(TableColumn(numbercolumnsrepeated=str(max(map(len, each.rows)))))
            for row in each.rows:
                line = TableRow()
                for cell in row:
                    holder = TableCell()
                    holder.addElement(P(text=_xml(cell), stylename=styles["quote"]))
                    line.addElement(holder)
                table.addElement(line)
            document.text.addElement(table)
        elif each.kind in ("title", "heading"):
            document.text.addElement(H(outlinelevel=1 if each.kind == "title" else 2, text=_xml(each.text)))
        else:
            paragraph = P(stylename=styles["quote" if each.is_of_documents else "own"], text=_xml(each.text))
            if each.cited:
                paragraph.addElement(Span(text=f" [{_xml(each.cited)}]", stylename=styles["mark"]))
            document.text.addElement(paragraph)
    for title, items in ((CITATIONS, brief.citations), (DOCUMENTS, brief.documents)):
        if items:
            document.text.addElement(H(outlinelevel=2, text=title))
            for item in items:
                document.text.addElement(P(stylename=styles["own"], text=_xml(item)))
    if brief.annex:
        document.text.addElement(H(outlinelevel=2, text=ANNEX))
    for page in brief.annex:
        document.text.addElement(H(outlinelevel=3, text=_xml(page.head)))
        paragraph = P(stylename=styles["quote"])
        for words, is_cited in _stretches(page):
            paragraph.addElement(Span(text=_xml(words), stylename=styles["cited" if is_cited else "plain"]))
        document.text.addElement(paragraph)
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def _odt_styles(document: Any) -> dict[str, Any]:
    from odf.style import ParagraphProperties, Style, TextProperties

    found = {}
    for name, family, text, paragraph in (
        ("own", "paragraph", {"fontfamily": "Liberation Sans"}, {"marginbottom": "0.25cm"}),
        (
            "quote",
            "paragraph",
            {"fontfamily": "Liberation Serif"},
            {"marginbottom": "0.25cm", "backgroundcolor": "#f3e9d4"},
        ),
        ("mark", "text", {"fontfamily": "Liberation Sans", "fontsize": "9pt"}, {}),
        ("plain", "text", {"fontfamily": "Liberation Serif"}, {}),
        ("cited", "text", {"fontfamily": "Liberation Serif", "backgroundcolor": "#ffd27a"}, {}),
    ):
        style = Style(name=f"brief-{name}", family=family)
        if paragraph:
            style.addElement(ParagraphProperties(**paragraph))
        style.addElement(TextProperties(**text))
        document.automaticstyles.addElement(style)
        found[name] = style
    return found


def _docx_table(document: Any, each: Paragraph) -> None:
    table = document.add_table(rows=0, cols=max(map(len, each.rows)))
    table.style = "Table Grid"
    for row in each.rows:
        cells = table.add_row().cells
        for at, words in enumerate(row):
            cells[at].text = _xml(words)


def _html_table(each: Paragraph) -> str:
    head, *rows = each.rows
    names = "".join(f"<th>{html.escape(cell)}</th>" for cell in head)
    body = "".join(f"<tr>{''.join(f'<td>{html.escape(cell)}</td>' for cell in row)}</tr>" for row in rows)
    return f"<table><tr>{names}</tr>{body}</table>"


def _markdown_table(each: Paragraph) -> list[str]:
    head, *rows = each.rows
    lines = [f"| {' | '.join(map(_markdown, row))} |" for row in (head, *rows)]
    return [lines[0], f"|{'---|' * len(head)}", *lines[1:], ""]


def _stretches(page: AnnexPage) -> list[tuple[str, bool]]:
    """The text of a page in stretches, each cited or not."""
    found, at = [], 0
    for start, end in sorted(page.spans):
        if start > at:
            found.append((page.text[at:start], False))
        if end > max(start, at):
            found.append((page.text[max(start, at) : end], True))
        at = max(at, end)
    if at < len(page.text):
        found.append((page.text[at:], False))
    return found


def _marked_html(page: AnnexPage) -> str:
    return "".join(
        f"<mark>{html.escape(words)}</mark>" if is_cited else html.escape(words) for words, is_cited in _stretches(page)
    )


def _markdown(text: str) -> str:
    return _MARKDOWN_SIGNS.sub(r"\\\1", text)


def _xml(text: str) -> str:
    # What XML cannot hold is left away.
    return _NOT_IN_XML.sub("", text)
