# SPDX-License-Identifier: GPL-3.0-or-later
"""Fits when a question counts as answered, by the evidence, a model's reading and what it wrote, on the tuning questions only.

Run as `python -m bench.fit_reading FILE [close|light] [N]`: asks the model whether
its excerpts answer each tuning question, lets it write an answer, and keeps the
log-odds and how far the answer held in FILE as they come, so that an interrupted
run goes on; prints how well they tell answered questions from others, each kept
out of the fit, the weights for redlantern/fitted.py, and how many with weak
evidence have no answer.
"""

import json
import random
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from bench.asking import answer, rows
from bench.collections import opened
from bench.fit_refusal import TUNING, fit, kept_in, kept_out_chances
from bench.open_documents import CHOSEN_ON
from redlantern.answering.asking import Asking
from redlantern.answering.engine import Engine
from redlantern.answering.evidence.refusal import reading_chance, strength, written_chance
from redlantern.answering.question.follow_up import standalone_question
from redlantern.answering.question.understanding import Question
from redlantern.answering.writing.read_answer import excerpts_of, judge
from redlantern.answering.writing.reading_test import area_under
from redlantern.answering.writing.second_search import search_again
from redlantern.fitted import ANSWER_THRESHOLD, WEAK_EVIDENCE
from redlantern.models.hosted import HostedModel
from redlantern.models.readers import reader_of
from redlantern.progress import Cancel
from redlantern.reckoning.source import TableSource
from redlantern.safety import seal
from redlantern.text.question import parse_question

_ORDER_SEED = 5
Numbers = npt.NDArray[np.float64]


def _questions() -> list[tuple[Path, dict[str, Any]]]:
    """All tuning questions with their documents, in one mixed order, so that any beginning of a run is a sample."""
    letters = [(TUNING / "documents", {"kind": "near", **row}) for row in rows(TUNING / "questions.jsonl")]
    manual = [
        (
            CHOSEN_ON.documents,
            {"q": standalone_question(parse_question(row["question"]), row["history"]), "a": bool(row["right"]), **row},
        )
        for row in rows(CHOSEN_ON.questions) + rows(TUNING / "database-unanswered.jsonl")
        if CHOSEN_ON.documents.exists()
    ]
    mixed = letters + manual
    random.Random(_ORDER_SEED).shuffle(mixed)
    return mixed


def _judged(engine: Engine, row: dict[str, Any]) -> dict[str, Any]:
    """What the evidence and the model say of one question."""
    runtime = engine.runtime
    model = runtime.language_model
    assert model is not None
    index = engine.current_index()
    tables = TableSource(index.documents, runtime.asked.pages)
    asking = Asking(index, runtime.asked, runtime.embedder, model, runtime.method, tables)
    grounds, began = asking.grounds_of(Question(row["q"])), time.perf_counter()
    grounds = search_again(grounds, model, Cancel())
    excerpts = excerpts_of(grounds, model, runtime.method)
    # The first part alone: nearly all tuning questions have one.
    wants = judge(grounds.parts[0], excerpts, model, Cancel()) if excerpts else 0.0
    seconds = time.perf_counter() - began
    sheet = answer(engine, {"question": row["q"], "history": []})
    said = " ".join(claim.text for claim in sheet.claims).casefold()
    expected = row.get("expected") or row.get("x")
    return {
        "q": row["q"], "a": bool(row["a"]), "kind": row["kind"], "score": grounds.parts[0].evidence_score,
        "reading": wants, "strength": strength(sheet.claims), "seconds": seconds,
        "said": any(words.casefold() in said for words in expected) if expected else None,
        "claims": [(claim.text, claim.support) for claim in sheet.claims],
    }  # fmt: skip


def collect(kept: Path, word: str, most: int) -> list[dict[str, Any]]:
    """Ask the model of every question that is not in the file yet; gives all that is."""
    done = rows(kept) if kept.exists() else []
    known = {row["q"] for row in done}
    reader = reader_of(word)
    assert reader is not None, f"the {word} reader is not here"
    wanted = [entry for entry in _questions()[:most] if entry[1]["q"] not in known]
    for documents in dict.fromkeys(documents for documents, _ in wanted):
        model = HostedModel(reader.place)
        with tempfile.TemporaryDirectory() as folder, opened(kept_in(documents, folder), documents, model) as engine:
            # All is written, whatever the chances.
            engine.exchange(method=replace(engine.method, answer_threshold=0.0))
            for row in (row for place, row in wanted if place == documents):
                entry = _judged(engine, row)
                done.append(entry)
                with kept.open("a", encoding="utf-8") as file:
                    file.write(json.dumps(entry) + "\n")
    return done


