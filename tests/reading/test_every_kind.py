# SPDX-License-Identifier: GPL-3.0-or-later
"""Each kind of file: its facts come out in order, on the right page, as the right kinds of blocks."""

from email.message import EmailMessage

import pytest

from redlantern.reading import recognition
from redlantern.reading.material import Material
from redlantern.reading.read import part_of, read_material
from tests.reading import makers

H, P, L, T, N = "heading", "paragraph", "list item", "table", "note"
EXPECTED = {
    "survey.odt": [
        (1, H, "Survey of the loft"),
        (1, P, "The loft was at 74 % on 3 March."),
        (1, N, "1 Measured at noon."),
        (1, L, "• Close the hatch"),
        (1, T, "Place\tValue\nLoft\t74 %"),
        (2, P, "On the second page."),
    ],
    "costs.odp": [(1, H, "Costs"), (1, P, "The roof costs 8.200 EUR."), (1, N, "Say it slowly.")],
    "payments.ods": [
        (1, H, "Payments"),
        (1, T, "Day\tStage\tSum\n2026-03-03\tDeposit\t12.400,00 EUR\nsame\tsame\t7"),
    ],
    "statement.docx": [
        (1, "header", "Confidential"),
        (1, H, "Statement"),
        (1, P, "We ask for 56.160,00 EUR."),
        (1, L, "First point"),
        (1, T, "Stage\tSum\nDeposit\t12,50"),
        (2, P, "On the second page."),
    ],
    "costs.pptx": [
        (1, H, "What it will cost"),
        (1, L, "The bellows are the larger part."),
        (1, T, "Item\tEUR\nBellows\t31.250,50"),
        (1, N, "Mention the grant."),
        (2, H, "Next steps"),
    ],
    "payments.xlsx": [
        (1, H, "Payments"),
        (1, T, "Stage\tDay\tSum\nDeposit\t2026-03-03\t12400.00 €\nDeposit\t2026-03-09\t50 %"),
        (1, H, "Keys"),
        (1, T, "Key\tHolder\nYard door\tMr. Corvin"),
        (2, H, "Log"),
        (2, T, "Hour\tPercent\n7\t68.5"),
    ],
    "lofts.html": [
        (1, H, "Humidity in lofts"),
        (1, P, "A loft is dry below 70 % — see the table."),
        (1, L, "• Open the hatch"),
        (1, L, "• Wait"),
        (1, L, "• a day"),
        (1, T, "Place\tLimit\nLoft\t70 %\nLoft\t75 %"),
    ],
    "organs.epub": [
        (1, H, "Leather"),
        (1, P, "Leather lasts forty years."),
        (2, H, "Tin"),
        (2, P, "Tin pest begins below 13 degrees."),
    ],
    "key.eml": [
        (1, P, "From: Ada Quill <ada@example.invalid>"),
        (1, P, "To: Office <office@example.invalid>"),
        (1, P, "Date: Tue, 03 Mar 2026 10:00:00 +0000"),
        (1, P, "Subject: The key of the yard"),
        (1, P, "The key is with the porter."),
        (1, N, "Where is the key?"),
        (1, N, "Please answer."),
    ],
    "box.mbox": [],
    "keys.csv": [
        (
            1,
            T,
            "Schlüssel\tInhaber\tPfand\nHof; hinten\tFrau Quill\t1.299,50\nTurm\tHerr Corvin\t20,00\nKeller\tBüro\t0,50",
        )
    ],
    "call.rtf": [
        (1, H, "NOTE OF THE CALL"),
        (1, P, "The pipe maker Müller asks for 4.100,00 EUR."),
        (1, T, "Item\tSum\nPipes\t4.100,00"),
        (1, P, "He will call again."),
    ],
}


def blocks(read):
    return [
        (page.page_number, block.kind, page.text[block.start : block.end])
        for page in read.pages
        for block in page.blocks
    ]


