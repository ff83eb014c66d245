# SPDX-License-Identifier: GPL-3.0-or-later
"""What a model writes is cut into sentences: lists lose their bullets, and nothing is said twice."""

import pytest

from redlantern.answering.writing.claims import sentences_of


@pytest.mark.parametrize(
    ("written", "expected"),
    [
        ("The key was lost. Mr. Hale has the log.", ["The key was lost.", "Mr. Hale has the log."]),
        ("1. Open the hatch.\n2. Read the log.", ["Open the hatch.", "Read the log."]),
        ("- 12 skins\n• 4.5 litres of glue\n\n", ["12 skins", "4.5 litres of glue"]),
        ("It was wet. It was WET.\nit was wet.", ["It was wet."]),
        ("It costs 1.299,00 EUR. That is all.", ["It costs 1.299,00 EUR.", "That is all."]),
        ("It was wet. [1] It dried. [2]", ["It was wet.", "It dried."]),
        ("It was wet.\n```\n...", ["It was wet."]),
        ("", []),
    ],
)
def test_sentences(written, expected):
    assert sentences_of(written) == expected
