# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures what a language model is given to read, on the tuning questions: is the answer in it at all?

Run as `python -m bench.excerpts`: for several rooms, in tokens of the light reader,
how many answerable questions have their expected words in the excerpts, and on the
manual a right page; chosen as the program does, and from the lines alone. No model
judges or writes.
"""

import sys
import tempfile
from collections.abc import Callable
from functools import cache
from typing import Any

from bench.asking import rows
from bench.collections import opened
from bench.fit_refusal import TUNING, kept_in
from bench.open_documents import CHOSEN_ON
from redlantern.answering.asking import Asking
from redlantern.answering.engine import Engine
from redlantern.answering.question.follow_up import standalone_question
from redlantern.answering.question.understanding import Question
from redlantern.answering.writing.excerpts import Excerpt, choose_excerpts
from redlantern.models.hosted import HostedModel
from redlantern.models.register import LIGHT_READER
from redlantern.reckoning.source import TableSource
from redlantern.safety import seal
from redlantern.text.question import parse_question

_ROOMS = (120, 220, 290, 400)


def main() -> int:
    """Measure, and print."""
    seal.put_on()
    model = HostedModel(LIGHT_READER.place)
    count_tokens = cache(model.count_tokens)
    letters, manual = expecting()
    found: dict[tuple[int, str], list[int]] = {}
    try:
        for documents, asked in ((TUNING / "documents", letters), (CHOSEN_ON.documents, manual)):
            if not asked:
                continue
            with tempfile.TemporaryDirectory() as folder, opened(kept_in(documents, folder), documents) as engine:
                for number, row in enumerate(asked, start=1):
                    print(f"\r{documents.name}: {number} of {len(asked)} ", end="", file=sys.stderr, flush=True)
                    _count(engine, count_tokens, row, found)
    finally:
        model.close()
    print(f"{'tokens':>7}{'chosen from':>24}{'words, letters':>18}{'words, manual':>18}{'right page, manual':>22}")
    for (room, way), (n_letters, n_manual, n_pages) in sorted(found.items()):
        print(
            f"{room:7}{way:>24}{n_letters:11} of {len(letters)}{n_manual:11} of {len(manual)}{n_pages:15} of {len(manual)}"
        )
    return 0


def expecting() -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """The tuning questions whose answer's words are known: of the letters and reports, and of the manual if it was fetched."""
    letters = [row for row in rows(TUNING / "questions.jsonl") if row["a"] and row.get("x")]
    manual = [
        {"q": standalone_question(parse_question(row["question"]), row["history"]), **row}
        for row in rows(CHOSEN_ON.questions)
        if CHOSEN_ON.documents.exists()
    ]
    return [{"expected": row["x"], **row} for row in letters], manual


def asking_of(engine: Engine) -> Asking:
    """What questions are put to without a language model."""
    runtime, index = engine.runtime, engine.current_index()
    tables = TableSource(index.documents, runtime.asked.pages)
    return Asking(index, runtime.asked, runtime.embedder, None, runtime.method, tables)


def has_expected(excerpts: tuple[Excerpt, ...], row: dict[str, Any]) -> bool:
    """Whether a question's expected words are in what is read, or in the whole lines it is from."""
    read = " ".join(part for excerpt in excerpts for part in (excerpt.printed, *(line.text for line in excerpt.lines)))
    return any(words.casefold() in read.casefold() for words in row["expected"])


def _count(
    engine: Engine, count_tokens: Callable[[str], int], row: dict[str, Any], found: dict[tuple[int, str], list[int]]
) -> None:
    grounds = asking_of(engine).grounds_of(Question(row["q"]))
    wanted = grounds.parts[0].question.stems()
    for room in _ROOMS:
        for way, ranks in (("as it is", grounds.ranks), ("lines alone", {})):
            excerpts = choose_excerpts(
                grounds.others, ranks, wanted, title=grounds.title, count_tokens=count_tokens, room=room
            )
            counts = found.setdefault((room, way), [0, 0, 0])
            is_there = has_expected(excerpts, row)
            if "right" not in row:
                counts[0] += is_there
                continue
            counts[1] += is_there
            counts[2] += has_right_page(engine, excerpts, row)


def has_right_page(engine: Engine, excerpts: tuple[Excerpt, ...], row: dict[str, Any]) -> bool:
    """Whether a line of what is read stands on a right page."""
    documents = engine.current_index().documents
    pages = {
        (documents[line.passage.document_id].path, line.passage.page_number)
        for excerpt in excerpts
        for line in excerpt.lines
    }
    return bool({(page["file"], page["page"]) for page in row["right"]} & pages)


if __name__ == "__main__":
    sys.exit(main())
