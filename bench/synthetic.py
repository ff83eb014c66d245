# SPDX-License-Identifier: GPL-3.0-or-later
"""Made-up passages of any number: words with the frequencies of real prose (Zipf's law), vectors in bundles."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection.prepared import MadeWith
from redlantern.collection.segments import Segment
from redlantern.collection.store import Collection
from redlantern.collection.word_counts import Forms, Terms, WordCounts
from redlantern.models.embedding import to_int8

PASSAGES_EACH = 40
LINES_EACH = 6
DIMENSIONS = 384
_WORDS_EACH = 80
_VOCABULARY = 60_000
_SEGMENT = 60_000
_SUBJECTS = 2_000
_UNIT = 2


def word(number: int) -> str:
    """A word of its own for each number, short ones for the frequent."""
    letters = "etaoinshrdlu"
    word = letters[number % 12]
    while number := number // 12:
        word += "aeiou"[number % 5] + letters[number % 12]
    return word


def random_vectors(chance: np.random.Generator, n: int, dimensions: int) -> Any:
    """Vectors of length 1 in any direction: shape (n, dimensions)."""
    vectors = chance.normal(size=(n, dimensions)).astype(np.float32)
    return np.asarray(vectors / np.linalg.norm(vectors, axis=1, keepdims=True), np.float32)


def bundled_vectors(chance: np.random.Generator, n: int, middles: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Vectors around some of the middles, about as far from each other as passages on one subject are: shape (n, dim)."""
    chosen = middles[chance.integers(len(middles), size=n)]
    vectors = chosen + chance.normal(size=(n, DIMENSIONS)).astype(np.float32) * np.float32(0.9)
    return np.asarray(vectors / np.linalg.norm(vectors, axis=1, keepdims=True), np.float32)


def middles() -> npt.NDArray[np.float32]:
    """The middles of the subjects, the same each time."""
    return np.random.default_rng(11).normal(size=(_SUBJECTS, DIMENSIONS)).astype(np.float32)


def segments(n_passages: int) -> Iterator[Segment]:
    """Make segments of whole documents, with row and document ids from 1 on."""
    chance = np.random.default_rng(5)
    chances = 1.0 / np.arange(1, _VOCABULARY + 1)
    cumulative = np.cumsum(chances / chances.sum())
    subjects = middles()
    for begin in range(0, n_passages, _SEGMENT):
        n = min(_SEGMENT, n_passages - begin)
        vectors = to_int8(bundled_vectors(chance, n, subjects))
        ids = np.arange(begin, begin + n, dtype=np.int64)
        yield Segment(
            ids + 1, ids // PASSAGES_EACH + 1, (ids % PASSAGES_EACH // 4 + 1).astype(np.int32),
            np.full(n, LINES_EACH, np.int32), vectors,
            _words(chance, n, cumulative),
        )  # fmt: skip


def _words(chance: np.random.Generator, n: int, cumulative: npt.NDArray[np.float64]) -> WordCounts:
    drawn = np.searchsorted(cumulative, chance.random((n, _WORDS_EACH))).astype(np.int64)
    places, counts = np.unique(drawn * n + np.arange(n)[:, None], return_counts=True)
    terms, rows = np.divmod(places, n)
    # Stems are kept in the order of their letters.
    names = [word(number) for number in range(_VOCABULARY)]
    order = sorted(range(_VOCABULARY), key=names.__getitem__)
    position = np.empty(_VOCABULARY, np.int64)
    position[order] = np.arange(_VOCABULARY)
    moved = np.lexsort((rows, position[terms]))
    indptr = np.searchsorted(position[terms][moved], np.arange(_VOCABULARY + 1)).astype(np.uint32)
    weights = np.minimum(255, counts[moved] * _UNIT).astype(np.uint8)
    lengths = np.full(n, _WORDS_EACH * _UNIT, np.int32)
    forms = Forms.of({names[one]: 1 for one in order})
    return WordCounts(Terms.of(names[one] for one in order), indptr, rows[moved].astype("<u2"), weights, lengths, forms)


def fill(collection: Collection, n_passages: int, made_with: MadeWith) -> None:
    """Put passages into an empty collection, without the text of their pages."""
    chance = np.random.default_rng(6)
    n_documents = n_passages // PASSAGES_EACH
    spans = np.arange(LINES_EACH * 2, dtype="<i4").tobytes()
    packed = LINES_EACH * PASSAGES_EACH * DIMENSIONS // 2
    with collection.file.writing() as connection:
        connection.executemany(
            "INSERT INTO documents (id, sha256, call_mark, title, kind, n_pages, n_passages, language)"
            " VALUES (?, ?, ?, ?, 'text', ?, ?, 'en')",
            (
                (one, f"{one:064x}", f"P{one}", f"Paper {one}", PASSAGES_EACH // 4, PASSAGES_EACH)
                for one in _ids(n_documents)
            ),
        )
        connection.executemany(
            "INSERT INTO sources VALUES (?, '/bench', ?, 1, 1)",
            ((f"/bench/{one}.txt", one) for one in _ids(n_documents)),
        )
        connection.executemany(
            "INSERT INTO passages VALUES (?, ?, ?, 0, 10, 'Part', 150, ?)",
            (
                (one, (one - 1) // PASSAGES_EACH + 1, (one - 1) % PASSAGES_EACH // 4 + 1, spans)
                for one in _ids(n_documents * PASSAGES_EACH)
            ),
        )
        connection.executemany(
            "INSERT INTO indexes VALUES (?, ?, x'', ?, x'', ?, ?, NULL)",
            (
                (one, made_with.embedding, chance.bytes(packed), made_with.splitting, made_with.reader)
                for one in _ids(n_documents)
            ),
        )
    for segment in segments(n_documents * PASSAGES_EACH):
        collection.segments.keep(segment, made_with.embedding)
    collection.file.settle()


def _ids(n: int) -> range:
    return range(1, n + 1)
