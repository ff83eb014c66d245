# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures how often a claim is called supported rightly, on pairs of claim and line made by hand."""

import json
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from redlantern.answering.checking.support import Judgement, judge

ROOT = Path(__file__).parent.parent
MEASURED = ROOT / "tests" / "answering" / "support_pairs.jsonl"
MADE_WITH = ROOT / "bench" / "tuning" / "support_pairs.jsonl"


@dataclass
class Outcome:
    """Of so many pairs, so many true: those called supported, and the misses by what kind of pair they are."""

    pairs: int = 0
    true: int = 0
    supported: int = 0
    rightly: int = 0
    wrongly: Counter[str] = field(default_factory=Counter)
    missed: Counter[str] = field(default_factory=Counter)

    @property
    def precision(self) -> float:
        """The share of those called supported that are true."""
        return self.rightly / max(1, self.supported)

    @property
    def recall(self) -> float:
        """The share of the true ones that are called supported."""
        return self.rightly / max(1, self.true)


def pairs(path: Path) -> list[dict[str, Any]]:
    """Read pairs: `claim`, `cited`, `context`, `is_true`, `kind`, and `cells` for the row of a table."""
    return [json.loads(line) for line in path.read_text(encoding="utf-8").splitlines()]


def judged(pair: dict[str, Any]) -> Judgement:
    """Judge one pair."""
    cells = tuple((column, value) for column, value in pair.get("cells", ()))
    return judge(pair["claim"], pair["cited"], pair["context"], cells)


def outcome(path: Path) -> Outcome:
    """Judge all pairs of a file."""
    found = Outcome()
    for pair in pairs(path):
        is_supported, is_true = judged(pair).support == "supported", pair["is_true"]
        found.pairs += 1
        found.true += is_true
        found.supported += is_supported
        found.rightly += is_supported and is_true
        if is_supported and not is_true:
            found.wrongly[pair["kind"]] += 1
        if is_true and not is_supported:
            found.missed[pair["kind"]] += 1
    return found


def measure() -> dict[str, Outcome]:
    """Judge the pairs that are measured with, and those that the rules were made with."""
    return {"measured": outcome(MEASURED), "made with": outcome(MADE_WITH)}


def show(result: dict[str, Outcome]) -> None:
    """Print the figures, and the kinds of the misses."""
    print(f"{'':12}{'pairs':>7}{'true':>6}{'supported':>11}{'precision':>11}{'recall':>8}")
    for name, one in result.items():
        print(f"{name:12}{one.pairs:7}{one.true:6}{one.supported:11}{one.precision:11.3f}{one.recall:8.3f}")
        for said, kinds in (("wrongly called supported", one.wrongly), ("true and not called so", one.missed)):
            if kinds:
                print(f"  {said}: {', '.join(f'{kind} {n}' for kind, n in kinds.items())}")


def as_json(result: dict[str, Outcome]) -> dict[str, Any]:
    """The result as plain values."""
    return {name: {**vars(one), "precision": one.precision, "recall": one.recall} for name, one in result.items()}
