# SPDX-License-Identifier: GPL-3.0-or-later
"""As DOCX: quotes in a serif face, ours in a sans one; footnotes are the word processor's own."""

import io
from collections.abc import Sequence
from typing import Any
from xml.sax.saxutils import escape

from redlantern.brief.rendering import ANNEX, Note, Paragraph, Rendered
from redlantern.brief.writing.xml_text import xml_text

_SANS, _SERIF = "Liberation Sans", "Liberation Serif"
_NAMESPACE = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
_RAISED = '<w:rPr><w:vertAlign w:val="superscript"/></w:rPr>'


def as_docx(brief: Rendered) -> bytes:
    """The brief as DOCX."""
    import docx

    document = docx.Document()
    document.core_properties.title = xml_text(brief.name)
    document.core_properties.author = ""
    _dress(document)
    for each in brief.body:
        if each.kind == "table":
            _table(document, each)
        elif each.kind in ("title", "heading"):
            document.add_heading(xml_text(each.text), 0 if each.kind == "title" else 1)
        else:
            _paragraph(document, each)
    for title, items in brief.lists:
        document.add_heading(title, 1)
        for item in items:
            document.add_paragraph(xml_text(item))
    _annex(document, brief)
    _put_footnotes(document, [note for each in brief.body for note in each.notes])
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def _dress(document: Any) -> None:
    """Our faces, and a tint under what is a document's, in place of those that the library comes with."""
    from docx.shared import RGBColor

    for name in ("Normal", "Title", "Heading 1", "Heading 2"):
        font = document.styles[name].font
        font.name, font.color.rgb = _SANS, RGBColor(0x22, 0x22, 0x22)
        # The theme's face would go before ours.
        fonts = font.element.rPr.rFonts
        for attribute in [each for each in fonts.attrib if each.endswith("Theme")]:
            del fonts.attrib[attribute]
    title = document.styles["Title"].element.pPr
    for rule in title.xpath("w:pBdr"):
        title.remove(rule)
    quote = document.styles["Quote"]
    quote.font.name, quote.font.italic = _SERIF, False
    quote.element.get_or_add_pPr().append(_element("shd", 'w:val="clear" w:color="auto" w:fill="F3E9D4"'))


def _paragraph(document: Any, each: Paragraph) -> None:
    from docx.shared import Pt

    paragraph = document.add_paragraph(style="Quote" if each.is_of_documents else None)
    run = paragraph.add_run(xml_text(each.text))
    run.font.name = _SERIF if each.is_of_documents else _SANS
    run.italic = each.kind == "note"
    for at, note in enumerate(each.notes):
        if at:
            paragraph.add_run(", ").font.superscript = True
        called = paragraph.add_run()
        called.font.superscript = True
        called._r.append(_element("footnoteReference", f'w:id="{note.number}"'))
    if each.cited:
        mark = paragraph.add_run(f" [{xml_text(each.cited)}]")
        mark.font.name, mark.font.size, mark.italic = _SANS, Pt(9), False


def _annex(document: Any, brief: Rendered) -> None:
    from docx.enum.text import WD_COLOR_INDEX

    if brief.annex:
        document.add_heading(ANNEX, 1)
    for page in brief.annex:
        document.add_heading(xml_text(page.head), 2)
        paragraph = document.add_paragraph()
        for words, is_cited in page.stretches:
            run = paragraph.add_run(xml_text(words))
            run.font.name = _SERIF
            if is_cited:
                run.font.highlight_color = WD_COLOR_INDEX.YELLOW


def _table(document: Any, each: Paragraph) -> None:
    table = document.add_table(rows=0, cols=max(map(len, each.rows)))
    table.style = "Table Grid"
    for row in each.rows:
        cells = table.add_row().cells
        for at, words in enumerate(row):
            cells[at].text = xml_text(words)
            cells[at].paragraphs[0].style = "Quote"


def _put_footnotes(document: Any, notes: Sequence[Note]) -> None:
    """Add the part that holds the footnotes (ECMA-376 part 1, 11.3.7), which python-docx does not write."""
    from docx.opc.packuri import PackURI
    from docx.opc.part import Part

    if not notes:
        return
    rules = "".join(
        f'<w:footnote w:type="{kind}" w:id="{number}"><w:p><w:r><w:{kind}/></w:r></w:p></w:footnote>'
        for number, kind in ((-1, "separator"), (0, "continuationSeparator"))
    )
    each = "".join(
        f'<w:footnote w:id="{note.number}"><w:p><w:pPr><w:spacing w:after="0"/></w:pPr><w:r>{_RAISED}<w:footnoteRef/></w:r>'
        f'<w:r><w:rPr><w:rFonts w:ascii="{_SANS}" w:hAnsi="{_SANS}"/><w:sz w:val="17"/></w:rPr>'
        f'<w:t xml:space="preserve"> {escape(xml_text(note.text))}</w:t></w:r></w:p></w:footnote>'
        for note in notes
    )
    content = f'<?xml version="1.0" encoding="UTF-8" standalone="yes"?><w:footnotes xmlns:w="{_NAMESPACE}">{rules}{each}</w:footnotes>'
    part = Part(
        PackURI("/word/footnotes.xml"),
        "application/vnd.openxmlformats-officedocument.wordprocessingml.footnotes+xml",
        content.encode(),
        document.part.package,
    )
    document.part.relate_to(part, "http://schemas.openxmlformats.org/officeDocument/2006/relationships/footnotes")


def _element(name: str, attributes: str) -> Any:
    from docx.oxml import parse_xml

    return parse_xml(f'<w:{name} xmlns:w="{_NAMESPACE}" {attributes}/>')
