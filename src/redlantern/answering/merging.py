# SPDX-License-Identifier: GPL-3.0-or-later
"""What was found for several parts of a question, as one."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import zip_longest
from typing import TypeVar

_Item = TypeVar("_Item")


def in_turn(lists: Sequence[Sequence[_Item]], key: Callable[[_Item], object]) -> Iterator[_Item]:
    """The first of each list, then the second of each, and so on; what has the key of an earlier one is left out."""
    seen: set[object] = set()
    for row in zip_longest(*lists):
        for item in row:
            if item is not None and key(item) not in seen:
                seen.add(key(item))
                yield item


def strongest(strengths: Sequence[Mapping[tuple[int, int], float]]) -> dict[tuple[int, int], float]:
    """For each page the greatest of its strengths."""
    pages = {page for by_page in strengths for page in by_page}
    return {page: max(by_page.get(page, 0.0) for by_page in strengths) for page in pages}
