# SPDX-License-Identifier: GPL-3.0-or-later
"""Which models to use: the ones asked for, the owner's own server if one was chosen, or the packaged ones."""

import os
from collections.abc import Callable, Iterable
from pathlib import Path

from redlantern.models.approved import ModelNotApprovedError, approved_hashes
from redlantern.models.embedding import Embedder, OnnxEmbedder
from redlantern.models.hosted import HostedModel
from redlantern.models.joined import JoinedEmbedder
from redlantern.models.protocols import LanguageModel
from redlantern.models.readers import reader_of
from redlantern.models.register import DEFAULT_EMBEDDING, EMBEDDINGS
from redlantern.models.served import ServedModel
from redlantern.safety import loopback

EMBEDDING_MODEL = "embedding model"
"""The fact that names the folder of a collection's own embedding model, or the word of a packaged one; empty where nobody chose."""
LANGUAGE_MODEL = "language model"
"""The fact that names the file of a collection's own language model, or the word of a packaged reader; empty where nobody chose."""


def chosen_language_model(model: Path | None = None) -> LanguageModel:
    """Make the model; it starts when first needed."""
    link = loopback.link()
    if model is None and link is not None:
        return ServedModel(link)
    return HostedModel(model)


def packaged_reader(word: str) -> LanguageModel | None:
    """Make the packaged language model that people choose by this word, if it is there."""
    reader = reader_of(word)
    return HostedModel(reader.place) if reader is not None else None


def named_language_model(
    named: str, make: Callable[..., LanguageModel | None] = chosen_language_model
) -> tuple[LanguageModel | None, str]:
    """The language model that a collection names, if it is packaged, or was brought in here and is still there; else the default.

    Gives the model, and in words why it is not the one that is named.
    """
    reader = reader_of(named)
    if reader is not None:
        return make(reader.place), ""
    path = Path(named or "/")
    if not path.is_file():
        return make(), ""
    try:
        [sha256] = approved_hashes(path).values()
    except ModelNotApprovedError as failure:
        return make(), str(failure)
    model = make(path)
    if isinstance(model, HostedModel):
        model.sha256 = sha256
    return model, ""


EMBEDDING_VARIABLE = "REDLANTERN_EMBEDDING"
"""The environment variable that names the packaged embedding model of new collections: both, languages or english."""


def default_embedding() -> str:
    """The word of the packaged embedding model that new collections are embedded with."""
    named = os.environ.get(EMBEDDING_VARIABLE, "")
    return named if named in EMBEDDINGS else DEFAULT_EMBEDDING


def chosen_embedder(model: Path | str | None = None) -> Embedder:
    """Load the embedding model in a folder, or a packaged one by its word; without either, the default.

    Raises
    ------
    ModelNotApprovedError
        If the model in the folder is not what was brought in here.
    ModelMissingError
        If a packaged file is missing, or is not what was released.
    """
    if isinstance(model, Path):
        return OnnxEmbedder(model)
    first, *others = EMBEDDINGS[model or default_embedding()]
    embedder: Embedder = OnnxEmbedder(first)
    for other in others:
        embedder = JoinedEmbedder(embedder, OnnxEmbedder(other))
    return embedder


def packaged_embedding(named: str, identities: Iterable[str] = ()) -> str:
    """The word of the packaged embedding model of a collection that names this word, or none.

    One that names none was made with whatever was the default then, and is used with that: `identities` are of the models
    that its documents were embedded with.
    """
    if named in EMBEDDINGS:
        return named
    made = {" + ".join(part.identity for part in parts): word for word, parts in EMBEDDINGS.items()}
    # In older files the name alone.
    made |= {parts[0].name: word for word, parts in EMBEDDINGS.items() if len(parts) == 1}
    return next((made[identity] for identity in identities if identity in made), default_embedding())


def named_embedder(
    named: str, make: Callable[..., Embedder] = chosen_embedder, identities: Iterable[str] = ()
) -> tuple[Embedder, str]:
    """The embedding model that a collection names, if it is what was brought in here; else a packaged one.

    Gives the model, and in words why it is not the one that is named. `identities` as in `packaged_embedding`.
    """
    refused = ""
    if named and named not in EMBEDDINGS and Path(named).is_dir():
        try:
            return make(Path(named)), ""
        except ModelNotApprovedError as failure:
            refused = str(failure)
    word = packaged_embedding(named, identities)
    return (make() if word == default_embedding() else make(word)), refused
