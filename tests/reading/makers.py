# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes small files of every kind with the same few facts, for tests of reading. Nothing here is real."""

import io
import zipfile
from email.message import EmailMessage
from pathlib import Path

import docx
import openpyxl
import pptx
from PIL import Image, ImageDraw, ImageFont
from pptx.util import Inches

FONT = Path(__file__).parents[2] / "src/redlantern/fonts"
ODF_NAMES = (
    'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"'
    ' xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0"'
    ' xmlns:presentation="urn:oasis:names:tc:opendocument:xmlns:presentation:1.0"'
    ' xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0"'
    ' xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" xmlns:dc="http://purl.org/dc/elements/1.1/"'
)


def archive(files: dict[str, str | bytes]) -> bytes:
    """A zip archive of these entries."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, content in files.items():
            packed.writestr(name, content)
    return buffer.getvalue()


def odf(kind: str, body: str, *, styles: str = "", meta: str = "") -> bytes:
    """An OpenDocument file of a kind: text, presentation or spreadsheet."""
    content = (
        f"<office:document-content {ODF_NAMES}><office:automatic-styles>{styles}</office:automatic-styles>"
        f"<office:body><office:{kind}>{body}</office:{kind}></office:body></office:document-content>"
    )
    files: dict[str, str | bytes] = {
        "mimetype": f"application/vnd.oasis.opendocument.{kind}",
        "content.xml": content,
    }
    if meta:
        files["meta.xml"] = (
            f"<office:document-meta {ODF_NAMES}><office:meta>{meta}</office:meta></office:document-meta>"
        )
    return archive(files)


def odt() -> bytes:
    """Headings, a list, a table, a note, a page break and a title."""
    return odf(
        "text",
        '<text:h text:outline-level="1">Survey of the loft</text:h>'
        "<text:p>The loft was at 74<text:s/>% on 3 March.<text:note><text:note-citation>1</text:note-citation>"
        "<text:note-body><text:p>Measured at noon.</text:p></text:note-body></text:note></text:p>"
        "<text:list><text:list-item><text:p>Close the hatch</text:p></text:list-item></text:list>"
        "<table:table><table:table-row><table:table-cell><text:p>Place</text:p></table:table-cell>"
        "<table:table-cell><text:p>Value</text:p></table:table-cell></table:table-row>"
        "<table:table-row><table:table-cell><text:p>Loft</text:p></table:table-cell>"
        "<table:table-cell><text:p>74 %</text:p></table:table-cell></table:table-row></table:table>"
        '<text:p text:style-name="P1">On the second page.</text:p>',
        styles='<style:style style:name="P1"><style:paragraph-properties fo:break-before="page"/></style:style>',
        meta="<dc:title>Loft survey</dc:title><dc:creator>Ada Quill</dc:creator><dc:date>2026-03-04T10:00:00</dc:date>",
    )


def odp() -> bytes:
    """A slide with a title, a text and a speaker's note."""
    return odf(
        "presentation",
        '<draw:page><draw:frame presentation:class="title"><draw:text-box><text:p>Costs</text:p></draw:text-box></draw:frame>'
        "<draw:frame><draw:text-box><text:p>The roof costs 8.200 EUR.</text:p></draw:text-box></draw:frame>"
        "<presentation:notes><draw:frame><draw:text-box><text:p>Say it slowly.</text:p></draw:text-box></draw:frame>"
        "</presentation:notes></draw:page>",
    )


def ods() -> bytes:
    """A sheet with a date, a repeated cell and a column of numbers."""

    def cell(text: str, attributes: str = "") -> str:
        return f"<table:table-cell {attributes}><text:p>{text}</text:p></table:table-cell>"

    rows = [
        cell("Day") + cell("Stage") + cell("Sum"),
        cell("3/3/26", 'office:value-type="date" office:date-value="2026-03-03"')
        + cell("Deposit")
        + cell("12.400,00 EUR"),
        cell("same", 'table:number-columns-repeated="2"') + cell("7"),
    ]
    body = "".join(f"<table:table-row>{row}</table:table-row>" for row in rows)
    empty = '<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16000"/>'
    empty += "</table:table-row>"
    return odf("spreadsheet", f'<table:table table:name="Payments">{body}{empty}</table:table>')


