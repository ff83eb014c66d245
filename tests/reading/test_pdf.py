# SPDX-License-Identifier: GPL-3.0-or-later
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reading.errors import FileRefusedError
from redlantern.reading.formats.pdf import page_pixels, read_pdf
from redlantern.reading.geometry import pack_blocks, pack_runs, unpack_blocks, unpack_runs
from redlantern.reading.material import Material
from redlantern.reading.values import Block, Run
from tests.conftest import write_pdf


def read(path):
    return read_pdf(Material(path.name, data=path.read_bytes()), lambda done, total: None)


def blocks_of(page):
    return [(block.kind, page.text[block.start : block.end]) for block in page.blocks]


def test_words_come_with_their_places(tmp_path):
    path = tmp_path / "one.pdf"
    write_pdf(path, [[(100, 200, "Work shall cease above 70 per cent.")]])
    [page] = read(path).pages
    start = page.text.index("70 per cent")
    [box] = page.boxes(start, start + len("70 per cent"))
    assert page.text == "Work shall cease above 70 per cent."
    assert 100 + 95 < box.left < box.right < 100 + 180
    assert box.top < 200 < box.bottom + 4
    assert box.bottom - box.top < 16


def test_columns_are_read_one_after_the_other(tmp_path):
    path = tmp_path / "columns.pdf"
    left = [(60, 100 + 14 * row, f"Left column line {row} goes on here") for row in range(8)]
    right = [(320, 100 + 14 * row, f"Right column line {row} goes on here") for row in range(8)]
    lines = [line for pair in zip(left, right, strict=True) for line in pair]
    write_pdf(path, [[(60, 70, "A title across the page that is long enough"), *lines]])
    text = read(path).pages[0].text
    assert text.index("Left column line 7") < text.index("Right column line 0")
    assert text.startswith("A title")


def test_tables_keep_rows_and_cells(tmp_path):
    path = tmp_path / "table.pdf"
    rows = [("Stage", "Share", "Sum"), ("Deposit", "15 %", "72.975,00"), ("Delivery", "30 %", "145.950,00")]
    drawn = [(x, 200 + 18 * y, cell) for y, row in enumerate(rows) for x, cell in zip((80, 240, 380), row, strict=True)]
    write_pdf(path, [[(80, 120, "The sums are as follows, in three columns below."), *drawn]])
    assert ("table", "Stage\tShare\tSum\nDeposit\t15 %\t72.975,00\nDelivery\t30 %\t145.950,00") in blocks_of(
        read(path).pages[0]
    )


def test_running_headers_and_page_numbers_are_told_apart(tmp_path):
    path = tmp_path / "report.pdf"
    pages = [
        [
            (72, 40, "Condition survey"),
            (72, 300, f"Body of page {number} with some words."),
            (500, 815, f"Page {number}"),
        ]
        for number in range(1, 5)
    ]
    write_pdf(path, pages)
    for number, page in enumerate(read(path).pages, start=1):
        assert blocks_of(page) == [
            ("header", "Condition survey"),
            ("paragraph", f"Body of page {number} with some words."),
            ("footer", f"Page {number}"),
        ]


def test_a_word_broken_at_a_line_end_is_joined_and_still_has_its_boxes(tmp_path):
    path = tmp_path / "broken.pdf"
    write_pdf(path, [[(72, 200, "The leather of the bel-"), (72, 214, "lows was renewed in spring.")]])
    [page] = read(path).pages
    assert page.text == "The leather of the bellows was renewed in spring."
    start = page.text.index("bellows")
    assert len(page.boxes(start, start + 7)) == 2


def test_a_truncated_pdf_a_fake_and_an_empty_page_have_reasons(tmp_path):
    whole, cut, fake, blank = (tmp_path / name for name in ("a.pdf", "b.pdf", "c.pdf", "d.pdf"))
    write_pdf(whole, [[(72, 72, "Some words")]])
    cut.write_bytes(whole.read_bytes()[:300])
    fake.write_bytes(b"%PDF-1.7\nnothing of the kind")
    write_pdf(blank, [[]])
    for path, words in (
        (cut, "The PDF is damaged"),
        (fake, "The PDF is damaged"),
        (blank, "No words were found in it"),
    ):
        with pytest.raises(FileRefusedError) as refused:
            read(path)
        assert str(refused.value).startswith(words)


