"""The counts that answers are judged by, against worked examples."""

import json

from bench.answers import Counts, count
from bench.asking import rows

from redlantern.answering.sheet import AnsweredSheet, Claim, Evidence, FoundLine, RefusedSheet
from redlantern.collection.values import Citation

ROW = {"right": [{"file": "a.md", "page": 2}], "expected": ["70 per cent"]}


def cite(text, page=2):
    return Citation(1, "A", "The log", "a.md", page, 0, len(text), text, ())


def sheet(claims=(), lines=(), refused=False, passages=()):
    if refused:
        return RefusedSheet("q", "q", tuple(passages), refusal_reason="no")
    found = tuple(FoundLine(citation, 1.0) for citation in lines)
    return AnsweredSheet("q", "q", tuple(passages), found_lines=found, claims=tuple(claims))


def test_a_right_page_cited_and_the_expected_words_said():
    claim = Claim("Work stops at 70 per cent.", "supported", (cite("Work stops at 70 per cent."),))
    assert count(ROW, sheet([claim])) == Counts(1, 0, 0, 0, 1, 1, 1, 1, 1, 0, 0, 1)


def test_without_prose_the_found_lines_count():
    assert count(ROW, sheet(lines=[cite("It is 70 per cent.")])) == Counts(1, 0, 0, 0, 1, 1, 1, 0, 0, 0, 0, 1)
    assert count(ROW, sheet(lines=[cite("It is dry.", page=3)])) == Counts(1, 0, 0, 0, 0, 1, 0, 0, 0, 0)


def test_a_page_judged_right_in_the_pool_is_no_page_named_with_the_question():
    row = {"right": [{"file": "a.md", "page": 2}, {"file": "a.md", "page": 3, "pooled": True}]}
    named, pooled = count(row, sheet(lines=[cite("dry")])), count(row, sheet(lines=[cite("dry", page=3)]))
    assert (named.cited, named.cited_named, pooled.cited, pooled.cited_named) == (1, 1, 1, 0)


def test_a_refusal_cites_nothing():
    assert count(ROW, sheet(lines=[cite("70 per cent")], refused=True)) == Counts(1, 0, 0, 1, 0, 1, 0, 0, 0, 0)


def test_a_claim_called_supported_is_looked_at_again():
    wrong = Claim("Work stops at 75 per cent.", "supported", (cite("Work stops at 70 per cent."),))
    stranger = Claim("It was read by Hale.", "supported", (cite("It was read by Orr."),))
    assert count(ROW, sheet([wrong])).not_in_cited == 1
    assert count(ROW, sheet([stranger])).not_in_cited == 1


def test_a_right_page_first_or_among_the_first_five():
    pages = [Evidence(rank, cite("words", page=page), "", 1, 1, 1) for rank, page in enumerate((3, 2, 1), start=1)]
    found = count(ROW, sheet(passages=pages))
    assert (found.page_at_1, found.page_at_5) == (0, 1)
    assert count(ROW, sheet(passages=pages[1:])).page_at_1 == 1
    assert count(ROW, sheet(passages=[pages[0]] * 5 + [pages[1]])).page_at_5 == 0


def test_pages_that_were_judged_right_in_the_pool_can_be_left_out(tmp_path):
    path = tmp_path / "questions.jsonl"
    named, pooled = {"file": "a.md", "page": 2}, {"file": "b.md", "page": 1, "pooled": True}
    path.write_text(json.dumps({"right": [named, pooled]}), encoding="utf-8")
    assert rows(path)[0]["right"] == [named, pooled]
    assert rows(path, unpooled=True)[0]["right"] == [named]


def test_a_warning_of_weak_evidence_is_counted():
    weak = Evidence(1, cite("words"), "", 1, 1, 1)
    assert count(ROW, sheet(passages=[weak])).weak == 1
    assert count(ROW, sheet(passages=[weak], refused=True)).weak == 0
