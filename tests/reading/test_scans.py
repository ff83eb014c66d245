# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages without usable text are recognised; boxes still lie on the words; bookmarks are headings; long files use two cores."""

import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from redlantern.reading import recognition
from redlantern.reading.errors import FileRefusedError
from redlantern.reading.formats.pdf import is_rubbish
from redlantern.reading.material import Material
from redlantern.reading.parallel_pages import WORTH_TWO_PROCESSES, in_two_processes
from redlantern.reading.read import page_pixels, read_material
from tests.reading import makers

needs_tesseract = pytest.mark.skipif(not recognition.is_installed(), reason="needs tesseract-ocr")
GERMAN = (
    "Der Hausmeister hat die Luke am Abend geschlossen.",
    "Die Prüfung der Bälge war für den Gutachter schwierig.",
)


def pdf_of(*pages) -> Material:
    """A PDF: each page a picture that fills it, or lines of text."""
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=(595, 432))
    for page in pages:
        if isinstance(page, tuple):
            for index, line in enumerate(page):
                canvas.drawString(72, 380 - 20 * index, line)
        else:
            canvas.drawImage(ImageReader(page), 0, 0, 595, 432)
        canvas.showPage()
    canvas.save()
    return Material("scan.pdf", data=buffer.getvalue())


def ink_in(material, page_index, box) -> float:
    """The share of dark pixels within a box of a page as it is printed."""
    width, height, pixels = page_pixels(material, page_index, 2.0)
    grey = np.frombuffer(pixels, np.uint8).reshape(height, width, 4)[..., 1]
    part = grey[round(box.top * 2) : round(box.bottom * 2), round(box.left * 2) : round(box.right * 2)]
    return float((part < 128).mean())


@needs_tesseract
@pytest.mark.parametrize("degrees", [0.0, 2.5, -4.0])
def test_a_scanned_page_is_straightened_and_its_boxes_lie_on_the_words(degrees):
    material = pdf_of(makers.scan(degrees=degrees))
    page = read_material(material).pages[0]
    assert page.text.split("\n") == list(makers.SCANNED)
    assert page.origin == "recognised"
    for word in ("Oriel", "hatch", "5521"):
        start = page.text.index(word)
        [box] = page.boxes(start, start + len(word))
        assert ink_in(material, 0, box) > 0.08, word
    # Between two lines there is none, so that the test could fail.
    first, second = page.boxes(0, 5)[0], page.boxes(page.text.index("The"), page.text.index("The") + 3)[0]
    gap = type(first)(first.left, first.bottom + 4, first.right, second.top - 4)
    assert ink_in(material, 0, gap) < 0.02


@needs_tesseract
def test_a_mixed_file_keeps_its_text_and_recognises_the_rest():
    read = read_material(pdf_of(("The contract was signed on 9 June 2026.",), makers.scan(), ("The end.",)))
    assert [page.origin for page in read.pages] == ["text", "recognised", "text"]
    assert "5521" in read.pages[1].text


@needs_tesseract
def test_the_language_of_a_scan_chooses_the_language_of_recognition():
    if "deu" not in recognition.installed_languages():
        pytest.skip("needs tesseract-ocr-deu")
    read = read_material(pdf_of(makers.scan(lines=GERMAN)))
    assert (read.language, read.pages[0].text) == ("de", "\n".join(GERMAN))


@needs_tesseract
def test_a_blank_scan_says_that_nothing_was_found():
    read = read_material(pdf_of(("Words.",), makers.scan(lines=())))
    assert read.pages[1].origin == "none"
    assert read.pages[1].warnings == ("No words were found on this page.",)


def test_without_tesseract_pictures_say_so_and_the_rest_is_read(monkeypatch):
    monkeypatch.setattr(recognition, "is_installed", lambda: False)
    read = read_material(pdf_of(("The contract was signed.",), makers.scan()))
    assert [page.origin for page in read.pages] == ["text", "none"]
    assert "text recognition is not installed" in read.pages[1].warnings[0]
    with pytest.raises(FileRefusedError, match="Its pages are pictures, and text recognition is not installed"):
        read_material(pdf_of(makers.scan()))


