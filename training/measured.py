# SPDX-License-Identifier: GPL-3.0-or-later
"""What a taught judge or a tuned embedding would bring: the product's best twenty passages put in order by its score as well.

Run as `python -m training.measured`, after `bench.open_documents` and one of
`training.teach` and `training.tune`: prints recall@5 and MRR for the product, each
scorer alone and both, for several weights, on the collections of `./run bench
quality` and on the one that weights are chosen on.
"""

import argparse
import sys
import tempfile
from collections.abc import Callable, Iterator, Sequence
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
from redlantern.answering.writing.reading import wants_to_answer
from redlantern.models.chosen import packaged_reader
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel
from redlantern.retrieval.hybrid import find
from redlantern.retrieval.spelling import mend, mended_question
from redlantern.safety import seal
from redlantern.text.question import parse_question

WEIGHTS = (0.1, 0.2, 0.3, 0.5, 0.8)
_LAST = 10.0
"""Taken off what is put last whatever its score: lists of contents and repetitions."""
_TAUGHT_BY = 6
_SYSTEM = "You check whether a passage answers a question."
_ASKED = "Is the question answered by the passage above? Answer Yes or No."
Scores = npt.NDArray[np.float64]
Scorer = Callable[[str, Sequence[str]], Scores]


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
    """Mean recall@5 and MRR when a scorer counts so much beside the product's score; alone where None."""
    found = []
    for row, scored in rows:
        scores = scored if weight is None else row.scores + weight * scored
        order = np.argsort(-(scores - _LAST * row.is_last), kind="stable") if weight != 0 else np.arange(len(scores))
        found.append(ranking.figures_of(row.asked, list(dict.fromkeys(row.places[at] for at in order))))
    return float(np.mean([row["recall@5"] for row in found])), float(np.mean([row["MRR"] for row in found]))


def scorers() -> dict[str, Scorer]:
    """What there is to be measured: by its name, what gives each text a score from 0 to 1 for a question."""
    import torch

    from training.network import Judge, SentenceEncoder
    from training.teach import TAUGHT, tensors, tokenizer
    from training.tune import SHARES, TUNED, mixed, vectors

    found: dict[str, Scorer] = {}
    if TAUGHT.exists():
        tokens, judge = tokenizer(), Judge()
        judge.load_state_dict(torch.load(TAUGHT))
        judge.eval()

        def judged(question: str, texts: Sequence[str]) -> Scores:
            with torch.no_grad():
                scores = judge(*tensors([(question, text) for text in texts], tokens)).numpy().astype(float)
            return np.asarray(1 / (1 + np.exp(-scores)))

        found["judge"] = judged
    if TUNED.exists():
        kept = torch.load(TUNED)
        for share in SHARES[::2]:
            encoder = SentenceEncoder()
            encoder.load_state_dict(mixed(kept["before"], kept["after"], share))

            def near(question: str, texts: Sequence[str], encoder: SentenceEncoder = encoder) -> Scores:
                return np.asarray(vectors(encoder, texts) @ vectors(encoder, [question])[0], float)

            found[f"tuned {share:g}"] = near
    return found


def teacher(model: LanguageModel) -> Scorer:
    """How sure the close reader is that each of the first few texts answers; of the others it says nothing."""

    def score(question: str, texts: Sequence[str]) -> Scores:
        said = [
            wants_to_answer(model.first_words(_SYSTEM, f"{text}\n\nQuestion: {question}\n{_ASKED}", Cancel())) or 0.0
            for text in texts[:_TAUGHT_BY]
        ]
        return np.array([1 / (1 + np.exp(-each)) for each in said] + [0.0] * (len(texts) - len(said)))

    return score


def main() -> int:
    """Print the table."""
    parser = argparse.ArgumentParser(prog="python -m training.measured", description=__doc__)
    parser.add_argument(
        "--teacher", type=int, default=0, metavar="N", help="measure the close reader instead, on N questions each"
    )
    given = parser.parse_args()
    reader = packaged_reader("close") if given.teacher else None
    known = {"close reader": teacher(reader)} if reader is not None else scorers()
    if not known:
        print("Run `python -m training.teach` or `python -m training.tune` first.", file=sys.stderr)
        return 1
    seal.put_on()
    print(f"{'recall@5 / MRR':22}" + "".join(f"{name:>16}" for name in ("product", "alone", *map(str, WEIGHTS))))
    for name, documents, kept, asked in _collections():
        with opened(kept, documents) as engine:
            # Spread over all kinds, which stand together in the files.
            step = max(1, len(asked) // given.teacher) if given.teacher else 1
            rows = list(found_for(engine, asked[::step]))
        for by, score in known.items():
            scored = [(found, score(found.question, found.texts)) for found in rows]
            shown = [figures(scored, weight) for weight in (0, None, *WEIGHTS)]
            print(f"{name:10}{by:12}" + "".join(f"{recall:9.3f} /{mrr:5.3f}" for recall, mrr in shown), flush=True)
    return 0


def _collections() -> Iterator[tuple[str, Path, Path, list[ranking.Asked]]]:
    for each in (CHOSEN_ON, *MEASURED):
        if each.documents.exists():
            yield each.name, each.documents, each.kept_index(), ranking.questions_of(each.questions)
    with tempfile.TemporaryDirectory() as folder:
        yield "demo", DEMO / "documents", Path(folder), ranking.questions_of(DEMO / "questions.jsonl")


if __name__ == "__main__":
    sys.exit(main())
