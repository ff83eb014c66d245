# SPDX-License-Identifier: GPL-3.0-or-later
"""The best of many scored rows, the same ones every time: ties go to the smaller passage id."""

from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.retrieval.dense import Rows, Scores

_SAMPLED = 32


def highest(scores: Scores, n: int) -> Rows:
    """Rows among which the n highest scores above zero are, ascending; fewer than all where there are many.

    `scores` is a float32 array of shape (n_rows,); gives int64 of shape (n_chosen,).

    A sample says what score the n-th will about have, so that most are passed over by one comparison.
    """
    sample = scores[::_SAMPLED]
    k = 2 * n // _SAMPLED + 8
    if len(sample) > 4 * k:
        least = np.partition(sample, len(sample) - k)[len(sample) - k]
        rows = np.flatnonzero(scores >= max(least, np.finfo(np.float32).tiny))
        if len(rows) >= n:
            return rows
    return np.flatnonzero(scores > 0)


def first(rows: Rows, scores: npt.NDArray[Any], ids: npt.NDArray[np.int64], n: int) -> Rows:
    """The n best of some rows, best first; ties go to the smaller passage id.

    `rows` is an int64 array of shape (n_some,); `scores`, of any float dtype, and the int64 `ids` have shape (n_rows,).
    """
    if n < len(rows):
        # All that are as good as the n-th, so that a tie is broken by the id and not by the order in memory.
        least = np.partition(scores[rows], len(rows) - n)[len(rows) - n]
        rows = rows[scores[rows] >= least]
    return rows[np.lexsort((ids[rows], -scores[rows]))][:n]


def with_best_by_words(
    order: Rows, candidates: Rows, words: Scores, ids: npt.NDArray[np.int64], n_kept: int, n_by_words: int
) -> Rows:
    """Give the last few places to the best by words where those are not among the kept.

    `order` and `candidates` are int64 arrays of rows, of shapes (n_order,) and (n_candidates,); `words`, float32, and `ids`,
    int64, have shape (n_rows,).

    A date, a number or a clause stands in one row of a long table: meaning does not see it there.
    """
    best = first(candidates[words[candidates] > 0], words, ids, n_by_words).tolist()
    kept = order.tolist()
    missing = [row for row in best if row not in kept]
    return np.array(kept[: max(0, n_kept - len(missing))] + missing, np.int64)[:n_kept]
