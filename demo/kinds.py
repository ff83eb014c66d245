# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo documents of other kinds than prose: a scan, a workbook, slides, a message with attachments, an ODT, a log, a web page.

All of it is invented. What is drawn by chance is drawn from a fixed seed, so
that the same source gives the same words.
"""

import datetime as dt
import io
import random
import zipfile
from email.message import EmailMessage
from pathlib import Path
from typing import Any

_WRITTEN = dt.datetime(2026, 9, 1)
_FONTS = Path(__file__).parents[1] / "src/redlantern/fonts"


def write_all(folder: Path) -> int:
    """Write every document; gives how many files there are."""
    makers = {
        "letters/2026-03-25-roofers-scan.pdf": scanned_letter,
        "letters/2026-04-02-hall-manager.eml": message,
        "mediation/sound-of-the-hall.pptx": slides,
        "records/journeys.xlsx": workbook,
        "records/tuning-notes.odt": tuning_notes,
        "records/loft-door.csv": door_log,
        "records/marlbeck-courier.html": web_page,
    }
    for place, make in makers.items():
        target = folder / place
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(make())
    return len(makers)


LETTER = """Dunmore & Daughters, Roofers
Slate Yard 4, Marlbeck

25 March 2026

To the Oriel Hall Trust, attention of Mr. Renn

Night call of 9 March

Dear Mr. Renn,

You asked us to write down what our people found. Hal Brice and
Ines Tolland were on your roof from ten minutes to midnight until
a quarter past two. The frame of the hatch was sound. Both hinges
were there, but the hook that should hold the lid from within hung
loose, and its eye was bent outwards.

They laid the lid back and fastened it with two ratchet straps and
a length of netting. Ms. Tolland told the caretaker that the straps
must not be loosened before the frame had been screwed.

The slates around the hatch were not damaged. We saw no sandbags
on the lid; one burst bag lay in the gutter of the north slope.

With kind regards,

Moira Dunmore
"""


def scanned_letter() -> bytes:
    """A letter as it came from a scanner: grey, a little askew, with specks, and no text layer."""
    from PIL import Image, ImageDraw, ImageFilter, ImageFont
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas

    dpi, chance = 150, random.Random(1887)
    width, height = round(8.27 * dpi), round(11.69 * dpi)
    page = Image.new("L", (width, height), 246)
    draw = ImageDraw.Draw(page)
    font = ImageFont.truetype(str(_FONTS / "SourceSerifPro-Regular.ttf"), 26)
    for number, line in enumerate(LETTER.split("\n")):
        draw.text((150, 170 + number * 43), line, 40, font)
    for _ in range(120):
        x, y = chance.randrange(width), chance.randrange(height)
        draw.ellipse((x, y, x + 1, y + 1), chance.randrange(120, 210))
    page = page.rotate(1.4, resample=Image.Resampling.BICUBIC, fillcolor=238).filter(ImageFilter.GaussianBlur(0.5))
    picture, buffer = io.BytesIO(), io.BytesIO()
    page.save(picture, "JPEG", quality=70)
    canvas = Canvas(buffer, pagesize=(595, 842), invariant=1)
    canvas.drawImage(ImageReader(picture), 0, 0, 595, 842)
    canvas.save()
    return buffer.getvalue().replace(b"D:20000101000000", b"D:20260901090000")


def message() -> bytes:
    """The hall manager's message of 2 April with the offers for a drier and the list of the yard keys."""
    mail = EmailMessage()
    mail["From"], mail["To"] = "Oona Petrie <petrie@orielhall.example>", "Tobias Renn <renn@orielhall.example>"
    mail["Subject"] = "Driers for the loft, and the yard keys"
    mail["Date"], mail["Message-ID"] = "Thu, 02 Apr 2026 16:05:00 +0200", "<20260402.1605@orielhall.example>"
    mail.set_content(
        "Dear Tobias,\n\nattached are the three offers for a drier, in case the spring stays wet, and the list of who holds "
        "a key of the yard. After the change of the cylinder there are six keys again.\n\nFor the record: the tarpaulin "
        "was found by the angling club below the weir and has been returned. It is torn at two eyelets.\n\n"
        "The fire brigade will test the dry riser on 21 April between 9 and 11; nobody can use the stairs to the loft "
        "then.\n\nOona\n\n"
        "> Oona, what would a drier cost us for the whole of April?\n> T.\n"
    )
    offers = (
        "Shop;Model;Litres a day;Price a week\nQuay Street Tools;Marsh 20;20;46,00\nHarrow & Lund;Corran 40;38;68,50\n"
        "Harrow & Lund;Corran 90;85;131,00\n"
    )
    mail.add_attachment(offers.encode("cp1252"), maintype="text", subtype="csv", filename="drier-offers.csv")
    mail.add_attachment(_keys(), maintype="application", subtype="octet-stream", filename="yard-keys.docx")
    mail.set_boundary("=-=-oriel-hall-=-=")
    return mail.as_bytes()


