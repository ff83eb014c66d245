# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures how high the right pages stand, in the demo and in two open collections, by words, by meaning and as the product does."""

import tempfile
from pathlib import Path
from typing import Any

from bench import ranking
from bench.asking import DEMO
from bench.collections import opened
from bench.open_documents import MEASURED
from redlantern.models.register import DEFAULT_EMBEDDING


def measure(*, unpooled: bool = False, embedding: str = DEFAULT_EMBEDDING) -> dict[str, Any]:
    """Rank for all questions; gives the figures of each collection whose documents are there; `unpooled` as in asking.rows."""
    with (
        tempfile.TemporaryDirectory() as folder,
        opened(Path(folder), DEMO / "documents", embedding=embedding) as engine,
    ):
        rankings = {"demo": ranking.measure(engine, ranking.questions_of(DEMO / "questions.jsonl"))}
    for one in MEASURED:
        if one.documents.exists():
            # Kept from one run to the next, for indexing takes minutes.
            with opened(one.kept_index(embedding), one.documents, embedding=embedding) as engine:
                rankings[one.name] = ranking.measure(engine, ranking.questions_of(one.questions, unpooled=unpooled))
    return rankings


def show(result: dict[str, Any]) -> None:
    """Print a table for each collection."""
    for name, one in result.items():
        ranking.show(name, one)
    for missing in MEASURED:
        if missing.name not in result:
            print(f"\n{missing.name}: not measured; `python -m bench.open_documents` fetches its documents.")


def as_json(result: dict[str, Any]) -> dict[str, Any]:
    """The result, which is plain values already."""
    return result
