# SPDX-License-Identifier: GPL-3.0-or-later
"""The meaning index: which passages' vectors point the same way as the question's.

Up to EXACT_UP_TO passages in scope every vector is compared. Beyond that, the
sign bits of all of them are compared first (how many of 384 differ), and only
the nearest are compared by their small integers; what that loses is measured
by `./run bench retrieval`.
"""

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy as np
import numpy.typing as npt

from redlantern.models.embedding import Vectors

EXACT_UP_TO = 40_000
KEPT_BY_SIGNS = 6_000
"""So many passages at least are compared by their small integers after a scan of the sign bits, or one in a hundred."""
_BLOCK_ROWS = 8192
_EXACT_BLOCK_ROWS = 512
"""As float32 so many vectors stay in a core's cache; with larger blocks each number would go out to memory and back."""
_FARTHEST = np.iinfo(np.uint16).max

Scores = npt.NDArray[np.float32]
Rows = npt.NDArray[np.int64]
Signs = npt.NDArray[np.uint64]


@dataclass(frozen=True)
class _Part:
    vectors: npt.NDArray[np.int8]
    signs: Signs | None


class DenseIndex:
    """The vectors of the passages of several parts, one part after another; rows count through all of them."""

    def __init__(self, parts: Sequence[npt.NDArray[np.int8]], before: "DenseIndex | None" = None) -> None:
        """An int8 array of shape (n, dim) for each part.

        Sign bits of parts that an index from before holds, too, are taken from it.
        """
        self._starts = np.cumsum([0, *(len(vectors) for vectors in parts)])
        self.n_rows = int(self._starts[-1])
        known = {id(part.vectors): part.signs for part in before._parts} if before is not None else {}
        has_signs = self.n_rows > EXACT_UP_TO

        def prepared(vectors: npt.NDArray[np.int8]) -> _Part:
            signs = known.get(id(vectors))
            return _Part(vectors, sign_bits(vectors) if has_signs and signs is None else signs)

        self._parts: list[_Part] = list(_threads().map(prepared, parts) if has_signs else map(prepared, parts))

    def scores(self, question_vector: Vectors, in_scope: npt.NDArray[np.bool_]) -> tuple[Rows, Scores]:
        """Compare the passages in scope with the question.

        Parameters
        ----------
        question_vector : float32 array of shape (dim,)
            Of length 1.
        in_scope : bool array of shape (n_rows,)

        Returns
        -------
        (int64 array, float32 array), both of shape (n,)
            The rows that were compared, ascending, and their cosines. All rows in
            scope, or in a large scope the likeliest.
        """
        n_in_scope = int(in_scope.sum())
        is_large = n_in_scope > EXACT_UP_TO
        rows = self._nearest_by_signs(question_vector, in_scope, n_in_scope) if is_large else np.flatnonzero(in_scope)
        return rows, self.cosines(rows, question_vector)

    def cosines(self, rows: Rows, question_vector: Vectors) -> Scores:
        """The exact cosines of some rows with the question.

        `rows` is an int64 array of shape (n,), ascending, `question_vector` float32 of shape (dim,) and length 1; gives float32
        of shape (n,).
        """
        found = np.empty(len(rows), np.float32)
        cuts = np.searchsorted(rows, self._starts)
        for part, start, begin, end in zip(self._parts, self._starts, cuts, cuts[1:], strict=False):
            for at in range(int(begin), int(end), _EXACT_BLOCK_ROWS):
                until = min(at + _EXACT_BLOCK_ROWS, int(end))
                mine = rows[at:until] - start
                # A stretch without gaps needs no copy before it becomes float32.
                chosen = slice(mine[0], mine[-1] + 1) if mine[-1] - mine[0] == len(mine) - 1 else mine
                vectors = part.vectors[chosen].astype(np.float32)
                # Their lengths are found while they are in the cache, which is faster than to keep four bytes for each.
                lengths = np.sqrt(np.einsum("ij,ij->i", vectors, vectors))
                found[at:until] = vectors @ question_vector / np.maximum(lengths, 1e-12)
        return found

    def _nearest_by_signs(self, question_vector: Vectors, in_scope: npt.NDArray[np.bool_], n_in_scope: int) -> Rows:
        largest = max(float(np.abs(question_vector).max()), 1e-12)
        wanted = sign_bits((question_vector / largest * 127).round().astype(np.int8)[None, :])[:, 0]
        differing = np.concatenate(list(_threads().map(lambda part: _n_differing(part.signs, wanted), self._parts)))
        if n_in_scope < len(in_scope):
            differing[~in_scope] = _FARTHEST
        n_kept = min(max(KEPT_BY_SIGNS, n_in_scope // 100), n_in_scope)
        farthest_kept = int(np.searchsorted(np.cumsum(np.bincount(differing)), n_kept))
        return np.flatnonzero(differing <= min(farthest_kept, _FARTHEST - 1))


def sign_bits(vectors: npt.NDArray[np.int8]) -> Signs:
    """Which numbers of int8 vectors of shape (n, dim) are above zero, 64 to a word: uint64 of shape (ceil(dim / 64), n).

    Each word of all rows lies together.
    """
    found = np.empty((-(-vectors.shape[1] // 64), len(vectors)), np.uint64)
    for begin in range(0, len(vectors), _BLOCK_ROWS):
        packed = np.packbits(vectors[begin : begin + _BLOCK_ROWS] > 0, axis=1)
        filled = np.pad(packed, ((0, 0), (0, -packed.shape[1] % 8)))
        found[:, begin : begin + _BLOCK_ROWS] = filled.view(np.uint64).T
    return found


def _n_differing(signs: Signs | None, wanted: Signs) -> npt.NDArray[np.uint16]:
    assert signs is not None
    total = np.zeros(signs.shape[1], np.uint16)
    for begin in range(0, len(total), _BLOCK_ROWS):
        block = slice(begin, begin + _BLOCK_ROWS)
        for words, word in zip(signs, wanted, strict=True):
            total[block] += np.bitwise_count(words[block] ^ word)
    return total


@cache
def _threads() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(os.cpu_count() or 1, "scan")
