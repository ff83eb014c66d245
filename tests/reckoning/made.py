# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables made for tests: pages as a reader gives them, with the offsets of their cells."""

import random
from decimal import Decimal

from redlantern.reading.setting import Piece, set_pages, table_piece
from redlantern.reckoning.candidates import TableCandidate
from redlantern.reckoning.cells import printed_tables
from redlantern.reckoning.tables import typed_table
from redlantern.reckoning.values import shown_number
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

HUMIDITY = [
    ["Date", "RH", "Temperature", "Read by", "Remark"],
    ["02.03.2026", "54 %", "10.0 °C", "P. Orr", ""],
    ["03.03.2026", "71 %", "9.5 °C", "P. Orr", "gluing stopped"],
    ["04.03.2026", "78 %", "9.0 °C", "J. Wiek", "buckets emptied"],
    ["01.04.2026", "58 %", "13.0 °C", "P. Orr", "gluing resumed"],
    ["02.04.2026", "79 %", "13.5 °C", "J. Wiek", ""],
]
INVOICE = [
    ["Pos.", "Description", "Quantity", "Unit price EUR", "Total EUR"],
    ["1", "Workers, gluing", "312 h", "61,50", "19.188,00"],
    ["2", "Sheepskin", "46 skins", "118,00", "5.428,00"],
    ["3", "Ribs, poplar", "6", "465,00", "2.790,00"],
    ["", "Net", "", "", "27.406,00"],
    ["", "Value added tax 20 %", "", "", "5.481,20"],
    ["", "Payable", "", "", "32.887,20"],
]


def pages_of(*parts):
    """Pages of headings (texts) and tables (lists of rows)."""
    pieces = [Piece("heading", part, 1) if isinstance(part, str) else table_piece(part) for part in parts]
    return set_pages(pieces)


def tables_of(*parts, document_id=1, language="en"):
    """The typed tables of such pages."""
    printed = printed_tables(pages_of(*parts))
    return [typed_table(each, document_id, number, language) for number, each in enumerate(printed, start=1)]


def table_of(rows, **more):
    """The one table of rows."""
    [table] = tables_of(rows, **more)
    return table


def candidate(rows, about="", *, document_id=1, place=0, caption=""):
    """A table that a question may be about."""
    parts = [caption, rows] if caption else [rows]
    [table] = tables_of(*parts, document_id=document_id)
    return TableCandidate(table, frozenset(stem(token) for token in tokens(f"{about} {caption}")), place)


def made_invoice(chance: random.Random, mark: str) -> tuple[list[list[str]], Decimal]:
    """An invented invoice, and its net sum."""
    labels = {
        ".": ["Net total", "VAT 20 %", "Total due"],
        ",": ["Zwischensumme", "zzgl. MwSt. 19 %", "Rechnungsbetrag"],
    }[mark]
    items = [
        "Plaster, fine",
        "Scaffold, hire",
        "Total station, hire",
        "Cables",
        "Netting",
        "Taxi to the site",
        "Sum insured, check",
    ]
    rows, net = [["Pos", "Item", "Qty", "Price", "Amount EUR"]], Decimal(0)
    for number in range(1, chance.randint(3, 9)):
        quantity, price = chance.randint(1, 40), Decimal(chance.randint(50, 90000)) / 100
        net += quantity * price
        amounts = [shown_number(amount, mark, 2) for amount in (price, quantity * price)]
        rows.append([str(number), chance.choice(items), str(quantity), *amounts])
    rate = Decimal("0.20") if mark == "." else Decimal("0.19")
    tax = round(net * rate, 2)
    for label, amount in zip(labels, (net, tax, net + tax), strict=True):
        rows.append(["", label, "", "", shown_number(amount, mark, 2)])
    return rows, net