def test_rubbish_is_told_from_text():
    english = "The caretaker closed the hatch in the evening and gave the key to the porter of the house. " * 4
    assert not is_rubbish(english)
    assert not is_rubbish("12.400,00 31.250,50 EUR " * 20)
    assert not is_rubbish("短い文書です。" * 40)
    assert is_rubbish(english.replace(" ", ""))
    assert is_rubbish("\ue001\ue002 \ue003\ue004\ue005 " * 20)
    assert is_rubbish("Wkh fdwhwdkr flrvrg wkh kdwfk lq wkh yqlnj dqg jdyh wkh " * 6)


def test_bookmarks_are_headings_with_their_levels():
    buffer = io.BytesIO()
    canvas = Canvas(buffer)
    for number, (title, level) in enumerate((("Part one", 0), ("Duties of care", 1), ("Part two", 0))):
        canvas.drawString(72, 700, title)
        canvas.drawString(72, 660, f"Some words below it, number {number}.")
        canvas.bookmarkPage(title)
        canvas.addOutlineEntry(title, title, level)
        canvas.showPage()
    canvas.save()
    read = read_material(Material("a.pdf", data=buffer.getvalue()))
    heads = [(page.text[b.start : b.end], b.level) for page in read.pages for b in page.blocks if b.kind == "heading"]
    assert heads == [("Part one", 1), ("Duties of care", 2), ("Part two", 1)]


def test_a_long_file_is_read_on_two_cores_in_its_order():
    told = []
    n_pages = WORTH_TWO_PROCESSES + 3
    pages = [(f"This is page {number}.",) for number in range(n_pages)]
    read = read_material(pdf_of(*pages), lambda done, total: told.append((done, total)))
    assert [page.text for page in read.pages] == [page[0] for page in pages]
    assert told[-1] == (n_pages, n_pages)
    assert told == sorted(told)


def test_a_second_process_that_breaks_or_refuses_is_told():
    import os

    def breaks(pages):
        if 0 not in pages:
            os._exit(3)
        yield from pages

    with pytest.raises(FileRefusedError, match="broke the reader"):
        in_two_processes(breaks, 100, lambda done, total: None)

    def refuses(pages):
        if 0 not in pages:
            raise FileRefusedError("it is not right", "Mend it.")
        yield from pages

    with pytest.raises(FileRefusedError, match=r"It is not right\. Mend it\."):
        in_two_processes(refuses, 100, lambda done, total: None)


@settings(max_examples=20, deadline=None)
@given(st.floats(-5.5, 5.5))
def test_skew_is_found_to_within_a_fifth_of_a_degree(degrees):
    page = makers.scan(lines=("The caretaker closed the hatch on 3 March 2026, said she.",) * 7).rotate(
        -degrees, fillcolor=255
    )
    assert abs(recognition.skew(np.asarray(page, np.uint8)) - degrees) <= 0.2 or abs(degrees) < 0.2


@pytest.mark.parametrize("quarter", [90, 180, 270])
def test_a_rotated_page_is_read_as_it_is_shown(quarter, tmp_path):
    import pypdfium2

    material = pdf_of(("The hatch was closed on 3 March.", "The key is with the porter."))
    document = pypdfium2.PdfDocument(material.data)
    document[0].set_rotation(quarter)
    path = tmp_path / "turned.pdf"
    document.save(str(path))
    turned = Material(path.name, data=path.read_bytes())
    page = read_material(turned).pages[0]
    assert (page.width_pt, page.height_pt) == ((432, 595) if quarter != 180 else (595, 432))
    start = page.text.index("hatch")
    boxes = page.boxes(start, start + 5)
    # Where the word is said to be, ink is printed.
    assert boxes
    assert all(0 <= box.left < box.right <= page.width_pt and ink_in(turned, 0, box) > 0.03 for box in boxes)
