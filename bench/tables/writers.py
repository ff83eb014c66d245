# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes a made-up document with its tables as PDF with and without rules, DOCX, HTML, CSV, XLSX, PPTX, Markdown, mail or a scan."""

import csv
import io
from collections.abc import Sequence
from email.message import EmailMessage
from pathlib import Path
from typing import Any

Rows = Sequence[Sequence[str]]


def write(path: Path, title: str, prose: str, rows: Rows, *, is_ruled: bool = True, rows_a_page: int = 40) -> None:
    """Write one document by the ending of its name; `.scan.pdf` is a picture of the page, to be read by text recognition."""
    path.parent.mkdir(parents=True, exist_ok=True)
    if path.name.endswith(".scan.pdf"):
        path.write_bytes(_scan(title, rows))
    elif path.suffix == ".pdf":
        path.write_bytes(_pdf(title, prose, rows, is_ruled=is_ruled, rows_a_page=rows_a_page))
    elif path.suffix == ".docx":
        _docx(path, title, prose, rows)
    elif path.suffix == ".html":
        path.write_text(_html(title, prose, rows), encoding="utf-8")
    elif path.suffix == ".csv":
        out = io.StringIO(newline="")
        csv.writer(out, delimiter=";").writerows(rows)
        path.write_text(out.getvalue(), encoding="utf-8")
    elif path.suffix == ".xlsx":
        _xlsx(path, title, rows)
    elif path.suffix == ".pptx":
        _pptx(path, title, prose, rows)
    elif path.suffix == ".eml":
        path.write_bytes(_mail(title, prose, rows))
    else:
        lines = [f"| {' | '.join(row)} |" for row in rows]
        table = "\n".join([lines[0], "|" + "---|" * len(rows[0]), *lines[1:]])
        path.write_text(f"# {title}\n\n{prose}\n\n{table}\n", encoding="utf-8")


def write_prose(path: Path, title: str, paragraphs: Sequence[str]) -> None:
    """Write a document of paragraphs without a table, by the ending of its name."""
    path.parent.mkdir(parents=True, exist_ok=True)
    if path.suffix == ".pdf":
        from reportlab.lib.pagesizes import A4
        from reportlab.lib.styles import getSampleStyleSheet
        from reportlab.platypus import Paragraph, SimpleDocTemplate

        styles = getSampleStyleSheet()
        flow = [Paragraph(title, styles["Title"]), *(Paragraph(text, styles["BodyText"]) for text in paragraphs)]
        SimpleDocTemplate(str(path), pagesize=A4, title=title, invariant=1).build(flow)
    elif path.suffix == ".docx":
        import docx

        document = docx.Document()
        document.add_heading(title, 1)
        for text in paragraphs:
            document.add_paragraph(text)
        document.save(str(path))
    elif path.suffix == ".html":
        body = "".join(f"<p>{text}</p>" for text in paragraphs)
        path.write_text(f"<html><head><title>{title}</title></head><body><h1>{title}</h1>{body}</body></html>", "utf-8")
    else:
        path.write_text(f"# {title}\n\n" + "\n\n".join(paragraphs) + "\n", encoding="utf-8")


def _pptx(path: Path, title: str, prose: str, rows: Rows) -> None:
    import pptx
    from pptx.util import Inches

    deck = pptx.Presentation()
    slide = deck.slides.add_slide(deck.slide_layouts[5])
    slide.shapes.title.text = title
    table = slide.shapes.add_table(
        len(rows), len(rows[0]), Inches(0.5), Inches(1.6), Inches(9), Inches(0.4 * len(rows))
    ).table
    for number, row in enumerate(rows):
        for index, text in enumerate(row):
            table.cell(number, index).text = text
    slide.notes_slide.notes_text_frame.text = prose
    deck.core_properties.title = title
    deck.save(str(path))


def _mail(title: str, prose: str, rows: Rows) -> bytes:
    message = EmailMessage()
    message["From"], message["To"] = "Office <office@made-up.example>", "Stores <stores@made-up.example>"
    message["Date"], message["Subject"] = "Mon, 06 Apr 2026 09:00:00 +0200", title
    message.set_content(prose)
    message.add_alternative(_html(title, prose, rows), subtype="html")
    message.set_boundary("made-up-for-this-measurement")
    return message.as_bytes()


def _pdf(title: str, prose: str, rows: Rows, *, is_ruled: bool, rows_a_page: int) -> bytes:
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import getSampleStyleSheet
    from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

    styles = getSampleStyleSheet()
    flow: list[Any] = [Paragraph(title, styles["Title"]), Paragraph(prose, styles["BodyText"]), Spacer(1, 8)]
    style: list[Any] = [("FONT", (0, 0), (-1, 0), "Helvetica-Bold", 9), ("FONT", (0, 1), (-1, -1), "Helvetica", 9)]
    if is_ruled:
        style.append(("GRID", (0, 0), (-1, -1), 0.4, "grey"))
    for at in range(1, len(rows), rows_a_page):
        if at > 1:
            flow.append(PageBreak())
        flow.append(
            Table([list(rows[0]), *map(list, rows[at : at + rows_a_page])], style=TableStyle(style), hAlign="LEFT")
        )
    out = io.BytesIO()
    SimpleDocTemplate(out, pagesize=A4, title=title, invariant=1).build(flow)
    return out.getvalue()


def _docx(path: Path, title: str, prose: str, rows: Rows) -> None:
    import docx

    document = docx.Document()
    document.add_heading(title, 1)
    document.add_paragraph(prose)
    table = document.add_table(len(rows), len(rows[0]))
    for cells, row in zip(rows, table.rows, strict=True):
        for text, cell in zip(cells, row.cells, strict=True):
            cell.text = text
    document.save(path)


def _html(title: str, prose: str, rows: Rows) -> str:
    head = "".join(f"<th>{cell}</th>" for cell in rows[0])
    body = "".join(f"<tr>{''.join(f'<td>{cell}</td>' for cell in row)}</tr>" for row in rows[1:])
    return (
        f"<html><head><title>{title}</title></head><body><h1>{title}</h1><p>{prose}</p>"
        f"<table><tr>{head}</tr>{body}</table></body></html>"
    )


def _xlsx(path: Path, title: str, rows: Rows) -> None:
    import openpyxl

    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = title[:30]
    book.properties.title = title
    for row in rows:
        sheet.append(list(row))
    book.save(path)


def _scan(title: str, rows: Rows) -> bytes:
    """A picture of the page at 200 dots an inch, as a scanner makes it."""
    from PIL import Image, ImageDraw, ImageFont

    fonts = Path(__file__).parents[2] / "src/redlantern/fonts"
    plain = ImageFont.truetype(str(next(fonts.glob("SourceSans*Regular*.ttf"), next(fonts.glob("*.ttf")))), 34)
    page = Image.new("L", (1654, 2339), 255)
    draw = ImageDraw.Draw(page)
    draw.text((150, 150), title, font=plain, fill=0)
    widths = [max(len(row[index]) for row in rows) for index in range(len(rows[0]))]
    starts = [150 + 19 * sum(widths[:index]) + 60 * index for index in range(len(widths))]
    for number, row in enumerate(rows):
        for start, cell in zip(starts, row, strict=True):
            draw.text((start, 300 + 62 * number), cell, font=plain, fill=0)
    out = io.BytesIO()
    page.save(out, "PDF", resolution=200)
    return out.getvalue()
