# SPDX-License-Identifier: GPL-3.0-or-later
import docx
import pytest

from redlantern.reading.errors import FileRefusedError
from redlantern.reading.formats.markdown import read_markdown
from redlantern.reading.formats.web import read_html
from redlantern.reading.formats.word import read_docx
from redlantern.reading.kinds import kind_of
from redlantern.reading.material import Material
from tests.conftest import CONTRACT, write_pdf


def kinds_and_texts(document):
    return [
        (block.kind, block.level, page.text[block.start : block.end])
        for page in document.pages
        for block in page.blocks
    ]


def test_markdown_blocks_come_in_order(tmp_path):
    path = tmp_path / "contract.md"
    path.write_text(CONTRACT + "\n- a point\n- another\n\n3. third\n")
    read = read_markdown(Material(path.name, data=path.read_bytes()))
    found = kinds_and_texts(read)
    assert read.title == "Contract for the restoration"
    assert found[0] == ("heading", 1, "Contract for the restoration")
    assert found[1] == ("heading", 2, "7 Humidity")
    assert found[5][0] == "table"
    assert found[5][2].split("\n")[1] == "Deposit\t12.400,00 EUR\t3 March 2026"
    assert found[6:] == [("list item", 0, "• a point"), ("list item", 0, "• another"), ("list item", 0, "3. third")]


def test_markup_in_markdown_is_text_only(tmp_path):
    path = tmp_path / "a.md"
    path.write_text("A *strong* [link](http://example.invalid/x) and <b>tag</b>.")
    assert kinds_and_texts(read_markdown(Material(path.name, data=path.read_bytes()))) == [
        ("paragraph", 0, "A strong link and <b>tag</b>.")
    ]


def test_docx_headings_lists_tables_and_page_breaks(tmp_path):
    path = tmp_path / "letter.docx"
    document = docx.Document()
    document.add_heading("Statement", 1)
    document.add_paragraph("We ask for 56.160,00 EUR.")
    document.add_paragraph("First point", style="List Bullet")
    table = document.add_table(2, 2)
    for cell, words in zip(
        (*table.rows[0].cells, *table.rows[1].cells), ("Stage", "Sum", "Deposit", "12,50"), strict=True
    ):
        cell.text = words
    document.add_page_break()
    document.add_paragraph("On the second page.")
    document.save(str(path))
    read = read_docx(Material(path.name, data=path.read_bytes()))
    assert [page.text for page in read.pages][1:] == ["On the second page."]
    assert kinds_and_texts(read)[:4] == [
        ("heading", 1, "Statement"),
        ("paragraph", 0, "We ask for 56.160,00 EUR."),
        ("list item", 0, "First point"),
        ("table", 0, "Stage\tSum\nDeposit\t12,50"),
    ]


@pytest.mark.parametrize(
    ("name", "raw", "words"),
    [
        ("empty.pdf", b"", "The file is empty"),
        ("picture.txt", b"GIF89a" + b"\0" * 50, "A GIF picture cannot be read by this version"),
        ("letter.doc", b"\xd0\xcf\x11\xe0" + b"\0" * 50, "An Office file of the old kind (before 2007) cannot be read"),
        ("tool.pdf", b"\x7fELF" + b"\0" * 50, "A program is not a document"),
        ("archive.docx", b"PK\x03\x04" + b"\0" * 50, "The Office file or archive is damaged or cut short"),
        ("noise.txt", bytes(range(256)) * 8, "This kind of file cannot be read by this version"),
    ],
)
def test_what_a_file_is_decides_and_not_its_ending(tmp_path, name, raw, words):
    path = tmp_path / name
    path.write_bytes(raw)
    with pytest.raises(FileRefusedError) as refused:
        kind_of(Material(path.name, data=path.read_bytes()))
    assert str(refused.value).startswith(words)


def test_a_pdf_by_another_name_is_a_pdf(tmp_path):
    path = tmp_path / "contract.txt"
    write_pdf(path, [[(72, 72, "Hello")]])
    assert kind_of(Material(path.name, data=path.read_bytes())) == "pdf"


def test_a_definition_begins_with_its_terms():
    page = (
        "<dl>as used here<dt>wick</dt><dd>The cord that burns.</dd><dt>lamp</dt><dt>lantern:</dt><dd><p>A light.</p><p>It is red.</p></dd>"
        "<div><dt>parts</dt><dd><ul><li>glass</li><li>ring</li></ul></dd></div><dt>globe</dt></dl><p>Thus far.</p>"
    )
    texts = [text for _, _, text in kinds_and_texts(read_html(Material("terms.html", data=page.encode())))]
    assert texts == [
        "as used here", "wick: The cord that burns.", "lamp, lantern: A light.", "It is red.", "parts", "• glass", "• ring",
        "globe", "Thus far.",
    ]  # fmt: skip


def test_words_between_definitions_are_not_lost():
    page = "<dl><dt>wick</dt>see cord<dd>It burns.</dd>and so on<div>loose<dt>lamp</dt><dd>A light.</dd></div>last</dl>"
    texts = [text for _, _, text in kinds_and_texts(read_html(Material("terms.html", data=page.encode())))]
    assert texts == ["wick", "see cord", "It burns.", "and so on", "loose", "lamp: A light.", "last"]
