# SPDX-License-Identifier: GPL-3.0-or-later
"""The statement says what was covered, no more; and its words are words on paper."""

from dataclasses import replace

from redlantern.collection.values import Document
from redlantern.readthrough.coverage import coverage
from redlantern.readthrough.estimate import estimate
from redlantern.readthrough.statement import Made, make_statement
from redlantern.readthrough.values import Example, FoundWords, PageRead, PageWish

MADE = Made("0.1.0", ("Embedding model: small 1.",), "2026-11-29T10:00:00+00:00", "2026-11-29T10:01:00+00:00")
CONTRACT = Document(
    1, "CON", "Contract", "PDF", "contract.pdf", "/d/contract.pdf", "ab" * 32, 1, 3, 3, mtime_ns=1_772_496_000 * 10**9
)
LETTER = Document(2, "LET", "Letter", "PDF", "letter.pdf", "/d/letter.pdf", "cd" * 32, 1, 1, 1)
BROKEN = replace(LETTER, document_id=3, call_mark="BRO", path="broken.pdf", full_path="/d/broken.pdf", sha256="ef" * 32,
                 n_pages=0, is_refused=True, reason="It needs a password.")  # fmt: skip


def page(document, number, state, **more):
    return PageRead((document.key, number), state, 0.5, (FoundWords(0, 5, "words <b>"),), read_at="x", **more)


def stated(pages, documents=(CONTRACT, LETTER), **wish):
    made = PageWish("every page", **wish)
    read = {each.place: each for each in pages}
    covered = coverage(documents, made, read)
    return make_statement(
        made, covered, estimate(covered.pages, [each.place for each in pages if each.state == "silent"]), MADE
    )


def test_complete_is_said_only_where_every_page_was_read():
    whole = [page(CONTRACT, number, "silent") for number in (1, 2, 3)] + [page(LETTER, 1, "hit")]
    assert "Complete: every page in scope was read." in stated(whole).as_text()
    for pages, documents in (
        (whole[1:], (CONTRACT, LETTER)),
        (whole, (CONTRACT, LETTER, BROKEN)),
        ([*whole[:3], page(LETTER, 1, "unreadable", reason="a scan too poor")], (CONTRACT, LETTER)),
    ):
        text = stated(pages, documents).as_text()
        assert "Complete" not in text
    assert "broken.pdf: the whole document. It needs a password." in stated(whole, (CONTRACT, LETTER, BROKEN)).as_text()
    assert "letter.pdf, page 1: a scan too poor" in text


def test_one_is_said_of_one():
    text = stated([page(CONTRACT, 1, "hit"), page(CONTRACT, 2, "silent"), page(CONTRACT, 3, "doubtful")]).as_text()
    assert "By the program: 1 hit, 1 doubtful, 1 silent page." in text


def test_what_may_be_missed_is_said_only_where_a_sample_was_judged():
    pages = [
        page(CONTRACT, 1, "silent"),
        page(CONTRACT, 2, "silent"),
        page(CONTRACT, 3, "hit"),
        page(LETTER, 1, "doubtful"),
    ]
    assert "Not estimated: no sample of the silent pages was judged." in stated(pages).as_text()
    judged = [replace(pages[0], judged="accepted"), *pages[1:]]
    text = stated(judged).as_text()
    assert "1 silent page of 2, drawn at random, was judged by a person: 1 was a hit after all." in text
    assert "with 95% confidence" in text and "a recall of at least" in text


def test_documents_stand_with_hash_and_date_and_hits_with_words_and_notes():
    pages = [
        page(CONTRACT, 1, "hit", judged="accepted", note="see 9.8"),
        page(CONTRACT, 2, "doubtful", judged="rejected"),
    ]
    text = stated(pages, counts="a clause", examples=(Example("no", False),)).as_text()
    assert f"CON  contract.pdf: 2 of 3 pages read; file of 2026-03-03; SHA-256 {'ab' * 32}" in text
    assert "CON p.1 (accepted, certainty 0.50): “words <b>” Note: see 9.8" in text
    assert (
        "CON p.2 (rejected" in text and "Does not count, for example: “no”" in text and "What counts: a clause" in text
    )
    assert "2 hits" not in text and "1 of them accepted, 1 rejected, 0 not judged yet" in text


def test_words_of_documents_are_no_markup_on_paper():
    html = stated([page(CONTRACT, 1, "hit")]).as_html()
    assert "words &lt;b&gt;" in html and "<b>" not in html and "http" not in html


def test_pages_of_earlier_versions_are_counted_apart():
    gone = PageRead(("gone/", 1), "hit", 0.9)
    text = stated([page(LETTER, 1, "silent"), gone], (LETTER,)).as_text()
    assert "1 page of documents that were changed or taken out since" in text and "0 hits" in text


def test_only_what_is_in_scope_is_covered():
    text = stated([page(LETTER, 1, "silent")], paths=("/d/letter.pdf",)).as_text()
    assert "Scope: documents that were chosen: 1 document, 1 page." in text and "contract.pdf" not in text