@pytest.mark.parametrize("name", EXPECTED)
def test_blocks_come_in_order_on_their_pages(name):
    read = read_material(Material(name, data=makers.MAKERS[name]()))
    assert blocks(read) == EXPECTED[name]
    for page in read.pages:
        assert [block.end for block in page.blocks[:-1]] == [block.start - 1 for block in page.blocks[1:]]


@pytest.mark.parametrize("name", EXPECTED)
def test_what_a_file_is_decides_whatever_it_is_called(name):
    endings = {"keys.csv": "keys.txt", "lofts.html": "lofts.txt"}
    data = makers.MAKERS[name]()
    right = read_material(Material(name, data=data)).kind
    assert read_material(Material(endings.get(name, "file.bin"), data=data)).kind == right


@pytest.mark.parametrize(
    ("name", "details"),
    [
        ("survey.odt", {"author": "Ada Quill", "date": "2026-03-04"}),
        ("lofts.html", {"author": "Ada Quill"}),
        ("organs.epub", {"author": "Ada Quill"}),
        (
            "key.eml",
            {
                "author": "Ada Quill <ada@example.invalid>",
                "date": "2026-03-03 10:00",
                "subject": "The key of the yard",
                "message id": "<2@example.invalid>",
                "in reply to": "<1@example.invalid>",
            },
        ),
    ],
)
def test_what_helps_to_cite_is_kept(name, details):
    assert dict(read_material(Material(name, data=makers.MAKERS[name]())).details) == details


def test_a_message_with_a_table_is_read_from_its_html_and_one_without_from_its_plain_form():
    message = EmailMessage()
    message["From"], message["Subject"] = "a@example.invalid", "Parcels"
    message.set_content("In plain words: two parcels.")
    message.add_alternative("<p>Our parcels:</p><table><tr><th>Parcel</th><th>kg</th></tr><tr><td>A</td><td>2</td></tr></table>",
                            subtype="html")  # fmt: skip
    read = read_material(Material("parcels.eml", data=message.as_bytes()))
    assert blocks(read)[-2:] == [(1, P, "Our parcels:"), (1, T, "Parcel\tkg\nA\t2")]
    message.get_payload()[1].set_content("<p>Our parcels in other words</p>", subtype="html")
    read = read_material(Material("parcels.eml", data=message.as_bytes()))
    assert blocks(read)[-1] == (1, P, "In plain words: two parcels.")


def test_attachments_are_documents_under_their_message():
    material = Material("key.eml", data=makers.message())
    read = read_material(material)
    assert [(part.name, part.read.kind if part.read else part.refusal[:28]) for part in read.parts] == [
        ("keys.csv", "csv"),
        (".._tool.bin", "A program is not a document."),
    ]
    assert part_of(material, "keys.csv").read() == makers.table()


def test_a_mailbox_is_cut_into_messages_with_their_attachments():
    material = Material("box", data=makers.mailbox())
    read = read_material(material)
    assert [part.name for part in read.parts] == [
        "message 1",
        "message 1/keys.csv",
        "message 1/.._tool.bin",
        "message 2",
    ]
    assert blocks(read.parts[3].read)[-1] == (1, P, "From here on.")
    assert part_of(material, "message 1/keys.csv").read() == makers.table()


def test_a_message_in_a_message_in_a_message_is_read_through():
    inner = makers.message()
    for depth in range(3):
        outer = EmailMessage()
        outer["From"], outer["Subject"], outer["Message-ID"] = "x@example.invalid", f"Depth {depth}", f"<{depth}@x>"
        outer.set_content(f"Forwarded {depth}")
        outer.add_attachment(inner, maintype="application", subtype="octet-stream", filename=f"inner{depth}.eml")
        inner = outer.as_bytes()
    material = Material("outer.eml", data=inner)
    names = [part.name for part in read_material(material).parts]
    assert names[-2:] == ["inner2.eml/inner1.eml/inner0.eml/keys.csv", "inner2.eml/inner1.eml/inner0.eml/.._tool.bin"]
    assert part_of(material, names[-2]).read() == makers.table()