def _keys() -> bytes:
    import docx

    document = docx.Document()
    document.core_properties.created = document.core_properties.modified = _WRITTEN
    document.core_properties.title = "Keys of the yard"
    document.add_heading("Keys of the yard", 1)
    document.add_paragraph(
        "New cylinder, fitted on 19 March 2026. Copies are made by the locksmith only against signature."
    )
    rows = [
        ("Key", "Holder", "Since"), ("1", "Ms. Petrie", "19 March 2026"), ("2", "Mr. Fenn", "19 March 2026"),
        ("3", "porter's lodge, key board", "19 March 2026"), ("4", "Mr. Halloran", "20 March 2026"),
        ("5", "Ms. Aveline Stroud, piano tuner", "27 March 2026"), ("6", "safe of the Trust", "19 March 2026"),
    ]  # fmt: skip
    table = document.add_table(len(rows), 3)
    for row, words in zip(table.rows, rows, strict=True):
        for cell, word in zip(row.cells, words, strict=True):
            cell.text = word
    return _saved(document)


def slides() -> bytes:
    """Four slides on the sound of the hall, with notes for the speaker."""
    import pptx
    from pptx.util import Inches

    deck = pptx.Presentation()
    properties = deck.core_properties
    properties.title, properties.author = "The sound of Oriel Hall", "Sunniva Lindqvist"
    properties.created = properties.modified = _WRITTEN

    def slide(title: str, points: list[str], notes: str) -> Any:
        page = deck.slides.add_slide(deck.slide_layouts[1])
        page.shapes.title.text = title
        page.placeholders[1].text = "\n".join(points)
        page.notes_slide.notes_text_frame.text = notes
        return page

    slide(
        "The sound of Oriel Hall",
        ["Measured on 5 and 6 December 2025, before the works", "Six places, twelve shots of a starting pistol"],
        "Thank the caretaker: he switched off the heating for both nights.",
    )
    times = slide(
        "Reverberation",
        ["The empty hall rings for 2.4 seconds at middle pitch", "With 500 people it is 1.8 seconds"],
        "The microphone stood in row 12. The figure for the full hall is computed, not measured.",
    )
    table = times.shapes.add_table(4, 3, Inches(1), Inches(4.2), Inches(8), Inches(1.8)).table
    rows = (
        ("Octave", "Empty, s", "Full, s"),
        ("125 Hz", "2.9", "2.3"),
        ("500 Hz", "2.4", "1.8"),
        ("4000 Hz", "1.6", "1.2"),
    )
    for row, words in enumerate(rows):
        for column, word in enumerate(words):
            table.cell(row, column).text = word
    slide(
        "What the organ needs",
        ["The Pedal is weakest below 63 Hz under the gallery", "No carpet on the organ gallery, whatever is decided"],
        "If asked about carpet: the felt of 1974 cost a third of a second.",
    )
    slide("Next", ["Measure again in December 2026 with the same pistol"], "")
    return _saved(deck)


