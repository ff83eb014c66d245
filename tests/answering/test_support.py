"""Claims judged against the words they cite: true, wrong number, swapped name, negated, too strong, outside knowledge."""

import pytest

from redlantern.answering.support import best_line, judge

LINE = "The Builder shall stop all gluing in the Loft when the relative humidity exceeds 65 per cent for more than 36 hours."
CONTEXT = "Contract for the restoration 9 Climate in the Loft"


@pytest.mark.parametrize(
    ("claim", "support"),
    [
        ("The Builder shall stop all gluing when the relative humidity exceeds 65 per cent.", "supported"),
        ("Gluing stops when the relative humidity exceeds 65 per cent for more than 36 hours.", "supported"),
        ("The Builder shall stop gluing above 75 per cent.", "unsupported"),
        ("The Builder shall stop gluing after 36 days on 4 May.", "unsupported"),
        ("The Trust shall stop all gluing in the Loft.", "unsupported"),
        ("Mr. Corvin shall stop all gluing in the Loft.", "unsupported"),
        ("The Builder shall not stop gluing in the Loft.", "unsupported"),
        ("Hide glue is made from animal skin and bones.", "unsupported"),
        ("The Builder shall stop gluing and dry the walls with warm air.", "partly supported"),
    ],
)
def test_a_claim_against_its_line(claim, support):
    assert judge(claim, LINE, CONTEXT).support == support


@pytest.mark.parametrize(
    ("claim", "cited"),
    [
        ("The sum is 1,299.50 EUR.", "The sum is 1.299,50 EUR."),
        ("It was read on 17 March 2026.", "It was read on 17.03.2026."),
        ("Twelve pipes are missing.", "12 pipes are missing."),
        ("It happened on the 3rd of May.", "It happened on 3 May."),
    ],
)
def test_one_number_in_two_spellings_is_one_number(claim, cited):
    assert judge(claim, cited, "").support == "supported"


@pytest.mark.parametrize(
    ("claim", "cited"),
    [
        ("The deposit is 12.400,00 EUR.", "The deposit is 12.500,00 EUR."),
        ("The storm came on 9 March.", "The storm came on 10 March."),
        ("The storm came in March 2026.", "The storm came in May 2026."),
        ("Work stops on Monday.", "Work stops on Friday."),
        ("Thirteen seats were sold.", "Twelve seats were sold."),
    ],
)
def test_a_wrong_number_date_or_day_is_never_supported(claim, cited):
    judgement = judge(claim, cited, "")
    assert judgement.support == "unsupported"
    assert "not in the cited words" in judgement.doubt


def test_the_doubt_names_what_is_missing():
    assert judge("It costs 340 euros.", "It costs money.", "").doubt == "“340” is not in the cited words"


def test_a_clause_number_may_come_from_the_heading():
    assert judge("Clause 9.2 stops gluing.", "Gluing stops by this clause.", "9.2 Limits").support == "supported"


def test_a_wrong_mark_is_moved_to_the_line_that_bears_the_claim_out():
    lines = [("The key was lost on 12 March.", ""), ("A new key costs 340 euros.", ""), ("It rained.", "")]
    assert best_line("A new key costs 340 euros.", lines, 0)[0] == 1
    assert best_line("The key was lost.", lines, 0)[0] == 0


def test_a_line_that_bears_the_claim_out_keeps_it():
    lines = [("The key was lost.", ""), ("The key was lost.", "")]
    assert best_line("The key was lost.", lines, 1)[0] == 1
