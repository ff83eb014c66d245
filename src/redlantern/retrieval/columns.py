# SPDX-License-Identifier: GPL-3.0-or-later
"""The passages of an index as rows, over parts that lie one after another: columns of numbers, and where documents lie."""

import bisect
from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.retrieval.dense import Rows


class Column:
    """One number for each row, kept in the arrays of the parts, one part after another."""

    def __init__(self, parts: Sequence[npt.NDArray[Any]]) -> None:
        """One integer array (int32 or int64) of shape (n_rows,) for each part."""
        self._parts = list(parts)
        self._starts = np.cumsum([0, *map(len, parts)])
        self._bounds: list[int] = self._starts.tolist()

    def __getitem__(self, rows: Rows) -> npt.NDArray[np.int64]:
        """The numbers of some rows, in the order given."""
        found = np.empty(len(rows), np.int64)
        within = np.searchsorted(self._starts, rows, side="right") - 1
        for part in np.flatnonzero(np.bincount(within)).tolist():
            mine = within == part
            found[mine] = self._parts[part][rows[mine] - self._starts[part]]
        return found

    def stretch(self, begin: int, end: int) -> npt.NDArray[Any]:
        """The numbers of the rows from begin on, end excluded, which lie in one part."""
        part = bisect.bisect_right(self._bounds, begin) - 1
        start = self._bounds[part]
        return self._parts[part][begin - start : end - start]


class DocumentRows:
    """From each document to its first row and the one after its last; dead rows are nobody's.

    Arrays, for a dictionary of many thousands would need ten times as much.
    """

    def __init__(self, parts: Sequence[tuple[npt.NDArray[Any], npt.NDArray[np.bool_]]]) -> None:
        """For each part the document of each row, int64, and whether it is alive, bool: both of shape (n_rows,)."""
        found, offset = [np.zeros((3, 0), np.int64)], 0
        for document_ids, is_alive in parts:
            changes = (np.diff(document_ids) != 0) | (np.diff(is_alive.astype(np.int8)) != 0)
            starts = np.concatenate([[0], np.flatnonzero(changes) + 1])[: len(document_ids)]
            ends = np.append(starts[1:], len(document_ids))[: len(starts)]
            alive = is_alive[starts]
            found.append(np.stack([document_ids[starts[alive]], starts[alive] + offset, ends[alive] + offset]))
            offset += len(document_ids)
        together = np.concatenate(found, axis=1)
        self._ids, self._begins, self._ends = together[:, np.argsort(together[0])]

    def of(self, document_id: int) -> tuple[int, int]:
        """Where a document's rows begin and end; (0, 0) for one without."""
        at = int(self._ids.searchsorted(document_id))
        if at == len(self._ids) or self._ids[at] != document_id:
            return 0, 0
        return int(self._begins[at]), int(self._ends[at])