def workbook() -> bytes:
    """The van's journeys of the spring, and its fuel by month."""
    import openpyxl

    book = openpyxl.Workbook()
    book.properties.creator, book.properties.title = "Piet Halloran", "Journeys of the van"
    book.properties.created = book.properties.modified = _WRITTEN
    sheet = book.active
    sheet.title = "Journeys"
    sheet.append(["Date", "From", "To", "Load", "Kilometres", "Driver"])
    journeys = [
        (dt.datetime(2026, 1, 14), "Marlbeck", "workshop", "bellows 3, six felt rolls", 212, "Halloran"),
        (dt.datetime(2026, 1, 29), "workshop", "Marlbeck", "tent and warm-air unit", 212, "Adler"),
        (dt.datetime(2026, 2, 11), "Marlbeck", "workshop", "pipes of the Choir, 4 crates", 236, "Halloran"),
        (dt.datetime(2026, 2, 26), "tannery", "Marlbeck", "sheepskins, first lot", 388, "Oyelaran"),
        (dt.datetime(2026, 3, 18), "Marlbeck", "workshop", "wet ribs for drying", 212, "Adler"),
        (dt.datetime(2026, 4, 7), "workshop", "Marlbeck", "dried ribs, clamps", 219, "Adler"),
        (dt.datetime(2026, 4, 9), "harbour", "Marlbeck", "new blower", 17, "Halloran"),
        (dt.datetime(2026, 5, 12), "Marlbeck", "tin foundry", "pipe metal for recasting", 504, "Halloran"),
    ]
    for journey in journeys:
        sheet.append(journey)
    fuel = book.create_sheet("Fuel")
    fuel.append(["Month", "Litres", "Sum"])
    for month, litres, price in (
        ("January", 41.5, 70.14),
        ("February", 58.0, 99.18),
        ("March", 22.4, 40.32),
        ("May", 49.1, 85.43),
    ):
        fuel.append([month, litres, price])
        fuel.cell(fuel.max_row, 3).number_format = '#,##0.00 "EUR"'
    return _saved(book)


def tuning_notes() -> bytes:
    """The tuner's notes of the last tuning before the works, as OpenDocument text."""
    names = (
        'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"'
        ' xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:dc="http://purl.org/dc/elements/1.1/"'
    )

    def paragraph(words: str) -> str:
        return f"<text:p>{words}</text:p>"

    def row(*cells: str) -> str:
        return (
            "<table:table-row>"
            + "".join(f"<table:table-cell>{paragraph(one)}</table:table-cell>" for one in cells)
            + "</table:table-row>"
        )

    body = (
        '<text:h text:outline-level="1">Notes of the last tuning before the works</text:h>'
        + paragraph("Hall, 2 and 3 November 2025. Tuner: Edda Quarrie, with Jonas Adler at the keys.")
        + '<text:h text:outline-level="2">Conditions</text:h>'
        + paragraph("The hall stood at 16.5 degrees on both mornings. The stairs to the Swell are not safe for two people at once.")
        + '<text:h text:outline-level="2">What was left alone</text:h>'
        + paragraph(
            "The Vox humana was not tuned: eleven of its tongues are cracked and would not have held."
            "<text:note><text:note-citation>1</text:note-citation><text:note-body>"
            + paragraph("The spare tongues in the drawer of the console are for the Oboe and do not fit.")
            + "</text:note-body></text:note>"
        )
        + "<table:table>" + row("Stop", "Pipes reset", "Remark") + row("Oboe 8", "9", "two shallots bent")
        + row("Mixture III", "23", "mice in the rackboard") + row("Bourdon 16", "0", "sounds only when warm") + "</table:table>"
        + paragraph("To be told to the builder: the tuning door of the Choir was screwed shut from the outside.")
    )  # fmt: skip
    content = f"<office:document-content {names}><office:body><office:text>{body}</office:text></office:body></office:document-content>"
    meta = (
        f"<office:document-meta {names}><office:meta><dc:title>Notes of the last tuning</dc:title>"
        "<dc:creator>Edda Quarrie</dc:creator><dc:date>2025-11-04T09:00:00</dc:date></office:meta></office:document-meta>"
    )
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, words in (
            ("mimetype", "application/vnd.oasis.opendocument.text"),
            ("content.xml", content),
            ("meta.xml", meta),
        ):
            packed.writestr(zipfile.ZipInfo(name, (2026, 9, 1, 0, 0, 0)), words)
    return buffer.getvalue()