def test_a_page_is_printed_to_pixels(tmp_path):
    path = tmp_path / "one.pdf"
    write_pdf(path, [[(100, 200, "INK")]])
    width, height, pixels = page_pixels(Material(path.name, data=path.read_bytes()), 0, 1.0)
    assert (width, height) == (596, 842)
    assert len(pixels) == width * height * 4
    row = pixels[196 * width * 4 : 197 * width * 4]
    assert min(row[100 * 4 : 130 * 4]) < 120 < min(row[200 * 4 : 300 * 4])


def test_mutated_pdfs_never_bring_the_parent_down(tmp_path, readers, cancel):
    # In reader processes, as in the application; a crash there must come back as a reason.
    path = tmp_path / "whole.pdf"
    write_pdf(path, [[(72, 72 + 20 * row, f"Line {row} of the page") for row in range(10)]])
    whole, chance = bytearray(path.read_bytes()), random.Random(7)
    for number in range(60):
        mutated = bytearray(whole)
        for _ in range(chance.randint(1, 12)):
            mutated[chance.randrange(len(mutated))] = chance.randrange(256)
        target = tmp_path / f"{number}.pdf"
        target.write_bytes(mutated)
        try:
            document = readers.read(target, cancel)
        except FileRefusedError as refusal:
            assert refusal.advice
        else:
            assert document.pages


@given(
    st.lists(
        st.tuples(st.integers(0, 50), st.lists(st.floats(-50, 3000), min_size=2, max_size=40), st.floats(0, 900)),
        max_size=8,
    )
)
def test_runs_survive_packing_to_a_twentieth_of_a_point(drawn):
    runs = tuple(Run(start, start + len(edges) - 1, top, top + 11.3, tuple(edges)) for start, edges, top in drawn)
    for before, after in zip(runs, unpack_runs(pack_runs(runs)), strict=True):
        assert (before.start, before.end) == (after.start, after.end)
        assert abs(before.top - after.top) <= 0.051
        assert all(abs(a - b) <= 0.051 for a, b in zip(before.edges, after.edges, strict=True))


def test_blocks_survive_packing():
    blocks = (Block("heading", 0, 5, 2), Block("table", 6, 90))
    assert unpack_blocks(pack_blocks(blocks)) == blocks
    assert unpack_blocks(pack_blocks(())) == ()


def test_paragraphs_above_a_table_stay_apart_however_wide_its_rows_are_set(tmp_path):
    path = tmp_path / "invoice.pdf"
    prose = [
        "The organ works of the upper valley",
        "To the trust of the hall in the lower row",
        "Second part of the sum agreed upon.",
    ]
    lines = [(72, 100 + 22 * number, words) for number, words in enumerate(prose)]
    table = [(x, 190 + 26 * row, f"cell {row}.{column}") for row in range(6) for column, x in enumerate((72, 220, 360))]
    write_pdf(path, [lines + table])
    page = read(path).pages[0]
    assert [page.text[one.start : one.end] for one in page.blocks if one.kind == "paragraph"] == prose


def test_widely_spaced_prose_is_joined_and_its_paragraphs_are_not(tmp_path):
    path = tmp_path / "double.pdf"
    full = "many words of a long line that fills the whole of the column of the page"
    texts = [full, full, full, f"{full[:40]} end.", "A new paragraph " + full[16:], full, full, "and its end."]
    places = [100, 125, 150, 175, 215, 240, 265, 290]
    write_pdf(path, [[(72, y, words) for y, words in zip(places, texts, strict=True)]])
    paragraphs = [one for one in read(path).pages[0].blocks if one.kind == "paragraph"]
    assert len(paragraphs) == 2
