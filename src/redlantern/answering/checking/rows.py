# SPDX-License-Identifier: GPL-3.0-or-later
"""What speaks against a claim that cites a table's row: a value under another column, or in another unit."""

import re
from collections.abc import Sequence

from redlantern.answering.checking.phrasing import base_form, content
from redlantern.answering.checking.roles import Doubt
from redlantern.text.quantities import Quantity, is_unit, plain, quantities, units_in, values
from redlantern.text.tokens import tokens
from redlantern.translation import tr

Cells = Sequence[tuple[str, str]]
"""A table's row: (name of the column, what stands in it)."""
_SINGLY = re.compile(r"\b(?:each|apiece|per|unit|piece|single)\b", re.IGNORECASE)


def other_column(claim: str, cells: Cells) -> Doubt | None:
    """A value of the row that the claim gives to another column than the one it stands under."""
    said = {base_form(token) for token in tokens(claim)}
    present = values(quantities(claim))
    inside, named = [], []
    for column, value in cells:
        own_values = values(quantities(plain(value)))
        words = {base_form(token) for token in content(value) if not is_unit(token)}
        has_value = bool(own_values & present) if own_values else bool(words) and words <= said
        names = {base_form(token) for token in content(column) if not is_unit(token)}
        inside += [(column, value)] if has_value else []
        named += [(column, value)] if names and names <= said else []
    singly = [
        quantity for quantity in inside if not _SINGLY.search(quantity[0]) and values(quantities(plain(quantity[1])))
    ]
    if _SINGLY.search(claim) and singly and any(_SINGLY.search(column) for column, _ in cells):
        return Doubt(
            tr("“{said}” stands under “{column}”, not by the piece").format(said=singly[0][1], column=singly[0][0]),
            True,
            (singly[0][1],),
        )
    for column, value in named:
        # A column is spoken of whose value is not said, while the value of one that is not spoken of is.
        stray = [quantity for quantity in inside if quantity not in named and not _begins_row(quantity, cells)]
        if (column, value) not in inside and stray:
            return Doubt(
                tr("“{said}” stands under “{wrong}”, not under “{column}”").format(
                    said=stray[0][1], wrong=stray[0][0], column=column
                ),
                True,
                (stray[0][1],),
            )
    return None


def other_unit_in_row(mine: Sequence[Quantity], cells: Cells) -> Doubt | None:
    """A value of the row with a unit that neither its cell nor the name of its column has."""
    for quantity in mine:
        holding = [cell for cell in cells if quantity.value in values(quantities(plain(cell[1])))]
        units = [unit for cell in holding for unit in units_in(plain(" ".join(cell)))]
        if quantity.unit and holding and quantity.unit not in units:
            said = f" ({units[0]})" if units else ""
            return Doubt(
                tr("“{said}” does not stand there in {unit}{more}").format(
                    said=quantity.said, unit=quantity.unit_word, more=said
                ),
                bool(units),
                (quantity.said,),
            )
    return None


def _begins_row(cell: tuple[str, str], cells: Cells) -> bool:
    return cell == tuple(cells[0])
