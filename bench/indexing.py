# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures what indexing costs beyond the embedding model itself, on one long document and on the demo's.

The reference is the model alone over the same texts, in the same process: how
long it takes to embed what indexing embeds, tokenizing included.
"""

import shutil
import tempfile
import time
from pathlib import Path

from bench.asking import DEMO
from bench.collections import opened
from bench.open_documents import MEASURED
from bench.speed import as_json, show
from redlantern.progress import Cancel, silent
from redlantern.splitting.passages import embedded_text

__all__ = ["as_json", "measure", "show"]


def measure() -> dict[str, float]:
    """Index the demo documents, and one manual where it was fetched (bench/open_documents.py)."""
    figures = _measure("demo", DEMO / "documents")
    manual = MEASURED[1]
    return figures | (_measure(manual.name, manual.documents) if manual.documents.exists() else {})


def _measure(name: str, documents: Path) -> dict[str, float]:
    with tempfile.TemporaryDirectory() as folder:
        warm = Path(folder) / "warm"
        warm.mkdir()
        (warm / "note.txt").write_text("A note, so that readers and models are loaded before the clock starts.")
        copied = Path(folder) / "documents"
        shutil.copytree(documents, copied)
        with opened(Path(folder), warm) as engine:
            began = time.perf_counter()
            summary = engine.update([copied], report=silent, cancel=Cancel())
            indexing = time.perf_counter() - began
            ids = [row[0] for row in engine.collection.file.rows("SELECT id FROM passages ORDER BY id")][1:]
            passages = engine.collection.passages(ids)
            texts = [embedded_text(one.headings, one.text) for one in passages]
            spans = [[(start - one.start, end - one.start) for start, end in one.lines] for one in passages]
            began = time.perf_counter()
            for _ in engine.embedder.embed(texts, spans):
                pass
            alone = time.perf_counter() - began
    return {
        f"{name}: pages": float(summary.pages),
        f"{name}: indexing end to end, seconds": indexing,
        f"{name}: embedding the same passages alone, seconds": alone,
        f"{name}: end to end, times embedding alone": indexing / alone,
        f"{name}: tokens a second, end to end": summary.tokens / indexing,
    }
