# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures read-throughs: what reading every page finds, how fast, what judging saves, and whether the estimate holds.

The questions are in bench/open/pages.jsonl, with every right page. For those that
ask for words ("every page that names ...") a right page is one that has them. For
the others the pages were judged by reading: those with any of a wide choice of
words for the subject, and the best twelve by their lines among the rest.
"""

import json
import math
import random
import tempfile
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from bench.asking import DEMO
from bench.collections import opened
from bench.open_documents import MEASURED, QUESTIONS
from redlantern.answering.engine import Engine
from redlantern.application import read_through as throughs
from redlantern.application.read_through import ReadThrough
from redlantern.models.chosen import packaged_reader
from redlantern.models.protocols import LanguageModel
from redlantern.models.register import DEFAULT_EMBEDDING
from redlantern.progress import Cancel, silent
from redlantern.readthrough.estimate import estimate, sample
from redlantern.readthrough.learning import in_turn
from redlantern.readthrough.lines import LineReader, PageLines, page_by_lines
from redlantern.readthrough.reading import read_by_model
from redlantern.readthrough.values import Judged, PageRead, PageWish, Place, Way

_SEEDS = 200
_JUDGED_FIRST = 20
_WORK_RECALL = 0.95


@dataclass(frozen=True)
class Asked:
    """A question put to all pages of a collection, with its right pages by path and number."""

    collection: str
    question: str
    how: str
    right: frozenset[tuple[str, int]]


def questions() -> list[Asked]:
    """The questions of bench/open/pages.jsonl."""
    lines = (QUESTIONS / "pages.jsonl").read_text(encoding="utf-8").splitlines()
    rows = [json.loads(line) for line in lines]
    return [
        Asked(
            row["collection"],
            row["question"],
            row["how"],
            frozenset((page["file"], page["page"]) for page in row["right"]),
        )
        for row in rows
    ]


def measure(
    *, only: str = "", way: Way = "lines", model: str = "", embedding: str = DEFAULT_EMBEDDING, n_sampled: int = 0
) -> dict[str, Any]:
    """Read every page for each question; `way` and `model` for reading with a language model.

    With `n_sampled` the model reads only so many pages a question of those that are not silent by their lines, half of
    them right ones, and each counts for as many as it was drawn from: all of them would take hours.
    """
    asked = [each for each in questions() if only in ("", each.collection)]
    rows: list[dict[str, Any]] = []
    missing = []
    for name, documents, kept_in in _collections(embedding):
        mine = [each for each in asked if each.collection == name]
        if mine and not documents.exists():
            missing.append(name)
        elif mine:
            # One for each collection: it is ended with the engine.
            language_model = packaged_reader(model) if model else None
            with _opened(documents, kept_in, language_model, embedding) as engine:
                rows += [
                    _sampled(engine, each, n_sampled) if n_sampled else _measured(engine, each, way) for each in mine
                ]
    return {"way": way, "model": model, "rows": rows, "missing": missing}


def _collections(embedding: str) -> Iterator[tuple[str, Path, Path | None]]:
    yield "demo", DEMO / "documents", None
    for each in MEASURED:
        yield each.name, each.documents, each.kept_index(embedding) if each.documents.exists() else None


def _opened(documents: Path, kept_in: Path | None, model: LanguageModel | None, embedding: str) -> Any:
    folder = kept_in or Path(tempfile.mkdtemp(prefix="redlantern-bench-"))
    return opened(folder, documents, model, embedding=embedding)


def _measured(engine: Engine, asked: Asked, way: Way) -> dict[str, Any]:
    engine.reload_index()
    key = throughs.begin(engine, PageWish(asked.question, way=way))
    gone = throughs.go_on(engine, key, report=silent, cancel=Cancel())
    through = throughs.load(engine, key)
    paths = {each.document.key: each.document.path for each in through.covered.documents}
    right = {page.place for page in through.covered.pages if (paths[page.place[0]], page.place[1]) in asked.right}
    pages = through.covered.pages
    hits = {page.place for page in pages if page.state == "hit"}
    seen = hits | {page.place for page in pages if page.state == "doubtful"}
    row = {
        "collection": asked.collection, "question": asked.question, "how": asked.how, "pages": len(pages), "right": len(asked.right),
        "recall": _share(hits & right, right), "precision": _share(hits & right, hits), "seen": _share(seen & right, right),
        "looked_at": len(seen) / max(1, len(pages)), "pages_per_s": gone.n_read / gone.seconds, "first_hit_s": gone.first_hit_s,
        "held": _held(pages, right), "saved": _saved(engine, through, right),
    }  # fmt: skip
    throughs.delete(engine, key)
    return row


def _sampled(engine: Engine, asked: Asked, n_sampled: int) -> dict[str, Any]:
    """What reading brings to the pages that are not silent by their lines, by a sample of them."""
    wish, model, chance = PageWish(asked.question, way="read"), engine.language_model, random.Random(asked.question)
    assert model is not None
    reader = LineReader(wish, engine.current_index(), engine.collection, engine.embedder)
    kinds: dict[bool, list[tuple[PageRead, PageLines]]] = {True: [], False: []}
    for document in engine.collection.documents():
        for lines in reader.pages(document, frozenset(range(1, document.n_pages + 1))):
            page = page_by_lines(document, lines, "")
            if page.state in ("hit", "doubtful"):
                kinds[(document.path, lines.page.page_number) in asked.right].append((page, lines))
    weights: dict[tuple[bool, str], float] = {}
    n_read, began = 0, time.monotonic()
    for is_right, pages in kinds.items():
        drawn = chance.sample(pages, min(n_sampled // 2, len(pages)))
        for page, lines in drawn:
            state = read_by_model(page, lines, wish, model, Cancel()).state
            weights[is_right, state] = weights.get((is_right, state), 0.0) + len(pages) / len(drawn)
            n_read += 1
    hits = weights.get((True, "hit"), 0.0)
    others = weights.get((False, "hit"), 0.0)
    return {
        "collection": asked.collection, "question": asked.question, "how": asked.how, "pages": n_read, "right": len(asked.right),
        "recall": hits / len(asked.right), "precision": hits / max(hits + others, 1e-9),
        "seen": (hits + weights.get((True, "doubtful"), 0.0)) / len(asked.right), "by_lines": len(kinds[True]) / len(asked.right),
        "seconds_a_page": (time.monotonic() - began) / max(1, n_read),
    }  # fmt: skip


def _share(part: set[Place], whole: set[Place]) -> float:
    return len(part & whole) / len(whole) if whole else 1.0


def _held(pages: Sequence[PageRead], right: set[Place]) -> float:
    """In what share of seeds the interval from a judged sample holds how many silent pages are right."""
    n_missed = sum(page.state == "silent" and page.place in right for page in pages)
    n_held = 0
    for seed in range(_SEEDS):
        drawn = sample(pages, str(seed))
        chosen = set(drawn)
        judged = [_judged(page, right) if page.place in chosen else page for page in pages]
        found = estimate(judged, drawn)
        n_held += found.n_missed_low <= n_missed <= found.n_missed_high
    return n_held / _SEEDS


def _judged(page: PageRead, right: set[Place]) -> PageRead:
    judged: Judged = "accepted" if page.place in right else "rejected"
    return replace(page, judged=judged)


def _saved(engine: Engine, through: ReadThrough, right: set[Place]) -> tuple[float, float] | None:
    """Of the pages left to judge after twenty, the share that need not be looked at to find 95 % of the right ones among them.

    The twenty are those that the room shows first. In the order that the judgements give, and in the order of certainty
    alone; None where there is nothing left to find or to save.
    """
    waiting = in_turn([page for page in through.covered.pages if page.is_open], None)
    first = {page.place for page in waiting[:_JUDGED_FIRST]}
    documents = tuple(
        replace(
            each, pages=tuple(_judged(page, right) if page and page.place in first else page for page in each.pages)
        )
        for each in through.covered.documents
    )
    judged = replace(through, covered=replace(through.covered, documents=documents))
    learned = throughs.learned(engine, judged, Cancel())
    left = [page for page in waiting if page.place not in first]
    if not any(page.place in right for page in left) or len(left) < _JUDGED_FIRST:
        return None
    likeliest = sorted(left, key=lambda page: -page.certainty)
    follows = learned is not None and learned.is_worth_following
    return _work_saved(in_turn(left, learned) if follows else likeliest, right), _work_saved(likeliest, right)


def _work_saved(order: Sequence[PageRead], right: set[Place]) -> float:
    wanted, n_found = math.ceil(_WORK_RECALL * sum(page.place in right for page in order)), 0
    for n_looked, page in enumerate(order, start=1):
        n_found += page.place in right
        if n_found >= wanted:
            return 1 - n_looked / len(order)
    return 0.0


def _show_sampled(result: dict[str, Any]) -> None:
    print(f"read-through, read by {result['model']}, a sample of the pages that are not silent by their lines")
    print(
        f"{'':10}{'question':62}{'read':>6}{'hits: recall':>13}{'prec.':>7}{'+ doubtful':>11}{'by lines':>9}{'s a page':>9}"
    )
    for row in result["rows"]:
        print(
            f"{row['collection']:10}{row['question'][:60]:62}{row['pages']:6}{row['recall']:13.2f}{row['precision']:7.2f}"
            f"{row['seen']:11.2f}{row['by_lines']:9.2f}{row['seconds_a_page']:9.1f}"
        )
    for how in ("words", "judged", ""):
        rows = [row for row in result["rows"] if how in ("", row["how"])]
        if rows:
            recall, precision, seen, by_lines = (
                float(np.mean([row[name] for row in rows])) for name in ("recall", "precision", "seen", "by_lines")
            )
            print(
                f"{how or 'all':10}{len(rows)} questions, {sum(row['pages'] for row in rows)} pages read: recall {recall:.3f}, "
                f"precision {precision:.3f}, with doubtful ones {seen:.3f}, of {by_lines:.3f} that are not silent by their lines"
            )


def show(result: dict[str, Any]) -> None:
    """Print a row a question and the means."""
    if any("by_lines" in row for row in result["rows"]):
        _show_sampled(result)
        return
    print(f"read-through, way: {result['way']} {result['model']}")
    print(
        f"{'':10}{'question':62}{'pages':>6}{'right':>6}{'hits: recall':>13}{'prec.':>7}{'+ doubtful':>11}{'looked at':>10}"
        f"{'pages/s':>9}{'first s':>8}{'held':>6}{'saved':>7}"
    )
    for row in result["rows"]:
        saved = f"{row['saved'][0]:.2f}" if row["saved"] is not None else "-"
        first = f"{row['first_hit_s']:.1f}" if row["first_hit_s"] is not None else "-"
        print(
            f"{row['collection']:10}{row['question'][:60]:62}{row['pages']:6}{row['right']:6}{row['recall']:13.2f}"
            f"{row['precision']:7.2f}{row['seen']:11.2f}{row['looked_at']:10.2f}{row['pages_per_s']:9.0f}{first:>8}"
            f"{row['held']:6.2f}{saved:>7}"
        )
    for how in ("words", "judged", ""):
        rows = [row for row in result["rows"] if how in ("", row["how"])]
        if rows:
            means = {
                name: np.mean([row[name] for row in rows])
                for name in ("recall", "precision", "seen", "looked_at", "held")
            }
            all_saved = [row["saved"] for row in rows if row["saved"] is not None]
            learned, plain = np.mean(all_saved, axis=0) if all_saved else (float("nan"), float("nan"))
            print(
                f"{how or 'all':10}{len(rows)} questions: recall {means['recall']:.3f}, precision {means['precision']:.3f}, with "
                f"doubtful ones {means['seen']:.3f} by looking at {means['looked_at']:.2f}, interval holds {means['held']:.3f}, "
                f"saved {learned:.2f}, by certainty alone {plain:.2f}"
            )
    for name in result["missing"]:
        print(f"\n{name}: not measured; `python -m bench.open_documents` fetches its documents.")


def as_json(result: dict[str, Any]) -> dict[str, Any]:
    """The result, which is plain values already."""
    return result
