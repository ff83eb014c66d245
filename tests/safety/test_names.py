# SPDX-License-Identifier: GPL-3.0-or-later
"""Names of files go to the database, a terminal, JSON and back, whatever bytes they are made of."""

import json
import os
import unicodedata

from hypothesis import given
from hypothesis import strategies as st

from redlantern.safety.names import json_line, path_of, path_text, storable, visible, visible_lines


@given(st.binary(min_size=1, max_size=60).filter(lambda raw: b"\0" not in raw))
def test_any_name_is_text_that_leads_back_to_it(raw):
    text = path_text(os.fsdecode(raw))
    text.encode("utf-8")
    # Only names that hold the very characters that stand for stray bytes are not told apart.
    if not any(0x10FF80 <= ord(sign) <= 0x10FFFF for sign in os.fsdecode(raw)):
        assert os.fsencode(path_of(text)) == os.fsencode(path_of(os.fsdecode(raw)))


@given(st.text() | st.characters(categories=["Cs"]).map(lambda sign: f"a{sign}b"))
def test_what_is_shown_steers_nothing_and_can_be_printed(text):
    shown = visible(text)
    shown.encode("utf-8")
    assert all(unicodedata.category(sign) not in ("Cc", "Cf", "Cs", "Co", "Zl", "Zp") for sign in shown)
    assert visible(shown) == shown
    assert visible_lines(text).split("\n") == [visible(line) for line in text.split("\n")]


@given(st.text() | st.characters(categories=["Cs"]))
def test_what_is_kept_can_be_kept(text):
    storable(text).encode("utf-8")
    assert storable(storable(text)) == storable(text)


@given(st.dictionaries(st.text(max_size=5), st.text(max_size=20), max_size=3))
def test_json_keeps_its_values_and_loses_what_steers_a_terminal(values):
    raw = json.dumps(values, ensure_ascii=False)
    line = json_line(raw)
    assert json.loads(line) == values
    assert not any(
        0x7F <= ord(sign) <= 0x9F or 0x202A <= ord(sign) <= 0x202E or 0xD800 <= ord(sign) <= 0xDFFF for sign in line
    )


def test_plain_names_stay_plain():
    for name in ("letter of 3 March.pdf", "Überblick – Größe.odt", "见证.docx", "🎻.txt"):
        assert path_text(name) == visible(name) == storable(name) == name
        assert json_line(json.dumps(name, ensure_ascii=False)) == json.dumps(name, ensure_ascii=False)
