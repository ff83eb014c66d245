# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures finding in large collections: speed, memory, opening, adding, and what the two-stage scan loses.

The collections are synthetic (bench/synthetic.py) and real files: encrypted,
opened as they always are. Beside them stand plain NumPy over float32 vectors and
a plain BM25 over a SciPy matrix, which hold everything in memory.
"""

import gc
import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy import sparse

from bench.speed import as_json, show
from bench.synthetic import bundled_vectors, fill, middles, random_vectors, word
from redlantern.collection.prepared import MadeWith, Prepared, Source
from redlantern.collection.store import Collection
from redlantern.fitted import BM25_B as B
from redlantern.fitted import BM25_K1 as K1
from redlantern.models.embedding import from_int8, to_int4, to_int8
from redlantern.reading.values import READER_VERSION, Block, Page, ReadFile
from redlantern.retrieval.index import Index
from redlantern.retrieval.lexical import pack_words
from redlantern.splitting.headings import Headings
from redlantern.splitting.passages import Passage
from redlantern.text.question import parse_question
from redlantern.text.stems import stem

__all__ = ["as_json", "measure", "show"]
SIZES = (10_000, 100_000, 1_000_000)
_DIMENSIONS = 384
_EMBEDDING = "bench"
_N_QUESTIONS = 60
_N_PAGES_ADDED = 100
_BEST = 10


def measure(sizes: tuple[int, ...] = SIZES) -> dict[str, float]:
    """Measure each size in a folder that is thrown away; questions are warmed up with others first."""
    figures: dict[str, float] = {}
    for n_passages in sizes:
        with tempfile.TemporaryDirectory() as folder:
            os.environ["XDG_DATA_HOME"] = folder
            for name, value in _measure(Path(folder) / "large.redlantern", n_passages).items():
                figures[f"{n_passages:,} passages: {name}"] = value
    return figures


def _measure(path: Path, n_passages: int) -> dict[str, float]:
    collection = Collection.create(path)
    collection.claim_writing()
    fill(collection, n_passages, MadeWith(_EMBEDDING, "", READER_VERSION))
    collection.close()
    gc.collect()
    before = _memory()
    began = time.perf_counter()
    collection = Collection.open(path)
    collection.claim_writing()
    index = Index(collection, _DIMENSIONS, _EMBEDDING)
    figures = {"opening, seconds": time.perf_counter() - began}
    gc.collect()
    figures["memory, bytes a passage"] = (_memory() - before) / n_passages
    questions = _questions(np.random.default_rng(3))
    for words, vector in questions[: _N_QUESTIONS // 3]:
        index.search(parse_question(words), vector, None, 20)
    asked = questions[_N_QUESTIONS // 3 :]
    figures |= _times(
        "question to ranked passages",
        asked,
        lambda words, vector: index.search(parse_question(words), vector, None, 20),
    )
    scope = set(list(index.documents)[::10])
    figures |= _times(
        "the same in a tenth of the documents",
        asked,
        lambda words, vector: index.search(parse_question(words), vector, scope, 20),
    )
    figures["scan of sign bits, share of the ten best by meaning kept"] = _kept_by_scan(index, asked)
    figures |= _adding(collection, index)
    figures |= _references(index, asked)
    collection.close()
    return figures


def _questions(chance: np.random.Generator) -> list[tuple[str, npt.NDArray[np.float32]]]:
    """Five words each, of the frequencies that content words have, and a vector near some subject."""
    vectors = bundled_vectors(chance, _N_QUESTIONS, middles())
    numbers = (10 ** chance.uniform(1.5, 4.2, (_N_QUESTIONS, 5))).astype(int)
    return [(" ".join(map(word, row.tolist())), vector) for row, vector in zip(numbers, vectors, strict=True)]


def _times(
    name: str,
    questions: list[tuple[str, npt.NDArray[np.float32]]],
    search: Callable[[str, npt.NDArray[np.float32]], object],
) -> dict[str, float]:
    spent = []
    for words, vector in questions:
        began = time.perf_counter()
        search(words, vector)
        spent.append(1000 * (time.perf_counter() - began))
    return {f"{name}, ms, median": float(np.median(spent)), f"{name}, ms, 95 %": float(np.percentile(spent, 95))}


def _kept_by_scan(index: Index, questions: list[tuple[str, npt.NDArray[np.float32]]]) -> float:
    everything = np.ones(len(index.passage_ids), bool)
    kept = []
    for _, vector in questions:
        best = np.argsort(-index.meaning_scores(vector))[:_BEST]
        rows, _ = index._meaning.scores(vector, everything)
        kept.append(len(np.intersect1d(best, rows)) / _BEST)
    return float(np.mean(kept))


def _adding(collection: Collection, index: Index) -> dict[str, float]:
    """One document of a hundred pages, its vectors there already: kept, and loaded for finding."""
    chance = np.random.default_rng(8)
    pages, passages, texts = [], [], []
    for number in range(1, _N_PAGES_ADDED + 1):
        text = " ".join(map(word, (10 ** chance.uniform(0, 4.5, 480)).astype(int).tolist()))
        pages.append(Page(number, text, (Block("paragraph", 0, len(text)),), (), 595, 842))
        quarter = len(text) // 4
        for start in range(0, 4 * quarter, quarter):
            spans = tuple((start + quarter * i // 6, start + quarter * (i + 1) // 6) for i in range(6))
            passages.append(Passage(number, start, start + quarter, Headings(("Part",)), spans, 150))
            texts.append((Headings(("Part",)), text[start : start + quarter]))
    vectors = to_int8(random_vectors(chance, len(passages), _DIMENSIONS))
    lines = to_int4(random_vectors(chance, 6 * len(passages), _DIMENSIONS))
    read = ReadFile("text", "Added", tuple(pages), (), {}, "en")
    began = time.perf_counter()
    words = pack_words(texts, "en")
    made_with = MadeWith(_EMBEDDING, "", READER_VERSION)
    collection.add(
        Prepared("f" * 64, read, passages, made_with, vectors, lines, words), Source("/added.txt", "/", 1, 1)
    )
    kept = time.perf_counter()
    Index(collection, _DIMENSIONS, _EMBEDDING, index)
    loaded = time.perf_counter()
    return {
        f"adding {_N_PAGES_ADDED} pages, without embedding, seconds": loaded - began,
        "of these, until it can be found": loaded - kept,
    }


def _references(index: Index, questions: list[tuple[str, npt.NDArray[np.float32]]]) -> dict[str, float]:
    """Plain NumPy and SciPy over the same numbers."""
    segments = [segment for segment, _ in index._collection.segments.all(_DIMENSIONS, _EMBEDDING)]
    vectors = np.concatenate([from_int8(one.vectors) for one in segments])
    figures = _times("plain NumPy, float32 vectors", questions, lambda _, vector: np.argsort(-(vectors @ vector))[:20])
    figures["plain NumPy, bytes a passage"] = vectors.nbytes / len(vectors)
    terms = {term: at for at, term in enumerate(segments[0].words.terms)}
    # Every synthetic segment has the same stems.
    counts = sparse.vstack([_matrix(one.words) for one in segments]).tocsc()
    n_with = np.diff(counts.indptr)
    idf = np.log(1 + (counts.shape[0] - n_with + 0.5) / (n_with + 0.5))
    length = np.concatenate([one.words.lengths for one in segments])
    norms = K1 * (1 - B + B * length / length.mean())

    def plain_bm25(question: str, _: object) -> Any:
        scores = np.zeros(counts.shape[0])
        for one in dict.fromkeys(map(stem, question.split())):
            if one in terms:
                column = counts[:, [terms[one]]]
                scores[column.indices] += (
                    idf[terms[one]] * column.data * (K1 + 1) / (column.data + norms[column.indices])
                )
        return np.argsort(-scores)[:20]

    return figures | _times("plain BM25 over a SciPy matrix", questions, plain_bm25)


def _matrix(words: Any) -> Any:
    shape = (words.n_passages, len(words.terms))
    return sparse.csc_array((words.counts.astype(np.float32) / 2, words.rows.astype(np.int32), words.indptr), shape)


def _memory() -> int:
    """Bytes of this process in memory, after what is free was given back."""
    import ctypes

    ctypes.CDLL(None).malloc_trim(0)
    with Path("/proc/self/statm").open() as told:
        return int(told.read().split()[1]) * os.sysconf("SC_PAGE_SIZE")
