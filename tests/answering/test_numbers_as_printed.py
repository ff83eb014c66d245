# SPDX-License-Identifier: GPL-3.0-or-later
"""Numbers of an answer are written as the documents write them, digit by digit the same, and never become others."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering.writing.grounds import _digits, numbers_as_printed

LINES = ["The excess is 6.000,00 EUR.", "It was 83 % on 3 May 2026.", "One says 1.299,00, the other 1,299.00."]


@pytest.mark.parametrize(
    ("said", "expected"),
    [
        ("The excess is 6,000,00 EUR.", "The excess is 6.000,00 EUR."),
        ("The excess is 600000 EUR.", "The excess is 6.000,00 EUR."),
        ("It was 83% in May.", "It was 83 % in May."),
        ("It costs 1299.00.", "It costs 1299.00."),
        ("It costs 6.000 EUR.", "It costs 6.000 EUR."),
        ("On 3 May 2026.", "On 3 May 2026."),
        ("It was 83 degrees.", "It was 83 degrees."),
    ],
)
def test_only_the_writing_changes(said, expected):
    assert numbers_as_printed(said, LINES) == expected


@given(st.text(alphabet="0123456789., %a", max_size=30), st.lists(st.text(alphabet="0123456789., %a", max_size=30)))
def test_no_digit_is_ever_changed(said, lines):
    assert _digits(numbers_as_printed(said, lines)) == _digits(said)
