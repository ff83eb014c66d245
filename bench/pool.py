# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes down, for judging, the pages that several ways of ranking find for the questions of the open collections.

A page that nobody named with a question may answer it all the same. Pooling, as in Sparck Jones and van Rijsbergen,
"Report on the need for and provision of an ideal information retrieval test collection" (1975): the best pages of each way
are thrown together, shuffled, and read by a person who does not see which way found them. Those that answer by themselves
are added to bench/open with `"pooled": true`. Run as `python -m bench.pool`; it writes build/open/NAME.pool.txt.
"""

import random
from collections.abc import Iterator

from bench.asking import answer, rows
from bench.collections import opened
from bench.open_documents import FETCHED, MEASURED
from bench.ranking import Asked, Place, Ranker, questions_of
from redlantern.answering.question.follow_up import standalone_question
from redlantern.safety import seal
from redlantern.text.question import parse_question

_DEPTHS = {"plain fusion": 3, "product": 3, "meaning": 2, "words": 2}
_SEED = 7


def main() -> None:
    """Write a file for each collection whose documents are there."""
    for one in MEASURED:
        if not one.documents.exists():
            continue
        with opened(one.kept_index(), one.documents) as engine:
            ranker = Ranker(engine)
            answerable = [row for row in rows(one.questions) if row["right"]]
            told: list[str] = []
            for row, asked in zip(answerable, questions_of(one.questions), strict=True):
                ranked = ranker.rank(asked)
                pool = {place for way, depth in _DEPTHS.items() for place in [*dict.fromkeys(ranked[way])][:depth]}
                pool |= {(line.citation.path, line.citation.page_number) for line in answer(engine, row).found_lines}
                told += _told(ranker, asked, row["id"], sorted(pool))
        path = FETCHED / f"{one.name}.pool.txt"
        path.write_text("\n".join(told), encoding="utf-8")
        print(f"{path}: {sum(line.startswith('-- ') for line in told)} pages to judge")


def _told(ranker: Ranker, asked: Asked, name: str, pool: list[Place]) -> Iterator[str]:
    yield f"\n#### {name} {' / '.join((*asked.history, asked.question))}"
    for place in sorted(asked.right):
        yield f"right: {place}\n{_best_passage(ranker, asked, place)}"
    unjudged = [place for place in pool if place not in asked.right]
    random.Random(f"{_SEED} {name}").shuffle(unjudged)
    for place in unjudged:
        yield f"-- {place}\n{_best_passage(ranker, asked, place)}"


def _best_passage(ranker: Ranker, asked: Asked, place: Place) -> str:
    """The passage of a page that is nearest to the question, with its heading."""
    index, collection = ranker.engine.current_index(), ranker.engine.collection
    document = next(number for number, one in index.documents.items() if one.path == place[0])
    rows_of = index.passages_of((document, place[1]))
    meaning = index.meaning_scores(
        ranker.engine.embedder.embed_question(standalone_question(parse_question(asked.question), asked.history))
    )
    best = max(rows_of, key=lambda passage: float(meaning[rows_of[passage]]), default=None)
    passages = collection.passages([best] if best is not None else [])
    return "\n".join(f"[{one.headings.printed}] {one.text}" for one in passages)


if __name__ == "__main__":
    seal.put_on()
    main()
