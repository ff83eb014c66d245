"""Which models to use: the ones asked for, the owner's own server if one was chosen, or the packaged ones."""

from pathlib import Path

from redlantern.models.embedding import Embedder, OnnxEmbedder
from redlantern.models.language import HostedModel, LanguageModel
from redlantern.models.served import ServedModel
from redlantern.safety import loopback


def chosen_language_model(model: Path | None = None) -> LanguageModel:
    """Make the model; it starts when first needed."""
    link = loopback.link()
    if model is None and link is not None:
        return ServedModel(link)
    return HostedModel(model)


EMBEDDING_MODEL = "embedding model"
"""The fact that names the folder of a collection's own embedding model; empty for the packaged one."""


def chosen_embedder(folder: str) -> Embedder:
    """Load a collection's own embedding model; the packaged one if it has none, or its folder is gone."""
    return OnnxEmbedder(Path(folder) if folder and Path(folder).is_dir() else None)
