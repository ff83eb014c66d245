# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures a collection file: opening a large one to its first answer, its size, an update that finds nothing changed.

The collection is synthetic: words with the frequencies of real prose (Zipf's
law), passages of real length and shape, random vectors. Beside the encrypted
file stands plain SQLite with the same rows as the reference.
"""

import os
import shutil
import sqlite3
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from bench.speed import as_json, show
from bench.synthetic import random_vectors, word
from redlantern.answering.asking import FoundStep
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.collection.prepared import MadeWith, Prepared, Source
from redlantern.collection.store import Collection
from redlantern.models.chosen import chosen_embedder
from redlantern.models.embedding import Embedder, to_int4, to_int8
from redlantern.progress import Cancel, silent
from redlantern.reading.values import READER_VERSION, Block, Page, ReadFile
from redlantern.retrieval.lexical import pack_words
from redlantern.splitting.headings import Headings
from redlantern.splitting.passages import Passage

N_PASSAGES = int(os.environ.get("BENCH_PASSAGES", "100000"))
N_FILES = 10_000
_PASSAGES_EACH = 40
_PASSAGES_A_PAGE = 4
_LINES = 6
_LINE_WORDS = 21
_VOCABULARY = 60_000
__all__ = ["as_json", "measure", "show"]
_TABLES = ("documents", "sources", "pages", "passages", "indexes", "segments")


def measure() -> dict[str, float]:
    """Make the collections in a folder that is thrown away, and time what its owner waits for."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_DATA_HOME"] = folder
        figures = _large(Path(folder))
        figures |= _unchanged(Path(folder))
    return figures


def _large(folder: Path) -> dict[str, float]:
    embedder = chosen_embedder()
    path = folder / "large.redlantern"
    n_text = _fill(path, embedder)
    size = path.stat().st_size
    figures = {
        "passages": float(N_PASSAGES),
        "bytes a passage on disk": size / N_PASSAGES,
        "bytes a passage on disk, beyond the text": (size - n_text) / N_PASSAGES,
    }
    opening, answering = [], []
    for _ in range(3):
        began = time.perf_counter()
        engine = Engine(Collection.open(path), embedder, None)
        engine.reload_index()
        opened = time.perf_counter()
        steps = engine.ask(Question(f"When was the {word(700)} of the {word(90)} paid?"), Cancel())
        assert isinstance(next(steps), FoundStep)
        answering.append(time.perf_counter() - opened)
        opening.append(opened - began)
        del steps
        engine.close()
    figures |= {
        "opening to the first answer, seconds": min(one + other for one, other in zip(opening, answering, strict=True)),
        "of these, until the index is there": min(opening),
        "of these, the first question": min(answering),
    }
    return figures | _plain_reference(path, folder / "plain.sqlite")


