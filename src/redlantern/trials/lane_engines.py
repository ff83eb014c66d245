# SPDX-License-Identifier: GPL-3.0-or-later
"""The engines that lanes are put to: the collection's own, and one on each copy beside it that is tried."""

from types import TracebackType

from redlantern.answering.engine import Engine
from redlantern.indexing.tried import TriedCopyGoneError, is_there, list_tried, open_tried
from redlantern.models.embedding import Embedder


class LaneEngines:
    """Opens a copy when the first lane needs it, and closes all at the end. They share models, readers and queue."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._made: dict[str, Engine] = {}
        self._embedders: dict[str, Embedder] = {}

    def __enter__(self) -> "LaneEngines":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, failure: BaseException | None, trace: TracebackType | None
    ) -> None:
        for engine in self._made.values():
            engine.collection.close()

    def of(self, word: str) -> Engine:
        """The engine on the copy of this word; the collection's own for none.

        Raises
        ------
        TriedCopyGoneError
            If there is no such copy, or it was let go meanwhile.
        """
        if not word:
            return self._engine
        if not is_there(self._engine.collection, word):
            raise TriedCopyGoneError(word)
        if word not in self._made:
            self._made[word] = self._opened(word)
        return self._made[word]

    def _opened(self, word: str) -> Engine:
        engine = self._engine
        made_as = next((copy for copy in list_tried(engine.collection) if copy.word == word), None)
        if made_as is None:
            raise TriedCopyGoneError(word)
        embedder = self._embedders.get(made_as.embedding)
        if embedder is None:
            embedder = engine.make_embedder(made_as.embedding)
            # The very same model need not be held twice.
            embedder = engine.embedder if embedder.identity == engine.embedder.identity else embedder
            self._embedders[made_as.embedding] = embedder
        opened = Engine(
            open_tried(engine.collection, word), embedder, None, readers=engine.readers, method=engine.method
        )
        opened.queue, opened.reader_beside = engine.queue, engine.reader_beside
        return opened
