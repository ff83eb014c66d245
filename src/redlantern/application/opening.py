# SPDX-License-Identifier: GPL-3.0-or-later
"""One way in: opens a collection with its key, its claim and its own models, for the window and for every command alike."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.application.scratch import is_scratch
from redlantern.application.session import Session
from redlantern.collection import upkeep
from redlantern.collection.errors import CannotWriteError, CollectionInUseError
from redlantern.collection.known import note_collection
from redlantern.collection.store import Collection
from redlantern.models.chosen import (
    EMBEDDING_MODEL,
    LANGUAGE_MODEL,
    chosen_embedder,
    chosen_language_model,
    named_embedder,
    named_language_model,
)
from redlantern.models.embedding import Embedder
from redlantern.models.protocols import LanguageModel
from redlantern.safety.keys import Holding, PassphraseNeededError

MakeEmbedder = Callable[..., Embedder]
"""Makes an embedding model from a folder, or a packaged one by its word; without either, the default."""
MakeLanguageModel = Callable[..., LanguageModel | None]
"""Makes a language model from a file, or without one the packaged model."""
AskPassphrase = Callable[[], str | None]
"""Gives the passphrase of a collection that has one; None where there is none to be had."""


@dataclass(frozen=True)
class NewKey:
    """How the key of a collection, or of a copy, is to be held that is made now."""

    holding: Holding = Holding.FILE
    passphrase: str = ""


@dataclass(frozen=True)
class Models:
    """How to make the models; tests put small ones in their place."""

    embedder: MakeEmbedder = chosen_embedder
    language: MakeLanguageModel = chosen_language_model


class WriteAccess(Enum):
    """Whether the right to change a collection is taken when it is opened."""

    NO = "questions only"
    IF_FREE = "if nobody else has it, and it can be changed at all"
    MUST = "or it is not opened"


def open_collection(
    path: Path,
    *,
    by: str,
    passphrase: str | AskPassphrase | None = None,
    new_key: NewKey | None = None,
    claim: WriteAccess = WriteAccess.NO,
) -> tuple[Collection, str, str]:
    """Open a collection without its models, remember it as known, and note in its journal by whom it was opened.

    Parameters
    ----------
    path : Path
    by : str
        "in a window" or "by a command".
    passphrase : str or callable
        What opens it, or what asks for that; asked only where it is needed.
    new_key : NewKey
        Make the collection, if it is not there, with its key held so.
    claim : WriteAccess

    Returns
    -------
    Collection
    str
        Why it cannot be changed here, where `claim` is IF_FREE; empty when it can.
    str
        The passphrase that opened it; empty if it has none.

    Raises
    ------
    CollectionMissingError, NotACollectionError, NewerCollectionError, DamagedCollectionError, CollectionInUseError, CannotLockError
    PassphraseNeededError, WrongPassphraseError, SecretStoreError
    """
    collection, given = _opened(path, passphrase, new_key)
    try:
        only_reading = _claimed(collection, claim)
        if not is_scratch(path):
            note_collection(path)
        has_passphrase = collection.holding is Holding.PASSPHRASE
        # A window is a visit; of commands only the unlocking is worth an entry.
        if not collection.is_read_only and (has_passphrase or claim is WriteAccess.IF_FREE):
            collection.journal.note("unlocked" if has_passphrase else "opened", by)
    except BaseException:
        collection.close()
        raise
    return collection, only_reading, given


def open_session(
    path: Path,
    *,
    by: str,
    passphrase: str | AskPassphrase | None = None,
    new_key: NewKey | None = None,
    claim: WriteAccess = WriteAccess.NO,
    models: Models | None = None,
    language_model: Path | None = None,
    writes_prose: bool = True,
) -> Session:
    """Open a collection with the models that it was given, or the packaged ones; see open_collection.

    A model that is gone, or not what was brought in here, is no reason not to
    open: the packaged one takes its place, and the session says so. With another
    embedding model than its own, documents are found by their words.

    Parameters
    ----------
    models : Models
        How the models are made.
    language_model : Path
        A GGUF file instead of the collection's own language model.
    writes_prose : bool
        Whether a language model is wanted at all.
    """
    models = models or Models()
    collection, only_reading, _ = open_collection(path, by=by, passphrase=passphrase, new_key=new_key, claim=claim)
    try:
        named, identities = collection.facts.get(EMBEDDING_MODEL), collection.embedded_with()
        embedder, no_embedder = named_embedder(named, models.embedder, identities)
        model, no_model = None, ""
        if writes_prose and language_model is not None:
            model = models.language(language_model)
        elif writes_prose:
            model, no_model = named_language_model(collection.facts.get(LANGUAGE_MODEL), models.language)
        engine = Engine(collection, embedder, model)
        engine.make_embedder = models.embedder
    except BaseException:
        collection.close()
        raise
    return Session(engine, only_reading, " ".join(filter(None, (no_model, no_embedder))))


def _opened(path: Path, passphrase: str | AskPassphrase | None, new_key: NewKey | None) -> tuple[Collection, str]:
    if new_key is not None and not path.exists():
        return Collection.create(path, new_key.holding, new_key.passphrase), new_key.passphrase
    if not callable(passphrase):
        return Collection.open(path, passphrase), passphrase or ""
    try:
        return Collection.open(path), ""
    except PassphraseNeededError:
        given = passphrase()
        return Collection.open(path, given), given or ""


def _claimed(collection: Collection, claim: WriteAccess) -> str:
    """Claim to change it, and finish what an interruption left; gives why that cannot be, or nothing."""
    if claim is WriteAccess.NO:
        return ""
    try:
        collection.claim_writing()
        upkeep.tidy(collection)
    except CollectionInUseError as failure:
        if claim is WriteAccess.MUST:
            raise
        return f"Open for questions only: it is open in another window or command{failure.holder}."
    except CannotWriteError as failure:
        if claim is WriteAccess.MUST:
            raise
        return f"Open for questions only: {failure.why}."
    return ""