def test_tracked_changes_are_read_as_accepted(tmp_path):
    import docx
    from docx.oxml import parse_xml

    document = docx.Document()
    names = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
    document.element.body.insert(
        0,
        parse_xml(
            f"<w:p {names}><w:r><w:t xml:space='preserve'>The rent is </w:t></w:r><w:del><w:r><w:delText>900</w:delText></w:r></w:del>"
            f"<w:ins><w:r><w:t>950</w:t></w:r></w:ins><w:r><w:t> EUR.</w:t></w:r></w:p>"
        ),
    )
    read = read_material(Material("rent.docx", data=makers.saved(document)))
    assert read.pages[0].text == "The rent is 950 EUR."
    assert read.notes == ("It has tracked changes; they were read as accepted.",)


def test_a_long_table_repeats_its_column_names_on_every_page():
    rows = "\n".join(f"{day};{60 + day % 20};Mr. Corvin" for day in range(400))
    read = read_material(Material("log.csv", data=f"Day;Humidity;Reader\n{rows}\n".encode()))
    assert len(read.pages) > 2
    assert all(page.text.startswith("Day\tHumidity\tReader\n") for page in read.pages)
    found = [line for page in read.pages for line in page.text.split("\n")[1:]]
    assert found == [row.replace(";", "\t") for row in rows.split("\n")]


@pytest.mark.skipif(not recognition.is_installed(), reason="needs tesseract-ocr")
@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
def test_pictures_are_recognised_with_boxes_where_the_words_are(kind):
    read = read_material(Material(f"scan.{kind.lower()}", data=makers.picture(kind)))
    page = read.pages[0]
    assert page.text.split("\n") == list(makers.SCANNED)
    assert (page.origin, page.confidence > 0.9) == ("recognised", True)
    start = page.text.index("hatch")
    [box] = page.boxes(start, start + 5)
    # Drawn at 220 px of 150 dots an inch from the top; the word stands in the middle of its line.
    assert 220 * 72 / 150 - 5 < box.top < box.bottom < 270 * 72 / 150 + 5
    assert 180 < box.left < box.right < 320
    if kind == "TIFF":
        assert read.pages[1].text == "The second page names Ada Quill."


def test_languages_are_told_apart():
    from redlantern.reading.language import language_of_text

    said = {
        "en": "The caretaker closed the hatch in the evening and gave the key to the porter.",
        "de": "Der Hausmeister hat am Abend die Luke geschlossen und dem Pförtner den Schlüssel gegeben.",
        "fr": "Le concierge a fermé la trappe dans la soirée et a remis la clé au portier de nuit.",
        "es": "El conserje cerró la trampilla por la noche y entregó la llave al portero del edificio.",
        "it": "Il custode ha chiuso la botola la sera e ha consegnato la chiave al portiere di notte.",
        "nl": "De huismeester heeft het luik 's avonds gesloten en de sleutel aan de portier gegeven.",
    }
    assert {code: language_of_text(text) for code, text in said.items()} == {code: code for code in said}
    assert language_of_text("12.400,00 EUR, 3/3") == ""


def test_a_hidden_sheet_is_not_read_and_that_is_said():
    import openpyxl

    book = openpyxl.Workbook()
    book.active.append(["Key", "Holder"])
    book.active.append(["1", "Ms. Quill"])
    hidden = book.create_sheet("Salaries")
    hidden.append(["Name", "Sum"])
    hidden.append(["Quill", "4000"])
    hidden.sheet_state = "hidden"
    read = read_material(Material("a.xlsx", data=makers.saved(book)))
    assert "4000" not in "".join(page.text for page in read.pages)
    assert read.notes == ("It has 1 hidden sheet, which was not read.",)
