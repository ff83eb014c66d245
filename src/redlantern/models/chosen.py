"""Which models to use: the ones asked for, the owner's own server if one was chosen, or the packaged ones."""

from collections.abc import Callable
from pathlib import Path

from redlantern.models.approved import ModelNotApprovedError, approved_hashes
from redlantern.models.embedding import Embedder, OnnxEmbedder
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModel
from redlantern.models.readers import reader_of
from redlantern.models.served import ServedModel
from redlantern.safety import loopback

EMBEDDING_MODEL = "embedding model"
"""The fact that names the folder of a collection's own embedding model; empty for the packaged one."""
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


def named_embedder(named: str, make: Callable[..., Embedder] = OnnxEmbedder) -> tuple[Embedder, str]:
    """The embedding model that a collection names, if it is what was brought in here; else the packaged one.

    Gives the model, and in words why it is not the one that is named.
    """
    folder = Path(named or "/")
    if not named or not folder.is_dir():
        return make(), ""
    try:
        return make(folder), ""
    except ModelNotApprovedError as failure:
        return make(), str(failure)
