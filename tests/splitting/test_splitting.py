# SPDX-License-Identifier: GPL-3.0-or-later
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from redlantern.models.embedding import OnnxEmbedder
from redlantern.reading.setting import Piece, clean, set_pages
from redlantern.splitting.lines import lines_of, sentences
from redlantern.splitting.passages import embedded_text, split_pages


def count_words(texts):
    return [len(text.split()) for text in texts]


def split(pieces, most_tokens=40, overlap_tokens=10, title="Contract"):
    pages = set_pages(pieces)
    passages = split_pages(title, pages, count_words, most_tokens=most_tokens, overlap_tokens=overlap_tokens)
    return pages, passages


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("One ends. Two begins.", ["One ends.", "Two begins."]),
        ("Mr. Hale and Dr. Amsel met. No. 4 was left.", ["Mr. Hale and Dr. Amsel met.", "No. 4 was left."]),
        ("7.2. The Builder shall stop. He did.", ["7.2. The Builder shall stop.", "He did."]),
        ("It cost 1.299,50 EUR. That is much.", ["It cost 1.299,50 EUR.", "That is much."]),
        ("J. S. Bach wrote it. “Did he?” Yes!", ["J. S. Bach wrote it.", "“Did he?”", "Yes!"]),
        ("signed in 1887. In 1961 it was altered.", ["signed in 1887.", "In 1961 it was altered."]),
        ("   ", []),
    ],
)
def test_sentences(text, expected):
    assert [text[start:end] for start, end in sentences(text)] == expected


def test_a_heading_starts_a_passage_and_its_path_stands_above():
    _, passages = split(
        [
            Piece("heading", "7 Humidity", 1),
            Piece("paragraph", "Work stops."),
            Piece("heading", "8 Payment", 1),
            Piece("paragraph", "Pay."),
        ]
    )
    assert [one.headings.printed for one in passages] == [
        "Contract › 7 Humidity",
        "Contract › 8 Payment",
    ]


def test_a_table_is_a_passage_of_its_own_under_its_column_names():
    pieces = [
        Piece("paragraph", "The sums:"),
        Piece("table", "Stage\tSum\nDeposit\t12\nRest\t30"),
        Piece("paragraph", "Pay soon."),
    ]
    pages, passages = split(pieces)
    assert [one.headings.printed for one in passages] == ["Contract", "Contract › Stage | Sum", "Contract"]
    [line, *_] = [pages[0].text[start:end] for start, end in passages[1].lines][1:]
    assert line == "Deposit\t12"


def test_passages_that_go_on_repeat_whole_sentences():
    sentences_ = [f"Sentence {number} has five words." for number in range(12)]
    pages, passages = split([Piece("paragraph", " ".join(sentences_))])
    assert len(passages) > 1
    for before, after in pairwise(passages):
        assert before.start < after.start < before.end < after.end
        repeated = pages[0].text[after.start : before.end]
        assert repeated.startswith("Sentence")
        assert repeated.endswith("words.")


def test_too_few_tokens_are_refused():
    with pytest.raises(ValueError, match="most_tokens is 31"):
        split([Piece("paragraph", "x")], most_tokens=31)


pieces = st.lists(
    st.builds(
        Piece,
        st.sampled_from(["heading", "paragraph", "list item", "table"]),
        st.text(alphabet=st.characters(exclude_categories=("Cs", "Cc")), max_size=600).map(clean),
        st.integers(1, 3),
    ),
    max_size=12,
)


@settings(max_examples=60, deadline=None)
@given(pieces, st.integers(32, 90), st.integers(0, 30))
def test_no_passage_is_too_long_and_no_line_is_lost(drawn, most_tokens, overlap_tokens):
    pages, passages = split(drawn, most_tokens, overlap_tokens)
    covered = {(one.page_number, place) for one in passages for start, end in one.lines for place in range(start, end)}
    for page in pages:
        wanted = {(page.page_number, place) for line in lines_of(page) for place in range(line.start, line.end)}
        missed = {place for _, place in wanted - covered}
        # A line cut between words loses the space it is cut at.
        assert all(page.text[place].isspace() for place in missed)
    texts = {page.page_number: page.text for page in pages}
    for one in passages:
        text = texts[one.page_number][one.start : one.end]
        assert sum(count_words([one.headings.embedded, text])) + 2 <= most_tokens
        assert one.start == one.lines[0][0]
        assert one.end == one.lines[-1][1]


@pytest.mark.real_models
@settings(max_examples=25, deadline=None)
@given(st.lists(st.text(min_size=1, max_size=900).map(clean), min_size=1, max_size=5))
def test_no_passage_exceeds_the_real_models_limit(texts):
    embedder = real_embedder()
    pages = set_pages([Piece("heading", "A heading", 1), *(Piece("paragraph", text) for text in texts)])
    for one in split_pages("Title", pages, embedder.count_tokens, most_tokens=64, overlap_tokens=20):
        text = pages[one.page_number - 1].text[one.start : one.end]
        assert embedder.count_tokens([embedded_text(one.headings, text)])[0] + 2 <= 64


_made = []


def real_embedder():
    if not _made:
        _made.append(OnnxEmbedder())
    return _made[0]


def test_a_language_that_writes_ordinals_with_a_point_keeps_its_dates_whole():
    from redlantern.splitting.lines import sentences

    text = "Der Termin ist am 3. März 2026. Danach geht es weiter."
    assert [text[a:b] for a, b in sentences(text, "de")] == [
        "Der Termin ist am 3. März 2026.",
        "Danach geht es weiter.",
    ]
    assert len(sentences("There were 3. March came.", "en")) == 2