def word() -> bytes:
    """Headings, a list, a table and a running header."""
    document = docx.Document()
    document.core_properties.author = "Ada Quill"
    document.sections[0].header.paragraphs[0].text = "Confidential"
    document.add_heading("Statement", 1)
    document.add_paragraph("We ask for 56.160,00 EUR.")
    document.add_paragraph("First point", style="List Bullet")
    table = document.add_table(2, 2)
    words = ("Stage", "Sum", "Deposit", "12,50")
    for cell, text in zip((*table.rows[0].cells, *table.rows[1].cells), words, strict=True):
        cell.text = text
    document.add_page_break()
    document.add_paragraph("On the second page.")
    return saved(document)


def slides() -> bytes:
    """A slide with a title, points, a table and notes; and a second one."""
    deck = pptx.Presentation()
    slide = deck.slides.add_slide(deck.slide_layouts[1])
    slide.shapes.title.text = "What it will cost"
    slide.placeholders[1].text = "The bellows are the larger part."
    table = slide.shapes.add_table(2, 2, Inches(1), Inches(5), Inches(4), Inches(1)).table
    for (row, column), text in {(0, 0): "Item", (0, 1): "EUR", (1, 0): "Bellows", (1, 1): "31.250,50"}.items():
        table.cell(row, column).text = text
    slide.notes_slide.notes_text_frame.text = "Mention the grant."
    second = deck.slides.add_slide(deck.slide_layouts[5])
    second.shapes.title.text = "Next steps"
    return saved(deck)


def workbook() -> bytes:
    """Two sheets: one with dates, a currency and a merged cell, and a second table below a heading."""
    import datetime as dt

    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "Payments"
    sheet.append(["Stage", "Day", "Sum"])
    sheet.append(["Deposit", dt.datetime(2026, 3, 3), 12400])
    sheet.append(["Deposit", dt.datetime(2026, 3, 9), 0.5])
    sheet["C2"].number_format = "#,##0.00 €"
    sheet["C3"].number_format = "0%"
    sheet.merge_cells("A2:A3")
    sheet["A5"] = "Keys"
    sheet.append(["Key", "Holder"])
    sheet.append(["Yard door", "Mr. Corvin"])
    book.create_sheet("Empty")
    other = book.create_sheet("Log")
    other.append(["Hour", "Percent"])
    other.append([7, 68.5])
    return saved(book)


def saved(made: object) -> bytes:
    """What an office library's object saves."""
    buffer = io.BytesIO()
    made.save(buffer)  # type: ignore[attr-defined]
    return buffer.getvalue()


def web() -> bytes:
    """A page with a menu, the main text, a table and a footer."""
    return (
        b'<!DOCTYPE html><html><head><title>Humidity in lofts</title><meta charset="utf-8"><script>var secret = 1</script>'
        b'<meta name="author" content="Ada Quill"></head><body><nav><a href="/a">Home</a><a href="/b">Shop</a></nav>'
        b'<div class="cookie-banner">We use cookies</div><article>'
        b'<ul class="docnav top"><li>Prev</li><li>Next</li></ul><h1>Humidity in lofts</h1>'
        b'<p>A loft is <b>dry</b> below 70 % &mdash; see <a href="http://example.invalid/x">the table</a>.</p>'
        b"<ul><li>Open the hatch</li><li>Wait<ul><li>a day</li></ul></li></ul>"
        b'<table><tr><th>Place</th><th>Limit</th></tr><tr><td rowspan="2">Loft</td><td>70 %</td></tr><tr><td>75 %</td></tr></table>'
        b'<p style="display:none">Hidden words</p><img src="http://example.invalid/p.png" alt="picture"></article>'
        b"<footer>Imprint</footer></body></html>"
    )


def epub() -> bytes:
    """A book of two chapters."""
    return archive(
        {
            "mimetype": "application/epub+zip",
            "META-INF/container.xml": '<container xmlns="urn:oasis:names:tc:opendocument:xmlns:container"><rootfiles>'
            '<rootfile full-path="OEBPS/book.opf"/></rootfiles></container>',
            "OEBPS/book.opf": '<package xmlns="http://www.idpf.org/2007/opf"><metadata xmlns:dc="http://purl.org/dc/elements/1.1/">'
            "<dc:title>The care of organs</dc:title><dc:creator>Ada Quill</dc:creator></metadata><manifest>"
            '<item id="b" href="two%20b.xhtml"/><item id="a" href="one.xhtml"/></manifest>'
            '<spine><itemref idref="a"/><itemref idref="b"/></spine></package>',
            "OEBPS/one.xhtml": "<html><body><h1>Leather</h1><p>Leather lasts forty years.</p></body></html>",
            "OEBPS/two b.xhtml": "<html><body><h1>Tin</h1><p>Tin pest begins below 13 degrees.</p></body></html>",
        }
    )


