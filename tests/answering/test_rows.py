# SPDX-License-Identifier: GPL-3.0-or-later
"""Claims on rows of tables: what they cite when their numbers stand above the row."""

import numpy as np
import pytest

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.writing.grounds import Grounds, check_claims
from redlantern.answering.writing.instructions import as_material
from redlantern.collection.values import Citation
from tests.conftest import stored_passage

HEADER, ROW = "Tenant\tRent 2024\tRent 2025", "Kerr the saddler\t1.200,00 EUR\t1.310,00 EUR"
NAMES = "Tenant | Rent 2024 | Rent 2025"


def row_of(lines, heading):
    passage = stored_passage(1, heading, lines)
    return Candidate(passage, len(lines) - 1, 1.0, 0.9, 0.9, True, np.ones(1, np.float32))


def cite(one):
    start, end = one.passage.lines[one.line]
    return Citation(1, "REN", "Rents of the yard", "rents.md", 1, start, end, one.text, (), "")


def claims_on(row, written):
    return check_claims(written, [row], Grounds([row], [row], cite, lambda one: "Rents of the yard"))


def test_the_names_of_columns_are_cited_where_numbers_are_from_them():
    row = row_of([HEADER, ROW], f"Rents of the yard › {NAMES}")
    [claim] = claims_on(row, f"{as_material(row)} [1]")
    assert [one.text for one in claim.citations] == [ROW, HEADER]
    assert claim.support == "supported"


def test_a_claim_without_such_numbers_cites_its_row_alone():
    row = row_of([HEADER, ROW], f"Rents of the yard › {NAMES}")
    [claim] = claims_on(row, "Kerr the saddler 1.200,00 EUR, 1.310,00 EUR [1]")
    assert [one.text for one in claim.citations] == [ROW]
    assert claim.support == "supported"


def test_numbers_from_column_names_that_are_on_an_earlier_page_make_it_partly_supported():
    row = row_of([ROW], f"Rents of the yard › {NAMES}")
    [claim] = claims_on(row, f"{as_material(row)} [1]")
    assert claim.support == "partly supported"
    assert claim.doubt == "“2024” and “2025” stand above the cited row, not in it"


@pytest.mark.parametrize("caption", ["Table 4.7. Rents", "Tabelle 12: Rents", "Figure B-2 Rents"])
def test_the_number_of_a_table_is_not_said_as_a_number_of_its_rows(caption):
    row = row_of([ROW], f"The yard › {caption} › Tenant | Then | Now")
    assert as_material(row).startswith("Rents: Tenant Kerr the saddler, Then 1.200,00 EUR")
