# SPDX-License-Identifier: GPL-3.0-or-later
"""As ODT, with styles of the same two voices and the word processor's own footnotes."""

import io
from typing import Any

from redlantern.brief.rendering import ANNEX, Note, Paragraph, Rendered
from redlantern.brief.writing.xml_text import xml_text

_SANS, _SERIF = "Liberation Sans", "Liberation Serif"
_STYLES: tuple[tuple[str, str, dict[str, str], dict[str, str]], ...] = (
    ("own", "paragraph", {"fontfamily": _SANS}, {"marginbottom": "0.25cm"}),
    ("said", "paragraph", {"fontfamily": _SANS, "fontstyle": "italic"}, {"marginbottom": "0.25cm"}),
    ("quote", "paragraph", {"fontfamily": _SERIF}, {"marginbottom": "0.25cm", "backgroundcolor": "#f3e9d4"}),
    ("plain cell", "paragraph", {"fontfamily": _SERIF}, {}),
    ("foot", "paragraph", {"fontfamily": _SANS, "fontsize": "8.5pt"}, {}),
    ("mark", "text", {"fontfamily": _SANS, "fontsize": "9pt"}, {}),
    ("raised", "text", {"textposition": "super 58%"}, {}),
    ("plain", "text", {"fontfamily": _SERIF}, {}),
    ("cited", "text", {"fontfamily": _SERIF, "backgroundcolor": "#ffd27a"}, {}),
)


def as_odt(brief: Rendered) -> bytes:
    """The brief as ODT."""
    from odf.opendocument import OpenDocumentText
    from odf.teletype import addTextToElement
    from odf.text import H, P, Span

    document = OpenDocumentText()
    styles = _styles(document)
    for each in brief.body:
        if each.kind == "table":
            document.text.addElement(_table(each, styles))
        elif each.kind in ("title", "heading"):
            document.text.addElement(H(outlinelevel=1 if each.kind == "title" else 2, text=xml_text(each.text)))
        else:
            document.text.addElement(_paragraph(each, styles))
    for title, items in brief.lists:
        document.text.addElement(H(outlinelevel=2, text=title))
        for item in items:
            document.text.addElement(P(stylename=styles["own"], text=xml_text(item)))
    if brief.annex:
        document.text.addElement(H(outlinelevel=2, text=ANNEX))
    for page in brief.annex:
        document.text.addElement(H(outlinelevel=3, text=xml_text(page.head)))
        paragraph = P(stylename=styles["quote"])
        for words, is_cited in page.stretches:
            span = Span(stylename=styles["cited" if is_cited else "plain"])
            # With its line ends.
            addTextToElement(span, xml_text(words))
            paragraph.addElement(span)
        document.text.addElement(paragraph)
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def _paragraph(each: Paragraph, styles: dict[str, Any]) -> Any:
    from odf.text import P, Span

    own = "said" if each.kind == "note" else "own"
    paragraph = P(stylename=styles["quote" if each.is_of_documents else own], text=xml_text(each.text))
    for at, note in enumerate(each.notes):
        if at:
            paragraph.addElement(Span(text=", ", stylename=styles["raised"]))
        paragraph.addElement(_footnote(note, styles))
    if each.cited:
        paragraph.addElement(Span(text=f" [{xml_text(each.cited)}]", stylename=styles["mark"]))
    return paragraph


def _footnote(note: Note, styles: dict[str, Any]) -> Any:
    from odf.text import Note as Footnote
    from odf.text import NoteBody, NoteCitation, P

    footnote = Footnote(noteclass="footnote", id=f"note{note.number}")
    footnote.addElement(NoteCitation(text=str(note.number)))
    body = NoteBody()
    body.addElement(P(stylename=styles["foot"], text=xml_text(note.text)))
    footnote.addElement(body)
    return footnote


def _table(each: Paragraph, styles: dict[str, Any]) -> Any:
    from odf.table import Table, TableCell, TableColumn, TableRow
    from odf.text import P

    table = Table(name="working")
    table.addElement(TableColumn(numbercolumnsrepeated=str(max(map(len, each.rows)))))
    for row in each.rows:
        line = TableRow()
        for cell in row:
            holder = TableCell(stylename=styles["cell"])
            holder.addElement(P(text=xml_text(cell), stylename=styles["plain cell"]))
            line.addElement(holder)
        table.addElement(line)
    return table


def _styles(document: Any) -> dict[str, Any]:
    from odf.style import ParagraphProperties, Style, TableCellProperties, TextProperties

    cell = Style(name="brief-cell", family="table-cell")
    cell.addElement(TableCellProperties(border="0.5pt solid #b8a888", padding="0.08cm", backgroundcolor="#f3e9d4"))
    document.automaticstyles.addElement(cell)
    found = {"cell": cell}
    for name, family, text, paragraph in _STYLES:
        style = Style(name=f"brief-{name.replace(' ', '-')}", family=family)
        if paragraph:
            style.addElement(ParagraphProperties(**paragraph))
        style.addElement(TextProperties(**text))
        document.automaticstyles.addElement(style)
        found[name] = style
    return found
