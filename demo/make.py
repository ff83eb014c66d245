# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the demo documents from demo/source: the file of a mediator, wholly invented.

Run as `python -m demo.make`; writes demo/documents. The same source gives the
same files, so that the committed ones can be compared.
"""

import datetime
import random
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal

from markdown_it import MarkdownIt

from demo import kinds

HERE = Path(__file__).parent
SOURCE, DOCUMENTS = HERE / "source", HERE / "documents"
BREAK = "<!-- break -->"

# Where each source goes, and as what.
PLACES = {
    "contract.md": "contract/contract.pdf",
    "programme-of-works.md": "contract/programme-of-works.pdf",
    "condition-survey.md": "condition-survey.pdf",
    "mediation-agreement.md": "mediation/mediation-agreement.pdf",
    "mediator-notes.md": "mediation/mediator-notes.md",
    "statement-trust.md": "mediation/statement-trust.docx",
    "statement-builder.md": "mediation/statement-builder.docx",
    "letter-2026-03-20-builder.md": "letters/2026-03-20-builder.docx",
    "letter-2026-03-31-trust.md": "letters/2026-03-31-trust.docx",
    "letter-2026-05-19-consultant.md": "letters/2026-05-19-consultant.docx",
    "letter-2026-07-03-builder.md": "letters/2026-07-03-builder.docx",
    "letter-2026-07-17-insurer.md": "letters/2026-07-17-insurer.docx",
    "email-thread-key-and-hatch.txt": "letters/email-thread-key-and-hatch.txt",
    "minutes-2025-12-09.md": "minutes/2025-12-09.md",
    "minutes-2026-02-24.md": "minutes/2026-02-24.md",
    "minutes-2026-04-14.md": "minutes/2026-04-14.md",
    "invoice-2026-014.md": "invoices/2026-014.pdf",
    "invoice-2026-037.md": "invoices/2026-037.pdf",
    "invoice-roofer-5521.md": "invoices/roofer-5521.pdf",
    "certificates.md": "records/certificates.pdf",
    "insurance-policy.md": "records/insurance-policy.pdf",
    "leather-diary.md": "records/leather-diary.pdf",
    "voicing-record.md": "records/voicing-record.pdf",
}

Item = tuple[Literal["heading", "paragraph", "table", "break"], Any]


def main() -> None:
    """Make every document anew."""
    shutil.rmtree(DOCUMENTS, ignore_errors=True)
    for name, place in PLACES.items():
        text = (SOURCE / name).read_text(encoding="utf-8")
        _write(text, DOCUMENTS / place)
    _write(humidity_log(), DOCUMENTS / "records/humidity-log.pdf")
    _write(inventory(), DOCUMENTS / "records/inventory.pdf")
    n_others = kinds.write_all(DOCUMENTS)
    n_bytes = sum(file.stat().st_size for file in DOCUMENTS.rglob("*") if file.is_file())
    print(f"{len(PLACES) + 2 + n_others} files, {n_bytes / 1024:.0f} KiB")


def humidity_log() -> str:
    """The log of clause 9.4: a reading for every working day, smooth chance between the days that matter."""
    fixed = {
        "2026-03-06": (57, 11.5, ""), "2026-03-09": (58, 11.0, "gale warning"), "2026-03-10": (66, 9.5, "water in loft; figure altered"),
        "2026-03-11": (78, 9.0, "buckets emptied"), "2026-03-12": (74, 9.0, ""), "2026-03-13": (73, 9.5, "recorder paper curled"),
        "2026-03-16": (71, 10.0, "leathering stopped 15:00"), "2026-03-17": (70, 10.5, ""), "2026-03-30": (64, 12.0, "new hatch; calibrated"),
        "2026-04-06": (59, 13.0, ""), "2026-04-07": (58, 13.5, ""), "2026-04-08": (58, 13.5, "leathering resumed"),
        "2026-01-19": (53, 8.5, "calibrated"), "2026-02-16": (49, 11.0, "boiler out of order"), "2026-05-04": (55, 16.0, "calibrated"),
        "2026-06-08": (52, 18.5, "calibrated"), "2026-07-22": (54, 21.0, "wind test"), "2026-06-29": (39, 26.5, "heat; lowest reading of the year"),
    }  # fmt: skip
    chance = random.Random(1887)
    rows: list[str] = []
    level, warmth = 52.0, 9.0
    day = datetime.date(2026, 1, 12)
    while day <= datetime.date(2026, 8, 21):
        if day.weekday() < 5 and not datetime.date(2026, 4, 3) <= day <= datetime.date(2026, 4, 5):
            level += chance.uniform(-2.2, 2.2) + 0.12 * (54 - level)
            warmth += chance.uniform(-0.8, 0.8) + 0.05 * (8 + (day.timetuple().tm_yday - 12) * 0.07 - warmth)
            humidity, degrees, remark = fixed.get(
                day.isoformat(), (min(61, max(43, round(level))), round(warmth * 2) / 2, "")
            )
            level, warmth = float(humidity), float(degrees)
            reader = "P. Halloran" if chance.random() < 0.8 else "J. Wiek"
            rows.append(f"| {day:%d.%m.%Y} | {humidity} % | {degrees:.1f} °C | {reader} | {remark} |")
        day += datetime.timedelta(days=1)
    head = "| Date | RH | Temperature | Read by | Remark |\n|---|---|---|---|---|\n"
    pages = [head + "\n".join(rows[at : at + 27]) for at in range(0, len(rows), 27)]
    opening = (
        "# Humidity log of the loft\n\nOriel Hall, instrument on the centre post, read at 8:00 on every working day under "
        "clause 9.4 of the contract. Limits: stop above 65 per cent for more than 36 hours, and below 40 per cent.\n\n"
    )
    return opening + f"\n\n{BREAK}\n\n".join(pages)


def inventory() -> str:
    """The inventory of clause 7.3: what left the hall, and where it lies."""
    chance = random.Random(41)
    rows: list[str] = []
    parts = {
        "Great": ["windchest", "Posaune boots", "Clarion trebles", "Mixture ranks", "Gamba basses", "Twelfth"],
        "Swell": ["windchest", "Cornopean boots", "Oboe", "Voix Celeste", "Salicional", "shutter frame"],
        "Choir": ["windchest", "Dulciana", "Clarinet", "Piccolo", "Gemshorn", "Lieblich Gedackt"],
        "Pedal": ["windchest", "Trombone boots", "Open Wood CCC", "Violone basses", "Octave", "coupler rail"],
        "Console": ["manual keys", "stop labels", "bench", "pedalboard", "music desk", "thumb pistons"],
        "Wind": ["concussion bellows", "trunk joints", "blower of 1961", "feeder handle", "reservoir weights", "gauge"],
    }
    for division, names in parts.items():
        for name in names:
            number = len(rows) + 1
            place = chance.choice(["Tarn Mill, bay A", "Tarn Mill, bay B", "Tarn Mill, bay C", "north vestry"])
            rows.append(
                f"| I-{number:03d} | {division} | {name} | {chance.randint(1, 60)} | {chance.randint(2, 180)} kg | {place} |"
            )
    head = "| No. | Division | Part | Pieces | Weight | Place |\n|---|---|---|---|---|---|\n"
    opening = (
        "# Inventory of parts removed\n\nOrgan of Oriel Hall, made in two copies on 20 February 2026 under clause 7.3 of the "
        "contract. Signed: P. Halloran, O. Petrie.\n\n"
    )
    closing = (
        "\n\nThe blower of 1961 is kept for the museum of the Marlbeck waterworks, which has asked for it. The four crates "
        "of felt and cloth samples are numbered S1 to S4 and stand in the porter's lodge.\n"
    )
    return (
        opening
        + f"\n\n{BREAK}\n\n".join(head + "\n".join(rows[at : at + 18]) for at in range(0, len(rows), 18))
        + closing
    )


def _write(text: str, target: Path) -> None:
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.suffix == ".pdf":
        _write_pdf(list(_items(text)), target)
    elif target.suffix == ".docx":
        _write_docx(list(_items(text)), target)
    else:
        target.write_text(text, encoding="utf-8")


def _items(text: str) -> Iterator[Item]:
    tokens = MarkdownIt("commonmark").enable("table").parse(text)
    level = 0
    rows: list[list[str]] | None = None
    for token in tokens:
        if token.type == "heading_open":
            level = int(token.tag[1])
        elif token.type == "html_block" and token.content.strip() == BREAK:
            yield "break", None
        elif token.type == "table_open":
            rows = []
        elif token.type == "tr_open" and rows is not None:
            rows.append([])
        elif token.type == "table_close":
            yield "table", rows
            rows = None
        elif token.type == "inline" and rows is not None:
            rows[-1].append(token.content)
        elif token.type == "inline" and level:
            yield "heading", (level, token.content)
            level = 0
        elif token.type == "inline":
            yield "paragraph", token.content.replace("\n", " ")


def _write_pdf(items: list[Item], target: Path) -> None:
    from reportlab.lib.enums import TA_JUSTIFY
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

    prose = ParagraphStyle(
        "prose", fontName="Times-Roman", fontSize=11, leading=15.5, spaceAfter=7, alignment=TA_JUSTIFY
    )
    headings = {
        1: ParagraphStyle("h1", fontName="Times-Bold", fontSize=19, leading=24, spaceAfter=14),
        2: ParagraphStyle("h2", fontName="Times-Bold", fontSize=13.5, leading=18, spaceBefore=10, spaceAfter=7),
    }
    title = next(content[1] for kind, content in items if kind == "heading")
    flow: list[Any] = []
    for kind, content in items:
        if kind == "heading":
            flow.append(Paragraph(content[1], headings[content[0]]))
        elif kind == "paragraph":
            flow.append(Paragraph(_bold(content), prose))
        elif kind == "break":
            flow.append(PageBreak())
        else:
            numeric = [column for column in range(len(content[0])) if content[-1][column][-3:-2] == ","]
            style = [
                ("FONT", (0, 0), (-1, -1), "Times-Roman", 10),
                ("FONT", (0, 0), (-1, 0), "Times-Bold", 10),
                ("LINEBELOW", (0, 0), (-1, 0), 0.7, "black"),
                ("LINEBELOW", (0, 1), (-1, -1), 0.25, "grey"),
                *(("ALIGN", (column, 0), (column, -1), "RIGHT") for column in numeric),
            ]
            flow += [Spacer(1, 3 * mm), Table(content, style=TableStyle(style), hAlign="LEFT"), Spacer(1, 4 * mm)]

    def furniture(canvas: Any, document: Any) -> None:
        canvas.setFont("Times-Italic", 9)
        canvas.drawString(28 * mm, A4[1] - 15 * mm, title)
        canvas.drawRightString(A4[0] - 28 * mm, 14 * mm, f"Page {document.page}")

    margins = {"leftMargin": 28 * mm, "rightMargin": 28 * mm, "topMargin": 25 * mm, "bottomMargin": 24 * mm}
    document = SimpleDocTemplate(
        str(target), pagesize=A4, title=title, author="Oriel Hall file", invariant=1, **margins
    )
    document.build(flow, onFirstPage=furniture, onLaterPages=furniture)
    target.write_bytes(dated(target.read_bytes()))


def dated(pdf: bytes) -> bytes:
    """Give a PDF the day on which the file was put together; its maker writes a fixed one."""
    return pdf.replace(b"D:20000101000000", b"D:20260901090000")


def _bold(text: str) -> str:
    parts = text.replace("&", "&amp;").split("**")
    return "".join(f"<b>{part}</b>" if index % 2 else part for index, part in enumerate(parts))


def _write_docx(items: list[Item], target: Path) -> None:
    import docx

    document = docx.Document()
    written = datetime.datetime(2026, 9, 1, tzinfo=datetime.UTC)
    document.core_properties.created = document.core_properties.modified = written
    document.core_properties.title = next(content[1] for kind, content in items if kind == "heading")
    for kind, content in items:
        if kind == "heading":
            document.add_heading(content[1], content[0])
        elif kind == "paragraph":
            paragraph = document.add_paragraph()
            for index, part in enumerate(content.split("**")):
                paragraph.add_run(part).bold = bool(index % 2)
        elif kind == "break":
            document.add_page_break()
    document.save(str(target))


if __name__ == "__main__":
    main()
