# SPDX-License-Identifier: GPL-3.0-or-later
"""What the taught judge would bring: the product's best twenty passages put in order by its score as well.

Run as `python -m training.measured`, after `training.teach` and
`bench.open_documents`: prints recall@5 and MRR for the product, the judge alone and
both, for several weights, on the collections of `./run bench quality` and on the one
that weights are chosen on.
"""

import sys
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
from bench.asking import DEMO
from bench.collections import opened
from bench.open_documents import CHOSEN_ON, MEASURED

from bench import ranking
from redlantern.answering.engine import Engine
from redlantern.answering.question.follow_up import standalone_question
from redlantern.retrieval.hybrid import find
from redlantern.retrieval.spelling import mend, mended_question
from redlantern.safety import seal
from redlantern.text.question import parse_question

WEIGHTS = (0.1, 0.2, 0.3, 0.5, 0.8)
_LAST = 10.0
"""Taken off what is put last whatever its score: lists of contents and repetitions."""
Scores = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Found:
    """A question with the passages that were found: their words, pages, the product's scores, and which it puts last."""

    asked: ranking.Asked
    question: str
    texts: list[str]
    places: list[ranking.Place]
    scores: Scores
    is_last: npt.NDArray[np.bool_]


def found_for(engine: Engine, questions: Sequence[ranking.Asked]) -> Iterator[Found]:
    """Find for every question."""
    index, embedder = engine.current_index(), engine.embedder
    for asked in questions:
        standalone = parse_question(standalone_question(parse_question(asked.question), asked.history))
        question = mended_question(standalone, mend(standalone, index.words, embedder.splits_word))
        finding = find(index, engine.asked, embedder, question, None, engine.method)
        members = [member for joined in finding.ranked for member in joined.members]
        members.sort(key=lambda member: member.after)
        yield Found(
            asked,
            question.text,
            [
                f"{member.passage.headings.title}. {member.passage.headings.innermost}. {member.passage.text}"
                for member in members
            ],
            [(index.documents[member.passage.document_id].path, member.passage.page_number) for member in members],
            np.array([member.score for member in members]),
            np.array([member.is_contents or bool(member.repeats) for member in members], bool),
        )


def figures(rows: Sequence[tuple[Found, Scores]], weight: float | None) -> tuple[float, float]:
    """Mean recall@5 and MRR when the judge's chance counts so much beside the product's score; alone where None."""
    found = []
    for row, judged in rows:
        scores = judged if weight is None else row.scores + weight / (1 + np.exp(-judged))
        order = np.argsort(-(scores - _LAST * row.is_last), kind="stable") if weight != 0 else np.arange(len(scores))
        found.append(ranking.figures_of(row.asked, list(dict.fromkeys(row.places[at] for at in order))))
    return float(np.mean([row["recall@5"] for row in found])), float(np.mean([row["MRR"] for row in found]))


def main() -> int:
    """Print the table."""
    import torch

    from training.network import Judge
    from training.teach import TAUGHT, tensors, tokenizer

    if not TAUGHT.exists():
        print("Run `python -m training.teach` first.", file=sys.stderr)
        return 1
    seal.put_on()
    tokens, judge = tokenizer(), Judge()
    judge.load_state_dict(torch.load(TAUGHT))
    judge.eval()
    print(f"{'recall@5 / MRR':12}" + "".join(f"{name:>16}" for name in ("product", "judge", *map(str, WEIGHTS))))
    for name, documents, kept, asked in _collections():
        with opened(kept, documents) as engine, torch.no_grad():
            rows = [
                (found, judge(*tensors([(found.question, text) for text in found.texts], tokens)).numpy().astype(float))
                for found in found_for(engine, asked)
            ]
        shown = [figures(rows, weight) for weight in (0, None, *WEIGHTS)]
        print(f"{name:12}" + "".join(f"{recall:9.3f} /{mrr:5.3f}" for recall, mrr in shown), flush=True)
    return 0


def _collections() -> Iterator[tuple[str, Path, Path, list[ranking.Asked]]]:
    for each in (CHOSEN_ON, *MEASURED):
        if each.documents.exists():
            yield each.name, each.documents, each.kept_index(), ranking.questions_of(each.questions)
    with tempfile.TemporaryDirectory() as folder:
        yield "demo", DEMO / "documents", Path(folder), ranking.questions_of(DEMO / "questions.jsonl")


if __name__ == "__main__":
    sys.exit(main())
