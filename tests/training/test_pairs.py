# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions from how people wrote: headings, links and terms of an HTML file, and how they are put as questions."""

import random

import lxml.html
from training.pairs import made, sections_of
from training.questions import as_asked, is_plain

PAGE = """<html><head><title>The lamp</title></head><body>
<h1 id="top">The lamp</h1><p>%s</p>
<h2><a name="oil"></a>2.1 How do I fill the lamp with oil?</h2><p>%s</p>
<h2 id="next">Next</h2><p>%s</p>
<dl><dt id="wick">wick trimmer</dt><dd>%s</dd></dl>
<p>See <a href="#oil">filling it at night</a> and <a href="other.html">another page</a>.</p>
</body></html>"""


def words(word):
    return " ".join([word] * 40)


def test_sections_links_and_terms_are_told_apart(tmp_path):
    text = PAGE % tuple(map(words, ("light", "oil", "more", "wick")))
    sections, links = sections_of("lamps", "lamp.html", lxml.html.fromstring(text))
    assert [section.heading for section in sections] == [
        "The lamp", "The lamp", "2.1 How do I fill the lamp with oil?", "Next", "wick trimmer",
    ]  # fmt: skip
    assert "oil" in sections[2].ids and sections[2].text.startswith("oil oil")
    assert [(said, target) for said, target, _ in links] == [
        ("filling it at night", "#oil"),
        ("another page", "other.html"),
    ]
    (tmp_path / "0000 lamp.html").write_text(text)
    kept, pairs = made("lamps", tmp_path)
    found = {(pair.kind, pair.question): kept[pair.section].text.split()[0] for pair in pairs}
    assert found == {
        ("heading", "The lamp"): "light",
        ("asks", "How do I fill the lamp with oil?"): "oil",
        ("link", "filling it at night"): "oil",
        ("term", "wick trimmer"): "wick",
    }


def test_headings_are_put_as_a_person_would_ask():
    asked = {as_asked("heading", "Changing the wick", random.Random(seed)).casefold() for seed in range(60)}
    assert {"how do i go about changing the wick?", "how is changing the wick done?"} <= asked
    assert as_asked("asks", "Why is it dark?", random.Random(3)).casefold() == "why is it dark?"


def test_names_in_programs_are_no_questions():
    assert is_plain("filling the lamp")
    assert not is_plain("--fill-lamp") and not is_plain("lamp.fill()") and not is_plain("lamp")
