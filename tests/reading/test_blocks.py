# SPDX-License-Identifier: GPL-3.0-or-later
"""Printed lines to blocks: headings, prose, lists, tables, headers and footers, with each character's place on the page."""

import pytest

from redlantern.reading.blocks import PrintedPage, build_pages, outline_key
from redlantern.reading.layout import Word, lines_in_reading_order

WIDTH, HEIGHT = 595.0, 842.0


def printed(text, left, top, size=10.0, *, is_bold=False):
    words, at = [], left
    for part in text.split():
        edges = [at + size / 2 * number for number in range(len(part) + 1)]
        words.append(Word(part, edges, top, top + size, size, is_bold))
        at = edges[-1] + size / 2
    return words


def page(number, *lines):
    words = [word for line in lines for word in line]
    return PrintedPage(number, WIDTH, HEIGHT, lines_in_reading_order(words))


def prose(top, n_lines, first="Some"):
    return [
        printed(
            f"{first if not at else 'and'} words of a paragraph that goes on for a whole line of prose",
            72,
            top + 14 * at,
        )
        for at in range(n_lines)
    ]


def blocks_of(built):
    return [(block.kind, built.text[block.start : block.end]) for block in built.blocks]


def test_a_larger_line_is_a_heading_over_its_prose():
    [built] = build_pages([page(1, printed("Condition of the roof", 72, 90, 18.0), *prose(130, 4))])
    (first, title), (second, text) = blocks_of(built)
    assert (first, title) == ("heading", "Condition of the roof")
    assert second == "paragraph"
    assert text.startswith("Some words") and text.count("\n") == 0


def test_a_line_that_a_bookmark_names_is_a_heading_whatever_its_size():
    lines = [printed("7 Humidity", 72, 90), *prose(110, 3)]
    [plain], [named] = (
        build_pages([page(1, *lines)]),
        build_pages([page(1, *lines)], {1: {outline_key("7 Humidity"): 1}}),
    )
    assert blocks_of(named)[0] == ("heading", "7 Humidity")
    assert named.blocks[0].level >= 1
    assert len(blocks_of(plain)) <= len(blocks_of(named))


def test_what_repeats_at_the_edges_of_pages_is_header_and_footer_and_no_prose():
    pages = [
        page(
            number,
            printed("Report of the surveyor", 72, 30),
            *prose(120, 5, first=f"Page{number}"),
            printed(f"page {number} of 4", 72, 800),
        )
        for number in range(1, 5)
    ]
    for number, built in enumerate(build_pages(pages), start=1):
        kinds = {text: kind for kind, text in blocks_of(built)}
        assert kinds["Report of the surveyor"] == "header"
        assert kinds[f"page {number} of 4"] == "footer"
        assert "paragraph" in kinds.values()


def test_rows_of_cells_are_a_table():
    rows = [("Stage", "Sum", "Due"), ("Deposit", "12.400,00", "March"), ("Delivery", "31.250,50", "June")]
    lines = [
        [word for cell, left in zip(row, (72, 220, 380), strict=True) for word in printed(cell, left, 100 + 16 * at)]
        for at, row in enumerate(rows)
    ]
    [built] = build_pages([page(1, *lines)])
    [(kind, text)] = blocks_of(built)
    assert kind == "table"
    assert [line.split("\t") for line in text.split("\n")] == [*map(list, rows)]


@pytest.mark.parametrize("needle", ["Humidity", "paragraph", "prose"])
def test_every_word_is_found_again_where_it_is_printed(needle):
    source = [printed("Humidity", 72, 90, 18.0), *prose(130, 3)]
    [built] = build_pages([page(1, *source)])
    at = built.text.index(needle)
    [box] = built.boxes(at, at + len(needle))
    [word] = [word for line in source for word in line if word.text == needle][:1]
    assert (box.left, box.right) == pytest.approx((word.left, word.right), abs=0.6)
    assert box.top <= word.top + 1 and box.bottom >= word.bottom - 1


def test_pages_without_words_have_no_blocks():
    [built] = build_pages([page(3)])
    assert (built.page_number, built.text, built.blocks) == (3, "", ())


def table_texts(*lines):
    [built] = build_pages([page(1, *lines)])
    return [text for kind, text in blocks_of(built) if kind == "table"]


def wide(rows, pitch):
    return [
        printed(text, left, 100 + pitch * at)
        for at, row in enumerate(rows)
        for left, text in zip((72, 240, 400), row, strict=True)
        if text
    ]


def test_rows_far_apart_are_a_table_where_their_cells_stand_under_one_another():
    rows = [("Period", "Gas", "Water"), ("spring", "120", "14"), ("summer", "80", "22"), ("autumn", "95", "9")]
    [table] = table_texts(*wide(rows, 48))
    assert table.split("\n") == ["\t".join(row) for row in rows]


def test_a_figure_alone_at_the_rows_distance_is_a_row_whose_name_was_not_recognised():
    rows = [("Period", "Gas", ""), ("spring", "120", ""), ("summer", "80", ""), ("", "95", "")]
    [table] = table_texts(*wide(rows, 32))
    assert table.split("\n")[-1] == "\t95"


def test_lines_far_apart_that_do_not_stand_under_one_another_are_no_table():
    lines = [printed("Yours", 72, 100), printed("truly", 300, 100), printed("J.", 130, 150), printed("Wiek", 420, 150)]
    assert table_texts(*lines) == []
