# SPDX-License-Identifier: GPL-3.0-or-later
"""Several collections asked as one: the first may change, the others are only read.

Ids of the others are moved out of the way of the first one's; their call-marks
get a number where the first has the same mark; their documents say where they are from.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from redlantern.collection.segments import Segment
from redlantern.collection.store import Collection
from redlantern.collection.values import Citation, Document, StoredPassage
from redlantern.collection.vectors import LinesWanted
from redlantern.models.embedding import PackedLines
from redlantern.reading.values import Page

_ROOM = 1 << 40


class Joint:
    """What finding and citing ask of a collection, over several."""

    def __init__(self, first: Collection, others: Sequence[Collection]) -> None:
        self.members = [first, *others]
        self.segments = _JointSegments(self.members)

    def documents(self) -> list[Document]:
        """The documents of all, the first collection's first; each of the others names its collection."""
        found = self.members[0].documents()
        taken = {document.call_mark for document in found}
        for number, member in enumerate(self.members[1:], start=1):
            for document in member.documents():
                container = document.container_id + number * _ROOM if document.container_id is not None else None
                mark = _free(document.call_mark, taken)
                taken.add(mark)
                found.append(
                    replace(
                        document, document_id=document.document_id + number * _ROOM, call_mark=mark, container_id=container,
                        path=f"{member.name}: {document.path}", beside=member.name,
                    )
                )  # fmt: skip
        return found

    def page(self, document_id: int, page_number: int) -> Page | None:
        """Give one page as it was read."""
        member, own_id = self._of(document_id)
        return member.page(own_id, page_number)

    def pages(self, document_id: int) -> Iterable[Page]:
        """Give a document's pages in order, one at a time."""
        member, own_id = self._of(document_id)
        return member.pages(own_id)

    def page_passages(self, document_id: int, page_number: int) -> list[tuple[int, int, int, str]]:
        """Give the passages of a page in order: (start, end, tokens, heading)."""
        member, own_id = self._of(document_id)
        return member.page_passages(own_id, page_number)

    def passages(self, passage_ids: Iterable[int]) -> list[StoredPassage]:
        """Give passages by id, in the order asked for; ids that are gone are left out."""
        found = []
        for passage_id in passage_ids:
            number, own_id = divmod(passage_id, _ROOM)
            for passage in self.members[number].passages([own_id]):
                moved = passage.document_id + number * _ROOM
                found.append(replace(passage, passage_id=passage_id, document_id=moved))
        return found

    def cite(self, document: Document, page_number: int, start: int, end: int) -> Citation:
        """Make the citation of a stretch of a page; see Collection.cite."""
        member, own_id = self._of(document.document_id)
        made = member.cite(replace(document, document_id=own_id), page_number, start, end)
        return replace(made, document_id=document.document_id)

    def tables_put_right(self) -> dict[str, Any]:
        """What was put right about tables in any of them, by the key of the document; the first collection's word counts most."""
        return {key: value for member in reversed(self.members) for key, value in member.tables_put_right().items()}

    def loose_segment(self, document_id: int, dimensions: int, embedding: str) -> Segment | None:
        """Give what finding needs of one document that lies in no segment."""
        member, own_id = self._of(document_id)
        found = member.loose_segment(own_id, dimensions, embedding)
        return _moved(found, document_id // _ROOM) if found is not None else None

    def line_vectors(self, wanted: Mapping[int, LinesWanted], embedding: str) -> dict[int, list[PackedLines]]:
        """The vectors of some lines as they are kept; see Collection.line_vectors."""
        found = {}
        for number, member in enumerate(self.members):
            mine = {
                document_id % _ROOM: lines for document_id, lines in wanted.items() if document_id // _ROOM == number
            }
            given = member.line_vectors(mine, embedding) if mine else {}
            found.update({own_id + number * _ROOM: lines for own_id, lines in given.items()})
        return found

    def _of(self, document_id: int) -> tuple[Collection, int]:
        number, own_id = divmod(document_id, _ROOM)
        return self.members[number], own_id


class _JointSegments:
    """The segments of several collections."""

    def __init__(self, members: Sequence[Collection]) -> None:
        self._members = members

    def all(self, dimensions: int, embedding: str) -> list[tuple[Segment, npt.NDArray[np.bool_]]]:
        """Every segment with which of its passages are alive."""
        return [
            (_moved(segment, number), is_alive)
            for number, member in enumerate(self._members)
            for segment, is_alive in member.segments.all(dimensions, embedding)
        ]

    def loose(self) -> list[tuple[int, int]]:
        """The documents that lie in no segment, and how many passages each has."""
        return [
            (document_id + number * _ROOM, n)
            for number, member in enumerate(self._members)
            for document_id, n in member.segments.loose()
        ]


def _moved(segment: Segment, number: int) -> Segment:
    away: Any = number * _ROOM
    return replace(
        segment,
        passage_ids=segment.passage_ids.astype(np.int64) + away,
        document_ids=segment.document_ids.astype(np.int64) + away,
    )


def _free(mark: str, taken: set[str]) -> str:
    if mark not in taken:
        return mark
    return next(f"{mark}·{number}" for number in range(2, 10_000) if f"{mark}·{number}" not in taken)
