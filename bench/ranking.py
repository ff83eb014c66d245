# SPDX-License-Identifier: GPL-3.0-or-later
"""How high the right pages stand: recall, MRR and nDCG, by kind of question, for several ways to rank."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import asdict, astuple, dataclass
from pathlib import Path
from typing import Any

import numpy as np

from bench.asking import rows
from bench.plain import PlainWords, plain_fusion
from redlantern.answering.asking import FoundStep
from redlantern.answering.engine import Engine
from redlantern.answering.question.follow_up import standalone_question
from redlantern.answering.question.understanding import Question
from redlantern.progress import Cancel
from redlantern.retrieval.spelling import mend, mended_question
from redlantern.splitting.passages import embedded_text
from redlantern.text.question import parse_question
from redlantern.trials.ranks import DEPTH, rank_figures
from redlantern.trials.sureness import PairedComparison, compare, in_words, mean_interval

Place = tuple[str, int]
"""A page: the document's path and the page number."""
METHODS = ("plain words", "words", "meaning", "plain fusion", "searched", "product")
"""BM25 over stems; our word search; the passages' vectors; the ranks of the first and the third fused; our search before
reranking; and all of it.
"""
FIGURES = ("recall@1", "recall@5", "recall@10", "MRR", "nDCG@10")


@dataclass(frozen=True)
class Asked:
    """A question with its right pages. Any one of them answers it, but the kind "several" wants all."""

    kind: str
    question: str
    history: tuple[str, ...]
    right: frozenset[Place]


def questions_of(path: Path, *, unpooled: bool = False) -> list[Asked]:
    """The answerable questions of a file, in order; see bench.asking.rows."""
    return [
        Asked(
            row["kind"],
            row["question"],
            tuple(row["history"]),
            frozenset((one["file"], one["page"]) for one in row["right"]),
        )
        for row in rows(path, unpooled=unpooled)
        if row["right"]
    ]


def figures_of(asked: Asked, ranked: Sequence[Place]) -> dict[str, float]:
    """Measure one ranking of passages by their pages; see rank_figures."""
    found = rank_figures(ranked, asked.right, wants_all=asked.kind == "several")
    return dict(zip(FIGURES, astuple(found), strict=True))


def product_order(engine: Engine, asked: Asked) -> list[Place]:
    """The pages of the evidence that the product shows for a question."""
    question = Question(asked.question, asked.history, lines_only=True)
    step = next(iter(engine.ask(question, Cancel())))
    assert isinstance(step, FoundStep)
    return [(one.citation.path, one.citation.page_number) for one in step.sheet.passages]


class Ranker:
    """Ranks the passages of one collection in each of the ways."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        index = engine.current_index()
        self._passages = engine.collection.passages(index.passage_ids.tolist())
        self._plain = PlainWords([embedded_text(one.headings, one.text) for one in self._passages])

    def rank(self, asked: Asked) -> dict[str, list[Place]]:
        """Give the pages of the best passages, best first, by each way. Only the product mends misspelt words."""
        index, embedder = self.engine.current_index(), self.engine.embedder
        standalone = parse_question(standalone_question(parse_question(asked.question), asked.history))
        plain = self._plain.scores(standalone.text)
        meaning = index.meaning_scores(embedder.embed_question(standalone.text))
        words = index.word_scores(standalone)
        by_scores = {
            "plain words": plain,
            "words": words,
            "meaning": meaning,
            "plain fusion": plain_fusion([plain, meaning]),
        }
        found = {
            name: [self._place(row) for row in np.argsort(-scores, kind="stable")[:DEPTH].tolist() if scores[row] > 0]
            for name, scores in by_scores.items()
        }
        mended = mend(standalone, index.words, embedder.splits_word)
        searched = mended_question(standalone, mended)
        hits = index.search(searched, embedder.embed_question(searched.text), None, DEPTH).hits
        found["searched"] = [(index.documents[one.document_id].path, one.page_number) for one in hits]
        found["product"] = product_order(self.engine, asked)
        return found

    def _place(self, row: int) -> Place:
        passage = self._passages[row]
        return self.engine.current_index().documents[passage.document_id].path, passage.page_number


def measure(engine: Engine, questions: Iterable[Asked]) -> dict[str, Any]:
    """Rank for every question; gives the mean figures by way and kind, and what the product missed."""
    ranker = Ranker(engine)
    all_figures: dict[str, dict[str, list[dict[str, float]]]] = {name: defaultdict(list) for name in METHODS}
    missed = []
    for asked in questions:
        ranked = ranker.rank(asked)
        for name, places in ranked.items():
            figures = figures_of(asked, places)
            all_figures[name][asked.kind].append(figures)
            all_figures[name]["all"].append(figures)
        if not figures_of(asked, ranked["product"])["recall@5"]:
            missed.append(asked.question)
    means = {
        name: {
            kind: {"asked": len(rows)} | {figure: float(np.mean([row[figure] for row in rows])) for figure in FIGURES}
            for kind, rows in by_kind.items()
        }
        for name, by_kind in all_figures.items()
    }
    compared = [
        in_words(_compared(all_figures, before, figure), before, "product", f"has more {figure}")
        for before in ("plain fusion", "searched")
        for figure in ("recall@5", "MRR")
    ]
    intervals = {
        figure: asdict(mean_interval([row[figure] for row in all_figures["product"]["all"]])) for figure in FIGURES
    }
    return {"means": means, "missed": missed, "intervals": intervals, "compared": compared}


def _compared(figures: dict[str, dict[str, list[dict[str, float]]]], before: str, figure: str) -> PairedComparison:
    """The product against another way, question by question."""
    first, second = ([row[figure] for row in figures[way]["all"]] for way in (before, "product"))
    return compare(first, second)


def show(name: str, result: dict[str, Any]) -> None:
    """Print one collection's table."""
    print(f"\n{name}")
    print(f"{'':14}{'':14}{'asked':>6}" + "".join(f"{one:>11}" for one in FIGURES))
    for way, by_kind in result["means"].items():
        for kind, row in sorted(by_kind.items(), key=lambda one: one[0] == "all"):
            print(f"{way:14}{kind:14}{row['asked']:6}" + "".join(f"{row[one]:11.3f}" for one in FIGURES))
    said = ", ".join(
        f"{figure} {each['low']:.3f} to {each['high']:.3f}" for figure, each in result["intervals"].items()
    )
    print(f"the product's means lie between (95 %): {said}")
    print(*result["compared"], sep="\n")
    print("not among the product's first five:", *result["missed"], sep="\n  ")
