# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures what a language model is given to read, on the tuning questions: is the answer in it at all?

Run as `python -m bench.excerpts`: for several rooms, in tokens of the light reader,
how many answerable questions have their expected words, or a right page, in the
excerpts; chosen from passages and lines in turn, as the program does, and from the
lines alone. No model judges or writes.
"""

import sys
import tempfile
from pathlib import Path
from typing import Any

from bench.asking import rows
from bench.collections import opened
from bench.fit_refusal import TUNING
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

_ROOMS = (120, 180, 220, 300, 400)


def main() -> int:
    """Measure, and print."""
    seal.put_on()
    model = HostedModel(LIGHT_READER.place)
    letters = [row for row in rows(TUNING / "questions.jsonl") if row["a"] and row.get("x")]
    manual = [
        {"q": standalone_question(parse_question(row["question"]), row["history"]), **row}
        for row in rows(CHOSEN_ON.questions)
        if CHOSEN_ON.documents.exists()
    ]
    found: dict[tuple[int, str], list[int]] = {}
    try:
        for documents, asked in ((TUNING / "documents", letters), (CHOSEN_ON.documents, manual)):
            if not asked:
                continue
            with tempfile.TemporaryDirectory() as folder, opened(Path(folder), documents) as engine:
                for row in asked:
                    _count(engine, model, row, found)
    finally:
        model.close()
    print(f"{'tokens':>7}{'chosen from':>24}{'expected words':>20}{'right page':>16}")
    for (room, way), (n_words, n_pages) in sorted(found.items()):
        print(f"{room:7}{way:>24}{n_words:9} of {len(letters)}{n_pages:9} of {len(manual)}")
    return 0


def _count(engine: Engine, model: HostedModel, row: dict[str, Any], found: dict[tuple[int, str], list[int]]) -> None:
    runtime = engine.runtime
    index = engine.current_index()
    tables = TableSource(index.documents, runtime.asked.pages)
    asking = Asking(index, runtime.asked, runtime.embedder, None, runtime.method, tables)
    grounds = asking.grounds_of(Question(row["q"]))
    wanted = grounds.parts[0].question.stems()
    for room in _ROOMS:
        for way, ranks in (("passages and lines", grounds.ranks), ("lines alone", {})):
            excerpts = choose_excerpts(
                grounds.others, ranks, wanted, title=grounds.title, count_tokens=model.count_tokens, room=room
            )
            counts = found.setdefault((room, way), [0, 0])
            if row.get("x"):
                text = " ".join(excerpt.text for excerpt in excerpts)
                lines = " ".join(line.text for excerpt in excerpts for line in excerpt.lines)
                counts[0] += any(words in text or words in lines for words in row["x"])
            else:
                right = {(page["file"], page["page"]) for page in row["right"]}
                counts[1] += bool(right & _pages(engine, excerpts))


def _pages(engine: Engine, excerpts: tuple[Excerpt, ...]) -> set[tuple[str, int]]:
    documents = engine.current_index().documents
    return {
        (documents[line.passage.document_id].path, line.passage.page_number)
        for excerpt in excerpts
        for line in excerpt.lines
    }


if __name__ == "__main__":
    sys.exit(main())