def show(done: list[dict[str, Any]]) -> None:
    """Print how well it does, and the weights."""
    answered = np.array([float(row["a"]) for row in done])
    scores = np.clip([row["score"] for row in done], 1e-4, 1 - 1e-4)
    evidence = np.log(scores / (1 - scores))
    reading = np.array([row["reading"] for row in done])
    is_near = np.array([row["kind"] != "off subject" for row in done])
    for name, values in (("evidence", evidence), ("reading", reading)):
        yes, no = values[answered > 0].tolist(), values[(answered == 0)].tolist()
        near = values[(answered == 0) & is_near].tolist()
        print(f"{name}: area {area_under(yes, no):.3f}, near the subject {area_under(yes, near):.3f}")
    features = np.stack([evidence, reading], axis=1)
    chances = kept_out_chances(features, answered)
    yes = chances[answered > 0].tolist()
    print(
        f"together, each question kept out of the fit: area {area_under(yes, chances[answered == 0].tolist()):.3f}, "
        f"near the subject {area_under(yes, chances[(answered == 0) & is_near].tolist()):.3f}"
    )
    _print_thresholds(chances, answered, is_near)
    weights = fit(features, answered)
    print("READING_WEIGHTS =", tuple(round(float(weight), 2) for weight in weights[:-1]))
    print("intercept", round(float(weights[-1]), 2))
    _show_written(done, answered, is_near)
    said = [row["said"] for row in done if row["said"] is not None]
    print(f"the expected words are said for {sum(said)} of {len(said)}")
    print(f"seconds a judgement: median {np.median([row['seconds'] for row in done]):.1f}")


def _show_written(done: list[dict[str, Any]], answered: Numbers, is_near: npt.NDArray[np.bool_]) -> None:
    """Print how well it does together with what was written, of the questions for which anything is."""
    before = np.array([reading_chance(row["score"], row["reading"]) for row in done])
    is_written = before >= ANSWER_THRESHOLD
    features = np.stack([np.log(before / (1 - before)), [row["strength"] for row in done]], axis=1)[is_written]
    chances = kept_out_chances(features, answered[is_written])
    print(f"\nof {int(is_written.sum())} for which an answer is written, each kept out of the fit:")
    _print_thresholds(chances, answered[is_written], is_near[is_written])
    weights = fit(features, answered[is_written])
    print("WRITTEN_WEIGHTS =", tuple(round(float(weight), 2) for weight in weights[:-1]))
    print("intercept", round(float(weights[-1]), 2))
    decided = np.array([written_chance(chance, row["strength"]) for chance, row in zip(before, done, strict=True)])
    is_refused = ~is_written | (decided < ANSWER_THRESHOLD)
    for name, refused in (("before", ~is_written), ("after", is_refused)):
        near, wrong = (refused & (answered == 0) & is_near).sum(), (refused & (answered > 0)).sum()
        n_near = int(((answered == 0) & is_near).sum())
        print(
            f"with the weights of fitted.py, {name} writing: {near} of {n_near} near, {wrong} of {int(answered.sum())} wrongly"
        )
    is_weak = ~is_refused & (decided < WEAK_EVIDENCE)
    print(f"weak with these: {int((is_weak & (answered == 0)).sum())} of {int(is_weak.sum())} have no answer")


def _print_thresholds(chances: Numbers, answered: Numbers, is_near: npt.NDArray[np.bool_]) -> None:
    yes = chances[answered > 0]
    n_near, n_off = int(((answered == 0) & is_near).sum()), int(((answered == 0) & ~is_near).sum())
    for threshold in np.arange(0.1, 0.75, 0.05):
        refused = chances < threshold
        near, off = (refused & (answered == 0) & is_near).sum(), (refused & (answered == 0) & ~is_near).sum()
        wrong = (refused & (answered > 0)).sum()
        print(
            f"threshold {threshold:.2f}: refuses {near} of {n_near} near, {off} of {n_off} off, {wrong} of {len(yes)} wrongly"
        )


def main() -> int:
    """Collect, and print."""
    seal.put_on()
    kept, word, most = Path(sys.argv[1]), (sys.argv[2:] or ["close"])[0], int((sys.argv[3:] or ["1000"])[0])
    show(collect(kept, word, most))
    return 0


if __name__ == "__main__":
    sys.exit(main())
