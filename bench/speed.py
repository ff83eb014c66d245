# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures the speed of indexing on the demo documents: pages and tokens a second. `answering` measures that of asking."""

import shutil
import tempfile
import time
from pathlib import Path
from typing import Any

from bench.asking import DEMO
from bench.collections import opened
from redlantern.models.chosen import chosen_embedder
from redlantern.progress import Cancel, silent

_N_TEXTS = 48
_TOKENS_EACH = 200


def measure() -> dict[str, float]:
    """Index the demo documents; every figure is one run on this machine."""
    figures = _indexing()
    figures |= _embedding_alone()
    return figures


def show(result: dict[str, float]) -> None:
    """Print one figure a line."""
    for name, value in result.items():
        print(f"{name:72}{value:12.3f}" if value < 100 else f"{name:72}{value:12.0f}")


def as_json(result: dict[str, float]) -> dict[str, Any]:
    """The figures as they are."""
    return result


def _indexing() -> dict[str, float]:
    with tempfile.TemporaryDirectory() as folder:
        documents = Path(folder) / "documents"
        shutil.copytree(DEMO / "documents", documents)
        (Path(folder) / "none").mkdir()
        (Path(folder) / "none" / "note.txt").write_text(
            "A note, so that readers and models are loaded before the clock starts."
        )
        with opened(Path(folder), Path(folder) / "none") as engine:
            summary = engine.update([documents], report=silent, cancel=Cancel())
            again = engine.update([documents], report=silent, cancel=Cancel())
    return {
        "indexing, pages a second": summary.pages / summary.seconds["total"],
        "indexing, tokens embedded a second, end to end": summary.tokens / summary.seconds["total"],
        "indexing, tokens embedded a second, embedding alone": summary.tokens / summary.seconds["embedding"],
        "update with nothing changed, seconds": again.seconds["total"],
    }


def _embedding_alone() -> dict[str, float]:
    embedder = chosen_embedder()
    text = "The bellows of the organ in the hall were leathered anew. " * 100
    text = text[: next(end for end in range(400, 4000, 20) if embedder.count_tokens([text[:end]])[0] >= _TOKENS_EACH)]
    texts, n_tokens = [text] * _N_TEXTS, _N_TEXTS * embedder.count_tokens([text])[0]
    began = time.perf_counter()
    list(embedder.embed(texts, [[]] * _N_TEXTS))
    return {"embedding model, tokens a second": n_tokens / (time.perf_counter() - began)}