def _fill(path: Path, embedder: Embedder) -> int:
    """Put the passages in; gives how many bytes of text they have."""
    chance = np.random.default_rng(5)
    ranks = 1.0 / np.arange(1, _VOCABULARY + 1)
    collection = Collection.create(path)
    collection.claim_writing()
    made_with = MadeWith(embedder.identity, "", READER_VERSION)
    n_text = 0
    for number in range(N_PASSAGES // _PASSAGES_EACH):
        drawn = chance.choice(_VOCABULARY, (_PASSAGES_EACH, _LINES, _LINE_WORDS), p=ranks / ranks.sum())
        read, passages, texts = _document(number, drawn)
        vectors = to_int8(random_vectors(chance, _PASSAGES_EACH, embedder.dimensions))
        lines = to_int4(random_vectors(chance, _PASSAGES_EACH * _LINES, embedder.dimensions))
        words = pack_words([(Headings(("Part",)), text) for text in texts], "en")
        prepared = Prepared(f"{number:064x}", read, passages, made_with, vectors, lines, words)
        collection.add(prepared, Source(f"/bench/{number}.txt", "/bench", 1, 1))
        n_text += sum(len(page.text.encode()) for page in read.pages)
    collection.gather(embedder.dimensions)
    collection.file.settle()
    collection.close()
    return n_text


def _document(number: int, drawn: Any) -> tuple[ReadFile, list[Passage], list[str]]:
    pages, passages, texts = [], [], []
    for page_index in range(_PASSAGES_EACH // _PASSAGES_A_PAGE):
        text, blocks = "", []
        for one in drawn[page_index * _PASSAGES_A_PAGE : (page_index + 1) * _PASSAGES_A_PAGE]:
            start, spans = len(text), []
            for line in one:
                begin = len(text)
                text += " ".join(map(word, line.tolist())) + ". "
                spans.append((begin, len(text) - 1))
            blocks.append(Block("paragraph", start, len(text) - 1))
            passages.append(
                Passage(page_index + 1, start, len(text) - 1, Headings(("Part",)), tuple(spans), _LINES * _LINE_WORDS)
            )
            texts.append(text[start:-1])
        pages.append(Page(page_index + 1, text, tuple(blocks), (), 595, 842))
    return ReadFile("text", f"Paper {number}", tuple(pages), (), {}, "en"), passages, texts


def _plain_reference(path: Path, plain: Path) -> dict[str, float]:
    """The same rows without encryption: how large they are, and how long it takes to read what an index needs."""
    collection = Collection.open(path)
    copy = sqlite3.connect(plain)
    for table in _TABLES:
        columns = [row[1] for row in collection.file.rows(f"PRAGMA table_info({table})")]
        copy.execute(f"CREATE TABLE {table} ({', '.join(columns)})")
        cursor = collection.file.rows(f"SELECT * FROM {table}")
        copy.executemany(f"INSERT INTO {table} VALUES ({', '.join('?' * len(columns))})", cursor)
    copy.commit()
    collection.close()
    began = time.perf_counter()
    copy.execute("SELECT document_id, vectors, words FROM indexes").fetchall()
    copy.execute("SELECT id, document_id, page_number, lines FROM passages").fetchall()
    spent = time.perf_counter() - began
    copy.close()
    return {
        "plain SQLite: bytes a passage on disk": plain.stat().st_size / N_PASSAGES,
        "plain SQLite: reading vectors, words and passages, seconds": spent,
    }


def _unchanged(folder: Path) -> dict[str, float]:
    """An update over many files, none of which has changed."""
    documents = folder / "documents"
    for number in range(N_FILES):
        place = documents / f"{number // 100:03d}"
        place.mkdir(parents=True, exist_ok=True)
        (place / f"{number}.txt").write_text(f"Paper {number}.")
    engine = Engine(Collection.create(folder / "many.redlantern"), chosen_embedder(), None)
    engine.collection.claim_writing()
    _know(engine.collection, documents, engine.embedder.identity)
    began = time.perf_counter()
    summary = engine.update([], report=silent, cancel=Cancel())
    spent = time.perf_counter() - began
    assert summary.unchanged == N_FILES, summary
    engine.close()
    shutil.rmtree(documents)
    return {f"update with nothing changed over {N_FILES} files, seconds": spent}


def _know(collection: Collection, documents: Path, identity: str) -> None:
    """Put the files in as they would be after reading them, without the minutes that takes."""
    empty = np.zeros((0, 384), np.int8)
    no_lines = np.zeros((0, 192), np.uint8)
    collection.follow([documents])
    with collection.file.writing():
        for number, path in enumerate(sorted(documents.rglob("*.txt"))):
            status, text = path.stat(), path.read_text()
            read = ReadFile("text", f"Paper {number}", (Page(1, text, (), (), 595, 842),), (), {}, "en")
            prepared = Prepared(
                f"{number:064x}", read, [], MadeWith(identity, "", READER_VERSION), empty, no_lines, b""
            )
            collection.add(prepared, Source(str(path), str(documents), status.st_size, status.st_mtime_ns))
