# SPDX-License-Identifier: GPL-3.0-or-later
"""Words on a page to lines in reading order: rows, columns of prose, cells of tables."""

import random

import pytest

from redlantern.reading.layout import Word, lines_in_reading_order

SIZE = 10.0
LETTER = 5.0


def word(text, left, top):
    edges = [left + LETTER * at for at in range(len(text) + 1)]
    return Word(text, edges, top, top + SIZE, SIZE, False)


def printed(text, left, top):
    """Words of a line, a letter's width apart."""
    words, at = [], left
    for part in text.split():
        words.append(word(part, at, top))
        at += LETTER * (len(part) + 1)
    return words


def texts(lines):
    return [" ".join(word.text for word in line.words) for line in lines]


def column(prefix, left, n_lines):
    return [printed(f"{prefix}{at} several words of plain prose", left, 100 + 14 * at) for at in range(n_lines)]


def test_a_page_without_words_has_no_lines():
    assert lines_in_reading_order([]) == []


@pytest.mark.parametrize("seed", [0, 1, 2])
def test_words_in_any_order_come_as_they_are_read(seed):
    words = [*printed("The roof leaks", 72, 100), *printed("in two places", 72, 114), *printed("at least", 72, 128)]
    random.Random(seed).shuffle(words)
    assert texts(lines_in_reading_order(words)) == ["The roof leaks", "in two places", "at least"]


def test_words_that_stand_a_little_higher_are_on_the_same_line():
    words = [*printed("Work shall cease at 70", 72, 100), word("note", 200, 97)]
    assert texts(lines_in_reading_order(words)) == ["Work shall cease at 70 note"]


@pytest.mark.parametrize("seed", [0, 1, 2])
def test_two_columns_of_prose_are_read_one_after_the_other(seed):
    left, right = column("L", 60, 12), column("R", 330, 12)
    words = [part for line in [*left, *right] for part in line]
    random.Random(seed).shuffle(words)
    lines = lines_in_reading_order(words)
    assert [text[:2] for text in texts(lines)][:2] == ["L0", "L1"]
    assert texts(lines) == [" ".join(part.text for part in line) for line in [*left, *right]]
    assert len({line.region for line in lines}) == 2


def test_the_cells_of_a_row_stay_on_one_line():
    rows = [("Deposit", "12.400,00", "March"), ("Delivery", "31.250,50", "June"), ("Rest", "8.000,00", "July")]
    words = [
        part for at, row in enumerate(rows) for cell, left in zip(row, (72, 220, 380), strict=True)
        for part in printed(cell, left, 100 + 16 * at)
    ]  # fmt: skip
    lines = lines_in_reading_order(words)
    assert [[" ".join(part.text for part in cell) for cell in line.cells] for line in lines] == [*map(list, rows)]


def test_no_word_is_lost_or_doubled_wherever_it_stands():
    chance = random.Random(5)
    words = [word(f"w{number}", chance.uniform(20, 500), chance.uniform(20, 780)) for number in range(300)]
    placed = [part.text for line in lines_in_reading_order(words) for part in line.words]
    assert sorted(placed) == sorted(part.text for part in words)