def door_log() -> bytes:
    """What the contact on the loft's door wrote down from March to May."""
    chance = random.Random(1961)
    people = ("chip 2 Fenn", "chip 4 Halloran", "chip 7 Adler", "chip 8 Oyelaran", "chip 11 Lindqvist")
    special = {
        "2026-03-09": [("18:04:11", "opened", "chip 2 Fenn", "")],
        "2026-03-10": [
            ("02:31:50", "opened", "chip 2 Fenn", ""),
            ("07:12:03", "opened", "chip 1 Renn", "no closing noted"),
        ],
        "2026-05-21": [("19:47:26", "opened", "visitor chip 15", "Odile Brandt, photographer of the county archive")],
    }
    rows = ["Day;Time;Event;Chip;Remark"]
    day = dt.date(2026, 3, 2)
    while day <= dt.date(2026, 5, 29):
        found = special.get(day.isoformat(), [])
        if not found and day.weekday() < 5:
            hour = chance.randrange(7, 10)
            found = [
                (
                    f"{hour:02d}:{chance.randrange(60):02d}:{chance.randrange(60):02d}",
                    "opened",
                    chance.choice(people),
                    "",
                ),
                (f"{hour + 7}:{chance.randrange(60):02d}:{chance.randrange(60):02d}", "closed", "", ""),
            ]
        rows.extend(f"{day:%d.%m.%Y};{';'.join(entry)}" for entry in found)
        day += dt.timedelta(days=1)
    return ("\r\n".join(rows) + "\r\n").encode("cp1252")


def web_page() -> bytes:
    """A page of the local paper, saved with its menus and its advertisements."""
    menu = "".join(
        f'<li><a href="/{one}">{one}</a></li>' for one in ("Town", "Harbour", "Sport", "Culture", "Weather", "Notices")
    )
    return (
        '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>Storm opens the roof of Oriel Hall</title>'
        '<meta name="author" content="Perpetua Lowe"><meta property="article:published_time" content="2026-03-11">'
        '<script src="https://ads.example/a.js"></script><style>body{font-family:serif}</style></head><body>'
        f'<header class="site-header"><ul class="menu">{menu}</ul></header>'
        '<div id="cookie-consent">This paper uses cookies. <button>Fine</button></div>'
        "<article><h1>Storm opens the roof of Oriel Hall</h1><p>Marlbeck, 11 March 2026. The gale of Monday night tore the "
        "hatch of Oriel Hall from its hook. The harbour station measured a gust of 127 kilometres an hour at 21:34, the "
        "strongest since the wind gauge was put up in 1988.</p>"
        "<p>Nobody was hurt. In the small hall the choir of the grammar school was rehearsing; its leader, Mr. Ansgar "
        "Pell, led forty-two pupils out through the garden door.</p>"
        "<h2>Organ in danger</h2><p>Behind the hatch stands the organ, which is being restored. The chair of the Trust, Mrs. "
        "Vasey, said to this paper that she trusted the builder to keep his leather dry.</p>"
        "<table><caption>Gusts of the night</caption><tr><th>Station</th><th>Gust, km/h</th><th>Time</th></tr>"
        "<tr><td>Harbour</td><td>127</td><td>21:34</td></tr><tr><td>Airfield</td><td>113</td><td>21:50</td></tr>"
        "<tr><td>Quay Street school</td><td>98</td><td>21:31</td></tr></table></article>"
        '<aside class="related"><a href="/x">Ferry cancelled</a><a href="/y">Trees down in the park</a></aside>'
        "<footer>Marlbeck Courier. Imprint. Advertise with us.</footer></body></html>\n"
    ).encode()


def _saved(made: Any) -> bytes:
    buffer = io.BytesIO()
    made.save(buffer)
    return buffer.getvalue()
