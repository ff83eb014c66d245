# SPDX-License-Identifier: GPL-3.0-or-later
"""Words as they are listed: places in each language of the interface."""

import pytest

from redlantern.text import listing


@pytest.mark.parametrize(
    ("spoken", "expected"),
    [
        ("en", "1st 2nd 3rd 4th 11th 12th 13th 21st 111th 1,002nd"),
        ("de", "1. 2. 3. 4. 11. 12. 13. 21. 111. 1002."),
        ("fr", "1re 2e 3e 4e 11e 12e 13e 21e 111e 1002e"),
    ],
)
def test_a_place_is_said_as_the_language_does(spoken, expected, monkeypatch):
    monkeypatch.setattr(listing, "language", lambda: spoken)
    assert " ".join(map(listing.ordinal, (1, 2, 3, 4, 11, 12, 13, 21, 111, 1002))) == expected
