# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies beside a collection that are split or embedded otherwise: what they cost, making them, letting them go."""

from dataclasses import dataclass, replace

from redlantern.answering.engine import Engine
from redlantern.application.models import seconds_to_embed
from redlantern.indexing import tried
from redlantern.indexing.tried import TriedCopy
from redlantern.models.chosen import EMBEDDING_MODEL, packaged_embedding
from redlantern.models.register import EMBEDDINGS
from redlantern.progress import Cancel, Report
from redlantern.translation import tr
from redlantern.trials.running import state_of

EMBEDDING_NAMES = {
    "both": tr("both embedding models"),
    "languages": tr("the model of many languages"),
    "english": tr("the English model"),
}


@dataclass(frozen=True)
class CopyWish:
    """How a copy is to be made: the word of a packaged embedding model, and the longest passage in tokens."""

    embedding: str
    passage_tokens: int

    @property
    def name(self) -> str:
        """What it is called."""
        return tr("{name}, passages of {passage_tokens} tokens").format(
            name=EMBEDDING_NAMES.get(self.embedding, self.embedding), passage_tokens=self.passage_tokens
        )


@dataclass(frozen=True)
class KeptCopy:
    """A copy, and whether the documents are still those that it was made of."""

    copy: TriedCopy
    is_current: bool


def present_wish(engine: Engine) -> CopyWish:
    """How the collection itself is made."""
    named = engine.collection.facts.get(EMBEDDING_MODEL)
    return CopyWish(packaged_embedding(named, engine.collection.embedded_with()), engine.method.passage_tokens)


def offered() -> tuple[str, ...]:
    """The words of the packaged embedding models."""
    return tuple(EMBEDDINGS)


def copies(engine: Engine) -> list[KeptCopy]:
    """The copies that there are."""
    now = state_of(engine.collection.documents())
    return [KeptCopy(copy, copy.documents == now) for copy in tried.list_tried(engine.collection)]


def seconds_to_make(engine: Engine, wish: CopyWish) -> float:
    """About how long it takes to make a copy; embeds a few passages to find out."""
    embedder = engine.make_embedder(wish.embedding)
    return seconds_to_embed(engine, embedder)


def make_copy(engine: Engine, wish: CopyWish, *, report: Report, cancel: Cancel) -> TriedCopy:
    """Make a copy of all documents; questions go first meanwhile. It takes about as much of the disk as the collection.

    Raises
    ------
    SettingOutOfRangeError
    CollectionBusyError, CollectionInUseError, DiskFullError, CannotWriteError, Cancelled
    """
    overlap = min(engine.method.overlap_tokens, wish.passage_tokens // 4)
    method = replace(engine.method, passage_tokens=wish.passage_tokens, overlap_tokens=overlap)
    embedder = engine.make_embedder(wish.embedding)
    made_as = TriedCopy(wish.name, wish.embedding, wish.passage_tokens, state_of(engine.collection.documents()))
    made = tried.make_tried(engine.collection, engine.workshop(method, embedder), made_as, report=report, cancel=cancel)
    engine.collection.journal.note("settings", f"Other index made to be tried: {wish.name}")
    return made


def let_go(engine: Engine, word: str) -> None:
    """Remove a copy."""
    tried.let_go(engine.collection, word)
