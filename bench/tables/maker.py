# SPDX-License-Identifier: GPL-3.0-or-later
"""What the makers of documents share: where they write, how a document writes numbers, and what a question of theirs is."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from typing import Literal

from bench.tables.writers import write

World = Literal["tuning", "measured"]
Kind = Literal["same words", "other words", "no answer", "no table"]


@dataclass(frozen=True)
class TableQuestion:
    """A question with what is right: the figure, the names of the rows that are the answer, the cells it is read from as printed.

    Without figure and names there is no answer in the tables. `n_rows` is how many rows count, where the cells are too many to
    name.
    """

    question: str
    group: str
    kind: Kind
    value: Decimal | None = None
    names: frozenset[str] = frozenset()
    cells: tuple[str, ...] = ()
    n_rows: int | None = None


@dataclass(frozen=True)
class Style:
    """How a document writes: its decimal mark and grouping, and its column names."""

    mark: str
    grouping: str

    def money(self, amount: Decimal) -> str:
        """An amount with two decimals."""
        return f"{amount:,.2f}".replace(",", "_").replace(".", self.mark).replace("_", self.grouping)


ENGLISH, GERMAN, FRENCH = Style(".", ","), Style(",", "."), Style(",", " ")
Made = list[TableQuestion]
OR = " || "
"""Stands between several wordings of one question, of which only the tuning world has some."""


@dataclass
class Maker:
    """Where documents are put, and what is drawn by chance."""

    folder: Path
    world: World
    chance: random.Random

    def say(self, tuning: str, measured: str) -> str:
        """A wording of this world."""
        return tuning if self.world == "tuning" else measured

    def write(self, name: str, title: str, rows: Sequence[Sequence[str]], **more: bool | int) -> None:
        """Write a document."""
        write(self.folder / name, title, "Made up for this measurement.", rows, **more)  # type: ignore[arg-type]


GOODS = {
    "tuning": "steel plate|oak plank|copper pipe|sail cloth|tar, barrel|rope, hemp|brass bolts|paint, red|varnish|anchor chain",
    "measured": "flour, rye|olive oil|tinned tomatoes|paper towels|oat milk|cleaning agent|rice, long grain|lentils|apples|butter",
}
PEOPLE = {
    "tuning": ["Brandt", "Kowalski", "Ferrari", "Lindgren", "Novak"],
    "measured": ["Okafor", "Dubois", "Tanaka", "Moreau", "Haddad"],
}
