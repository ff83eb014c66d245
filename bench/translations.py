# SPDX-License-Identifier: GPL-3.0-or-later
"""How well other languages are found: a manual in German, French and Spanish, asked in its own language and in English.

Its translations have the same files with the same sections, so that forty of the
English questions and their right pages serve for all. Pages are cut by length: a
page of a translation is right where it covers the part of its file that a right
page of the English one covers.
"""

import dataclasses
import json
from typing import Any

import numpy as np

from bench import ranking
from bench.collections import opened
from bench.open_documents import HANDBOOK, QUESTIONS, TRANSLATIONS
from bench.ranking import Asked, Place
from redlantern.answering.engine import Engine
from redlantern.models.register import DEFAULT_EMBEDDING

_FIGURES = ("recall@1", "recall@5", "MRR")
_LEAST_COVERED = 0.25
"""A page counts as covering a part of its file from this share of itself on."""

Parts = dict[str, list[tuple[float, float]]]
"""For each file, the part of its text that each of its pages covers, from 0 to 1."""


def measure(*, embedding: str = DEFAULT_EMBEDDING) -> dict[str, Any]:
    """Ask with one packaged embedding model; gives the figures of each language and way to ask that there are documents of."""
    translated = [
        json.loads(line) for line in (QUESTIONS / "handbook-translated.jsonl").read_text("utf-8").splitlines()
    ]
    ids = [row["id"] for row in translated]
    rows = {row["id"]: row for row in map(json.loads, HANDBOOK.questions.read_text("utf-8").splitlines())}
    english = dict(zip(ids, (asked for asked in _questions(rows, ids)), strict=True))
    figures: dict[tuple[str, str], dict[str, float]] = {}
    parts: Parts = {}
    for language, collection in (("en", HANDBOOK), *TRANSLATIONS.items()):
        if not collection.documents.exists():
            continue
        with opened(collection.kept_index(embedding), collection.documents, embedding=embedding) as engine:
            if language == "en":
                parts = _parts(engine)
                figures["en", "en"] = _mean(engine, list(english.values()))
                continue
            there = _parts(engine)
            for asked_in in (language, "en"):
                questions = [
                    dataclasses.replace(
                        english[row["id"]],
                        question=row[language] if asked_in == language else english[row["id"]].question,
                        right=frozenset(
                            same for place in english[row["id"]].right for same in _same(place, parts, there)
                        ),
                    )
                    for row in translated
                ]
                figures[language, asked_in] = _mean(engine, questions)
    return {"embedding": embedding, "figures": figures}


def _questions(rows: dict[str, Any], ids: list[str]) -> list[Asked]:
    return [
        Asked(
            rows[key]["kind"], rows[key]["question"], (),
            frozenset((right["file"], right["page"]) for right in rows[key]["right"]),
        )
        for key in ids
    ]  # fmt: skip


def _parts(engine: Engine) -> Parts:
    found: Parts = {}
    for document in engine.current_index().documents.values():
        lengths = [len(page.text) for page in engine.collection.pages(document.document_id)]
        ends = np.cumsum(lengths) / max(1, sum(lengths))
        found[document.path] = list(zip([0.0, *ends[:-1].tolist()], ends.tolist(), strict=True))
    return found


def _same(place: Place, parts: Parts, there: Parts) -> list[Place]:
    """The pages of a translation that cover what a page of the English one covers."""
    path, number = place
    begin, end = parts[path][number - 1]
    return [
        (path, other)
        for other, (first, last) in enumerate(there.get(path, []), start=1)
        if min(end, last) - max(begin, first) >= _LEAST_COVERED * (last - first)
    ]


def _mean(engine: Engine, questions: list[Asked]) -> dict[str, float]:
    found = [ranking.figures_of(asked, ranking.product_order(engine, asked)) for asked in questions]
    return {"asked": len(found)} | {name: float(np.mean([row[name] for row in found])) for name in _FIGURES}


def show(result: dict[str, Any]) -> None:
    """Print the table."""
    print(f"embedding model: {result['embedding']}")
    print(f"{'documents':12}{'asked in':12}{'asked':>6}" + "".join(f"{name:>11}" for name in _FIGURES))
    for (language, asked_in), row in result["figures"].items():
        print(f"{language:12}{asked_in:12}{row['asked']:6.0f}" + "".join(f"{row[name]:11.3f}" for name in _FIGURES))


def as_json(result: dict[str, Any]) -> dict[str, Any]:
    """The result with plain keys."""
    return result | {"figures": {" in ".join(key): row for key, row in result["figures"].items()}}
