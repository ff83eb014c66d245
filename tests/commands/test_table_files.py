# SPDX-License-Identifier: GPL-3.0-or-later
"""What is written of a table: as printed, with types, and never as a formula."""

import csv
import datetime as dt
import io

import openpyxl

from redlantern.reckoning.written import as_csv, as_workbook
from tests.reckoning.made import HUMIDITY, INVOICE, table_of

HOSTILE = [
    ["=1+1", "Note"],
    ["@SUM(A1)", '=HYPERLINK("http://nowhere.example")'],
    ["+49 711", "-12.50"],
    ["a", "\t=cmd"],
]


def rows_of(table):
    return list(csv.reader(io.StringIO(as_csv(table).decode("utf-8-sig"))))


def sheet_of(table):
    return openpyxl.load_workbook(io.BytesIO(as_workbook(table))).active


def test_a_csv_has_the_cells_as_printed_and_what_each_row_is():
    rows = rows_of(table_of(INVOICE))
    assert rows[0] == [*INVOICE[0], "row is"]
    assert rows[1] == [*INVOICE[1], "item"]
    assert [row[-1] for row in rows[1:]] == ["item", "item", "item", "net", "tax", "total"]


def test_a_workbook_has_dates_shares_and_numbers_as_such():
    first = [cell.value for cell in sheet_of(table_of(HUMIDITY))[2]]
    assert first[:3] == [dt.datetime(2026, 3, 2), 0.54, 10]
    money = sheet_of(table_of(INVOICE))[2][4]
    assert (money.value, money.number_format) == (19188, 'General "EUR"')


def test_nothing_is_a_formula():
    cells = [cell for row in rows_of(table_of(HOSTILE)) for cell in row]
    assert not any(cell.startswith(("=", "@", "+", "\t")) for cell in cells)
    assert "-12.50" in cells
    for row in sheet_of(table_of(HOSTILE)).iter_rows():
        assert all(cell.data_type != "f" for cell in row)
