# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes documents ready to be kept: splits what was read, packs its words, embeds its passages."""

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from redlantern.collection.fingerprints import fingerprint
from redlantern.collection.prepared import NOT_EMBEDDED, MadeWith, Prepared, PreparedPart
from redlantern.indexing.split import split_read, splitting_of
from redlantern.locks import ComputeQueue
from redlantern.models.embedding import Embedder, to_int4, to_int8
from redlantern.progress import Cancel
from redlantern.reading import errors as reading_errors
from redlantern.reading.pool import ReaderPool
from redlantern.reading.values import READER_VERSION, ReadFile
from redlantern.retrieval.lexical import pack_words
from redlantern.settings import Method
from redlantern.splitting.passages import Passage, embedded_text

_EMBED_AT_ONCE = 16


@dataclass(frozen=True)
class Workshop:
    """What an update works with."""

    readers: ReaderPool
    embedder: Embedder
    method: Method
    queue: ComputeQueue


def made_with_now(workshop: Workshop) -> MadeWith:
    """What documents are made with at present."""
    return MadeWith(workshop.embedder.identity, splitting_of(workshop.method), READER_VERSION)


class Preparation:
    """Prepares one document after another; `seconds` counts what its steps have taken."""

    def __init__(self, workshop: Workshop, cancel: Cancel) -> None:
        self.seconds = {"splitting": 0.0, "embedding": 0.0}
        self._workshop, self._cancel = workshop, cancel

    def prepare_whole(self, sha256: str, read: ReadFile, method: Method) -> Prepared:
        """Prepare a file and what lies within it, not yet embedded; a part without words is refused alone."""
        parts = []
        for part in read.parts:
            self._cancel.check()
            try:
                prepared = self.prepare("", part.read, method) if part.read is not None else None
                parts.append(PreparedPart(part.name, prepared, part.refusal))
            except reading_errors.FileRefusedError as refusal:
                parts.append(PreparedPart(part.name, None, str(refusal)))
        return replace(self.prepare(sha256, read, method), parts=tuple(parts))

    def prepare(self, sha256: str, read: ReadFile, method: Method) -> Prepared:
        """Split a document by a method and pack its words; its vectors come later."""
        embedder, seconds = self._workshop.embedder, self.seconds
        began = time.perf_counter()
        passages = split_read(read, embedder, method)
        if not passages and not read.parts:
            raise reading_errors.no_text()
        texts = _texts(read, passages)
        words = pack_words(
            [(passage.headings, text) for passage, text in zip(passages, texts, strict=True)], read.language
        )
        seconds["splitting"] += time.perf_counter() - began
        made_with = MadeWith(NOT_EMBEDDED, splitting_of(method), READER_VERSION)
        none = np.zeros((0, embedder.dimensions), np.float32)
        marks = fingerprint(page.text for page in read.pages)
        return Prepared(sha256, read, passages, made_with, to_int8(none), to_int4(none), words, marks)

    def embedded_whole(self, prepared: Prepared) -> Prepared:
        """Embed a file and what lies within it."""
        parts = (
            replace(part, prepared=self.embedded(part.prepared) if part.prepared is not None else None)
            for part in prepared.parts
        )
        return replace(self.embedded(prepared), parts=tuple(parts))

    def embedded(self, prepared: Prepared) -> Prepared:
        """Give one document its vectors."""
        began = time.perf_counter()
        vectors, lines = self._embed(prepared.passages, _texts(prepared.read, prepared.passages))
        self.seconds["embedding"] += time.perf_counter() - began
        made_with = replace(prepared.made_with, embedding=self._workshop.embedder.identity)
        return replace(prepared, made_with=made_with, vectors=to_int8(vectors), line_vectors=to_int4(lines))

    def _embed(self, passages: Sequence[Passage], texts: Sequence[str]) -> tuple[Any, Any]:
        embedder = self._workshop.embedder
        vectors = np.empty((len(passages), embedder.dimensions), np.float32)
        lines: list[Any] = [None] * len(passages)
        # Long and short passages of the whole document are batched with their like.
        order = sorted(range(len(passages)), key=lambda index: passages[index].n_tokens)
        for at in range(0, len(order), _EMBED_AT_ONCE):
            chosen = order[at : at + _EMBED_AT_ONCE]
            whole = [embedded_text(passages[index].headings, texts[index]) for index in chosen]
            spans = [_spans_within(passages[index], len(text)) for index, text in zip(chosen, whole, strict=True)]
            for row, embedded in embedder.embed(whole, spans):
                vectors[chosen[row]], lines[chosen[row]] = embedded.text, embedded.lines
                self._workshop.queue.wait_for_turn(self._cancel)
        return vectors, np.concatenate([np.empty((0, embedder.dimensions), np.float32), *lines])


def with_parts(prepared: Prepared) -> list[Prepared]:
    """A document and those within it that were not refused, in order."""
    return [prepared, *(part.prepared for part in prepared.parts if part.prepared is not None)]


def _texts(read: ReadFile, passages: Sequence[Passage]) -> list[str]:
    pages = {page.page_number: page.text for page in read.pages}
    return [pages[passage.page_number][passage.start : passage.end] for passage in passages]


def _spans_within(passage: Passage, n_chars: int) -> list[tuple[int, int]]:
    """Where the lines stand in the text that is embedded: after the heading, which comes first."""
    shift = n_chars - passage.end
    return [(start + shift, end + shift) for start, end in passage.lines]
