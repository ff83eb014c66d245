# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures reckoning: figures and cells right, wrong without a doubt, other questions left alone; by kind of table.

The tables and questions are made up (bench/tables): one world to tune rules on, one to measure with.
"""

import datetime as dt
import os
import random
import re
import shutil
import statistics
import sys
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Any

from bench.asking import answer
from bench.collections import opened
from bench.tables.made import make
from bench.tables.maker import TableQuestion, World
from redlantern.answering.sheet import Reckoning, Sheet
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModelError, Written
from redlantern.models.readers import reader_of
from redlantern.models.register import DEFAULT_EMBEDDING
from redlantern.progress import Cancel
from redlantern.reckoning import query
from redlantern.reckoning.carrying_out import carry_out
from redlantern.reckoning.cells import Cell, PrintedTable
from redlantern.reckoning.plan import DOCUMENT, Condition, Plan
from redlantern.reckoning.tables import typed_table

KEPT = Path(__file__).parent.parent / "build" / "tables"


@dataclass
class Tally:
    """Of the questions of one group: how many had the right figure, that and all its cells, a wrong one without a doubt, one with,
    none; and the seconds that each took, without a language model.
    """

    asked: int = 0
    right: int = 0
    with_cells: int = 0
    wrong: int = 0
    doubted: int = 0
    none: int = 0
    seconds: list[float] = field(default_factory=list)


class _OnlyQueries:
    """A language model that writes the queries of reckoning and nothing else: answers in prose are not measured here."""

    def __init__(self, model: HostedModel) -> None:
        self._model = model

    def __getattr__(self, name: str) -> Any:
        return getattr(self._model, name)

    def write(self, system: str, user: str, **more: Any) -> Iterator[Written]:
        """Pass a query on.

        Raises
        ------
        LanguageModelError
            For anything else.
        """
        if system != query.SYSTEM:
            raise LanguageModelError("is not asked for prose here")
        return self._model.write(system, user, **more)

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """It judges nothing."""
        raise LanguageModelError("is not asked for prose here")


def measure(*, world: World = "measured", says: bool = False, model: str = "none") -> dict[str, Any]:
    """Make the documents of a world, ask all its questions; `says` prints what was not right.

    `model` is the reader that writes a query where the rules find nothing, "none" for rules alone.
    """
    reader = reader_of(model)
    hosted = HostedModel(reader.place) if reader is not None else None
    queries: Any = _OnlyQueries(hosted) if hosted is not None else None
    folder = KEPT / world
    documents = folder / "documents"
    index = folder / "index"
    shutil.rmtree(documents, ignore_errors=True)
    questions = make(documents, world)
    # The same bytes each time but for what formats write of the clock: what did not change is not read again.
    index.mkdir(parents=True, exist_ok=True)
    groups: dict[str, Tally] = {}
    kinds: dict[str, Tally] = {}
    embedding = os.environ.get("REDLANTERN_EMBEDDING", DEFAULT_EMBEDDING)
    with opened(index, documents, queries, embedding=embedding) as engine:
        if hosted is not None:
            hosted.start(Cancel())
        for number, question in enumerate(questions, start=1):
            print(f"\r{world}: {number} of {len(questions)} ", end="", file=sys.stderr, flush=True)
            began = time.perf_counter()
            sheet = answer(engine, {"question": question.question, "history": []})
            spent = time.perf_counter() - began
            outcome = judged(question, sheet)
            if says and outcome not in ("with_cells",) and not (outcome == "none" and question.kind.startswith("no ")):
                told = sheet.reckoning
                print(f"\n{outcome}: {question.question}\n  wanted {question.value} {sorted(question.names)}"
                      f"\n  got {told and (told.answer, told.plan_words, told.doubts)}", file=sys.stderr)  # fmt: skip
            for tallies, key in ((groups, question.group), (kinds, question.kind)):
                _count(tallies.setdefault(key, Tally()), outcome, spent)
    return {"world": world, "model": model, "groups": groups, "kinds": kinds, "rows_s": rows_seconds()}


def rows_seconds(n_rows: int = 100_000) -> dict[str, float]:
    """Seconds for plans over one table of so many rows, the fastest of five; and for typing it, once."""
    chance = random.Random(n_rows)
    texts = [["Date", "Sensor", "Temperature °C", "Cost EUR"]]
    for at in range(n_rows):
        day = dt.date(2020, 1, 1) + dt.timedelta(days=at % 2000)
        texts.append(
            [
                f"{day:%d.%m.%Y}",
                chance.choice("abc"),
                f"{chance.randint(-300, 400) / 10}",
                f"{chance.randint(1, 99999) / 100:.2f}",
            ]
        )
    printed = PrintedTable("", [[Cell(text, 1, 0, len(text)) for text in row] for row in texts])
    began = time.perf_counter()
    tables = {(1, 1): typed_table(printed, 1, 1)}
    spent = {"typed": time.perf_counter() - began}
    of_a, in_march = Condition("Sensor", "contains", ("a",)), Condition("Date", "in month", ("3",))
    for name, plan in (
        ("sum", Plan(((1, 1),), "sum", "Cost EUR")),
        ("sum of some", Plan(((1, 1),), "sum", "Cost EUR", (of_a, in_march))),
        ("largest", Plan(((1, 1),), "largest", "Temperature °C")),
        ("mean", Plan(((1, 1),), "mean", "Temperature °C")),
    ):
        times = []
        for _ in range(5):
            began = time.perf_counter()
            carry_out(plan, tables)
            times.append(time.perf_counter() - began)
        spent[name] = min(times)
    return spent


def judged(question: TableQuestion, sheet: Sheet) -> str:
    """How a question went: "with_cells", "right" (the figure alone), "wrong", "doubted" (a wrong one, or one where there is none,
    with a doubt), "none".
    """
    told = sheet.reckoning
    if told is None:
        return "none"
    if question.kind.startswith("no "):
        return "wrong" if told.is_sure else "doubted"
    if not _has_figure(question, told):
        return "wrong" if told.is_sure else "doubted"
    return "with_cells" if _has_cells(question, told) else "right"


def _has_figure(question: TableQuestion, told: Reckoning) -> bool:
    if question.value is not None and _number(told.value) != question.value:
        return False
    if not question.names:
        return True
    if question.value is None:
        return {_name(told, row) for row in range(len(told.rows))} == question.names
    # Of a largest or smallest row its name stands in the sentence.
    return all(name in told.answer for name in question.names)


def _has_cells(question: TableQuestion, told: Reckoning) -> bool:
    if question.n_rows is not None and told.n_rows != question.n_rows:
        return False
    is_whole = told.n_rows <= len(told.rows)
    return not question.cells or not is_whole or Counter(cell.text for cell in told.cells) == Counter(question.cells)


def _name(told: Reckoning, row: int) -> str:
    if told.label == DOCUMENT:
        return next(cell.title for cell in told.rows[row].cells if cell is not None)
    cell = told.rows[row].cells[told.label]
    return cell.text if cell is not None else ""


def _number(value: str) -> Decimal | None:
    """A printed figure as a number: its last mark is the decimal one unless three digits follow it alone."""
    digits = re.sub(r"[^\d.,-]", "", value.replace("−", "-")).strip(".,")
    if not re.search(r"\d", digits):
        return None
    whole, mark, rest = digits, "", ""
    for at in range(len(digits) - 1, -1, -1):
        if digits[at] in ".,":
            whole, mark, rest = digits[:at], digits[at], digits[at + 1 :]
            break
    whole = re.sub(r"[.,]", "", whole)
    if mark and len(rest) == 3 and mark == "," and "." not in value:
        return Decimal(whole + rest)
    try:
        return Decimal(f"{whole}.{rest}" if rest else whole)
    except InvalidOperation:  # a date, a time
        return None


def _count(tally: Tally, outcome: str, spent: float) -> None:
    tally.asked += 1
    tally.seconds.append(spent)
    if outcome == "with_cells":
        tally.right += 1
    setattr(tally, outcome, getattr(tally, outcome) + 1)


def show(result: dict[str, Any]) -> None:
    """Print the tables."""
    by = "rules alone" if result["model"] == "none" else f"rules, then a query by the {result['model']} reader"
    print(f"world: {result['world']}, by {by}")
    for title in ("groups", "kinds"):
        print(
            f"\n{'':14}{'asked':>7}{'figure':>8}{'and cells':>11}{'wrong':>7}{'doubted':>9}{'none':>6}{'median s':>10}"
        )
        for name, tally in result[title].items():
            print(
                f"{name:14}{tally.asked:7}{tally.right:8}{tally.with_cells:11}{tally.wrong:7}{tally.doubted:9}{tally.none:6}"
                f"{statistics.median(tally.seconds):10.2f}"
            )
    print(f"\n100,000 rows: {', '.join(f'{name} {spent:.2f} s' for name, spent in result['rows_s'].items())}")
    print(
        "\nfigure: the right figure or rows; and cells: read from all the right cells, and from no others"
        "\nwrong: another figure, or one where there is none, without a doubt; doubted: such a one with a doubt"
    )


def as_json(result: dict[str, Any]) -> dict[str, Any]:
    """The result as plain values."""
    return result | {key: {name: asdict(tally) for name, tally in result[key].items()} for key in ("groups", "kinds")}
