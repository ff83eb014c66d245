# SPDX-License-Identifier: GPL-3.0-or-later
"""Claims judged against the words they cite: true, wrong number, swapped name, negated, too strong, outside knowledge."""

import re

import pytest
from bench.support import MADE_WITH, MEASURED, judged, outcome, pairs
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering.checking.naming import Elsewhere, full_names
from redlantern.answering.checking.support import best_line, judge

PAIRS = pairs(MEASURED)
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
    # The number of a clause is nobody else of whom it is said.
    assert judge(claim, f"9.8 {LINE}", CONTEXT).support == support


def test_a_place_is_nobody_of_whom_it_is_said():
    line = "When the humidity in the Loft exceeds 70 per cent for 24 hours, work shall cease, and the Builder shall stop it."
    assert (
        judge("The Builder shall stop it when the humidity exceeds 70 per cent for 24 hours.", line, "").support
        == "supported"
    )


@pytest.mark.parametrize(
    ("claim", "cited"),
    [
        ("The sum is 1,299.50 EUR.", "The sum is 1.299,50 EUR."),
        ("It was read on 17 March 2026.", "It was read on 17.03.2026."),
        ("Twelve pipes are missing.", "12 pipes are missing."),
        ("Pump 1 waits for pump 2.", "Pump one waits for pump two."),
        ("It happened on the 3rd of May.", "It happened on 3 May."),
        ("The map is 16 MB.", "The largest file is the map, typically 16MB, and the smallest is 64 kB."),
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
    lines = [("The key was lost on 12 March.", "", ()), ("A new key costs 340 euros.", "", ()), ("It rained.", "", ())]
    assert best_line("A new key costs 340 euros.", lines, 0)[0] == 1
    assert best_line("The key was lost.", lines, 0)[0] == 0


def test_a_line_that_bears_the_claim_out_keeps_it():
    lines = [("The key was lost.", "", ()), ("The key was lost.", "", ())]
    assert best_line("The key was lost.", lines, 1)[0] == 1


def test_what_is_called_supported_is_true_and_what_is_true_is_called_so():
    """Over pairs made by hand that nothing was fitted on; bench/tuning has those that the rules were made with."""
    found = outcome(MEASURED)
    assert found.pairs >= 150
    assert found.precision >= 0.97
    assert found.recall >= 0.85


def test_no_pair_is_in_both_sets():
    assert not {pair["cited"] for pair in PAIRS} & {pair["cited"] for pair in pairs(MADE_WITH)}


_IN_WORDS = dict(
    zip("one two three four five six seven eight nine ten eleven twelve".split(), range(1, 13), strict=True)
)
_IN_WORDS |= dict(zip("first second third fourth fifth".split(), range(1, 6), strict=True))
_IN_WORDS |= {"twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "hundred": 100}


def figures(text):
    """The numbers of a text, found without the product's own code: 1.299,50 and 1,299.50 are 1299.5; twelve is 12."""
    found = set()
    # 30.09.2026 is a day of September: its month may stand in words.
    text = re.sub(r"\b(\d{1,2})\.\d{1,2}\.(\d{4})?", r"\1 \2", text)
    for written in re.findall(r"\d+(?:[.,]\d+)*", text):
        parts = re.split(r"[.,]", written)
        has_decimals = len(parts) > 1 and len(parts[-1]) != 3
        whole, decimals = ("".join(parts[:-1]), parts[-1]) if has_decimals else ("".join(parts), "0")
        found.add(float(f"{whole}.{decimals}"))
    return found | {float(_IN_WORDS[word]) for word in re.findall(r"[a-z]+", text.lower()) if word in _IN_WORDS}


def test_figures_are_read_in_both_spellings():
    assert figures("1.299,50 EUR of 1,299.50, twelve and 7.2") == {1299.5, 12.0, 7.2}


@pytest.mark.parametrize("pair", PAIRS, ids=lambda pair: pair["claim"])
def test_no_claim_is_supported_whose_number_is_not_in_the_cited_words(pair):
    if judged(pair).support == "supported":
        assert figures(pair["claim"]) <= figures(f"{pair['context']} {pair['cited']}")


@given(st.integers(2, 99_999), st.integers(2, 99_999))
def test_two_different_numbers_never_bear_each_other_out(one, other):
    support = judge(f"The fee is {one} euros.", f"The fee is {other} euros.", "").support
    assert (support == "supported") == (one == other)


@pytest.mark.parametrize(
    ("claim", "cited", "doubt"),
    [
        ("The fee is 40 pounds.", "The fee is 40 euros.", "“40” stands there with another unit (EUR)"),
        ("The map is 16 MB.", "The map is 16 kB.", "“16” stands there with another unit (kB)"),
        ("The fee is 40 euros.", "The fee is up to 40 euros.", "the cited words say “at most 40”"),
        (
            "The fee is at least 40 euros.",
            "The fee is up to 40 euros.",
            "the cited words say “at most 40”, not “at least”",
        ),
        ("The gate is open.", "The gate is closed.", "the cited words say “closed”, not “open”"),
        ("All boats are insured.", "Some boats are insured.", "“All” is more than the cited words say"),
        ("The roof leaks.", "The tenant says that the roof leaks.", "the cited words make a reserve: “says”"),
        ("The fee is due.", "The fee is due unless it was waived.", "the cited words make a condition: “unless”"),
        ("Mr. Lund spoke to the clerk.", "Mr. Orr spoke to the clerk.", "“Lund” is not in the cited words"),
        ("The clerk paid Ms. Lund.", "Ms. Lund paid the clerk.", "there “Lund” comes before “paid”"),
        ("It was not 40.", "It was 40.", "one of the two says “not” and the other does not"),
        (
            "The fee is 40 euros per tonne.",
            "The fee is 40 euros per kilogram.",
            "the cited words do not speak of “tonne”",
        ),
        ("The grey car stood.", "The blue car stood by the grey van.", "there it is “grey van” and “blue car”"),
        ("Eve paid 30 euros.", "Adam paid 30 euros and Eve paid 50 euros.", "“30” is said of something else there"),
        ("The cows had no tag.", "Eleven of the forty cows had no tag.", "the cited words say it of “Eleven” only"),
    ],
)
def test_the_doubt_is_said_in_plain_words(claim, cited, doubt):
    assert judge(claim, cited, "").doubt.casefold().startswith(doubt.casefold())


def test_a_claim_that_is_hardly_from_the_line_is_unsupported_whatever_else_is_mild():
    line = "A volunteer can be asked to help against payment."
    judgement = judge("The medicine that helps against hay fever is aspirin.", line, "")
    assert judgement.support == "unsupported" and "medicine" in judgement.absent
    # The reserve alone makes it doubtful.
    assert judge("A volunteer helps against payment.", line, "").support == "partly supported"


def test_what_a_machine_calls_something_is_one_name():
    line = "The default of checkpoint_flush_after is 0.9."
    judgement = judge("The default of checkpoint_timeout is 0.9.", line, "")
    assert (judgement.support, judgement.absent[0]) == ("unsupported", "checkpoint_timeout")
    assert judge("The default of checkpoint_flush_after is 0.9.", line, "").support == "supported"


def test_a_name_of_the_sentences_before_is_doubtful_and_one_in_another_s_place_is_wrong():
    passage = "The Trust has let Oriel Hall. The key is handed over in May."
    claim, line = "The Trust is handed the key in May.", "The key is handed over in May."
    assert judge(claim, line, "", passage=passage).support == "partly supported"
    assert judge(claim, line, "").support == "unsupported"
    assert judge(claim, "The key is handed to Lund in May.", "", passage=passage).support == "unsupported"
    assert judge("Oriel is handed the key in May.", line, "", passage=passage).support == "unsupported"


def test_a_first_name_that_was_read_beside_the_second_makes_a_claim_doubtful_and_not_wrong():
    claim, line = "Mrs. Una Galbraith gets 7.500 pounds.", "Mrs. Galbraith gets 7.500 pounds and her costs."
    read = Elsewhere(names=frozenset(full_names("The driver, Mrs. Una Galbraith, broke her wrist.")))
    assert read.names == {"Una Galbraith"}
    judgement = judge(claim, line, "", elsewhere=read)
    assert (judgement.support, judgement.doubt) == ("partly supported", "“Una” is not in the cited words")
    assert judge(claim, line, "").support == "unsupported"
    assert judge(claim.replace("Una", "Ada"), line, "", elsewhere=read).support == "unsupported"
    assert judge(claim, line.replace("Galbraith", "Ada Galbraith"), "", elsewhere=read).support == "unsupported"


@pytest.mark.parametrize(
    ("asked", "claim", "line", "support"),
    [
        (
            "How can two people changing one row get stuck?",
            "Two people changing one row get stuck where each waits for the other's lock.",
            "Each waits for the other's lock and neither goes on.",
            "partly supported",
        ),
        ("What did Freya Lund lose?", "Freya Lund lost the key.", "The key was lost.", "partly supported"),
        ("What did Freya Lund lose?", "Freya Lund lost the key.", "The key was lost by Tam Brodie.", "unsupported"),
        (
            "What did Freya Lund say of the ferry?",
            "Freya Lund said that it was late.",
            "Tam Brodie said that it was late.",
            "unsupported",
        ),
        (
            "How many sailings were there in 2022?",
            "There were 340 sailings in 2022.",
            "There were 340 sailings in 2023.",
            "unsupported",
        ),
        (
            "Which two boats were late?",
            "Two boats were late on Monday.",
            "On Monday three boats were late.",
            "unsupported",
        ),
        ("Can a loaf be cut by date?", "Yes, a loaf can be cut by date.", "Bread is sold whole.", "unsupported"),
    ],
)
def test_what_repeats_the_question_is_doubtful_and_what_puts_it_in_another_s_place_wrong(asked, claim, line, support):
    assert judge(claim, line, "", elsewhere=Elsewhere(asked)).support == support
    assert judge(claim, line, "").support == "unsupported"


def test_what_a_claim_adds_to_the_question_must_stand_there():
    claim, line = "The door of the yard is red.", "The door of the yard is painted in spring."
    assert judge(claim, line, "").support == "partly supported"
    assert judge(claim, line, "", elsewhere=Elsewhere("What colour has the door of the yard?")).support == "unsupported"


@pytest.mark.parametrize(
    ("claim", "line"),
    [
        (
            "Rotas shorten wait times by avoiding the waiting lists of older clinics.",
            "Rotas, by avoiding the waiting lists of older clinics, shorten wait times.",
        ),
        (
            "The wardens close both gates at the same time.",
            "At least one warden is there, though both gates close at the same time.",
        ),
    ],
)
def test_another_order_of_clauses_is_nobody_elses_doing(claim, line):
    doubt = judge(claim, line, "").doubt
    assert "comes first" not in doubt and "said of" not in doubt


def test_the_beginning_of_a_line_is_borne_out_unless_something_takes_it_back():
    line = "The hall is closed on Mondays, except in May."
    assert judge("The hall is closed on Mondays, except in May", line, "").support == "supported"
    assert judge("The hall is closed on Mondays", line, "").support == "partly supported"
    assert judge("The hall is closed", "The hall is closed on Mondays.", "").support == "supported"


def test_the_value_of_another_column_is_not_borne_out():
    cells = (("Item", "Oak boards"), ("Unit price", "38,50"), ("Total", "462,00"))
    row = "Item Oak boards, Unit price 38,50, Total 462,00"
    judgement = judge("The total for the oak boards is 38,50.", row, "Invoice", cells)
    assert judgement.support == "unsupported"
    assert judgement.doubt == "“38,50” stands under “Unit price”, not under “Total”"
    assert judge("The total for the oak boards is 462.", row, "Invoice", cells).support == "supported"


@pytest.mark.parametrize(
    ("claim", "doubt"),
    [
        ("The total for the oak boards is 462 pounds.", "“462” does not stand there in pounds (EUR)"),
        ("The quantity of oak boards is 12 kg.", "“12” does not stand there in kg"),
        ("The oak boards cost 462 each.", "“462,00” stands under “Total EUR”, not by the piece"),
        ("The oak boards do not cost 462.", "one of the two says “not” and the other does not"),
    ],
)
def test_a_value_of_a_row_keeps_its_unit_and_its_meaning(claim, doubt):
    cells = (("Item", "Oak boards"), ("Quantity", "12"), ("Unit price EUR", "38,50"), ("Total EUR", "462,00"))
    row = "Item Oak boards, Quantity 12, Unit price EUR 38,50, Total EUR 462,00"
    assert judge(claim, row, "Invoice", cells).doubt == doubt
    assert judge("The total for the oak boards is 462 euros.", row, "Invoice", cells).support == "supported"


def test_the_words_that_are_not_borne_out_are_named():
    judgement = judge("Work stops above 65 per cent because leather rots.", LINE, CONTEXT)
    assert set(judgement.absent) >= {"leather", "rots"}
    assert judge("Hide glue is made from animal skin and bones.", LINE, CONTEXT).is_outside


_WORDS = st.lists(
    st.sampled_from(
        "the Mr. Orr Lund I saw and but not 3 4 May euros per cent paid by to of gave key red , ; . unless all may".split()
    ),
    max_size=24,
).map(" ".join)


@given(_WORDS, _WORDS)
def test_whatever_is_written_gets_a_judgement(claim, cited):
    judgement = judge(claim, cited, "Title")
    assert (judgement.support == "supported") == (judgement.doubt == "")


@given(_WORDS)
def test_a_line_bears_itself_out(line):
    assert judge(line, line, "").support == "supported" or not line.strip()


def test_another_word_for_what_the_line_says_is_wrong_and_not_from_elsewhere():
    """So that the model is asked to say it with the line's words."""
    asked = Elsewhere("What must the Builder do above 65 per cent?")
    judgement = judge("The Builder must halt.", "The Builder shall stop above 65 per cent.", "", elsewhere=asked)
    assert judgement.support == "unsupported" and not judgement.is_outside


def test_of_what_a_number_is_must_stand_there_and_not_only_in_the_question():
    asked, line = (
        Elsewhere("How much does the Builder claim in total?"),
        "The Builder would accept a payment of 44.000 EUR.",
    )
    assert judge("The Builder claims 44.000 EUR in total.", line, "", elsewhere=asked).support == "unsupported"
    assert judge("The Builder would accept 44.000 EUR.", line, "", elsewhere=asked).support == "supported"


def test_a_part_of_a_date_measures_nothing():
    line = "Una Galbraith, heard on 6 May at the old school."
    assert judge("Una Galbraith is 6 years old.", line, "").support == "unsupported"
    assert judge("Una Galbraith was heard on 6 May.", line, "").support == "supported"
    aged = judge("Una Galbraith is 1 year old.", "Since 1 May Una Galbraith is one year old.", "")
    assert aged.support != "unsupported"
    # What looks like a year may be a sum.
    assert judge("The wages were 1950 pounds.", "The wages were 1950 in that year.", "").support != "unsupported"
