# SPDX-License-Identifier: GPL-3.0-or-later
"""How answers are marked, and the counts that they are judged by, against worked examples."""

import pytest

from redlantern.answering.sheet import AnsweredSheet, Claim, Evidence, FoundLine, RefusedSheet
from redlantern.collection.values import Citation
from redlantern.trials.counts import Counts, by_kind, counts_of, table
from redlantern.trials.marking import mark, said_by
from redlantern.trials.values import RightPage, TrialQuestion

QUESTION = TrialQuestion("1", "When?", expected=("70 per cent",), right=(RightPage("a.md", 2),))


def cite(text, page=2, path="a.md", key=""):
    return Citation(1, "A", "The log", path, page, 0, len(text), text, (), key)


def sheet(claims=(), lines=(), refused=False, passages=()):
    found = tuple(FoundLine(citation, 1.0) for citation in lines)
    if refused:
        return RefusedSheet("q", "q", tuple(passages), refusal_reason="no", found_lines=found)
    return AnsweredSheet("q", "q", tuple(passages), found_lines=found, claims=tuple(claims))


def count(question, *of, **how):
    return counts_of(mark(question, sheet(*of, **how)))


def test_a_right_page_cited_and_the_expected_words_said():
    claim = Claim("Work stops at 70 per cent.", "supported", (cite("Work stops at 70 per cent."),))
    assert count(QUESTION, [claim]) == Counts(1, 0, 0, 0, 1, 1, 1, 1, 1, 0, 0, 1)


def test_without_prose_the_found_lines_count_and_blanks_do_not():
    assert count(QUESTION, lines=[cite("It is 70\n per cent.")]) == Counts(1, 0, 0, 0, 1, 1, 1, 0, 0, 0, 0, 1)
    assert count(QUESTION, lines=[cite("It is dry.", page=3)]) == Counts(1, 0, 0, 0, 0, 1, 0, 0, 0, 0)


def test_a_figure_may_stand_for_the_word_one():
    said = Claim("Pump 1 stops.", "supported", (cite("Pump one stops."),))
    assert count(QUESTION, [said]).not_in_cited == 0
    assert count(QUESTION, [Claim("Pump 2 stops.", "supported", said.citations)]).not_in_cited == 1


def test_a_page_judged_right_in_the_pool_is_no_page_named_with_the_question():
    question = TrialQuestion("1", "When?", right=(RightPage("a.md", 2), RightPage("a.md", 3, is_pooled=True)))
    named, pooled = count(question, lines=[cite("dry")]), count(question, lines=[cite("dry", page=3)])
    assert (named.cited, named.cited_named, pooled.cited, pooled.cited_named) == (1, 1, 1, 0)


def test_a_refusal_cites_nothing_and_says_nothing():
    assert count(QUESTION, lines=[cite("70 per cent")], refused=True) == Counts(1, 0, 0, 1, 0, 1, 0, 0, 0, 0)


@pytest.mark.parametrize("text", ["Work stops at 75 per cent.", "It was read by Hale."])
def test_a_claim_called_supported_is_looked_at_again(text):
    claim = Claim(text, "supported", (cite("It was read by Orr at 70 per cent."),))
    assert count(QUESTION, [claim]).not_in_cited == 1


def test_a_right_page_first_or_among_the_first_five():
    pages = [Evidence(rank, cite("words", page=page), "", 1, 1, 1) for rank, page in enumerate((3, 2, 1), start=1)]
    found = count(QUESTION, passages=pages)
    assert (found.page_at_1, found.page_at_5) == (0, 1)
    assert count(QUESTION, passages=pages[1:]).page_at_1 == 1
    # Five passages of one page are five ranks: a page that comes again gains nothing.
    assert count(QUESTION, passages=[pages[0]] * 5 + [pages[1]]).page_at_5 == 0


def test_a_file_that_was_moved_is_known_by_its_content():
    question = TrialQuestion("1", "When?", right=(RightPage("a.md", 2, key="abc"),))
    assert count(question, lines=[cite("dry", path="new/a.md", key="abc")]).cited == 1
    assert count(question, lines=[cite("dry", path="new/a.md", key="other")]).cited == 0


def test_what_is_not_expected_is_not_marked():
    marked = mark(TrialQuestion("1", "When?"), sheet(lines=[cite("dry")]))
    assert (marked.ranks, marked.is_cited, marked.is_said) == (None, None, None)


def test_what_a_sheet_says_and_how_it_stands():
    claims = [
        Claim("Work stops.", "supported", (cite("Work stops."),)),
        Claim("It is wet.", "partly supported", (cite("damp", page=5),)),
    ]
    said = said_by(sheet(claims))
    assert (said.words, said.mark, said.page_number, said.support) == (
        "Work stops. [A p.2] It is wet. [A p.5]", "A p.2", 2, "partly supported",
    )  # fmt: skip
    assert said_by(sheet(refused=True)).support == "refused"
    line = said_by(sheet(lines=[cite("It  is\ndry.")]))
    assert (line.words, line.support) == ("It is dry.", "found line")
    alone = said_by(sheet([Claim("Somebody.", "unsupported", (), is_outside=True)]))
    assert (alone.mark, alone.page_number, alone.support) == ("", 0, "unsupported")


def test_the_table_has_every_tag_and_what_is_answerable():
    absent = TrialQuestion("2", "Who?", is_absent=True, tags=("near",))
    answers = [
        (TrialQuestion("1", "When?", right=QUESTION.right, tags=("look-up", "shared")), mark(QUESTION, sheet(lines=[cite("dry")]))),
        (absent, mark(absent, sheet(refused=True))),
    ]  # fmt: skip
    kinds = by_kind(answers)
    assert list(kinds) == ["look-up", "near", "shared", "answerable", "unanswerable"]
    assert (kinds["answerable"].cited, kinds["unanswerable"].refused) == (1, 1)
    printed = table({"A, none": kinds})
    assert "A, none" in printed and printed.count("\nnear ") == 1 and "page@k" in printed


def test_a_warning_of_weak_evidence_is_counted():
    weak = Evidence(1, cite("words"), "", 1, 1, 1)
    assert count(QUESTION, passages=[weak]).weak == 1
    assert count(QUESTION, passages=[weak], refused=True).weak == 0