def message() -> bytes:
    """A message with a quoted one, a table attached, and a logo shown within."""
    mail = EmailMessage()
    mail["From"], mail["To"] = "Ada Quill <ada@example.invalid>", "Office <office@example.invalid>"
    mail["Subject"], mail["Date"] = "The key of the yard", "Tue, 03 Mar 2026 10:00:00 +0000"
    mail["Message-ID"], mail["In-Reply-To"] = "<2@example.invalid>", "<1@example.invalid>"
    mail.set_content("The key is with the porter.\n\n> Where is the key?\n> Please answer.\n")
    mail.add_attachment(table(), maintype="text", subtype="csv", filename="keys.csv")
    mail.add_attachment(b"\x7fELF" + b"\0" * 64, maintype="application", subtype="octet-stream", filename="../tool.bin")
    return mail.as_bytes()


def mailbox() -> bytes:
    """Two messages; the second has the first one's attachment."""
    plain = b"From: b@example.invalid\nTo: a@example.invalid\nSubject: Second\nMessage-ID: <9@x>\nDate: Wed, 4 Mar 2026 10:00:00 +0000\n"
    plain += b"\nFine.\n>From here on.\n"
    return (
        b"From ada@example.invalid Tue Mar  3 10:00:00 2026\n"
        + message()
        + b"\nFrom b Wed Mar  4 10:00:00 2026\n"
        + plain
    )


def table() -> bytes:
    """Semicolons, European decimals and a quoted cell, in Windows-1252."""
    return (
        'Schlüssel;Inhaber;Pfand\n"Hof; hinten";Frau Quill;1.299,50\nTurm;Herr Corvin;20,00\nKeller;Büro;0,50\n'.encode(
            "cp1252"
        )
    )


def rich_text() -> bytes:
    """Umlauts by code, a table and a line of prose."""
    return (
        b"{\\rtf1\\ansi\\ansicpg1252{\\fonttbl{\\f0 Arial;}}\\f0 {\\b NOTE OF THE CALL}\\par\n"
        b"The pipe maker M\\'fcller asks for 4.100,00 EUR.\\par\n"
        b"\\trowd\\cellx1000\\cellx2000 Item\\cell Sum\\cell\\row\\trowd\\cellx1000\\cellx2000 Pipes\\cell 4.100,00\\cell\\row\n"
        b"\\pard He will call again.\\par}"
    )


SCANNED = ("Oriel Hall", "The caretaker closed the hatch on 3 March 2026.", "The invoice number is 5521.")


def scan(*, degrees: float = 0.0, size: tuple[int, int] = (1240, 900), lines: tuple[str, ...] = SCANNED) -> Image.Image:
    """A page as from a scanner at 150 dots an inch, put in askew."""
    page = Image.new("L", size, 255)
    font = ImageFont.truetype(str(sorted(FONT.glob("*.ttf"))[0]), 30)
    draw = ImageDraw.Draw(page)
    for index, line in enumerate(lines):
        draw.text((120, 150 + index * 70), line, 20, font)
    return page.rotate(degrees, resample=Image.Resampling.BICUBIC, fillcolor=255)


def picture(kind: str, *, size: tuple[int, int] = (1240, 900), **more: object) -> bytes:
    """A scanned page as PNG, JPEG or TIFF (of two pages)."""
    buffer = io.BytesIO()
    page = scan(size=size)
    if kind == "TIFF":
        other = scan(lines=("The second page names Ada Quill.",), size=size)
        page.save(buffer, kind, save_all=True, append_images=[other], dpi=(150, 150), **more)  # type: ignore[arg-type]
    else:
        page.save(buffer, kind, dpi=(150, 150), **more)  # type: ignore[arg-type]
    return buffer.getvalue()


MAKERS = {
    "survey.odt": odt, "costs.odp": odp, "payments.ods": ods, "statement.docx": word, "costs.pptx": slides,
    "payments.xlsx": workbook, "lofts.html": web, "organs.epub": epub, "key.eml": message, "box.mbox": mailbox,
    "keys.csv": table, "call.rtf": rich_text,
}  # fmt: skip
"""A maker for each kind that needs no text recognition, by a fitting file name."""
